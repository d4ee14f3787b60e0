# SPDX-License-Identifier: MIT
"""Hours, material, tries and money of a file on a machine, and the plates that are filled with files."""

import math
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.how import PRACTICE, How, Told
from fondale.core.model import PRINTS, Piece, PrintFile, Project
from fondale.core.model.prints import Vector
from fondale.core.model.shapes import Mesh
from fondale.core.prints.inside import hollow_share
from fondale.core.prints.ordering import ordered_told
from fondale.core.prints.parting import part_sizes
from fondale.core.prints.plates import Lying, packed
from fondale.core.prints.printers import alike, machine_of, printer_of, row_of
from fondale.core.prints.supports import Supports, hangs, supports_of
from fondale.core.troubles import Trouble
from fondale.core.words import clipped, digits, hours_words, percent, show_mm
from fondale.knowledge import table

TURNS = {"z": (0, 1, 2), "-z": (0, 1, 2), "x": (1, 2, 0), "-x": (1, 2, 0), "y": (2, 0, 1), "-y": (2, 0, 1)}
STRETCH_SEEN = 0.03  # beyond this it looks stretched: common practice, no source


def lying(size: Vector, up: str, tilt_deg: float) -> Vector:
    """Width, depth and height of a body of ``size`` when ``up`` points up and it is tilted about its width: the box turned."""
    a, b, c = (size[i] for i in TURNS[up])
    s, k = math.sin(math.radians(tilt_deg)), math.cos(math.radians(tilt_deg))
    return a, b * k + c * s, c * k + b * s


def fits_build(size: Vector, build: Vector) -> bool:
    """Whether a lying body goes into the build room, turned a quarter if need be."""
    w, d, h = size
    return h <= build[2] + 1e-6 and ((w <= build[0] + 1e-6 and d <= build[1] + 1e-6) or (d <= build[0] + 1e-6 and w <= build[1] + 1e-6))


@dataclass(frozen=True)
class PrintJob:
    """One file on one machine, one copy. Hours and material of one good try; money with the tries that fail.

    ``lay`` are the boxes of what the cuts make of it as it lies, with what lifts it; ``too_large`` where one of them does not fit the machine.
    ``drawn_h`` are the hours that the nozzle draws, without waiting for layers to set. ``volume_ml`` is that of the whole as if solid, ``body_ml`` what is left when it is hollow.
    """

    file: str
    machine: str
    process: str
    layer_mm: float
    layers: int
    hours: float
    drawn_h: float
    material_g: float
    volume_ml: float
    body_ml: float
    lay: tuple[Vector, ...]
    weight_g: float
    success: float
    tries: float
    cost: float
    too_large: bool
    words: str
    cost_words: str
    formula: str

    @property
    def parts(self) -> int:
        """How many parts the cuts make."""
        return len(self.lay)

    @property
    def largest(self) -> Vector:
        """The box of the largest part."""
        return max(self.lay, key=math.prod)


def weight_of(piece: Piece, jobs: Mapping[str, PrintJob]) -> float:
    """What a piece weighs in g as the maker weighed it; a printed one else what its file comes to, whatever piece of it is asked; 0: not known."""
    job = jobs.get(piece.shape.file) if isinstance(piece.shape, Mesh) else None
    return piece.weight_g or (job.weight_g if job is not None else 0.0)


def percent_of(project: Project, piece: Piece) -> float:
    """At which percentage a piece was printed: its file knows; one without a file says it itself."""
    file = project.find(PRINTS, piece.shape.file) if isinstance(piece.shape, Mesh) and piece.shape.file else None
    return file.percent if file is not None else piece.printed_percent


def solid_volume(file: PrintFile, shape: Mesh | None = None) -> tuple[float, float, float]:
    """Volume in mm3 of the printed body, whole and with its hollow, and the area in mm2 of its skins: the outer one, and that of the hollow.

    The hollow is what lies deeper than the wall under the skin ``shape``; where that is not known, the body shrunk by its wall:
    V (1 - t A / 3 V)^3, exact for every body whose faces all touch one ball.
    """
    tx, ty, tz = file.times
    whole = file.volume * tx * ty * tz
    # Area under unequal stretch lies between the smallest and largest product; the mean is within a few percent.
    area = file.area * (tx * ty + ty * tz + tz * tx) / 3
    if file.hollow_mm <= 0 or whole <= 0:
        return whole, whole, area
    left = max(0.0, 1 - file.hollow_mm * area / (3 * whole))
    if shape is not None:
        left = hollow_share(shape, file.printed, file.hollow_mm) ** (1 / 3)
    return whole, whole * (1 - left**3), area * (1 + left**2)


