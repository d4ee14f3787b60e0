# SPDX-License-Identifier: MIT
"""Commands that read a project and compute."""

import io
from datetime import date, datetime
from pathlib import Path
from typing import TYPE_CHECKING

import click

from fondale.cli.inout import FILE, STANDARD, DayType, Given, OneOf, Watch, Work, as_json, clash, force, idle

if TYPE_CHECKING:
    from fondale.core.light.desk import FineDesk
    from fondale.core.model import Project
    from fondale.core.order.plan import Plan
    from fondale.core.stage.drawn import View
    from fondale.core.stage.sections import Plane

SCENES, DRAWINGS = (".glb", ".obj"), (".svg", ".dxf")


def _people() -> list[str]:
    from fondale.knowledge import table

    return list(table("body")["people"])


def _poses() -> list[str]:
    from fondale.core.bodies.poses import poses

    return list(poses())


def _pose(typed: str) -> str:
    from fondale.core.bodies.poses import parse_pose

    return parse_pose(typed)


@click.command(cls=Work)
@click.argument("file", type=FILE)
@as_json
@click.pass_obj
def check(obj: Given, file: Path, as_json: bool) -> int:
    """Every prompt that FILE raises. Exit 1 when one of them is a stop."""
    from fondale.core.derived import derive
    from fondale.core.prompts import all_prompts

    project = obj.project(file)
    with Watch("checking") as watch:
        found = all_prompts(derive(project, obj.today, watch))
    if as_json:
        from fondale.cli.json_shapes import check as shaped

        obj.tell(shaped(str(file), found))
    else:
        for f in found:
            obj.say(f"{f.severity:4}  {f.code:13}  {f.title}: {f.text} ({f.numbers})")
        if not found:
            obj.say("The project is empty." if _empty(project, obj.today) else "Nothing to say.")
    return 1 if any(f.severity == "stop" for f in found) else 0


def _empty(project: "Project", today: date) -> bool:
    """Whether nothing has come to what every project begins with."""
    from fondale.core.edits import new_project
    from fondale.core.model import LISTS

    fresh = new_project(project.name, today)
    return all(listing.members(project) == listing.members(fresh) for listing in LISTS)


@click.command()
@click.argument("height", nargs=-1, required=True)
@click.option("--pose", type=OneOf("pose", _poses, _pose), default="standing", show_default=True, help="A pose, as the window says it.")
@click.option("--person", type=OneOf("person", _people), default="man", show_default=True, help="Whose body it is: man, woman, a child.")
@click.option("--house", default="1:35", show_default=True, help="The house scale.")
@click.option("--error", "error_text", default="0.1", show_default=True, help="Error of the reading, in mm.")
@as_json
@click.pass_obj
def scale(obj: Given, height: tuple[str, ...], pose: str, person: str, house: str, error_text: str, as_json: bool) -> int:
    """Read the native scale of a figure of this measured crown HEIGHT."""
    from fondale.core.lengths import parse_length, parse_scale
    from fondale.core.scale.reading import read_claim, read_figure
    from fondale.core.words import digits, show_mm, show_real, show_scale

    said = " ".join(height)
    house_n = parse_scale(house)
    reading = read_figure(parse_length(said), parse_length(error_text), pose, person, house_n)
    nominal = read_claim(said)
    if as_json:
        from fondale.cli.json_shapes import scale as shaped

        obj.tell(shaped(reading, nominal))
        return 0
    names = ", ".join(show_scale(s.n) + (f" {s.name}" if s.name else "") for s in reading.plausible)
    obj.say(f"native scale {show_scale(reading.n)} ({show_scale(reading.low)} to {show_scale(reading.high)}, 90 %)")
    obj.say(f"could be {names or 'no named scale'}")
    if nominal and pose == "standing" and person == "man":
        obj.say(f"as a nominal size: {show_scale(nominal.to_crown)} to the crown, {show_scale(nominal.to_eyes)} to the eyes")
    obj.say(f"to {show_scale(house_n)}: {digits(reading.factor * 100, 1)} %, which makes {show_mm(reading.wanted_mm)}")
    obj.say(f"as it is, it reads as {reading.words} at {show_scale(house_n)}: {reading.verdict}")
    obj.say(f"(real height in this pose {show_real(reading.real_mm)}; {reading.source})")
    return 0


