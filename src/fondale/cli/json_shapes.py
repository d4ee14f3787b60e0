# SPDX-License-Identifier: MIT
"""The answers of the command line for machines: their shapes, which `fondale schema COMMAND` prints and docs/cli.md tells, and how they are made.

Lengths are in mm, light in lx, currents in A, times local and in ISO 8601 unless a name says otherwise. Fields may be added; none is
taken away or changes its meaning within a version.
"""

from collections.abc import Iterable, Mapping
from typing import (
    TYPE_CHECKING,
    Literal,
    NotRequired,  # pydantic reads those of typing from Python 3.12 on
)

from typing_extensions import TypedDict

if TYPE_CHECKING:
    from fondale.core.bits.asking import Asked
    from fondale.core.bits.search import Match
    from fondale.core.circuit.supply import SupplyResult
    from fondale.core.fits.air import Air
    from fondale.core.fits.magnets import Pull
    from fondale.core.light.desk import LightResult
    from fondale.core.model import Bit, Fit, Photo, Project
    from fondale.core.order.plan import Plan
    from fondale.core.photo.reading import ThreadReading
    from fondale.core.prompts import Finding
    from fondale.core.scale.reading import ClaimReading, Reading


# `list` is the name of a field: the shape is written as a call.
class SubjectShape(TypedDict):
    list: str
    id: str


class PromptShape(TypedDict):
    """``keys`` are those of all that were joined in it."""

    code: str
    key: str
    keys: list[str]
    severity: Literal["stop", "mind", "hint"]
    station: str
    title: str
    text: str
    numbers: str
    subjects: list[SubjectShape]
    fixes: list[str]


class CheckShape(TypedDict):
    """All prompts of a file, worst first."""

    file: str
    prompts: list[PromptShape]


class NamedScaleShape(TypedDict):
    """1:n, and its name or an empty text."""

    n: float
    name: str


class NominalShape(TypedDict):
    """A nominal size, to the crown and to the eyes."""

    to_crown_n: float
    to_eyes_n: float


class ScaleShape(TypedDict):
    """``low_n`` and ``high_n`` bound 90 %. ``nominal`` reads the height as a nominal size: null where it is none."""

    measured_mm: float
    real_mm: float
    native_n: float
    low_n: float
    high_n: float
    plausible: list[NamedScaleShape]
    factor: float
    wanted_mm: float
    reads_as: str
    off: float
    verdict: str
    nominal: NominalShape | None


class PartShape(TypedDict):
    """A part as it is, or would be, written."""

    file: str
    size_mm: list[float]
    volume_mm3: float


class MeshShape(TypedDict):
    """Sizes, area and volume of the whole are those at 100 %; ``error`` is the share of its volume that cutting lost; ``aside`` says which cuts
    went aside so that no sliver comes off.
    """

    unit: str
    percent: float
    size_mm: list[float]
    volume_mm3: float
    area_mm2: float
    triangles: int
    bodies: int
    watertight: bool
    repairs: list[str]
    keys: int
    error: float
    aside: str
    parts: list[PartShape]


class MatchShape(TypedDict):
    """``score`` 0 is perfect; ``off`` are shares, one for each size of the need."""

    id: str
    name: str
    score: float
    off: list[float]
    verdict: str
    trim: str


class BitsShape(TypedDict):
    """What was asked for, and the bits that come near it, best first."""

    name: str
    outline: str
    real_mm: list[float]
    n: float
    bits: list[MatchShape]


class MendShape(TypedDict):
    """A size that makes a fit go."""

    face: Literal["hole", "peg"]
    mm: float
    way: str
    label: str


class PullShape(TypedDict):
    """A magnet: how far it lies under the face (below zero it stands proud), and its pull. ``load_g`` 0: what hangs on it is not known."""

    under_mm: float
    gap_mm: float
    newton: float
    touching: float
    load_g: float
    deep: float
    words: str


class FitShape(TypedDict):
    """Lengths on each side; ``pull`` stands with magnets alone."""

    id: str
    name: str
    bare: float
    painted: float
    least: float
    most: float
    hole_film: float
    peg_film: float
    verdict: str
    open_to: float
    sand_to: float
    mends: list[MendShape]
    ways: list[str]
    words: str
    pull: NotRequired[PullShape]


class FitsShape(TypedDict):
    """All fits."""

    fits: list[FitShape]


class ThreadShape(TypedDict):
    """``real_mm`` and ``model_mm`` are null where nothing can be read: ``trouble`` says why. ``sigma_mm`` is one standard deviation."""

    id: str
    name: str
    on: str
    known: bool
    real_mm: float | None
    sigma_mm: float
    model_mm: float | None
    trouble: str


class PhotoShape(TypedDict):
    """One photograph."""

    id: str
    name: str
    threads: list[ThreadShape]


