"""Commands of the Bench and the Brief: bodies, bits, fits and photographs."""

import dataclasses
from pathlib import Path

import click

from fondale.cli.inout import FILE, out_json, write_file
from fondale.cli.opening import opened
from fondale.core.bits.asking import parse_need
from fondale.core.bits.search import pack, rank
from fondale.core.fits.air import air_of
from fondale.core.fits.magnets import magnet_of
from fondale.core.lengths import FILE_UNITS, parse_length
from fondale.core.model import Fit, Need, Project
from fondale.core.photo.reading import read_photo
from fondale.core.prints.body import measure, scaled
from fondale.core.prints.cutting import KeyRule, cut, plan_cuts
from fondale.core.prints.jobs import PrintJob, fits_build, job_of, room_of
from fondale.core.prints.slivers import clear_of_slivers, cleared_words, part_box
from fondale.core.scale.placing import factor_for_height
from fondale.core.troubles import Trouble
from fondale.core.words import digits, show_mm, show_scale
from fondale.knowledge import table as rows_of
from fondale.storage.bits_csv import read_table
from fondale.storage.meshes import ENDINGS, in_mm, mend, read_mesh, reading, write_mesh

PRINTERS = [k for k, r in rows_of("machines")["machine"].items() if "build" in r]


@click.command()
@click.argument("file", type=FILE)
@click.option("--unit", type=click.Choice(list(FILE_UNITS)), help="What one number of the file is, where the format states none.")
@click.option("--percent", type=click.FloatRange(0.01, 100_000), default=100.0, show_default=True, help="Scale by this factor.")
@click.option("--height", help="Scale to this height instead, for example 37 mm.")
@click.option("--machine", type=click.Choice(PRINTERS), help="Cut it so that each part goes on this machine.")
@click.option("--no-keys", is_flag=True, help="Cut it flat, without keys.")
@click.option("--out", type=FILE, help="Folder for the parts, in millimetres.")
@click.option("--format", "ending", type=click.Choice([e[1:] for e in ENDINGS]), default="stl", show_default=True, help="Their format.")
@click.option("--json", "as_json", is_flag=True, help="Machine-readable output.")
def mesh(file: Path, unit: str | None, percent: float, height: str | None, machine: str | None, no_keys: bool, out: Path | None, ending: str, as_json: bool) -> int:  # fmt: skip
    """Measure a body, bring it to size, cut it with keys, and write its parts."""
    with reading(file):
        loaded = read_mesh(file)
        chosen = loaded.unit or unit
        if not chosen:
            raise Trouble(f"{file.name} states no unit. Say what one of its numbers is: --unit {', '.join(FILE_UNITS)}.")
        mended = mend(in_mm(loaded.body, chosen))
    facts = mended.facts
    if height:
        percent = factor_for_height(facts.size[2], parse_length(height))
    body = scaled(mended.body, (percent / 100,) * 3)
    bodies, keys, error, aside = [body], 0, 0.0, ""
    if machine:
        row = rows_of("machines")["machine"][machine]
        size = measure(body).size
        room = room_of(row)
        planned = tuple((axis, share * size["xyz".index(axis)]) for axis, share in plan_cuts(size, room, keyed=not no_keys))
        if planned:
            cleared = clear_of_slivers(body, planned, lambda p: fits_build(part_box(p, size, not no_keys), room))
            aside = cleared_words(planned, cleared)
            made = cut(body, cleared.planes, None if no_keys else KeyRule(row["min_wall"], row["key_air"]))
            bodies, keys, error = list(made.bodies), len(made.keys), made.error
    sizes = [measure(b) for b in bodies]
    names = (
        [f"{file.stem}.{ending}"] if len(bodies) == 1 else [f"{file.stem}-{k}-of-{len(bodies)}.{ending}" for k in range(1, len(bodies) + 1)]
    )
    if out:
        for name, part in zip(names, bodies, strict=True):
            write_file(out / name, write_mesh(part, f".{ending}"))
    if as_json:
        out_json({
            "unit": chosen, "percent": percent, "size_mm": list(facts.size), "volume_mm3": facts.volume, "area_mm2": facts.area,
            "triangles": facts.triangles, "bodies": facts.bodies, "watertight": facts.watertight, "repairs": list(mended.repairs),
            "keys": keys, "error": error, "aside": aside,
            "parts": [{"file": n, "size_mm": list(p.size), "volume_mm3": p.volume} for n, p in zip(names, sizes, strict=True)],
        })  # fmt: skip
        return 0
    closed = "closed" if facts.watertight else "not closed"
    click.echo(f"{' × '.join(show_mm(s) for s in facts.size)} at 100 %, {digits(facts.volume / 1000, 2)} ml, {closed}")
    for repair in mended.repairs:
        click.echo(f"  {repair}")
    for name, found in zip(names, sizes, strict=True):
        click.echo(f"{name}: {' × '.join(show_mm(s) for s in found.size)} at {digits(percent, 1)} %, {digits(found.volume / 1000, 2)} ml")
    if keys:
        click.echo(f"{keys} keys")
    if aside:
        click.echo(aside)
    return 0


