# SPDX-License-Identifier: MIT
"""Native scale from a measured height, the factor to the house scale, and what the size reads as.

A figure's real height is stature x pose ratio ([drillis1966] for the segments, the stature
table of knowledge/body.toml for people); the native scale is real / measured. Uncertainties of pose, sculpture
and caliper are independent, that of the stature is shared by all of a body; they are combined in the logarithm.
"""

import math
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal, NamedTuple, Protocol

from fondale.core.bodies.chain import hand_times, head_times, segments
from fondale.core.bodies.measures import measures
from fondale.core.bodies.poses import lies
from fondale.core.how import PRACTICE, How, Told, cite
from fondale.core.lengths import LengthError, named_scale, parse_length, parse_scale
from fondale.core.limits import LARGEST_MM, SMALLEST
from fondale.core.scale.combine import Z90, Kind, Oddity, Sighting, combine, explain
from fondale.core.scale.people import Person
from fondale.core.words import digits, show_mm, show_real, show_scale
from fondale.knowledge import table

Verdict = Literal["right", "passes beside", "passes apart", "wrong"]
COAT_MM = 60.0  # what a coat adds to the breadth of shoulders, in life: common practice, no source


class Taken(Protocol):
    """What was read on an instrument: mm, and the error of the reading in mm."""

    @property
    def mm(self) -> float: ...

    @property
    def error_mm(self) -> float: ...


class TakenPart(Taken, Protocol):
    """What was taken on a part of a body or on a known thing beside it: the key of either."""

    @property
    def part(self) -> str: ...


class _Height(NamedTuple):
    mm: float
    error_mm: float


@dataclass(frozen=True)
class NamedScale:
    """One row of the table of scales: 1:n and the name it goes by, if any."""

    n: float
    name: str


@dataclass(frozen=True)
class PartReading:
    """One of several measurements: its size in mm, the scale that it gives alone, and how much too large it is for the whole."""

    name: str
    mm: float
    n: float
    off: float


@dataclass(frozen=True)
class Reading:
    """What a measurement says. Sizes in mm; ``low`` and ``high`` bound the native 1:n with 90 %."""

    measured_mm: float
    real_mm: float
    n: float
    low: float
    high: float
    plausible: tuple[NamedScale, ...]
    factor: float
    wanted_mm: float
    reads_mm: float
    off: float
    verdict: Verdict
    words: str
    formula: str
    source: str
    parts: tuple[PartReading, ...] = ()
    oddity: Oddity | None = None
    natural: float = 0.0

    def at(self, house_n: float) -> float:
        """Its relative size error at another house scale, less what such things differ in life."""
        return _beyond(house_n / self.n - 1, self.natural)

    @property
    def beyond(self) -> float:
        """Its relative size error, less what such things differ in life."""
        return _beyond(self.off, self.natural)


def _beyond(off: float, natural: float) -> float:
    return math.copysign(max(0.0, abs(off) - natural), off)


def named_scales() -> tuple[NamedScale, ...]:
    """All named scales, largest model first."""
    rows = [NamedScale(float(r["n"]), r.get("name", "")) for r in table("scales")["scale"]]
    return tuple(sorted(rows, key=lambda s: s.n))


def verdict_of(off: float) -> Verdict:
    """The verdict on a relative size error: 3, 6 and 10 % are common practice, no source."""
    size = abs(off)
    if size <= 0.03:
        return "right"
    if size <= 0.06:
        return "passes beside"
    return "passes apart" if size <= 0.10 else "wrong"


def passes(off: float, stands: str) -> bool:
    """Whether a relative size error passes where the piece stands: beside its like, alone, behind them (smaller passes) or in front
    (larger passes). Common practice, no source.
    """
    low, high = {"beside": (-0.06, 0.06), "alone": (-0.10, 0.10), "behind": (-0.10, 0.06), "front": (-0.06, 0.10)}[stands]
    return low <= off <= high