class PhotosShape(TypedDict):
    """All photographs."""

    photos: list[PhotoShape]


class MeterShape(TypedDict):
    """``bands`` are r, g and b: lux = 0.2126 r + 0.7152 g + 0.0722 b."""

    id: str
    lux: float
    bands: list[float]
    by_lamp: dict[str, float]


class AreaShape(TypedDict):
    """Evenness is the least over the mean."""

    name: str
    mean_lx: float
    min_lx: float
    max_lx: float
    evenness: float


class LightShape(TypedDict):
    """``levels`` are those of the lamps in that moment, from 0 to 1."""

    moment: str
    levels: dict[str, float]
    meters: list[MeterShape]
    areas: list[AreaShape]


class CurrentShape(TypedDict):
    """The current of a lamp, and what it would be with forward voltages 0.1 V up and down."""

    id: str
    amps: float
    low_a: float
    high_a: float
    volts: float


class StringShape(TypedDict):
    """Lamps in a row, and what their resistor turns into heat."""

    id: str
    amps: float
    resistor_w: float
    lamps: list[CurrentShape]


class SupplyShape(TypedDict):
    """Hours until half light, until its cells are empty, and until hardly anything is lit: null for what is no cell, or never comes to it.
    Node ``0`` is the return, ``plus`` the terminal.
    """

    id: str
    volts: float
    amps: float
    limit_a: float
    hours_half: float | None
    hours_cutoff: float | None
    hours_dark: float | None
    trouble: str
    nodes_v: dict[str, float]
    elements_a: dict[str, float]
    strings: list[StringShape]


class CircuitShape(TypedDict):
    """All supplies."""

    supplies: list[SupplyShape]


class UnkeptShape(TypedDict):
    """A tie that cannot be kept."""

    step: str
    to: str
    how: str
    why: str


class ItemShape(TypedDict):
    """A step, or a part of one, on an evening."""

    step: str
    start: str
    minutes: int
    part: int
    parts: int
    machine: str


class EveningShape(TypedDict):
    """An evening; ``tools`` are minutes of setting up and cleaning."""

    day: str
    minutes: int
    tools: dict[str, int]
    items: list[ItemShape]


# `from` is no name in Python.
DriesShape = TypedDict("DriesShape", {"step": str, "from": str, "until": str, "then": str})


class PlanShape(TypedDict):
    """``finish`` and ``odds`` are null where a step is stopped (``stopped`` says why) or there is nothing to do; ``odds``, ``half`` and ``ninety`` are null
    where the order cannot be kept or no date is set. ``sooner``: how many evenings earlier another order could be, at best. ``unsaid``: steps that say nothing of
    themselves, ``nowhere``: coats that go onto nothing.
    """

    finish: str | None
    stopped: list[str]
    unsaid: int
    nowhere: int
    proven: bool
    sooner: int
    unkept: list[UnkeptShape]
    odds: float | None
    half: str | None
    ninety: str | None
    deciding: list[str]
    chain: list[str]
    minutes_left: float
    pace: float
    trouble: str
    evenings: list[EveningShape]
    dries: list[DriesShape]


ANSWERS: Mapping[str, type] = {
    "check": CheckShape, "scale": ScaleShape, "mesh": MeshShape, "bits": BitsShape, "fits": FitsShape, "photo": PhotosShape,
    "light": LightShape, "circuit": CircuitShape, "plan": PlanShape,
}  # fmt: skip


def check(file: str, found: "Iterable[Finding]") -> CheckShape:
    """All prompts."""
    return {
        "file": file,
        "prompts": [
            {
                "code": f.code, "key": f.key, "keys": list(f.keys), "severity": f.severity, "station": f.station, "title": f.title,
                "text": f.text, "numbers": f.numbers, "subjects": [{"list": listing.name, "id": ident} for listing, ident in f.subjects],
                "fixes": [x.label for x in f.fixes],
            }
            for f in found
        ],
    }  # fmt: skip


def scale(r: "Reading", nominal: "ClaimReading | None") -> ScaleShape:
    """One scale reading."""
    return {
        "measured_mm": r.measured_mm,
        "real_mm": r.real_mm,
        "native_n": r.n,
        "low_n": r.low,
        "high_n": r.high,
        "plausible": [{"n": s.n, "name": s.name} for s in r.plausible],
        "factor": r.factor,
        "wanted_mm": r.wanted_mm,
        "reads_as": r.words,
        "off": r.off,
        "verdict": r.verdict,
        "nominal": {"to_crown_n": nominal.to_crown, "to_eyes_n": nominal.to_eyes} if nominal else None,
    }


