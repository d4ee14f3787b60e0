# SPDX-License-Identifier: MIT
"""What is done once in the background when the maker asks: reading files and photographs, cutting. Plain functions (progress, ...) -> result."""

import hashlib
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from fondale.core.arrays import Floats
from fondale.core.edits import apply
from fondale.core.edits.layouts import lay_out
from fondale.core.edits.pasting import NOTHING
from fondale.core.edits.rescaling import consequences
from fondale.core.fits.capacity import Capacity, Entrant, Facing, capacity
from fondale.core.fits.hatches import Hatch, ways_out
from fondale.core.light.composition import Hint, hints
from fondale.core.light.views import StageView, stage_view
from fondale.core.model import Cut, Layout, PrintFile, Project
from fondale.core.model.prints import Thin, Vector
from fondale.core.prints.body import Body, Facts, measure, scaled, skin
from fondale.core.prints.cutting import KeyRule, cut, quiet_places
from fondale.core.prints.hollow import hollowed
from fondale.core.prints.jobs import fits_build, lying
from fondale.core.prints.panels import lift_off
from fondale.core.prints.parting import part_sizes
from fondale.core.prints.slivers import Planes, clear_of_slivers, cleared_words
from fondale.core.prints.walls import thinnest
from fondale.core.progress import Progress
from fondale.core.prompts import Finding
from fondale.core.prompts.ways import Way, misleading
from fondale.core.reckoning import Look
from fondale.core.stage.drawn import View
from fondale.core.stage.scene import build_scene
from fondale.core.stage.sections import Plane
from fondale.core.troubles import Trouble
from fondale.core.views.places import Found, Target, look_at
from fondale.core.views.sight import PieceView, piece_views
from fondale.core.words import digits
from fondale.storage import FileTrouble, disk_words, put_file
from fondale.storage.bits_csv import Table, TableTrouble, read_table
from fondale.storage.floor_plans import FloorPlan, PlanTrouble, read_plan
from fondale.storage.meshes import in_mm, mend, parse_mesh, read_mesh, reading, write_mesh
from fondale.storage.patience import patience
from fondale.storage.photos import PhotoTrouble, Picture, parse_picture, read_picture
from fondale.storage.unfolded import Endless


@dataclass(frozen=True)
class Import:
    """One file that was asked for: its facts and skin at 100 % in ``unit``, or the trouble with it in words.

    ``asks_unit``: the format states no unit, and none was given; the sizes are then in the file's own numbers.
    """

    path: str
    data: bytes = b""
    unit: str = ""
    asks_unit: bool = False
    facts: Facts | None = None
    skin: tuple[tuple[tuple[float, float, float], ...], tuple[tuple[int, int, int], ...]] = ((), ())
    thin: tuple[Thin, ...] = ()
    repairs: tuple[str, ...] = ()
    trouble: str = ""
    digest: str = ""

    @property
    def name(self) -> str:
        """The file's own name."""
        return Path(self.path).name


def mesh_task(progress: Progress, paths: tuple[str, ...], unit: str) -> tuple[Import, ...]:
    """Read, measure and mend files. Nothing is guessed: without a stated or given unit the maker is asked."""
    out = []
    for k, name in enumerate(paths):
        path = Path(name)
        progress.step(k / len(paths), f"reading {path.name}")
        try:
            with reading(path):
                loaded = read_mesh(path)
                progress.step((k + 0.5) / len(paths), f"measuring {path.name}")
                chosen = loaded.unit or unit
                mended = mend(in_mm(loaded.body, chosen or "mm"))
            thin = thinnest(mended.body)
            out.append(Import(str(path), b"", chosen, not chosen, mended.facts, skin(mended.body), thin, mended.repairs))
        except Trouble as error:
            out.append(Import(str(path), trouble=str(error)))
    return tuple(out)


