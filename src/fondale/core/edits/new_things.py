# SPDX-License-Identifier: MIT
"""New projects and new things in them."""

from datetime import date
from typing import Any

from fondale.core.coat_kinds import Proposal, proposal_of, usual
from fondale.core.edits.edit import Add, EditError, Put, maker, put
from fondale.core.edits.ids import named_anew, new_id
from fondale.core.edits.places import free_place
from fondale.core.limits import LARGEST_MM
from fondale.core.model import PIECES, ROOMS, SEATS, STEPS, SURFACES, Brief, CaseRoom, Moment, Piece, Project, Seat, Sling, Step, Surface
from fondale.core.model.coats import Work
from fondale.core.model.shapes import BodyPart
from fondale.core.scale.pieces import life_mm
from fondale.core.shapes import ShapeKind
from fondale.core.stage.cases import board_mm, cell_of, cells
from fondale.core.stage.clearance import footprint
from fondale.core.stage.scene import rest_places
from fondale.core.stage.together import over
from fondale.core.words import as_name, words_in


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


@maker
def add_piece(project: Project, kind: ShapeKind[Any], placed: bool = True, room: str = "") -> tuple[Add[Piece], str]:
    """The edit that adds a new piece of a kind in the middle of a room of the case, or on the bench only, and the piece's id.

    What is added on the bench is a piece that lies on the shelf; in the case, kinds of scenery are scenery.
    """
    ident, name = named_anew(project.pieces, kind.words)
    shape = kind.at(project.brief.house_n)
    shown = min(LARGEST_MM, round(life_mm(shape) / project.brief.house_n, 1))
    piece = Piece(id=ident, name=name, shape=shape, role="scenery" if placed and kind.scenery else "piece", shown_mm=shown)
    if placed:
        piece = piece.but(place=free_place(project, piece, room))
    return Add(f"Add {name.lower()}", PIECES, piece), ident


@maker
def add_room(project: Project) -> tuple[Add[CaseRoom], str]:
    """The edit that puts one more room upon the highest, as large as that, and its id; the first is put upon the case's own."""
    ident, name = named_anew(project.case.rooms, "Upper room")
    below = max(cells(project.case), key=lambda c: float(c.high[2]))
    (w, d, h), (x, y, _z) = below.size.tolist(), below.low.tolist()
    paints = {k: getattr(below.hollow, k) for k in ("floor_paint", "wall_paint", "left_paint", "right_paint", "ceiling_paint")}
    front = below.sides["front"]
    top = float(below.high[2]) + board_mm(project.case.boards)
    room = CaseRoom(id=ident, name=name, x=x, y=y, z=top, width=w, depth=d, height=h, front=front, **paints)
    return Add(f"Add {name.lower()}", ROOMS, room), ident


@maker
def hung(project: Project, piece: Piece) -> tuple[Put[Any], ...]:
    """The edits that hang a piece on one more line: to its top from what is over it, another piece or the ceiling. What stood so far hangs
    from now on where it is.
    """
    if piece.place is None:
        raise EditError("Put it on the stage first.")
    place = rest_places(project)[piece.id]
    cell, high = cell_of(project.case, place.room), footprint(piece, place)[2]
    on, up = over(project, piece.id, place.x, place.y, high) or ("", max(float(cell.high[2]), high + 10.0))
    sling = Sling(x=place.x, y=place.y, z=round(up, 2), at_z=round(high - (place.z or 0.0), 2), on=on)
    label, at = f"Hang {piece.name}", PIECES.at(piece.id)
    return put(at.then(lambda p: p.slings), (*piece.slings, sling), label), put(at.then(lambda p: p.place), place, label)


SEAT_KINDS: dict[str, dict[str, Any]] = {
    "visitor, standing": {},
    "visitor, sitting": {"sitting": True, "distance": 600.0},
    "child of 6": {"stature_mm": 1160.0, "distance": 500.0},
    "wheelchair user": {"sitting": True, "chair": 480.0},
    "queue along the front": {"range": 2000.0, "rise": 400.0, "stature_mm": 1550.0},
    "camera": {"eyes_mm": 1400.0, "lens_mm": 50.0, "range": 0.0, "distance": 600.0},
}


