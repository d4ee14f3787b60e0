# SPDX-License-Identifier: MIT
"""Commands of the Bench and the Brief: bodies, bits, fits and photographs."""

import dataclasses
from pathlib import Path
from typing import TYPE_CHECKING

import click

from fondale.cli.inout import FILE, STANDARD, Given, OneOf, Watch, Work, as_json, clash, force, idle, opened

if TYPE_CHECKING:
    from fondale.cli.json_shapes import MeshShape
    from fondale.core.model import Bit
    from fondale.core.prints.body import Body


def _units() -> list[str]:
    from fondale.core.lengths import FILE_UNITS

    return list(FILE_UNITS)


def _formats() -> list[str]:
    from fondale.storage.meshes import ENDINGS

    return [e[1:] for e in ENDINGS]


def _printers() -> list[str]:
    from fondale.knowledge import table

    return [k for k, r in table("machines")["machine"].items() if "build" in r]


@click.command(cls=Work)
@click.argument("file", type=FILE)
@click.option("--unit", type=OneOf("unit", _units), help="What one number of the file is, where the format states none.")
@click.option("--percent", type=click.FloatRange(0.01, 100_000), help="Scale by this factor.")
@click.option("--height", help="Scale to this height instead, for example 37 mm.")
@click.option("--machine", type=OneOf("machine", _printers), help="Cut it so that each part goes on this machine.")
@click.option("--no-keys", is_flag=True, help="Cut it flat, without keys.")
@click.option("--out", type=FILE, help="Folder for the parts, in millimetres.")
@click.option("--format", "kind", type=OneOf("format", _formats), help="Their format; stl if left out.")
@as_json
@force
@click.pass_obj
def mesh(obj: Given, file: Path, unit: str | None, percent: float | None, height: str | None, machine: str | None, no_keys: bool, out: Path | None, kind: str | None, as_json: bool, force: bool) -> int:  # fmt: skip
    """Measure a body, bring it to size, cut it with keys, and write its parts."""
    if percent is not None and height:
        raise clash("--percent", "--height")
    if no_keys and machine is None:
        raise idle("--no-keys", "--machine")
    for option, value in (("--format", kind), ("--force", force)):
        if value and out is None:
            raise idle(option, "--out")
    from fondale.core.lengths import parse_length
    from fondale.core.prints.body import measure, scaled
    from fondale.core.scale.placing import factor_for_height
    from fondale.core.troubles import Trouble
    from fondale.core.words import digits, show_mm
    from fondale.storage.meshes import ending_of, in_mm, mend, read_mesh, reading, write_mesh

    ending = kind or "stl"
    source = obj.source(file, ending_of)
    with Watch("reading") as watch:
        with reading(source):
            loaded = read_mesh(source)
            chosen = loaded.unit or unit
            if not chosen:
                raise Trouble(f"{source.name} states no unit. Say what one of its numbers is: --unit {', '.join(_units())}.")
            mended = mend(in_mm(loaded.body, chosen))
        facts = mended.facts
        share = factor_for_height(facts.size[2], parse_length(height)) if height else percent or 100.0
        watch.step(0.3, "cutting" if machine else "bringing it to size")
        made = _parts(scaled(mended.body, (share / 100,) * 3), machine, not no_keys)
        sizes = [measure(b) for b in made.bodies]
    count = len(made.bodies)
    names = [f"{source.stem}.{ending}"] if count == 1 else [f"{source.stem}-{k}-of-{count}.{ending}" for k in range(1, count + 1)]
    if out == STANDARD:
        if count > 1:
            raise Trouble(f"It is cut into {count} parts, and standard output takes one: name a folder.")
        places = [STANDARD]
    else:
        places = [out / name for name in names] if out else []
    obj.will_write(places, force, as_json)
    for place, part in zip(places, made.bodies, strict=False):
        obj.write(place, write_mesh(part, f".{ending}"))
    if as_json:
        shape: MeshShape = {
            "unit": chosen, "percent": share, "size_mm": list(facts.size), "volume_mm3": facts.volume, "area_mm2": facts.area,
            "triangles": facts.triangles, "bodies": facts.bodies, "watertight": facts.watertight, "repairs": list(mended.repairs),
            "keys": made.keys, "error": made.error, "aside": made.aside,
            "parts": [{"file": n, "size_mm": list(p.size), "volume_mm3": p.volume} for n, p in zip(names, sizes, strict=True)],
        }  # fmt: skip
        obj.tell(shape)
        return 0
    closed = "closed" if facts.watertight else "not closed"
    obj.say(f"{' × '.join(show_mm(s) for s in facts.size)} at 100 %, {digits(facts.volume / 1000, 2)} ml, {closed}")
    for repair in mended.repairs:
        obj.say(f"  {repair}")
    for name, found in zip(names, sizes, strict=True):
        obj.say(f"{name}: {' × '.join(show_mm(s) for s in found.size)} at {digits(share, 1)} %, {digits(found.volume / 1000, 2)} ml")
    if made.keys:
        obj.say(f"{made.keys} keys")
    if made.aside:
        obj.say(made.aside)
    return 0


@dataclasses.dataclass(frozen=True)
class _Made:
    """The parts of a body that was cut: ``error`` is the share of its volume that cutting lost, ``aside`` which cuts went aside."""

    bodies: "list[Body]"
    keys: int = 0
    error: float = 0.0
    aside: str = ""