def bits(asked: "Asked", n: float, found: "Iterable[Match]", by_id: "Mapping[str, Bit]") -> BitsShape:
    """What a box has for a need."""
    return {
        "name": asked.name, "outline": asked.outline, "real_mm": list(asked.real), "n": n,
        "bits": [{"id": m.bit, "name": by_id[m.bit].name, "score": m.score, "off": list(m.off), "verdict": m.verdict, "trim": m.trim} for m in found],
    }  # fmt: skip


def fits(found: "Iterable[tuple[Fit, Air, Pull | None]]") -> FitsShape:
    """The air of every fit."""
    return {"fits": [_fit(*one) for one in found]}


def _fit(fit: "Fit", a: "Air", pull: "Pull | None") -> FitShape:
    out: FitShape = {
        "id": fit.id, "name": fit.name, "bare": a.bare, "painted": a.painted, "least": a.least, "most": a.most, "hole_film": a.hole_film,
        "peg_film": a.peg_film, "verdict": a.verdict, "open_to": a.open_to, "sand_to": a.sand_to,
        "mends": [{"face": m.face, "mm": m.mm, "way": m.way, "label": m.label} for m in a.mends], "ways": list(a.ways), "words": a.words,
    }  # fmt: skip
    if pull is not None:
        out["pull"] = {
            "under_mm": pull.under_mm, "gap_mm": pull.gap_mm, "newton": pull.newton, "touching": pull.touching, "load_g": pull.load_g,
            "deep": pull.deep, "words": pull.words,
        }  # fmt: skip
    return out


def photos(found: "Iterable[tuple[Photo, Mapping[str, ThreadReading]]]", house_n: float) -> PhotosShape:
    """Every thread as a real length."""
    return {
        "photos": [
            {
                "id": p.id,
                "name": p.name,
                "threads": [
                    {
                        "id": t.id, "name": t.name, "on": t.on, "known": t.known_mm is not None, "real_mm": r[t.id].real_mm,
                        "sigma_mm": r[t.id].give_mm, "model_mm": (real / house_n if (real := r[t.id].real_mm) else None), "trouble": r[t.id].trouble,
                    }
                    for t in p.threads
                ],
            }
            for p, r in found
        ]
    }  # fmt: skip


def light(project: "Project", r: "LightResult", levels: dict[str, float]) -> LightShape:
    """Meters and areas."""
    return {
        "moment": r.moment,
        "levels": levels,
        "meters": [{"id": m.meter, "lux": m.lux, "bands": list(m.bands), "by_lamp": m.by_lamp} for m in r.meters],
        "areas": [
            {"name": a.name(project), "mean_lx": a.mean_lx, "min_lx": a.min_lx, "max_lx": a.max_lx, "evenness": a.evenness} for a in r.areas
        ],
    }


def circuit(found: "Iterable[SupplyResult]") -> CircuitShape:
    """All supplies."""
    return {
        "supplies": [
            {
                "id": r.supply, "volts": r.volts, "amps": r.amps, "limit_a": r.limit_a, "hours_half": r.hours_half,
                "hours_cutoff": r.hours_cutoff, "hours_dark": r.hours_dark, "trouble": r.trouble, "nodes_v": r.nodes, "elements_a": r.elements,
                "strings": [
                    {
                        "id": s.string, "amps": s.amps, "resistor_w": s.resistor_w,
                        "lamps": [{"id": x.lamp, "amps": x.amps, "low_a": x.low, "high_a": x.high, "volts": x.volts} for x in s.lamps],
                    }
                    for s in r.strings
                ],
            }
            for r in found
        ]
    }  # fmt: skip


def plan(p: "Plan") -> PlanShape:
    """The running order."""
    return {
        "finish": p.ready.isoformat() if p.ready else None,
        "stopped": list(p.stopped),
        "unsaid": p.unsaid,
        "nowhere": p.nowhere,
        "proven": p.proven,
        "sooner": p.sooner,
        "unkept": [{"step": u.tied[0], "to": u.tied[1], "how": u.tied[2], "why": u.why} for u in p.unkept],
        "odds": p.odds,
        "half": p.half.isoformat() if p.half else None,
        "ninety": p.ninety.isoformat() if p.ninety else None,
        "deciding": list(p.deciding),
        "chain": list(p.chain),
        "minutes_left": p.minutes_left,
        "pace": p.pace,
        "trouble": p.trouble,
        "evenings": [
            {
                "day": e.day.isoformat(),
                "minutes": e.minutes,
                "tools": dict(e.tools),
                "items": [
                    {
                        "step": i.step,
                        "start": i.start.isoformat(),
                        "minutes": i.minutes,
                        "part": i.part,
                        "parts": i.parts,
                        "machine": i.machine,
                    }
                    for i in e.items
                ],
            }
            for e in p.evenings
        ],
        "dries": [{"step": c.step, "from": c.start.isoformat(), "until": c.until.isoformat(), "then": c.next_step} for c in p.cords],
    }