@maker
def add_seat(project: Project, kind: str = "visitor, standing") -> tuple[Add[Seat], str]:
    """A seat of one of the kinds. Sizes are common practice, no source; a child of 6 is 1.16 m tall (a growth chart, from memory)."""
    stem = "Seat" if kind == "visitor, standing" else kind[0].upper() + kind[1:]
    ident, name = named_anew(project.seats, stem)
    return Add(f"Add {name.lower()}", SEATS, Seat(id=ident, name=name, **SEAT_KINDS[kind])), ident


@maker
def add_surface(project: Project, name: str, piece: str = "") -> tuple[Add[Surface], str]:
    """A surface that will get coats."""
    ident = new_id(name, (s.id for s in project.surfaces))
    surface = Surface(id=ident, name=as_name(name), piece=piece)
    return Add(f"Add {name}", SURFACES, surface), ident


@maker
def surfaces_of_parts(project: Project, piece: Piece, areas: dict[BodyPart, float]) -> tuple[Add[Surface], ...]:
    """A surface for each part of a figure that has none yet; ``areas`` in mm² tell which parts it has."""
    there = {s.part for s in project.surfaces if s.piece == piece.id}
    taken = [s.id for s in project.surfaces]
    out = []
    for part, mm2 in areas.items():
        if part not in there:
            taken.append(new_id(f"{piece.name} {part}", taken))
            face = Surface(
                id=taken[-1], name=as_name(f"{piece.name}, {part}"), piece=piece.id, area_cm2=min(1e6, round(mm2 / 100, 2)), part=part
            )
            out.append(Add(f"Parts of {piece.name}", SURFACES, face))
    return tuple(out)


@maker
def add_step(project: Project, name: str, surfaces: tuple[str, ...] = (), coat: str = "") -> tuple[Add[Step], str]:
    """A step at the end of the order. What it is called says its coat, work and tool, where no coat is given; what may be sprayed or brushed
    follows the house rule.
    """
    ident = new_id(name, (s.id for s in project.steps))
    meant = None if coat else _meant(project, name)
    work, tool = usual_for(project, coat)
    if meant is not None:
        coat, work, tool = meant.coat, meant.work, meant.tool
    step = Step(id=ident, name=as_name(name), surfaces=surfaces, coat=coat, work=work, tool=tool)
    return Add(f"Add “{name}”", STEPS, step), ident


def surfaces_named(project: Project, name: str) -> tuple[str, ...]:
    """The surfaces that a step of this name is about: those whose name, or whose piece's name, stands in it; the only one there is."""
    said = words_in(name)
    pieces = {p.id for p in project.pieces if words_in(p.name) and words_in(p.name) <= said}
    named = tuple(s.id for s in project.surfaces if (words_in(s.name) and words_in(s.name) <= said) or s.piece in pieces)
    return named or (tuple(s.id for s in project.surfaces) if len(project.surfaces) == 1 else ())


def _meant(project: Project, name: str) -> Proposal | None:
    return proposal_of(name, project.brief.rules.paint == "spray")


@maker
def rename_step(project: Project, step: Step, name: str) -> tuple[Put[Any], ...]:
    """Another name for a step; coat, work and tool follow where they are still those that the old name proposed."""
    label, spot = "Rename step", STEPS.at(step.id)
    edits: list[Put[Any]] = [put(spot.then(lambda s: s.name), name, label)]
    old, new = _meant(project, step.name), _meant(project, name)
    was = (old.coat, old.work, old.tool) if old is not None else ("", *usual_for(project, ""))
    if new is not None and not step.done and not step.duty and (step.coat, step.work, step.tool) == was:
        edits.append(put(spot, step.but(name=name, coat=new.coat, work=new.work, tool=new.tool), label))
    return tuple(edits)


def usual_for(project: Project, coat: str) -> tuple[Work, str]:
    """Kind of work and tool that a coat usually means: sprayed or brushed as the house does."""
    return usual(coat, project.brief.rules.paint == "spray")


@maker
def set_coat(project: Project, step: Step, coat: str) -> tuple[Put[Any], ...]:
    """Another coat for a step; kind of work and tool follow where they were the usual ones for the old coat."""
    label, spot = f"Coat: {step.name}", STEPS.at(step.id)
    edits: list[Put[Any]] = [put(spot.then(lambda s: s.coat), coat, label)]
    (was_work, was_tool), (work, tool) = usual_for(project, step.coat), usual_for(project, coat)
    if step.work == was_work != work:
        edits.append(put(spot.then(lambda s: s.work), work, label))
    if step.tool == was_tool != tool:
        edits.append(put(spot.then(lambda s: s.tool), tool, label))
    return tuple(edits)
