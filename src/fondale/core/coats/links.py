# SPDX-License-Identifier: MIT
"""What each step works on, and what must come before it: the one chain from part to finished piece."""

from collections.abc import Iterable, Mapping, Sequence, Set
from dataclasses import dataclass
from math import cos, radians, sin

from fondale.core.coat_kinds import is_coating, is_glue, is_varnish, says_nothing
from fondale.core.coats.drying import wait_h
from fondale.core.model import JOINS, STRINGS, Brief, Piece, Project, Step
from fondale.core.model.shapes import Hull, Mesh
from fondale.core.shapes import kind_of
from fondale.core.stage.scene import rest_places

Thing = tuple[str, str]  # the list that it stands in, and its id
ORDERED = ("at once", "within", "not before")  # ties that come after the step they name


@dataclass(frozen=True)
class Chain:
    """For each step by id: the things that it works on and those that it shuts in, the steps that come before it wherever they are listed,
    and ties that say so.
    """

    things: Mapping[str, frozenset[Thing]]
    shuts: Mapping[str, frozenset[Thing]]
    first: Mapping[str, frozenset[str]]
    tied: Mapping[str, frozenset[str]]


def _named(step: Step) -> set[Thing]:
    """What a step itself says that it works on."""
    lists = {
        "surfaces": step.surfaces, "pieces": step.pieces, "joins": step.joints, "fits": step.fits,
        "lamps": (*step.wires, *step.tests), "strings": step.strings,
    }  # fmt: skip
    return {(name, ident) for name, ids in lists.items() for ident in ids}


def chain_of(project: Project) -> Chain:
    """The chain of a project. A piece stands for its faces and for the pieces put on it; a string for its lamps.

    Wherever they are listed, these come first: what makes the part that is worked on (print, clean, cure; joining too where the house
    joins before it paints), the wiring of what is tested or wired up, and what a step is said to come after.
    """
    file_of = {p.id: p.shape.file for p in project.pieces if isinstance(p.shape, Mesh) and p.shape.file}
    lead = {f.id: project.lead_of(f).id for f in project.prints}
    piece_of = {s.id: s.piece for s in project.surfaces if s.piece}
    seat_of = {m.id: m.piece for m in project.lamps if m.piece}
    on_top: dict[str, list[str]] = {}
    for p in project.pieces:
        on_top.setdefault(p.part_of, []).append(p.id)
    whole = project.brief.rules.order == "whole"
    joints = {s.id: _pieces_joined(project, s) for s in project.steps if s.joints}
    things: dict[str, frozenset[Thing]] = {}
    pieces: dict[str, set[str]] = {}
    for step in project.steps:
        mine = _named(step)
        strung = {lamp for i in step.strings if (string := project.find(STRINGS, i)) is not None for lamp in string.lamps}
        mine |= {("lamps", lamp) for lamp in strung}
        bodies = _with_parts({*step.pieces, *joints.get(step.id, ())}, on_top)
        mine |= {("pieces", b) for b in bodies} | {("surfaces", s) for s, p in piece_of.items() if p in bodies}
        things[step.id] = frozenset(mine)
        seats = {seat_of[i] for i in (*step.wires, *strung) if i in seat_of}
        pieces[step.id] = _with_parts({*bodies, *seats, *(piece_of[s] for s in step.surfaces if s in piece_of)}, on_top)
    first: dict[str, frozenset[str]] = {}
    wiring = [(s.id, {i for kind, i in things[s.id] if kind == "lamps"} - set(s.tests)) for s in project.steps if s.work != "test"]
    for step in project.steps:
        files = {made for p in pieces[step.id] if p in file_of for made in (file_of[p], lead.get(file_of[p], ""))}
        if step.file:
            files -= {step.file, lead.get(step.file, "")}
        needs = {s.id for s in project.steps if s.file in files and s.file and (s.work == "print" or whole)}
        tested = set(step.tests)
        needs |= {i for i, wired in wiring if wired & tested}
        if whole and step.coat and not joins(step):
            needs |= {i for i, joined in joints.items() if joined & pieces[step.id]}
        first[step.id] = frozenset({*needs, *step.after} - {step.id})
    tied = {s.id: frozenset({t.step for t in s.ties if t.kind in ORDERED} - {s.id}) for s in project.steps}
    return Chain(things, {s.id: shut_by(project, s) for s in project.steps}, first, tied)


def _with_parts(pieces: Iterable[str], on_top: Mapping[str, Sequence[str]]) -> set[str]:
    """These pieces and all that is put on them, and on those."""
    found: set[str] = set()
    todo = list(pieces)
    while todo:
        piece = todo.pop()
        if piece not in found:
            found.add(piece)
            todo.extend(on_top.get(piece, ()))
    return found


def _pieces_joined(project: Project, step: Step) -> set[str]:
    return {p for i in step.joints if (join := project.find(JOINS, i)) is not None for p in join.pieces}


def lands_nowhere(step: Step) -> bool:
    """Whether a coat goes onto nothing that anybody has named: it waits for no coat, and none for it."""
    return bool(step.coat) and not step.done and not _named(step)


def floats(project: Project, step: Step) -> bool:
    """Whether a step hangs on nothing: it works on nothing, waits for nothing, and nothing waits for it."""
    alone = not (_named(step) or step.closes or step.after or step.ties or step.file)
    return alone and not any(step.id in {*s.after, *(t.step for t in s.ties)} for s in project.steps)