@click.command(cls=Work)
@click.argument("file", type=FILE)
@click.option("--moment", default="", help="A moment by id; the project's own if left out.")
@click.option("--seat", default="", help="A seat by id, for --png.")
@click.option("--png", type=FILE, help="Write the lit view from --seat here.")
@click.option("--width", type=click.IntRange(32, 4000), help="Width of the picture; 960 if left out.")
@as_json
@force
@click.pass_obj
def light(obj: Given, file: Path, moment: str, seat: str, png: Path | None, width: int | None, as_json: bool, force: bool) -> int:
    """Lux at every meter in three bands, evenness of every area, and the lit view."""
    for option, value in (("--seat", seat), ("--width", width), ("--force", force)):
        if value and png is None:
            raise idle(option, "--png")
    from fondale.core.light.desk import FineDesk, levels_of
    from fondale.core.model import METERS
    from fondale.core.troubles import Trouble

    project = obj.project(file)
    moments, seats = [m.id for m in project.moments], [s.id for s in project.seats]
    if moment and moment not in moments:
        raise Trouble(f"There is no moment “{moment}”. Moments: {', '.join(moments) or 'none'}.")
    if seat and seat not in seats:
        raise Trouble(f"There is no seat “{seat}”. Seats: {', '.join(seats) or 'none'}.")
    if png and not seats:
        raise Trouble("A view needs a seat, and this project has none.")
    obj.will_write([png] if png else [], force, as_json)
    desk = FineDesk()
    with Watch("measuring the light") as watch:
        result = desk.meters(project, moment, progress=watch)
        picture = _lit_view(desk, project, seat or seats[0], width or 960, moment, watch) if png else b""
    if png:
        obj.write(png, picture)
    if as_json:
        from fondale.cli.json_shapes import light as shaped

        obj.tell(shaped(project, result, levels_of(project, moment)))
    else:
        for m in result.meters:
            r, g, b = m.bands
            obj.say(f"{project.get(METERS, m.meter).name}: {m.lux:.1f} lx  (r {r:.1f}, g {g:.1f}, b {b:.1f})")
        for a in result.areas:
            obj.say(f"{a.name(project)}: mean {a.mean_lx:.1f} lx, {a.min_lx:.1f} to {a.max_lx:.1f}, evenness {a.evenness:.2f}")
        if not project.lamps:
            obj.say("There are no lamps.")
    return 0


def _lit_view(desk: "FineDesk", project: "Project", seat: str, width: int, moment: str, watch: Watch) -> bytes:
    """A PNG of what the seat sees."""
    import numpy as np
    from PIL import Image

    from fondale.core.light.picture import develop, shared_exposure

    exposure = shared_exposure(desk.slides(project, seat).values())
    out = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(develop(desk.luminance(project, seat, width, moment, progress=watch), exposure))).save(out, "PNG")
    return out.getvalue()


@click.command(cls=Work)
@click.argument("file", type=FILE)
@as_json
@click.pass_obj
def circuit(obj: Given, file: Path, as_json: bool) -> int:
    """Node voltages, the current of every element, and how long cells last."""
    from fondale.core.derived import SUPPLIES_SOLVED
    from fondale.core.model import LAMPS, STRINGS, SUPPLIES
    from fondale.core.reckoning import Look, Reckoner
    from fondale.core.words import ma

    project = obj.project(file)
    results = Reckoner().derive(project, Look(obj.today), [SUPPLIES_SOLVED])[SUPPLIES_SOLVED]
    if as_json:
        from fondale.cli.json_shapes import circuit as shaped

        obj.tell(shaped(results))
        return 0
    for r in results:
        obj.say(f"{project.get(SUPPLIES, r.supply).name}: {r.volts:.2f} V, {ma(r.amps)} of {ma(r.limit_a)}")
        if r.hours_half is not None and r.hours_dark is not None:
            obj.say(f"  half light after {r.hours_half:.1f} h, hardly lit after {r.hours_dark:.1f} h")
        for s in r.strings:
            lamps = ", ".join(f"{project.get(LAMPS, x.lamp).name} {ma(x.amps)} ({ma(x.low)} to {ma(x.high)})" for x in s.lamps)
            obj.say(f"  {project.get(STRINGS, s.string).name}: {lamps}")
    if not results:
        obj.say("There are no supplies.")
    return 0