def reading_of(
    sightings: tuple[Sighting, ...],
    shared: float,
    measured_mm: float | None,
    real_mm: float,
    house_n: float,
    words: Callable[[float], str],
    formula: str,
    source: str,
    natural: float = 0.0,
) -> Reading:
    """One reading out of all sightings. ``real_mm`` is the real main size, ``measured_mm`` None where it was not taken."""
    found = combine(sightings, shared)
    oddity = explain(sightings, found)
    if oddity and oddity.leave_out:
        kept = tuple(s for s in sightings if s.kind not in oddity.leave_out)
        found = combine(kept or sightings, shared)
    n = found.n
    off = house_n / n - 1
    parts = tuple(PartReading(s.name, s.mm, s.n, n / s.n - 1) for s in sightings)
    if len(parts) > 1:
        formula += "\n" + "\n".join(f"{p.name} {show_mm(p.mm)} gives {show_scale(p.n)}" for p in parts)
        formula += f"\ntogether, weighted by their spreads: {show_scale(n)} ±{found.sigma * Z90 * 100:.1f} %"
        source += f"; generalised least squares, {cite('aitken1935')}"
    return Reading(
        measured_mm or real_mm / n, real_mm, n, found.low, found.high, tuple(s for s in named_scales() if found.low <= s.n <= found.high),
        n / house_n, real_mm / house_n, real_mm * house_n / n, off, verdict_of(_beyond(off, natural)),
        words(n), formula, source, parts, oddity, natural,
    )  # fmt: skip


def _body_sightings(details: Sequence[TakenPart], pose: str, who: Person, heroic: bool, coat: bool) -> Iterator[Sighting]:
    """What was taken on the body besides its crown, and known things that belong to it; with what it wears there."""
    stature, person = who.stature[0], who.row
    rows, things, body = table("body")["details"], table("scales")["things"], measures(pose, person)
    for d in details:
        row = rows.get(d.part)
        if row is None:
            if (thing := things.get(d.part)) is not None:
                yield Sighting(thing["name"], d.mm, d.error_mm, thing["real_mm"], thing["spread"], "thing", body=False)
            continue
        own = segments(person)[row["segment"]] * row.get("times", 1.0) if "segment" in row else row.get(person, row["share"])
        share = {"eyes": body.eye, "shoulder": body.shoulder}.get(d.part, own)
        kind: Kind = "height" if row["height"] else {"head": "head", "shoulders": "width"}.get(d.part, "limb")  # type: ignore[assignment]
        if d.part == "head":
            share *= head_times(person, heroic)
        if d.part == "hand":
            share *= hand_times(heroic)
        worn = {"head": who.gear_mm, "shoulders": COAT_MM if coat else 0.0}.get(d.part, 0.0)
        yield Sighting(row["name"], d.mm, d.error_mm, stature * share + worn, row["spread"], kind)


def read_body(
    measure: Taken | None, details: Sequence[TakenPart], pose: str, who: Person, house_n: float, heroic: bool = False, coat: bool = False
) -> Reading | None:
    """The reading of a figure from its crown height and whatever else was taken on it; None where nothing was. Raises PoseError.

    People differ by the spread of their stature: that much off is nobody's fault, but where the maker said who it is.
    """
    body, ratio, (mean, spread) = table("body"), measures(pose, who.row).crown, who.stature
    pose_spread, own = body["poses"][pose]["spread"], bool(who.own_mm)
    sightings = list(_body_sightings(details, pose, who, heroic, coat))
    real = mean * ratio + (0.0 if lies(pose) else who.worn_mm)
    if measure is not None:
        name = "length along the ground" if lies(pose) else "floor to crown"
        sightings.insert(0, Sighting(name, measure.mm, measure.error_mm, real, pose_spread, "height"))
    if not sightings:
        return None
    noun = {"boy_12": "boy", "child_6": "child"}.get(who.row, who.row)

    def words(n: float) -> str:
        stature = mean * house_n / n
        if noun == "man" and not own and abs(stature / mean - 1) > 0.10:
            return f"a {'giant' if stature > mean else 'child'} of {show_real(stature)}"
        return f"a {show_real(stature)} {noun}"

    worn = f" + worn {show_mm(who.worn_mm)}" if who.worn_mm and not lies(pose) else ""
    formula = (
        f"native scale = (stature {show_real(mean)} × pose ratio {ratio:.3f}{worn}) ÷ measured {show_mm(measure.mm)}\n"
        f"stature spread ±{spread * 100:.1f} %, pose ±{pose_spread * 100:.1f} %, "
        f"caliper ±{(measure.error_mm / measure.mm) * 100:.1f} %, together as a 90 % interval"
        if measure is not None
        else f"native scale from parts of the body, stature {show_real(mean)} ±{spread * 100:.1f} %"
    )
    source = f"{who.source}; pose from body segments, {body['segments']['source']}"
    taken = measure.mm if measure else None
    return reading_of(tuple(sightings), spread, taken, real, house_n, words, formula, source, 0.0 if own else spread)