def with_data(found: tuple[Import, ...]) -> tuple[Import, ...]:
    """The same with the bytes of the files: read where they are kept, as sending a large one over holds up the window."""
    out = []
    for item in found:
        try:
            data = Path(item.path).read_bytes() if item.facts is not None else b""
            out.append(replace(item, data=data, digest=hashlib.sha256(data).hexdigest()))
        except OSError as error:
            out.append(Import(item.path, trouble=f"“{Path(item.path).name}” cannot be read: {error.strerror or error}."))
    return tuple(out)


@dataclass(frozen=True)
class Cutting:
    """Parts of a file as printed: volumes in mm3, sections with keys to draw, and what was written where."""

    volumes: tuple[float, ...]
    sizes: tuple[tuple[float, float, float], ...]
    keys: int
    error: float
    written: tuple[str, ...]
    trouble: str = ""
    hollow: str = ""
    cuts: tuple[Cut, ...] = ()
    aside: str = ""


def cut_task(
    progress: Progress,
    data: bytes,
    file: PrintFile,
    rule: KeyRule | None,
    folder: str,
    as_ending: str = ".stl",
    air: float = 0.1,
    build: Vector | None = None,
) -> Cutting:
    """Scale a file, cut it with keys, and write every part in the wanted format, in millimetres where it lets one choose. Cuts that would
    leave slivers go aside, as far as the parts still fit ``build``.
    """
    try:
        ending = Path(file.asset).suffix.lower()
        progress.step(0.05, f"reading {file.name}")
        body = scaled(mend(in_mm(parse_mesh(data, ending, file.name).body, file.unit)).body, file.times)
        size, hollow = body.vertices.max(axis=0), ""
        if file.hollow_mm > 0:
            shell = hollowed(body, file.hollow_mm, file.drain_mm, file.up, file.tilt_deg, progress)
            body, holes = shell.body, len(shell.drains)
            drains = f"{holes} drain {'hole' if holes == 1 else 'holes'}" if holes else "no drain holes"
            hollow = f"hollow, {digits(shell.volume / 1000, 1)} ml of {digits(shell.whole / 1000, 1)}, {drains}"
        lids: tuple[Body, ...] = ()
        if file.panels:
            body, lids = lift_off(body, file.panels, air)
        cuts, aside = _clear(progress, body, size, file, build)
        at = _planes(cuts, size)
        if not at:
            parts: tuple[Body, ...] = (body,)
            volumes: tuple[float, ...] = (measure(body).volume,)
            keys, error = 0, 0.0
        else:
            made = cut(body, at, rule, progress)
            parts, volumes, keys, error = made.bodies, made.volumes, len(made.keys), made.error
        parts, volumes = (*parts, *lids), (*volumes, *(measure(lid).volume for lid in lids))
        progress.step(0.96, "writing the parts")
        written = []
        for k, part in enumerate(parts, 1):
            name = (f"{file.id}-{k}-of-{len(parts)}" if len(parts) > 1 else file.id) + as_ending
            if folder:
                put_file(Path(folder) / name, write_mesh(part, as_ending))
            written.append(name)
        return Cutting(volumes, tuple(measure(p).size for p in parts), keys, error, tuple(written), hollow=hollow, cuts=cuts, aside=aside)
    except Trouble as error:
        return Cutting((), (), 0, 0.0, (), str(error))
    except OSError as error:
        return Cutting((), (), 0, 0.0, (), f"The folder cannot be written to: {disk_words(error)}.")


def thin_task(progress: Progress, data: bytes, file: PrintFile) -> tuple[Thin, ...]:
    """The thinnest places of a file."""
    progress.step(0.1, f"looking for thin walls in {file.name}")
    return thinnest(mend(in_mm(parse_mesh(data, Path(file.asset).suffix.lower(), file.name).body, file.unit)).body)