def _parts(body: "Body", machine: str | None, keyed: bool) -> _Made:
    """The body in parts that go on a machine; whole without one."""
    from fondale.core.prints.body import measure
    from fondale.core.prints.cutting import KeyRule, cut, plan_cuts
    from fondale.core.prints.jobs import fits_build, room_of
    from fondale.core.prints.slivers import clear_of_slivers, cleared_words, part_box
    from fondale.knowledge import table

    if machine is None:
        return _Made([body])
    row = table("machines")["machine"][machine]
    size, room = measure(body).size, room_of(row)
    planned = tuple((axis, share * size["xyz".index(axis)]) for axis, share in plan_cuts(size, room, keyed=keyed))
    if not planned:
        return _Made([body])
    cleared = clear_of_slivers(body, planned, lambda p: fits_build(part_box(p, size, keyed), room))
    made = cut(body, cleared.planes, KeyRule(row["min_wall"], row["key_air"]) if keyed else None)
    return _Made(list(made.bodies), len(made.keys), made.error, cleared_words(planned, cleared))


def _box(data: bytes) -> str:
    return ".fondale" if data.startswith(b"PK") else ".csv"


@click.command(cls=Work)
@click.argument("file", type=FILE)
@click.argument("need")
@click.option("--most", type=click.IntRange(1, 500), default=10, show_default=True)
@as_json
@click.pass_obj
def bits(obj: Given, file: Path, need: str, most: int, as_json: bool) -> int:
    """Which bits of FILE (a project, or a CSV table) come near NEED: "drum, 300 mm across, 420 long, at 1:35"."""
    from fondale.core.bits.asking import parse_need
    from fondale.core.bits.search import pack, rank
    from fondale.core.model import Need
    from fondale.core.words import show_scale

    with Watch("looking through the box") as watch:
        box, house = _bits_of(obj, file)
        asked = parse_need(need, house)
        watch.step(0.5, "")
        wanted = Need(id="asked", name=asked.name, outline=asked.outline, real=asked.real)
        found = rank(pack(box), wanted, asked.n or house, most)
    names = {b.id: b for b in box}
    if as_json:
        from fondale.cli.json_shapes import bits as shaped

        obj.tell(shaped(asked, asked.n or house, found, names))
        return 0
    obj.say(f"{asked.name}, {asked.outline}, at {show_scale(asked.n or house)}")
    for m in found:
        drawer = f"  drawer {names[m.bit].drawer}" if names[m.bit].drawer else ""
        obj.say(f"  {m.verdict:9} {names[m.bit].name}: {m.trim}{drawer}")
    if not box:
        obj.say("  The box is empty.")
    return 0


def _bits_of(obj: Given, file: Path) -> "tuple[tuple[Bit, ...], float]":
    """The bits of a project or of a table, and the house scale."""
    from fondale.core.troubles import Trouble
    from fondale.storage.bits_csv import read_table

    source = obj.source(file, _box)
    if source.suffix.lower() == ".fondale":
        project = opened(source)
        return project.bits, project.brief.house_n
    table = read_table(source)
    if not table.bits and table.troubles:
        raise Trouble(f"No row of {source.name} could be read. {table.troubles[0]}")
    for trouble in table.troubles[:5]:
        click.echo(f"{source.name}: {trouble}", err=True)
    if len(table.troubles) > 5:
        click.echo(f"{source.name}: and {len(table.troubles) - 5} more lines were left out.", err=True)
    return table.bits, 35.0


@click.command(cls=Work)
@click.argument("file", type=FILE)
@as_json
@click.pass_obj
def fits(obj: Given, file: Path, as_json: bool) -> int:
    """The air left in every fit after paint. Exit 1 when one of them will not go in."""
    from fondale.core.fits.air import air_of
    from fondale.core.fits.magnets import magnet_of
    from fondale.core.prints.jobs import job_of
    from fondale.core.words import digits

    project = obj.project(file)
    jobs = {f.id: job_of(project, f) for f in project.prints}
    found = [(f, air_of(f, project.brief.rules.tolerance, project), magnet_of(f, project, jobs)) for f in project.fits]
    if as_json:
        from fondale.cli.json_shapes import fits as shaped

        obj.tell(shaped(found))
    else:
        for f, a, pull in found:
            obj.say(f"{a.verdict:15} {f.name}: {digits(a.painted, 2)} mm a side after paint{'; ' + a.ways[0] if a.ways else ''}")
            if pull is not None:
                obj.say(f"{'':15} {pull.words}")
        if not found:
            obj.say("There are no fits.")
    return int(any(a.verdict == "will not go in" for _f, a, _pull in found))


@click.command(cls=Work)
@click.argument("file", type=FILE)
@as_json
@click.pass_obj
def photo(obj: Given, file: Path, as_json: bool) -> int:
    """Every thread of the reference photographs as a real length, with what it is at the house scale."""
    from fondale.core.photo.reading import read_photo

    project = obj.project(file)
    house = project.brief.house_n
    found = {p.id: (p, read_photo(p)) for p in project.photos}
    if as_json:
        from fondale.cli.json_shapes import photos as shaped

        obj.tell(shaped(found.values(), house))
        return 0
    for p, readings in found.values():
        obj.say(p.name)
        for t in p.threads:
            obj.say(f"  {t.name}: {readings[t.id].words(house)}")
        if not p.threads:
            obj.say("  No thread is stretched over it.")
    if not found:
        obj.say("There are no photographs.")
    return 0


COMMANDS = (mesh, bits, fits, photo)