def room_of(row: Mapping[str, Any]) -> Vector:
    """The room for a part on a machine of this row, its supports taken off the height: whatever lies on them is lifted so far."""
    w, d, h = row["build"]
    return w, d, h - row["lift_mm"]


@dataclass(frozen=True)
class Laid:
    """One part as it lies on its machine: width, depth and height in mm with what lifts it, and what holds it up."""

    size: Vector
    supports: Supports


def mesh_of(project: Project, file: PrintFile) -> Mesh | None:
    """The simplified skin of a file: that of a piece made of it."""
    return next((p.shape for p in project.pieces if isinstance(p.shape, Mesh) and p.shape.file == file.id), None)


def laid(project: Project, file: PrintFile) -> list[Laid]:
    """The parts of a file as they lie, each with its supports; where nobody knows the skin, those are a share of the body."""
    row = printer_of(project, file)
    shape = mesh_of(project, file)
    sizes = [lying(s, file.up, file.tilt_deg) for s in part_sizes(file, shape)]
    if shape is None:
        share = solid_volume(file, shape)[1] * row["supports"] / len(sizes)
        return [Laid(s, Supports(share, 0.0, False, f"{percent(row['supports'])} of the body, as its skin is not known")) for s in sizes]
    held = [supports_of(h, row) for h in hangs(file, shape, row["process"])]
    return [Laid((w, d, h + s.raised), s) for (w, d, h), s in zip(sizes, held, strict=True)]


def goes_on(project: Project, file: PrintFile) -> bool:
    """Whether every part of a file goes on its machine as it lies; what is ordered out needs none."""
    if file.ordered is not None:
        return True
    build = tuple(printer_of(project, file)["build"])
    return all(fits_build(lying(s, file.up, file.tilt_deg), build) for s in part_sizes(file, mesh_of(project, file)))


def job_of(project: Project, file: PrintFile) -> PrintJob:
    """Resin: layers x (exposure + lift) + bottom layers. Filament: extruded volume / flow, plus travel. Both times the machine's pace.

    Tries are geometric, 1/p for a chance p; a failed try costs the share of the job that is done by then.
    """
    machine = machine_of(project, file)
    row = row_of(machine)
    tries_row = table("machines")["tries"]
    parts = laid(project, file)
    lay = [p.size for p in parts]
    build = tuple(row["build"])
    layer = project.lead_of(file).layer_mm or row["layer_mm"]
    # Parts stand side by side where there is room; otherwise they follow one another.
    plates = packed([(s, file.id) for s in lay], build)
    layers = sum(layers_of(p, layer) for p in plates)
    whole, body, area = solid_volume(file, mesh_of(project, file))
    supports = sum(p.supports.volume for p in parts)
    if row["process"] == "resin":
        drawn = seconds = sum(resin_seconds(p, layer, row) for p in plates)
        used = body + supports
        rule = (
            f"{layers} layers of {digits(layer, 3)} mm × {digits(row['layer_s'], 1)} s + "
            f"{row['bottoms']} bottom layers × {digits(row['bottom_s'], 0)} s"
        )
    else:
        shell = min(body, area * row["wall_mm"])
        used = shell + (body - shell) * row["infill"] + supports
        # At one speed of the nozzle what flows goes with the layer.
        flow = row["flow"] * layer / row["layer_mm"]
        drawn = used / flow * (1 + row["travel"])
        seconds = max(drawn, layers * row["least_layer_s"])
        rule = (
            f"{layers} layers, each {digits(row['least_layer_s'], 0)} s at least, so that it sets"
            if seconds > drawn
            else f"{digits(used / 1000, 1)} ml extruded ÷ {digits(flow, 1)} mm³/s at layers of {digits(layer, 2)} mm, "
            f"{percent(row['travel'])} more for travel"
        )
    hours, drawn_h = seconds / 3600 * machine.pace, drawn / 3600 * machine.pace
    success = tries_row[file.difficulty]
    extra = (1 / success - 1) * tries_row["lost"]
    material = used / 1000 * row["density"]
    cost = (material / 1000 * row["price_kg"] + hours * row["wear_h"]) * (1 + extra)
    too_large = any(not fits_build(s, build) for s in lay)
    weight = (used - supports) / 1000 * row["density"]
    if file.ordered is not None:
        told = ordered_told(file.ordered, project.brief.currency).how
        money = f"{digits(file.ordered.price, 2)} {project.brief.currency}"
        words = f"{digits(weight, 0 if weight >= 10 else 1)} g, {money} from {clipped(file.ordered.service, 40)}"
        return PrintJob(
            file.id, file.ordered.service, row["process"], layer, layers, 0.0, 0.0, weight, whole / 1000, body / 1000, tuple(lay), weight, 1.0, 1.0,
            file.ordered.price / file.count, False, words, money, told.formula,
        )  # fmt: skip
    each = "" if file.count < 2 else " a plate" if row["process"] == "resin" else " a copy"
    money = f"{digits(cost, 2)} {project.brief.currency}"
    words = f"{hours_words(hours)}{each}, {digits(material, 0 if material >= 10 else 1)} g, {money} with {digits(1 / success, 2)} tries"
    formula = (
        f"hours = {rule}{f', × pace {digits(machine.pace, 2)}' if machine.pace != 1 else ''} = {digits(hours, 1)} h\n"
        f"material = {digits(body / 1000, 2)} ml{' hollow' if body < whole else ''} + supports {digits(supports / 1000, 2)} ml, at {digits(row['density'], 2)} g/ml\n"
        f"supports: {'; '.join(dict.fromkeys(p.supports.words for p in parts))}\n"
        f"tries = 1 ÷ {percent(success)}; a failed one costs {percent(tries_row['lost'])} of the job\n"
        f"money = ({digits(material, 1)} g × {digits(row['price_kg'] / 1000, 3)} a gram + {digits(hours, 2)} h × {digits(row['wear_h'], 2)}"
        f" for wear) × {digits(1 + extra, 3)} for tries"
    )
    return PrintJob(
        file.id, machine.name, row["process"], layer, layers, hours, drawn_h, material, whole / 1000, body / 1000, tuple(lay), weight, success, 1 / success, cost,
        too_large, words, money, formula,
    )  # fmt: skip