def read_figure(measured_mm: float, error_mm: float, pose: str, person: str, house_n: float) -> Reading:
    """The reading of a figure's crown height in mm. Raises PoseError, LengthError for sizes that nothing has, ValueError for a scale that is
    not above zero.
    """
    if house_n <= 0:
        raise ValueError("scales are above zero")
    if not SMALLEST <= measured_mm <= LARGEST_MM:
        raise LengthError(f"Heights from {SMALLEST} mm to {LARGEST_MM / 1000:.0f} m can be read.")
    if not 0 <= error_mm <= measured_mm:
        raise LengthError("The error of a reading is between nothing and the reading itself.")
    reading = read_body(_Height(measured_mm, error_mm), (), pose, Person(person), house_n)
    assert reading is not None
    return reading


@dataclass(frozen=True)
class ClaimReading:
    """What the box says, as a scale: one value for ``1:32``, two schools for a nominal height."""

    to_crown: float
    to_eyes: float
    nominal: bool


def read_claim(claim: str) -> ClaimReading | None:
    """Read ``1:32`` or a nominal standing height such as ``54 mm`` (to the crown or to the eyes); None if neither."""
    body = table("body")
    man, eye = body["people"]["man"]["mean_mm"], body["segments"]["eye"]
    try:
        if re.match(r"\s*1\s*[:/]", claim) or named_scale(claim) is not None:
            n = parse_scale(claim)
            return ClaimReading(n, n, False)
        mm = parse_length(claim)
    except LengthError:
        return None
    return ClaimReading(man / mm, man * eye / mm, True)


def native_told(reading: Reading) -> Told:
    """The scale that a thing really has."""
    said = show_scale(reading.n)
    return Told(said, How("Native scale", reading.formula, said, reading.source))


def factor_told(reading: Reading, house_n: float) -> Told:
    """What brings a thing to the house scale."""
    said = f"{digits(reading.factor * 100, 1)} %"
    formula = f"{show_scale(reading.n)} ÷ {show_scale(house_n)}: {digits(reading.n, 2)} ÷ {digits(house_n, 2)}"
    return Told(f"{said} of it is right at {show_scale(house_n)}", How("To the house scale", formula, said, "ratio of scales"))


def reads_told(reading: Reading, house_n: float) -> Told:
    """What a thing's size reads as."""
    formula = (
        "Within 3 % right, to 6 % beside its like, to 10 % alone (smaller behind, larger in front), beyond that wrong.\n"
        f"Right would be {show_mm(reading.wanted_mm)}: it is {reading.off * 100:+.1f} % off.\n"
        f"{show_mm(reading.measured_mm)} × {digits(house_n, 1)} = {show_real(reading.reads_mm)}, which reads as"
    )
    return Told(f"reads as {reading.words}", How("Reads as", formula, reading.words, f"verdict limits: {PRACTICE}"))
