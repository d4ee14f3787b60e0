"""New projects and new things in them."""

from collections.abc import Callable
from datetime import date

from fondale.core.coats.kinds import AGEING, BUILT, BY_HAND
from fondale.core.edits.edit import Edit, put
from fondale.core.edits.ids import new_id, numbered
from fondale.core.model import Brief, Lamp, Meter, Moment, Piece, Place, Project, Seat, Step, String, Supply, Surface
from fondale.core.model.shapes import Animal, Box, Cylinder, Figure, Hull, Opening, Room, Shape, Stairs, Wall, Wheel
from fondale.core.words import as_name


def new_project(name: str, start: date) -> Project:
    """An empty project: a case, one seat, one moment."""
    return Project(
        id=new_id(name, ()),
        name=name,
        brief=Brief(start=start),
        seats=(Seat(id="visitor", name="Visitor, standing"),),
        moments=(Moment(id="evening", name="Evening"),),
        moment="evening",
    )


PIECE_KINDS: dict[str, tuple[str, Callable[[], Shape], str]] = {
    "figure": ("Figure", Figure, "piece"),
    "animal": ("Animal", Animal, "piece"),
    "wheel": ("Wheel", lambda: Wheel(diameter=30), "piece"),
    "post": ("Post or drum", lambda: Cylinder(diameter=6, length=40), "piece"),
    "block": ("Block", lambda: Box(width=60, depth=40, height=20), "scenery"),
    "wall": ("Wall with an opening", lambda: Wall(length=120, height=90, openings=(Opening(x=40, width=24, height=58),)), "scenery"),
    "room": ("Room with a window", lambda: Room(width=70, depth=50, height=80, openings=(Opening(x=20, z=30, width=30, height=28),)), "scenery"),
    "stairs": ("Stairs", lambda: Stairs(width=60, depth=50, height=30), "scenery"),
    "boat": ("Boat", lambda: Hull(length=110, beam=36, depth=18), "scenery"),
}  # fmt: skip


def add_piece(project: Project, kind: str, placed: bool = True) -> tuple[Edit, str]:
    """The edit that adds a new piece of a kind in the middle of the case, or on the bench only, and the piece's id."""
    words, shape, role = PIECE_KINDS[kind]
    ident, name = new_id(words, (p.id for p in project.pieces)), numbered(words, (p.name for p in project.pieces))
    place = Place(x=project.case.width / 2, y=project.case.depth / 2) if placed else None
    piece = Piece(id=ident, name=name, shape=shape(), role="scenery" if role == "scenery" else "piece", place=place)
    return Edit("add", f"Add {name.lower()}", {"field": "pieces", "thing": piece}), ident


def _numbered(project: Project, field: str, stem: str) -> tuple[str, str]:
    taken = [m.id for m in getattr(project, field)]
    ident = new_id(stem, taken)
    return ident, stem if stem.lower() not in taken else f"{stem} {len(taken) + 1}"


def add_lamp(project: Project) -> tuple[Edit, str]:
    """A warm white LED under the ceiling, looking down."""
    ident, name = _numbered(project, "lamps", "Lamp")
    case = project.case
    lamp = Lamp(id=ident, name=name, x=case.width / 2, y=case.depth / 2, z=case.height - 3)
    return Edit("add", f"Add {name.lower()}", {"field": "lamps", "thing": lamp}), ident


def add_supply(project: Project, kind: str) -> tuple[Edit, str]:
    """A USB plug, or two AA cells."""
    ident, name = _numbered(project, "supplies", "Plug 5 V" if kind == "plug" else "Two AA cells")
    row = "usb_5v_1a" if kind == "plug" else "aa"
    supply = Supply(id=ident, name=name, kind="plug" if kind == "plug" else "cells", row=row, count=1 if kind == "plug" else 2)
    return Edit("add", f"Add {name}", {"field": "supplies", "thing": supply}), ident


