"""Commands that read a project and compute."""

import sys
from datetime import datetime
from pathlib import Path

import click
from rich.console import Console
from rich.progress import Progress

from fondale.app.errands import export_task
from fondale.cli import json_shapes
from fondale.cli.inout import FILE, Given, out_json, write_file
from fondale.cli.opening import opened
from fondale.core.bodies.poses import parse_pose, poses
from fondale.core.derived import SUPPLIES_SOLVED, derive
from fondale.core.edits import apply
from fondale.core.edits.floor_plans import walls_from
from fondale.core.lengths import parse_length, parse_scale
from fondale.core.light.desk import FineDesk, levels_of
from fondale.core.light.picture import develop, shared_exposure
from fondale.core.model import LAMPS, METERS, STRINGS, SUPPLIES, Project
from fondale.core.order.plan import make_plan
from fondale.core.progress import Quiet
from fondale.core.prompts import all_prompts
from fondale.core.reckoning import Look, Reckoner
from fondale.core.scale.reading import read_claim, read_figure
from fondale.core.spreadsheets import PLAIN, desktop_signs
from fondale.core.stage.drawn import View
from fondale.core.stage.sections import Plane, parse_plane
from fondale.core.tables import in_force
from fondale.core.troubles import Trouble
from fondale.core.words import day_words, digits, ma, odds_words, show_mm, show_real, show_scale
from fondale.knowledge import table
from fondale.storage import save
from fondale.storage.files import load_all
from fondale.storage.floor_plans import read_plan


class _Watch:
    """Shows progress of long work on a terminal, and nothing elsewhere."""

    def __init__(self) -> None:
        self._progress = Progress(console=Console(stderr=True), transient=True, disable=not sys.stderr.isatty())

    def __enter__(self) -> "_Watch":
        self._progress.start()
        self._task = self._progress.add_task("working", total=1.0)
        return self

    def __exit__(self, *_rest: object) -> None:
        self._progress.stop()

    def step(self, share: float, words: str) -> None:
        self._progress.update(self._task, completed=share, description=words or "working")


@click.command()
@click.argument("file", type=FILE)
@click.option("--json", "as_json", is_flag=True, help="Machine-readable output.")
@click.pass_obj
def check(obj: Given, file: Path, as_json: bool) -> int:
    """Every prompt that FILE raises. Exit 1 when one of them is a stop."""
    project = opened(file)
    with _Watch() as watch:
        watch.step(0.2, "checking")
        derived = derive(project, obj.today, watch)
    found = all_prompts(derived)
    if as_json:
        out_json({"file": str(file), "prompts": [json_shapes.finding(f) for f in found]})
    else:
        for f in found:
            click.echo(f"{f.severity:4}  {f.code:13}  {f.title}: {f.text} ({f.numbers})")
        if not found:
            click.echo("Nothing to say.")
    return 1 if any(f.severity == "stop" for f in found) else 0


@click.command()
@click.argument("height")
@click.option("--pose", default="standing", show_default=True, help="One of: " + ", ".join(poses()) + "; or as the window says it")
@click.option("--person", default="man", show_default=True, help="One of: " + ", ".join(table("body")["people"]))
@click.option("--house", default="1:35", show_default=True, help="The house scale.")
@click.option("--error", "error_text", default="0.1", show_default=True, help="Error of the reading, in mm.")
@click.option("--json", "as_json", is_flag=True, help="Machine-readable output.")
@click.pass_obj
def scale(obj: Given, height: str, pose: str, person: str, house: str, error_text: str, as_json: bool) -> int:
    """Read the native scale of a figure of this measured crown HEIGHT."""
    mm, house_n, error_mm, pose = parse_length(height), parse_scale(house), parse_length(error_text), parse_pose(pose)
    if person not in table("body")["people"]:
        raise Trouble(f"There is no person “{person}”. People: {', '.join(table('body')['people'])}.")
    reading = read_figure(mm, error_mm, pose, person, house_n)
    nominal = read_claim(height)
    if as_json:
        out_json(json_shapes.reading(reading, nominal))
        return 0
    names = ", ".join(show_scale(s.n) + (f" {s.name}" if s.name else "") for s in reading.plausible)
    click.echo(f"native scale {show_scale(reading.n)} ({show_scale(reading.low)} to {show_scale(reading.high)}, 90 %)")
    click.echo(f"could be {names or 'no named scale'}")
    if nominal and pose == "standing" and person == "man":
        click.echo(f"as a nominal size: {show_scale(nominal.to_crown)} to the crown, {show_scale(nominal.to_eyes)} to the eyes")
    click.echo(f"to {show_scale(house_n)}: {digits(reading.factor * 100, 1)} %, which makes {show_mm(reading.wanted_mm)}")
    click.echo(f"as it is, it reads as {reading.words} at {show_scale(house_n)}: {reading.verdict}")
    click.echo(f"(real height in this pose {show_real(reading.real_mm)}; {reading.source})")
    return 0


