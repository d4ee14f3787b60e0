"""Native scale from a measured height, the factor to the house scale, and what the size reads as.

A figure's real height is stature x pose ratio (Drillis and Contini 1966 for the segments, the stature
table of knowledge/body.toml for people); the native scale is real / measured. Uncertainties of stature,
pose and caliper are taken as independent and combined in the logarithm.
"""

import math
from dataclasses import dataclass
from typing import Literal

from fondale.core.lengths import LengthError, parse_length, parse_scale, show_mm, show_real, show_scale
from fondale.core.model import Piece
from fondale.core.model.shapes import Animal, Figure
from fondale.core.scale.mannequin import pose_ratio
from fondale.knowledge import table

Verdict = Literal["right", "passes beside", "passes apart", "wrong"]
Z90 = 1.6449  # two-sided 90 % of a normal distribution


@dataclass(frozen=True)
class NamedScale:
    """One row of the table of scales: 1:n and the name it goes by, if any."""

    n: float
    name: str


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


def read_size(
    measured_mm: float,
    error_mm: float,
    real_mm: float,
    spread: float,
    house_n: float,
    reads_as: str,
    formula: str,
    source: str,
    natural: float = 0.0,
) -> Reading:
    """The reading of one size against a real size known with relative ``spread``. All lengths in mm.

    ``natural`` is how much such things differ in life: the verdict forgives that much. Raises ValueError when a size is not above zero.
    """
    if measured_mm <= 0 or real_mm <= 0 or house_n <= 0:
        raise ValueError("sizes and scales are above zero")
    n = real_mm / measured_mm
    sigma = math.hypot(spread, error_mm / measured_mm)
    low, high = n * math.exp(-Z90 * sigma), n * math.exp(Z90 * sigma)
    plausible = tuple(s for s in named_scales() if low <= s.n <= high)
    off = measured_mm * house_n / real_mm - 1
    verdict = verdict_of(max(0.0, abs(off) - natural))
    return Reading(
        measured_mm, real_mm, n, low, high, plausible, n / house_n, real_mm / house_n, measured_mm * house_n, off, verdict, reads_as, formula, source
    )  # fmt: skip


def read_figure(measured_mm: float, error_mm: float, pose: str, person: str, house_n: float) -> Reading:
    """The reading of a figure's crown height in mm. Raises PoseError or ValueError."""
    body = table("body")
    who, ratio = body["people"][person], pose_ratio(pose)
    real = who["mean_mm"] * ratio
    spread = math.hypot(who["sd_mm"] / who["mean_mm"], body["poses"][pose]["spread"])
    stature = measured_mm * house_n / ratio
    noun = {"boy_12": "boy", "child_6": "child"}.get(person, person)
    words = f"a {show_real(stature)} {noun}"
    if noun == "man" and abs(stature / who["mean_mm"] - 1) > 0.10:
        words = f"a {'giant' if stature > who['mean_mm'] else 'child'} of {show_real(stature)}"
    formula = (
        f"native scale = stature {show_real(who['mean_mm'])} × pose ratio {ratio:.3f} ÷ measured {show_mm(measured_mm)}\n"
        f"stature spread ±{(who['sd_mm'] / who['mean_mm']) * 100:.1f} %, pose ±{(body['poses'][pose]['spread']) * 100:.1f} %, "
        f"caliper ±{(error_mm / measured_mm) * 100:.1f} %, together as a 90 % interval"
    )
    source = f"{who['source']}; pose from body segments, {body['segments']['source']}"
    return read_size(measured_mm, error_mm, real, spread, house_n, words, formula, source)


def read_piece(piece: Piece, house_n: float) -> Reading | None:
    """The reading of a piece, or None where nothing was measured or nothing real is known of it."""
    if piece.measure is None:
        return None
    if isinstance(piece.shape, Figure):
        return read_figure(piece.measure.mm, piece.measure.error_mm, piece.shape.pose, piece.shape.person, house_n)
    key = piece.shape.species if isinstance(piece.shape, Animal) else piece.thing
    row = table("scales")["things"].get(key)
    if row is None:
        return None
    reads = piece.measure.mm * house_n
    formula = f"native scale = real {show_real(row['real_mm'])} ÷ measured {show_mm(piece.measure.mm)}"
    natural = 0.08 if isinstance(piece.shape, Animal) else 0.0
    words = f"a {row['name'].split(',')[0]} of {show_real(reads)}"
    return read_size(
        piece.measure.mm, piece.measure.error_mm, row["real_mm"], natural or 0.03, house_n, words, formula, row["source"], natural
    )


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
        if ":" in claim or "/" in claim:
            n = parse_scale(claim)
            return ClaimReading(n, n, False)
        mm = parse_length(claim)
    except LengthError:
        return None
    return ClaimReading(man / mm, man * eye / mm, True)


def claim_contradicted(piece: Piece, reading: Reading, school: str) -> str:
    """A polite contradiction of the box, or an empty text where it agrees or claims nothing."""
    claim = read_claim(piece.claim) if piece.claim else None
    if claim is None:
        return ""
    n = claim.to_eyes if claim.nominal and school == "eyes" else claim.to_crown
    if reading.low <= n <= reading.high:
        return ""
    says = f"{piece.claim} ({show_scale(n)})" if claim.nominal else piece.claim
    return f"The box says {says}; it measures {show_scale(reading.n)}."