def wire_lamp(project: Project, lamp: str, string: str) -> tuple[Edit, ...]:
    """Take a lamp out of its string and hang it on another (empty text: none)."""
    name = project.find("lamps", lamp).name
    edits = []
    for s in project.strings:
        if lamp in s.lamps and s.id != string:
            edits.append(put(("strings", s.id, "lamps"), tuple(x for x in s.lamps if x != lamp), f"Rewire {name}"))
        if s.id == string and lamp not in s.lamps:
            edits.append(put(("strings", s.id, "lamps"), (*s.lamps, lamp), f"Wire {name}"))
    return tuple(edits)


def add_string(project: Project, supply: str, lamps: tuple[str, ...] = ()) -> tuple[Edit, str]:
    """An empty string on a supply, or one with these lamps."""
    ident, name = _numbered(project, "strings", "String")
    string = String(id=ident, name=name, supply=supply, lamps=lamps, resistor_ohm=150)
    return Edit("add", f"Add {name.lower()}", {"field": "strings", "thing": string}), ident


def add_meter(project: Project) -> tuple[Edit, str]:
    """A lux meter on the floor, looking up."""
    ident, name = _numbered(project, "meters", "Meter")
    meter = Meter(id=ident, name=name, x=project.case.width / 2, y=project.case.depth / 2, z=1.0)
    return Edit("add", f"Add {name.lower()}", {"field": "meters", "thing": meter}), ident


def add_moment(project: Project) -> tuple[Edit, str]:
    """A moment with the lamps' levels as they are."""
    ident, name = _numbered(project, "moments", "Moment")
    moment = Moment(id=ident, name=name, levels={m.id: m.level for m in project.lamps})
    return Edit("add", f"Add {name.lower()}", {"field": "moments", "thing": moment}), ident


def add_seat(project: Project) -> tuple[Edit, str]:
    """A standing visitor."""
    ident, name = _numbered(project, "seats", "Seat")
    return Edit("add", f"Add {name.lower()}", {"field": "seats", "thing": Seat(id=ident, name=name)}), ident


def add_surface(project: Project, name: str, piece: str = "") -> tuple[Edit, str]:
    """A surface that will get coats."""
    ident = new_id(name, (s.id for s in project.surfaces))
    surface = Surface(id=ident, name=as_name(name), piece=piece)
    return Edit("add", f"Add {name}", {"field": "surfaces", "thing": surface}), ident


def add_step(project: Project, name: str, surfaces: tuple[str, ...] = (), coat: str = "") -> tuple[Edit, str]:
    """A step at the end of the order; what may be sprayed or brushed follows the house rule."""
    ident = new_id(name, (s.id for s in project.steps))
    work, tool = usual_for(project, coat)
    step = Step(id=ident, name=as_name(name), surfaces=surfaces, coat=coat, work=work, tool=tool)  # type: ignore[arg-type]
    return Edit("add", f"Add “{name}”", {"field": "steps", "thing": step}), ident


def usual_for(project: Project, coat: str) -> tuple[str, str]:
    """Kind of work and tool that a coat usually means: sprayed or brushed as the house does."""
    if not coat:
        return "build", "hand"
    work = "build" if coat in BUILT else "weather" if coat in AGEING else "paint"
    return work, "airbrush" if project.brief.rules.paint == "spray" and coat not in BY_HAND else "brush"


def set_coat(project: Project, step: Step, coat: str) -> tuple[Edit, ...]:
    """Another coat for a step; kind of work and tool follow where they were the usual ones for the old coat."""
    label = f"Coat: {step.name}"
    edits = [put(("steps", step.id, "coat"), coat, label)]
    for key, was, now in zip(("work", "tool"), usual_for(project, step.coat), usual_for(project, coat), strict=True):
        if getattr(step, key) == was != now:
            edits.append(put(("steps", step.id, key), now, label))
    return tuple(edits)