@click.command()
@click.argument("file", type=FILE)
@click.option("--moment", default="", help="A moment by id; the project's own if left out.")
@click.option("--seat", default="", help="A seat by id, for --png.")
@click.option("--png", type=FILE, help="Write the lit view from --seat here.")
@click.option("--width", type=click.IntRange(32, 4000), default=960, show_default=True, help="Width of the picture.")
@click.option("--json", "as_json", is_flag=True, help="Machine-readable output.")
def light(file: Path, moment: str, seat: str, png: Path | None, width: int, as_json: bool) -> int:
    """Lux at every meter in three bands, evenness of every area, and the lit view."""
    project = opened(file)
    moments, seats = [m.id for m in project.moments], [s.id for s in project.seats]
    if moment and moment not in moments:
        raise Trouble(f"There is no moment “{moment}”. Moments: {', '.join(moments) or 'none'}.")
    if seat and seat not in seats:
        raise Trouble(f"There is no seat “{seat}”. Seats: {', '.join(seats) or 'none'}.")
    if png and not seats:
        raise Trouble("A view needs a seat, and this project has none.")
    desk = FineDesk()
    with _Watch() as watch:
        result = desk.meters(project, moment, progress=watch)
        if png:
            chosen = seat or seats[0]
            image = develop(
                desk.luminance(project, chosen, width, moment, progress=watch), shared_exposure(desk.slides(project, chosen).values())
            )
    if png:
        import numpy as np
        from PIL import Image

        try:
            png.parent.mkdir(parents=True, exist_ok=True)
            Image.fromarray(np.ascontiguousarray(image)).save(png)
        except (OSError, ValueError) as error:
            raise Trouble(f"{png} cannot be written: {error}.") from error
    if as_json:
        out_json(json_shapes.light(project, result, levels_of(project, moment)))
        return 0
    for m in result.meters:
        click.echo(f"{project.get(METERS, m.meter).name}: {m.lux:.1f} lx  (r {m.bands[0]:.1f}, g {m.bands[1]:.1f}, b {m.bands[2]:.1f})")
    for a in result.areas:
        click.echo(f"{a.name(project)}: mean {a.mean_lx:.1f} lx, {a.min_lx:.1f} to {a.max_lx:.1f}, evenness {a.evenness:.2f}")
    return 0


@click.command()
@click.argument("file", type=FILE)
@click.option("--json", "as_json", is_flag=True, help="Machine-readable output.")
@click.pass_obj
def circuit(obj: Given, file: Path, as_json: bool) -> int:
    """Node voltages, the current of every element, and how long cells last."""
    project = opened(file)
    derived = Reckoner().derive(project, Look(obj.today), [SUPPLIES_SOLVED])
    results = derived[SUPPLIES_SOLVED]
    if as_json:
        out_json({"supplies": [json_shapes.supply(r) for r in results]})
        return 0
    for r in results:
        click.echo(f"{project.get(SUPPLIES, r.supply).name}: {r.volts:.2f} V, {ma(r.amps)} of {ma(r.limit_a)}")
        if r.hours_half is not None and r.hours_dark is not None:
            click.echo(f"  half light after {r.hours_half:.1f} h, hardly lit after {r.hours_dark:.1f} h")
        for s in r.strings:
            lamps = ", ".join(f"{project.get(LAMPS, x.lamp).name} {ma(x.amps)} ({ma(x.low)} to {ma(x.high)})" for x in s.lamps)
            click.echo(f"  {project.get(STRINGS, s.string).name}: {lamps}")
    return 0