def seek_task(
    progress: Progress, data: bytes, file: PrintFile, planned: tuple[Cut, ...], build: tuple[float, float, float]
) -> tuple[Cut, ...]:
    """Move planned cuts to where the section is smallest, for the seam is short there, and so that they leave no slivers. A cut that would
    make a part too large stays.
    """
    try:
        progress.step(0.1, f"looking for short seams in {file.name}")
        body = scaled(mend(in_mm(parse_mesh(data, Path(file.asset).suffix.lower(), file.name).body, file.unit)).body, file.times)
        cuts = list(planned)
        for k, c in enumerate(planned):
            progress.step(0.2 + 0.7 * k / len(planned), f"looking for short seams in {file.name}")
            tried = [*cuts[:k], c.model_copy(update={"at": round(quiet_places(body, c.axis, c.at), 3)}), *cuts[k + 1 :]]
            if _fit(file, tuple(tried), build):
                cuts = tried
        return _clear(progress, body, body.vertices.max(axis=0), file.model_copy(update={"cuts": tuple(cuts)}), build)[0]
    except Trouble:
        return planned


def _fit(file: PrintFile, cuts: tuple[Cut, ...], build: Vector) -> bool:
    """Whether all parts that these cuts leave of a file go into a build room."""
    return all(fits_build(lying(s, file.up, file.tilt_deg), build) for s in part_sizes(file.model_copy(update={"cuts": cuts})))


def _planes(cuts: tuple[Cut, ...], size: Floats) -> Planes:
    return tuple((c.axis, float(c.at * size["xyz".index(c.axis)])) for c in cuts)


def _clear(progress: Progress, body: Body, size: Floats, file: PrintFile, build: Vector | None) -> tuple[tuple[Cut, ...], str]:
    """The cuts of a file whose body is so large, clear of slivers, and in words which of them went aside and what is left. What fitted before fits after."""
    progress.step(0.3, f"looking for slivers in {file.name}")
    cuts = file.cuts
    before = _planes(cuts, size)

    def as_cuts(planes: Planes) -> tuple[Cut, ...]:
        moved = zip(cuts, before, planes, strict=True)
        return tuple(c if was == now else c.model_copy(update={"at": now[1] / float(size["xyz".index(c.axis)])}) for c, was, now in moved)

    asked = build if build is not None and _fit(file, cuts, build) else None
    after = clear_of_slivers(body, before, lambda planes: asked is None or _fit(file, as_cuts(planes), asked), progress)
    return as_cuts(after.planes), cleared_words(before, after)


@dataclass(frozen=True)
class PhotoImport:
    """A photograph that was asked for, or the trouble with it."""

    name: str
    picture: Picture | None
    trouble: str = ""
    digest: str = ""


def photo_task(progress: Progress, path: str, data: bytes = b"") -> PhotoImport:
    """Read a photograph, turn it upright, and make a picture of it for show; with ``data`` it is read from there."""
    name = Path(path).name
    try:
        picture = parse_picture(data, Path(path).suffix.lower(), f"“{name}”") if data else read_picture(Path(path))
        return PhotoImport(name, picture, digest=hashlib.sha256(picture.data).hexdigest())
    except PhotoTrouble as error:
        return PhotoImport(name, None, str(error))


@dataclass(frozen=True)
class TableImport:
    """A table of bits that was asked for, or the trouble with it."""

    name: str
    table: Table | None
    trouble: str = ""


def table_task(progress: Progress, path: str, taken: tuple[str, ...]) -> TableImport:
    """Read a table of bits; their ids are none of ``taken``."""
    name = Path(path).name
    try:
        return TableImport(name, read_table(Path(path), taken))
    except TableTrouble as error:
        return TableImport(name, None, str(error))


def count_task(
    progress: Progress,
    inside: Floats,
    high_mm: float | None,
    who: Callable[[], Entrant],
    gap_mm: float,
    facing: Facing,
    every_mm: float,
    hatches: tuple[Hatch, ...],
) -> tuple[Capacity, str] | None:
    """How many of somebody go into an inside, and by which hatches they come out: it takes up to some seconds. None for who has no body."""
    try:
        body = who()
    except (Trouble, ValueError):
        return None
    return capacity(inside, high_mm, body, gap_mm, facing, every_mm), ways_out(body, hatches)


def ways_task(progress: Progress, project: Project, look: Look, findings: tuple[Finding, ...]) -> frozenset[Way]:
    """Try every way out of what is said of a project."""
    return misleading(project, look, findings, progress)


