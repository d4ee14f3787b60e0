# SPDX-License-Identifier: MIT
"""The scale ribbon: what follows from each candidate house scale, and which one to take."""

import math
from dataclasses import dataclass

from fondale.core.model import Bit, Case, Project
from fondale.core.scale.reading import Reading, named_scales, passes
from fondale.core.scale.together import Together, together, together_told
from fondale.core.stage.cases import cells
from fondale.core.stage.clearance import footprint
from fondale.core.stage.scene import rest_places
from fondale.core.words import digits, show_mm, show_real, show_scale
from fondale.knowledge import table

PRINTABLE_MM = 0.3  # thinnest detail that prints and survives handling: common practice, no source
MOST_BITS = 100_000
ARC_MINUTE = math.radians(1 / 60)  # what a good eye resolves


@dataclass(frozen=True)
class Candidate:
    """One scale 1:n. ``grow`` is house / n: how much larger every model size becomes.

    ``serve`` of ``measured`` pieces pass as they are; ``bits`` of ``known_bits`` are of that scale.
    ``over_mm`` is how far the scene would stand out of the case; ``largest_ml`` the largest printed part.
    ``print_mm_real`` and ``eye_mm_real``: real size of the smallest printed detail and of the smallest that the nearest eye resolves.
    """

    n: float
    name: str
    grow: float
    serve: int
    measured: int
    bits: int
    known_bits: int
    over_mm: float
    largest_ml: float
    printed_ml: float
    print_mm_real: float
    eye_mm_real: float
    score: float


@dataclass(frozen=True)
class Extent:
    """How far a placed piece reaches in the case, in mm."""

    left: float
    right: float
    front: float
    back: float
    low: float
    high: float
    scenery: bool


@dataclass(frozen=True)
class Ribbon:
    """All candidates, largest model first; ``best`` is recommended, for the reasons in ``why``, and the house scale where nothing speaks for any.

    ``extents``: the scene, rear things first. ``together``: what the given things ask for.
    """

    candidates: tuple[Candidate, ...]
    best: float
    why: str
    extents: tuple[Extent, ...]
    together: Together | None = None

    def at(self, n: float) -> Candidate:
        """The candidate 1:n. Raises LookupError."""
        found = next((c for c in self.candidates if c.n == n), None)
        if found is None:
            raise LookupError(f"{show_scale(n)} is not on the ribbon")
        return found


def _extents(project: Project) -> tuple[Extent, ...]:
    """Of every placed piece, the rear ones first."""
    places = rest_places(project)
    out = []
    for piece in sorted((p for p in project.pieces if p.id in places), key=lambda p: -places[p.id].y):
        ring, low, high = footprint(piece, places[piece.id])
        (left, front), (right, back) = ring.min(axis=0).tolist(), ring.max(axis=0).tolist()
        out.append(Extent(left, right, front, back, low, high, piece.role == "scenery"))
    return tuple(out)


def man_mm() -> float:
    """Stature of a man of average height."""
    return float(table("body")["people"]["man"]["mean_mm"])


def is_case_set(project: Project) -> bool:
    """Whether somebody has set the case: nothing is said by one that every new project has."""
    return project.case != Case()