@click.command()
@click.argument("file", type=FILE)
@click.option("--ics", type=FILE, help="Write the evenings as a calendar here.")
@click.option("--today", type=click.DateTime(["%Y-%m-%d"]), help="Plan from this day on.")
@click.option("--json", "as_json", is_flag=True, help="Machine-readable output.")
@click.pass_obj
def plan(obj: Given, file: Path, ics: Path | None, today: datetime | None, as_json: bool) -> int:
    """The running order by evenings, with the finishing date and the odds."""
    project = opened(file)
    with _Watch() as watch:
        made = make_plan(project, today.date() if today else obj.today, progress=watch)
    if ics:
        from fondale.papers.calendar import running_order_ics

        write_file(ics, running_order_ics(project, made, datetime.now().astimezone()))
    if as_json:
        out_json(json_shapes.plan(made))
        return 0
    if made.trouble:
        click.echo(made.trouble)
        return 0
    names = {s.id: s.name for s in project.steps}
    for evening in made.evenings:
        tools = "".join(f", {tool} {minutes}" for tool, minutes in evening.tools)
        click.echo(f"{day_words(evening.day)}  {evening.used} of {evening.minutes} min{tools}")
        for item in evening.items:
            part = f" ({item.part} of {item.parts})" if item.parts > 1 else ""
            click.echo(f"  {item.start:%H:%M}  {item.minutes:3} min  {names[item.step]}{part}")
    if made.ready is not None:
        odds = f", odds {odds_words(made.odds)}" if made.odds is not None else ""
        click.echo(f"ready {day_words(made.ready)} ({made.leans or made.proof}){odds}")
    elif made.silence:
        click.echo(made.silence)
    return 0


@click.command()
@click.argument("file", type=FILE)
@click.option("--out", type=FILE, required=True, help="Folder for the papers.")
@click.option("--comma", is_flag=True, help="Lists with a decimal comma and semicolons, as many spreadsheets want them.")
@click.pass_obj
def papers(obj: Given, file: Path, out: Path, comma: bool) -> int:
    """Write the build sheet (PDF), the calendar (ICS) and the piece list (CSV)."""
    from fondale.papers import all_papers  # loads the PDF library

    project = opened(file)
    with _Watch() as watch:
        watch.step(0.2, "working it all out")
        derived = derive(project, obj.today, watch)
    for name, data in all_papers(derived, obj.today, datetime.now().astimezone(), desktop_signs(",") if comma else PLAIN).items():
        write_file(out / name, data)
        click.echo(str(out / name))
    return 0


@click.command()
@click.argument("file", type=FILE)
@click.option("--out", type=FILE, required=True, help="Where: .glb or .obj for the scene, .svg or .dxf for a drawing of it.")
@click.option(
    "--section",
    metavar="PLANE",
    help="Draw what a plane cuts instead of the plan: x=210 from the left, y=130 from the front, z=40 from the floor.",
)
@click.option("--silhouette", is_flag=True, help="Draw the silhouette from the side instead of the plan.")
def scene(file: Path, out: Path, section: str | None, silhouette: bool) -> int:
    """Write the scene as a mesh with its names, or its plan, a section or the silhouette as a drawing, in millimetres."""
    ending = out.suffix.lower()
    if ending not in (".glb", ".obj", ".svg", ".dxf"):
        raise Trouble("Write .glb or .obj for the scene, .svg or .dxf for a drawing of it.")
    view: View | Plane = parse_plane(section) if section else "silhouette" if silhouette else "plan"
    for kind, data in export_task(Quiet(), opened(file), ending, view, out.stem).items():
        write_file(out if kind == ending else out.with_suffix(kind), data)
    click.echo(str(out))
    return 0


@click.command()
@click.argument("drawing", type=FILE)
@click.argument("file", type=FILE)
@click.option("--unit", type=click.Choice(["mm", "cm", "dm", "m", "in", "ft"]), help="What the numbers of a DXF are that states no unit.")
@click.option("--real", is_flag=True, help="It is drawn in life size: bring it to the house scale.")
def floor(drawing: Path, file: Path, unit: str | None, real: bool) -> int:
    """Stand a wall on every straight line of DRAWING (SVG or DXF) in the project FILE."""
    whole, found = load_all(file), read_plan(drawing, unit or "")
    in_force(whole.project)
    if found.asks_unit:
        raise Trouble("The drawing states no unit: say --unit mm, cm, dm, m, in or ft.")
    edit = walls_from(whole.project, found.lines, 1 / whole.project.brief.house_n if real else 1.0)
    save(apply(whole.project, edit), file, whole.assets)
    click.echo(f"{len(edit.edits)} walls" + (f"; {found.left_out}" if found.left_out else ""))
    return 0


@click.command()
def schema() -> int:
    """The JSON Schema of project.json inside a .fondale file."""
    out_json(Project.model_json_schema())
    return 0


COMMANDS = (check, scale, light, circuit, plan, papers, scene, floor, schema)