@click.command(cls=Work)
@click.argument("file", type=FILE)
@click.option("--ics", type=FILE, help="Write the evenings as a calendar here.")
@click.option("--today", type=DayType(), help="Plan from this day on.")
@as_json
@force
@click.pass_obj
def plan(obj: Given, file: Path, ics: Path | None, today: date | None, as_json: bool, force: bool) -> int:
    """The running order by evenings, with the finishing date and the odds."""
    if force and ics is None:
        raise idle("--force", "--ics")
    from fondale.core.order.plan import make_plan

    project = obj.project(file)
    obj.will_write([ics] if ics else [], force, as_json)
    with Watch("planning") as watch:
        made = make_plan(project, today or obj.today, progress=watch)
    if ics:
        from fondale.papers.calendar import running_order_ics

        obj.write(ics, running_order_ics(project, made, datetime.now().astimezone()))
    if as_json:
        from fondale.cli.json_shapes import plan as shaped

        obj.tell(shaped(made))
    else:
        _say_plan(obj, project, made)
    return 0


def _say_plan(obj: Given, project: "Project", made: "Plan") -> None:
    from fondale.core.words import day_words, odds_words

    if made.trouble:
        obj.say(made.trouble)
        return
    names = {s.id: s.name for s in project.steps}
    if not names:
        obj.say("There are no steps.")
    for evening in made.evenings:
        tools = "".join(f", {tool} {minutes}" for tool, minutes in evening.tools)
        obj.say(f"{day_words(evening.day)}  {evening.used} of {evening.minutes} min{tools}")
        for item in evening.items:
            part = f" ({item.part} of {item.parts})" if item.parts > 1 else ""
            obj.say(f"  {item.start:%H:%M}  {item.minutes:3} min  {names[item.step]}{part}")
    if made.ready is not None:
        odds = f", odds {odds_words(made.odds)}" if made.odds is not None else ""
        obj.say(f"ready {day_words(made.ready)} ({made.leans or made.proof}){odds}")
    elif made.silence:
        obj.say(made.silence)


@click.command(cls=Work)
@click.argument("file", type=FILE)
@click.option("--out", type=FILE, required=True, help="Folder for the papers.")
@click.option("--comma", is_flag=True, help="Lists with a decimal comma and semicolons, as many spreadsheets want them.")
@force
@click.pass_obj
def papers(obj: Given, file: Path, out: Path, comma: bool, force: bool) -> int:
    """Write the build sheet (PDF), the calendar (ICS) and the piece list (CSV)."""
    from fondale.core.derived import derive
    from fondale.core.spreadsheets import PLAIN, desktop_signs
    from fondale.papers import all_papers

    project = obj.project(file)
    with Watch("working it all out") as watch:
        derived = derive(project, obj.today, watch)
        made = all_papers(derived, obj.today, datetime.now().astimezone(), desktop_signs(",") if comma else PLAIN)
    obj.will_write([out / name for name in made], force)
    for name, data in made.items():
        obj.write(out / name, data)
        obj.say(str(out / name))
    return 0