@dataclass(frozen=True)
class PlanImport:
    """A floor plan that was asked for, or the trouble with it."""

    path: str
    plan: FloorPlan | None
    trouble: str = ""


def plan_task(progress: Progress, path: str, unit: str) -> PlanImport:
    """Read a floor plan."""
    try:
        return PlanImport(path, read_plan(Path(path), unit))
    except PlanTrouble as error:
        return PlanImport(path, None, str(error))


def paste_task(progress: Progress, text: str) -> Project | str:
    """The project that a text of the clipboard holds, or why there is none to be had."""
    from fondale.storage.files import NewerFile, from_json

    try:
        with patience():
            return from_json(text, "What is on the clipboard")
    except NewerFile as error:
        return str(error)
    except (FileTrouble, Endless):
        return NOTHING


def export_task(progress: Progress, project: Project, ending: str, view: View | Plane, name: str = "scene") -> dict[str, bytes]:
    """The scene as a mesh, or its plan, silhouette or a section as a drawing, as the ending says: the files by their endings. ``name`` is theirs without it."""
    from fondale.papers.drawings import drawing_dxf, drawing_svg
    from fondale.storage.scenes import write_scene

    if ending in (".svg", ".dxf"):
        try:
            return {ending: (drawing_svg if ending == ".svg" else drawing_dxf)(project, view)}
        except ValueError as error:
            raise Trouble(str(error)) from error
    return write_scene(project, ending, name)


def compose_task(progress: Progress, project: Project, seat: str, head: tuple[float, float]) -> tuple[Hint, ...]:
    """What the picture from a seat says of its composition."""
    return hints(project, seat, head)


@dataclass(frozen=True)
class Compared:
    """A layout as it would be: its view from a seat, and what every seat would see."""

    view: StageView | None
    views: tuple[PieceView, ...]


def compare_task(progress: Progress, project: Project, layout: Layout, seat: str, width: int) -> Compared:
    """How another layout looks."""
    other = apply(project, lay_out(project, layout))
    return Compared(stage_view(other, seat, width), piece_views(other, build_scene(other), other.seats))


def rescale_task(progress: Progress, project: Project, n: float, case_too: bool) -> tuple[str, ...]:
    """What follows from another house scale."""
    try:
        return consequences(project, n, case_too)
    except Trouble as error:
        return (str(error),)


def sight_task(progress: Progress, project: Project, target: Target) -> Found | None:
    """From where something can be seen."""
    return look_at(project, target)


@dataclass(frozen=True)
class Errand:
    """One thing to be done once: its name, what is said meanwhile (nothing of what nobody asked for), its function (progress, ...) -> find,
    and what is still done to the find on the window's side, off its thread.
    """

    name: str
    words: str
    work: Callable[..., Any]
    finish: Callable[[Any], Any] | None = None


MESH = Errand("mesh", "reading files", mesh_task, with_data)
CUT = Errand("cut", "cutting", cut_task)
THIN = Errand("thin", "looking for thin walls", thin_task)
SEEK = Errand("seek", "looking for short seams", seek_task)
PHOTO = Errand("photo", "reading the photograph", photo_task)
WAYS = Errand("ways", "", ways_task)
COUNT = Errand("count", "counting who goes in", count_task)
TABLE = Errand("table", "reading the table", table_task)
SIGHT = Errand("sight", "looking from where it is seen", sight_task)
FLOOR = Errand("floor", "reading the floor plan", plan_task)
PASTE = Errand("paste", "reading the clipboard", paste_task)
EXPORT = Errand("export", "writing the scene", export_task)
RESCALE = Errand("rescale", "trying another scale", rescale_task)
COMPOSE = Errand("compose", "looking at the composition", compose_task)
COMPARE = Errand("compare", "looking at another layout", compare_task)
BY_NAME = {e.name: e for e in (COMPARE, COMPOSE, RESCALE, SIGHT, FLOOR, PASTE, EXPORT, MESH, CUT, THIN, SEEK, PHOTO, COUNT, TABLE, WAYS)}