def _candidate(project: Project, readings: dict[str, Reading], extents: tuple[Extent, ...], n: float, name: str) -> Candidate:
    house, case = project.brief.house_n, project.case
    grow = house / n
    serve = sum(passes(r.at(n), p.stands) for p in project.pieces if not p.lost and (r := readings.get(p.id)))
    known = [b for b in project.bits if b.native_n > 0 and b.state == "in the box"]
    bits = sum(b.count for b in known if abs(b.native_n / n - 1) <= 0.06)
    over = 0.0
    w, d = case.width / 2, case.depth / 2
    roof = case.height if cells(case)[0].sides["top"] != "open" else math.inf
    for e in extents if is_case_set(project) else ():
        sideways = max(-((e.left - w) * grow + w), (e.right - w) * grow - w)
        over = max(over, sideways, -((e.front - d) * grow + d), (e.back - d) * grow - d, e.high * grow - roof)
    volumes = [f.volume * (f.percent / 100 * grow) ** 3 * math.prod(f.stretch) / 1000 for f in project.prints]
    near = min((s.distance for s in project.seats), default=500.0)
    total = sum(b.count for b in known)
    measured = sum(p.id in readings and not p.lost for p in project.pieces)
    score = 3.0 * serve / max(1, measured) + bits / max(1, total) - (2.0 * over / case.width if over > 1 else 0.0)
    if not measured and not extents and is_case_set(project):
        # Nothing at hand: a man should be a fifth to a third of the case's height.
        man = man_mm() / n / case.height
        score -= abs(math.log(man / 0.28))
    score -= 0.15 * abs(math.log(grow)) + (0.0 if any(s.n == n for s in named_scales()) else 0.2)
    return Candidate(
        n, name, grow, serve, measured, bits, total, max(0.0, over), max(volumes, default=0.0), sum(volumes),
        PRINTABLE_MM * n, near * ARC_MINUTE * n, score,
    )  # fmt: skip


_stock_kept: tuple[tuple[Bit, ...], tuple[Bit, ...]] = ((), ())


def stock(bits: tuple[Bit, ...]) -> tuple[Bit, ...]:
    """One bit for each native scale, so many times: all that the ribbon asks of a box of thousands. The last box is remembered."""
    global _stock_kept
    if _stock_kept[0] is not bits:
        first: dict[float, Bit] = {}
        count: dict[float, int] = {}
        for bit in bits:
            if bit.native_n > 0 and bit.state == "in the box":
                first.setdefault(bit.native_n, bit)
                count[bit.native_n] = count.get(bit.native_n, 0) + bit.count
        _stock_kept = bits, tuple(bit.but(count=min(count[n], MOST_BITS)) for n, bit in first.items())
    return _stock_kept[1]


def counted(project: Project) -> Project:
    """The same project with its stock instead of a box of thousands."""
    return project.but(bits=stock(project.bits)) if project.bits else project


def ribbon(project: Project, readings: dict[str, Reading]) -> Ribbon:
    """Every named scale from 1:6 to 1:220, and the house scale, judged against the scene, the figures, the bits and the files."""
    house = project.brief.house_n
    names = {s.n: s.name for s in named_scales()}
    names.setdefault(house, "")
    extents = _extents(project)
    rows = tuple(_candidate(project, readings, extents, n, names[n]) for n in sorted(names))
    given = together(project, readings)
    best = max(rows, key=lambda c: (c.score, c.n == house))
    said = []
    if not (readings or extents or best.known_bits or project.prints or is_case_set(project)):
        why = f"Nothing is at hand yet. Measure what there is on the Bench, and it is said here which scale it asks for. A man is {show_mm(man_mm() / house)} at {show_scale(house)}."
        return Ribbon(rows, house, why, extents)
    if best.measured:
        said.append(f"{best.serve} of {best.measured} pieces serve as they are")
    if best.known_bits:
        said.append(f"{best.bits} of {best.known_bits} bits are of that scale")
    if best.over_mm > 1:
        said.append(f"the scene then stands {show_mm(best.over_mm)} out of the case")
    elif extents and is_case_set(project):
        said.append("the scene stays in the case")
    if not said and is_case_set(project):
        said.append(f"a man of {show_mm(man_mm() / best.n)} suits a case {digits(project.case.height, 0)} mm high")
    said.append(f"a hair of {digits(PRINTABLE_MM, 1)} mm in print stands for {show_real(best.print_mm_real)}")
    if given is not None and given.n != best.n:  # else it is said already
        said.append(together_told(given).shown)
    return Ribbon(rows, best.n, f"{show_scale(best.n)}: " + ", ".join(said) + ".", extents, given)