@click.command(cls=Work)
@click.argument("file", type=FILE)
@click.option("--out", type=FILE, required=True, help="Where: .glb or .obj for the scene, .svg or .dxf for a drawing of it.")
@click.option("--format", "kind", type=click.Choice([e[1:] for e in (*SCENES, *DRAWINGS)]), help="What it is, where the name does not say.")
@click.option(
    "--section",
    metavar="PLANE",
    help="Draw what a plane cuts instead of the plan: x=210 from the left, y=130 from the front, z=40 from the floor.",
)
@click.option("--silhouette", is_flag=True, help="Draw the silhouette from the side instead of the plan.")
@force
@click.pass_obj
def scene(obj: Given, file: Path, out: Path, kind: str | None, section: str | None, silhouette: bool, force: bool) -> int:
    """Write the scene as a mesh with its names, or its plan, a section or the silhouette as a drawing, in millimetres."""
    from fondale.app.errands import export_task
    from fondale.core.stage.sections import parse_plane
    from fondale.core.troubles import Trouble

    ending = f".{kind}" if kind else out.suffix.lower()
    if ending not in (*SCENES, *DRAWINGS):
        raise Trouble("Write .glb or .obj for the scene, .svg or .dxf for a drawing of it.")
    if section and silhouette:
        raise clash("--section", "--silhouette")
    if ending in SCENES and (section or silhouette):
        raise idle("--section" if section else "--silhouette", ".svg or .dxf")
    if ending == ".obj" and out == STANDARD:
        raise Trouble("The colours of an .obj stand in a file beside it: name a file, or write a .glb.")
    view: View | Plane = parse_plane(section) if section else "silhouette" if silhouette else "plan"
    project = obj.project(file)
    obj.will_write([out, *([out.with_suffix(".mtl")] if ending == ".obj" else [])], force)
    with Watch("writing the scene") as watch:
        made = export_task(watch, project, ending, view, out.stem)
    for part, data in made.items():
        obj.write(out if part == ending else out.with_suffix(part), data)
    obj.say(str(out))
    return 0


def _drawing(data: bytes) -> str:
    return ".svg" if data.lstrip().startswith(b"<") else ".dxf"


@click.command(cls=Work)
@click.argument("drawing", type=FILE)
@click.argument("file", type=FILE)
@click.option("--unit", type=click.Choice(["mm", "cm", "dm", "m", "in", "ft"]), help="What the numbers of a DXF are that states no unit.")
@click.option("--real", is_flag=True, help="It is drawn in life size: bring it to the house scale.")
@click.option("--out", type=FILE, help="Write the project here.")
@click.option("--in-place", is_flag=True, help="Change FILE itself; as it was it stays among its backups.")
@force
@click.pass_obj
def floor(obj: Given, drawing: Path, file: Path, unit: str | None, real: bool, out: Path | None, in_place: bool, force: bool) -> int:
    """Stand a wall on every straight line of DRAWING (SVG or DXF) in the project FILE."""
    if out and in_place:
        raise clash("--out", "--in-place")
    if out is None and not in_place:
        raise click.UsageError("Say where the project goes: --out, or --in-place.", click.get_current_context())
    if in_place and file == STANDARD:
        raise clash("--in-place", "standard input")
    if drawing == file == STANDARD:
        raise click.UsageError("Only one of the two can come from standard input.", click.get_current_context())
    from fondale.core.edits import apply
    from fondale.core.edits.floor_plans import walls_from
    from fondale.core.tables import in_force
    from fondale.core.troubles import Trouble
    from fondale.storage.files import load_all
    from fondale.storage.floor_plans import read_plan

    whole = load_all(obj.source(file, lambda _data: ".fondale"))
    found = read_plan(obj.source(drawing, _drawing), unit or "")
    in_force(whole.project)
    if found.asks_unit:
        raise Trouble("The drawing states no unit: say --unit mm, cm, dm, m, in or ft.")
    obj.will_write([out] if out else [], force)
    edit = walls_from(whole.project, found.lines, 1 / whole.project.brief.house_n if real else 1.0)
    obj.save(apply(whole.project, edit), out or file, whole.assets)
    obj.say(f"{len(edit.edits)} walls" + (f"; {found.left_out}" if found.left_out else ""))
    return 0


def _answers() -> list[str]:
    from fondale.cli.json_shapes import ANSWERS

    return list(ANSWERS)


@click.command(cls=Work)
@click.argument("command", type=OneOf("answer", _answers), required=False)
@click.pass_obj
def schema(obj: Given, command: str | None) -> int:
    """The JSON Schema of project.json inside a .fondale file; or of what COMMAND answers with --json."""
    if command is None:
        from fondale.core.model import Project

        obj.tell(Project.model_json_schema())
    else:
        from pydantic import TypeAdapter

        from fondale.cli.json_shapes import ANSWERS

        obj.tell(TypeAdapter(ANSWERS[command]).json_schema())
    return 0


COMMANDS = (check, scale, light, circuit, plan, papers, scene, floor, schema)