@click.command()
@click.argument("file", type=FILE)
@click.argument("need")
@click.option("--most", type=click.IntRange(1, 500), default=10, show_default=True)
@click.option("--json", "as_json", is_flag=True, help="Machine-readable output.")
def bits(file: Path, need: str, most: int, as_json: bool) -> int:
    """Which bits of FILE (a project, or a CSV table) come near NEED: "drum, 300 mm across, 420 long, at 1:35"."""
    try:
        if file.suffix.lower() == ".fondale":
            project = opened(file)
            box, house = project.bits, project.brief.house_n
        else:
            table = read_table(file)
            box, house = table.bits, 35.0
            if not box and table.troubles:
                raise Trouble(f"No row of {file.name} could be read. {table.troubles[0]}")
            for trouble in table.troubles[:5]:
                click.echo(f"{file.name}: {trouble}", err=True)
            if len(table.troubles) > 5:
                click.echo(f"{file.name}: and {len(table.troubles) - 5} more lines were left out.", err=True)
        asked = parse_need(need, house)
    except OSError as error:
        raise Trouble(f"{file.name} cannot be read: {error.strerror or error}.") from error
    wanted = Need(id="asked", name=asked.name, outline=asked.outline, real=asked.real)
    found = rank(pack(box), wanted, asked.n or house, most)
    names = {b.id: b for b in box}
    if as_json:
        out_json({
            "name": asked.name, "outline": asked.outline, "real_mm": list(asked.real), "n": asked.n or house,
            "bits": [{"id": m.bit, "name": names[m.bit].name, "score": m.score, "off": list(m.off), "verdict": m.verdict, "trim": m.trim} for m in found],
        })  # fmt: skip
        return 0
    click.echo(f"{asked.name}, {asked.outline}, at {show_scale(asked.n or house)}")
    for m in found:
        drawer = f"  drawer {names[m.bit].drawer}" if names[m.bit].drawer else ""
        click.echo(f"  {m.verdict:9} {names[m.bit].name}: {m.trim}{drawer}")
    return 0


@click.command()
@click.argument("file", type=FILE)
@click.option("--json", "as_json", is_flag=True, help="Machine-readable output.")
def fits(file: Path, as_json: bool) -> int:
    """The air left in every fit after paint. Exit 1 when one of them will not go in."""
    project = opened(file)
    jobs = {f.id: job_of(project, f) for f in project.prints}
    found = [(f, air_of(f, project.brief.rules.tolerance, project)) for f in project.fits]
    if as_json:
        out_json(
            {
                "fits": [
                    {
                        "id": f.id,
                        "name": f.name,
                        **{k: v for k, v in dataclasses.asdict(a).items() if k != "formula"},
                        **_pull(f, project, jobs),
                    }
                    for f, a in found
                ]
            }
        )
    else:
        for f, a in found:
            click.echo(f"{a.verdict:15} {f.name}: {digits(a.painted, 2)} mm a side after paint{'; ' + a.ways[0] if a.ways else ''}")
            if (pull := magnet_of(f, project, jobs)) is not None:
                click.echo(f"{'':15} {pull.words}")
    return int(any(a.verdict == "will not go in" for _f, a in found))


def _pull(fit: Fit, project: Project, jobs: dict[str, PrintJob]) -> dict[str, object]:
    """What a magnet does, for the machine; nothing for other fits."""
    pull = magnet_of(fit, project, jobs)
    return {"pull": {k: v for k, v in dataclasses.asdict(pull).items() if k != "formula"}} if pull is not None else {}


@click.command()
@click.argument("file", type=FILE)
@click.option("--json", "as_json", is_flag=True, help="Machine-readable output.")
def photo(file: Path, as_json: bool) -> int:
    """Every thread of the reference photographs as a real length, with what it is at the house scale."""
    project = opened(file)
    house = project.brief.house_n
    found = {p.id: (p, read_photo(p)) for p in project.photos}
    if as_json:
        out_json({"photos": [
            {"id": p.id, "name": p.name, "threads": [
                {"id": t.id, "name": t.name, "on": t.on, "known": t.known_mm is not None, "real_mm": r[t.id].real_mm, "sigma_mm": r[t.id].give_mm,
                 "model_mm": _at_scale(r[t.id].real_mm, house), "trouble": r[t.id].trouble} for t in p.threads]}
            for p, r in found.values()]})  # fmt: skip
        return 0
    for p, readings in found.values():
        click.echo(p.name)
        for t in p.threads:
            click.echo(f"  {t.name}: {readings[t.id].words(house)}")
    return 0


def _at_scale(real_mm: float | None, house_n: float) -> float | None:
    return real_mm / house_n if real_mm else None


COMMANDS = (mesh, bits, fits, photo)