def layers_of(plate: Sequence[Lying], layer: float) -> int:
    """Layers of a plate: those of its highest part."""
    return max(1, math.ceil(max(size[2] for size, _file in plate) / layer))


def resin_seconds(plate: Sequence[Lying], layer: float, row: dict[str, Any]) -> float:
    """Seconds that a plate of resin takes: all that lies on it takes the time of its highest part."""
    return float(layers_of(plate, layer) * row["layer_s"] + row["bottoms"] * row["bottom_s"])


@dataclass(frozen=True)
class Plate:
    """One filling of a machine: what is on it (file, how many parts), the hours of one good try and the chance of one.

    ``machines`` are the names of those that it may be printed on, the chosen one first.
    """

    lead: str
    machines: tuple[str, ...]
    parts: tuple[tuple[str, int], ...]
    hours: float
    success: float


MOST_PLATES = 40


def beside(project: Project, file: PrintFile) -> list[PrintFile]:
    """A file and those that are printed on its plates."""
    return [file, *(f for f in project.prints if f.id != file.id and project.lead_of(f).id == file.id)]


def success_of(project: Project, file: PrintFile) -> float:
    """The chance that a plate of a file comes out well: that of the hardest file on it."""
    tries = table("machines")["tries"]
    return min(float(tries[f.difficulty]) for f in beside(project, file))


def plates_of(project: Project, file: PrintFile, jobs: Mapping[str, PrintJob] | None = None) -> tuple[Plate, ...]:
    """The plates of a file: its copies and their parts side by side with those of the files that are printed beside it.

    Resin: a plate takes the hours of its highest part. Filament: hours of the parts add up, and no layer takes less than it needs to set.
    """
    machine = machine_of(project, file)
    row = row_of(machine)
    group = beside(project, file)
    known = {f.id: (jobs or {}).get(f.id) or job_of(project, f) for f in group}
    parts: list[Lying] = []
    for f in group:
        parts += [(size, f.id) for size in known[f.id].lay] * f.count
    success = success_of(project, file)
    others = alike(project, machine) if file.any_machine else ()
    names = (machine.name, *(m.name for m in others))
    layer = file.layer_mm or row["layer_mm"]
    out = []
    for plate in packed(parts, tuple(row["build"])):
        on_it = Counter(ident for _size, ident in plate)
        hours = (
            resin_seconds(plate, layer, row) / 3600 * machine.pace
            if row["process"] == "resin"
            else max(
                sum(known[i].drawn_h / known[i].parts * n for i, n in on_it.items()),
                layers_of(plate, layer) * row["least_layer_s"] / 3600 * machine.pace,
            )
        )
        out.append(Plate(file.id, names, tuple(on_it.items()), hours, success))
    return tuple(out)


def all_plates(project: Project, jobs: Mapping[str, PrintJob] | None = None) -> tuple[Plate, ...]:
    """The plates of every file."""
    return tuple(plate for f in project.prints if not f.ordered and project.lead_of(f).id == f.id for plate in plates_of(project, f, jobs))