def plain_building(step: Step) -> bool:
    """Whether a step builds on faces and does nothing else: it carves, rivets, plates. Joints, fits, closings and masks have rules of
    their own.
    """
    other = step.joints or step.fits or step.closes or step.wires or step.strings or step.tests or step.file or step.duty or step.machine
    return step.work == "build" and not step.coat and bool(step.surfaces) and not other


def built_late(steps: Sequence[Step]) -> dict[str, tuple[str, ...]]:
    """Steps that build on a face and are listed after coats of it, by id, with those coats: building comes first, unless such a step is
    said to come after a coat of that face, or is tied to one.
    """
    coats = [(i, s, set(s.surfaces)) for i, s in enumerate(steps) if is_coating(s) and not s.done]
    out = {}
    for i, step in enumerate(steps):
        if step.done or not plain_building(step) or says_nothing(step):
            continue
        under = [s.id for k, s, faces in coats if k < i and faces & set(step.surfaces)]
        of_faces = {s.id for _k, s, faces in coats if faces & set(step.surfaces)}
        if under and not of_faces & {*step.after, *(t.step for t in step.ties)}:
            out[step.id] = tuple(under)
    return out


def _after_all(before: Mapping[str, Set[str]], ident: str) -> set[str]:
    """Everything that comes before a step, near or far."""
    found: set[str] = set()
    todo = [ident]
    while todo:
        new = before.get(todo.pop(), set()) - found
        found |= new
        todo.extend(new)
    return found


def links(steps: Sequence[Step], chain: Chain, keep_shut: bool = False) -> dict[str, set[str]]:
    """For each step the steps that must come before it, as the maker's order means it.

    Steps on one thing keep their order; the faces and lamps that a step shuts in are worked on, wired and tested before it; what the chain puts first comes first.
    Building on a face comes before its first coat, wherever it is listed, unless it is said otherwise or something else forbids it.
    With ``keep_shut``, steps listed after the closing one stay after it, reachable or not.
    """
    before = {s.id: set(chain.first[s.id] | chain.tied[s.id]) for s in steps}
    late = built_late(steps)
    for i, later in enumerate(steps):
        for earlier in steps[:i]:
            shared = chain.things[earlier.id] & (chain.things[later.id] | chain.shuts[later.id])
            follows = shared or (keep_shut and chain.shuts[earlier.id] & chain.things[later.id])
            if follows and later.id not in before[earlier.id] and earlier.id not in late.get(later.id, ()):
                before[later.id].add(earlier.id)
    for build, coats in late.items():
        for coat in coats:
            if coat in _after_all(before, build):
                before[build].add(coat)
            else:
                before[coat].add(build)
    known = set(before)
    return {k: v & known for k, v in before.items()}


def joins(step: Step) -> bool:
    """Whether a step sticks parts together."""
    return bool(step.joints) or (step.work == "build" and is_glue(step))


def needs_dry(step: Step) -> str:
    """How dry the coats below a step must be: what is joined must bear a hand."""
    return "handle" if joins(step) else step.dryness


def _sizes(piece: Piece) -> tuple[float, float, float]:
    """Width, depth and height of a piece in mm, as its shape has them; 0 for what only its body tells."""
    out = [0.0, 0.0, 0.0]
    for name, axis in kind_of(piece.shape).axes.items():
        out[axis] = max(out[axis], float(getattr(piece.shape, name)))
    if isinstance(piece.shape, Hull):
        out[1], out[2] = piece.shape.beam, piece.shape.depth
    return out[0], out[1], out[2]


def shut_by(project: Project, step: Step) -> frozenset[Thing]:
    """What a step closes off: faces, and the lamps built into what they are faces of or standing within its bounds.

    The bounds are those of its sizes: the window asks this after every edit, and builds no body.
    """
    pieces = {s.piece for s in project.surfaces if s.id in step.closes and s.piece}
    if not pieces or not project.lamps:
        return frozenset(("surfaces", c) for c in step.closes)
    inside = {m.id for m in project.lamps if m.piece in pieces}
    resting = rest_places(project)
    for piece in project.pieces:
        if piece.id in pieces and piece.id in resting:
            place, (wide, deep, high) = resting[piece.id], _sizes(piece)
            c, s = abs(cos(radians(place.turn_deg))), abs(sin(radians(place.turn_deg)))
            x, y, foot = (wide * c + deep * s) / 2, (wide * s + deep * c) / 2, place.z or 0.0
            inside |= {m.id for m in project.lamps if abs(m.x - place.x) <= x and abs(m.y - place.y) <= y and foot <= m.z <= foot + high}
    return frozenset({("surfaces", c) for c in step.closes} | {("lamps", i) for i in inside})


def reached(step: Step, chain: Chain) -> frozenset[Thing]:
    """What a step must be able to reach; a light is tested from outside too."""
    return chain.things[step.id] - {("lamps", i) for i in step.tests if i not in step.wires}


def lag_h(earlier: Step, later: Step, chain: Chain, brief: Brief) -> float:
    """Hours between the end of one step and the start of another that comes after it; 0 where they have nothing in common.

    A tie alone waits for no coat: it tells its own hours.
    """
    touches = chain.things[earlier.id] & (chain.things[later.id] | chain.shuts[later.id]) or earlier.id in chain.first[later.id]
    wait = wait_h(earlier, needs_dry(later), brief, is_varnish(later)) if touches else 0.0
    tied = (t.hours for t in later.ties if t.step == earlier.id and t.kind == "not before")
    return max([wait, *tied])