def moneys(project: Project, jobs: Mapping[str, PrintJob]) -> dict[str, float]:
    """What each file costs, all its copies: what was quoted for one that is ordered, else on its own machine their material, and their share
    of the wear of their plates.

    A plate's hours are shared by those that its parts would take alone; both with the tries that fail.
    """
    lost = float(table("machines")["tries"]["lost"])
    known = {f.id: jobs.get(f.id) or job_of(project, f) for f in project.prints}
    out = {f.id: f.ordered.price if f.ordered else 0.0 for f in project.prints}
    for plate in all_plates(project, known):
        row = printer_of(project, project.get(PRINTS, plate.lead))
        alone = {i: known[i].hours / known[i].parts * n for i, n in plate.parts}
        times, hours = 1 + (1 / plate.success - 1) * lost, sum(alone.values())
        for i, n in plate.parts:
            material = known[i].material_g / known[i].parts * n / 1000 * row["price_kg"]
            out[i] += (material + plate.hours * row["wear_h"] * (alone[i] / hours if hours > 0 else 0.0)) * times
    return out


def largest_percent(file: PrintFile, build: Vector) -> float:
    """The largest percentage at which the whole file, uncut, goes into the build room lying on any of its sides."""
    size = tuple(s * k for s, k in zip(file.size, file.stretch, strict=True))
    best = 0.0
    for up in ("z", "x", "y"):
        w, d, h = lying((size[0], size[1], size[2]), up, 0.0)
        for a, b in ((w, d), (d, w)):
            best = max(best, min(build[0] / a, build[1] / b, build[2] / h))
    return best * 100


def stretch_words(file: PrintFile) -> str:
    """How far a stretch shows, or an empty text: factors that differ by more than 3 % look stretched (common practice)."""
    low, high = min(file.stretch), max(file.stretch)
    if high / low - 1 <= 1e-9:
        return ""
    axes = ", ".join(f"{a} {digits(s * 100, 1)} %" for a, s in zip(("width", "depth", "height"), file.stretch, strict=True))
    seen = high / low - 1 > STRETCH_SEEN
    return f"{axes}: {percent(high / low - 1)} apart, {'it will look stretched' if seen else 'nobody will see it'}."


class NoRoom(Trouble):
    """One thing cannot go inside another."""


def follower_times(dictating: Vector, follower: Vector, wall_mm: float, clearance_mm: float) -> tuple[Vector, float]:
    """Factors per axis that bring a follower (outer size) into a dictating inside with air on both sides, and their spread.

    Raises NoRoom where wall and clearance leave none.
    """
    room = [d - 2 * (wall_mm + clearance_mm) for d in dictating]
    if min(room) <= 0 or min(follower) <= 0:
        raise NoRoom(f"wall and clearance leave no room: {show_mm(2 * (wall_mm + clearance_mm))} of {show_mm(min(dictating))}")
    x, y, z = (r / f for r, f in zip(room, follower, strict=True))
    return (x, y, z), max(x, y, z) / min(x, y, z) - 1


@dataclass(frozen=True)
class Bank:
    """Printing every plate on the machines that were chosen: hours until the last part, half the time and nine times in ten.

    ``bars`` (machine, job, start, end) without failures; ``work_h`` is the sum of all printing.
    """

    half_h: float
    ninety_h: float
    work_h: float
    bars: tuple[tuple[str, str, float, float], ...]


def bank(project: Project, jobs_of: Mapping[str, PrintJob], runs: int = 500, seed: int = 1) -> Bank:
    """List scheduling, longest plate first, each on its machine or one of its kind; failures are drawn and printed again."""
    plates = sorted(all_plates(project, jobs_of), key=lambda p: (-p.hours, p.lead))
    rng = np.random.default_rng(seed)
    lost = table("machines")["tries"]["lost"]
    bars: list[tuple[str, str, float, float]] = []
    plain: dict[str, float] = {}
    free: dict[str, Floats] = {}
    for plate in plates:
        name = min(plate.machines, key=lambda m: plain.get(m, 0.0))
        bars.append((name, plate.lead, plain.get(name, 0.0), plain.get(name, 0.0) + plate.hours))
        plain[name] = bars[-1][3]
        fails = rng.geometric(plate.success, runs) - 1
        each: Floats = plate.hours * (1 + fails * lost * rng.uniform(0.5, 1.5, runs))
        # Each run hands the plate to the machine that is free first there.
        ready = np.array([free.setdefault(m, np.zeros(runs)) for m in plate.machines])
        for k, m in enumerate(plate.machines):
            free[m] = free[m] + each * (ready.argmin(0) == k)
    ends = np.max(list(free.values()), axis=0) if free else np.zeros(runs)
    work = sum(p.hours for p in plates)
    return Bank(float(np.quantile(ends, 0.5)), float(np.quantile(ends, 0.9)), work, tuple(bars))


def job_told(job: PrintJob) -> Told:
    """What a print takes."""
    return Told(job.words, How("What it takes", job.formula, job.cost_words, f"rows of machines: {PRACTICE}; tries are geometric"))
