"""Order conflicts: access, chemistry, what is missing; and the least change of order that mends access."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

from fondale.core.coats.stack import core_sample
from fondale.core.model import SURFACES, Project, Step
from fondale.core.model.shapes import Mesh
from fondale.core.stage.clearance import footprint
from fondale.core.stage.scene import rest_places
from fondale.knowledge import table


@dataclass(frozen=True)
class Access:
    """Steps that need surfaces which ``closing`` has shut; ``order`` is the mended order of ids (empty: none)."""

    closing: str
    late: tuple[str, ...]
    surfaces: tuple[str, ...]
    order: tuple[str, ...]
    moved: tuple[str, ...]
    words: str


@dataclass(frozen=True)
class Chemistry:
    """A coat that should not lie over the one below it on a surface."""

    surface: str
    under: str
    over: str
    why: str
    kind: Literal["lifts", "never"]


@dataclass(frozen=True)
class Missing:
    """A coat or a test that is not there: ``primer``, ``gloss`` or ``test``, before ``step``."""

    kind: Literal["primer", "gloss", "test"]
    step: str
    surface: str
    lamps: tuple[str, ...] = ()


def made_first(project: Project) -> dict[str, set[str]]:
    """For each step on a surface of printed pieces the steps that make these: what is not printed and cleaned yet cannot be painted.

    With the house rule that all is joined before it is painted, joining counts too.
    """
    pieces = {p.id: p.shape.file for p in project.pieces if isinstance(p.shape, Mesh) and p.shape.file}
    file_of = {s.id: pieces[s.piece] for s in project.surfaces if s.piece in pieces}
    makes: dict[str, set[str]] = {}
    for step in project.steps:
        if step.file and (step.work == "print" or project.brief.rules.order == "whole"):
            makes.setdefault(step.file, set()).add(step.id)
    out: dict[str, set[str]] = {}
    for step in project.steps:
        files = {file_of[s] for s in step.surfaces if s in file_of} - {step.file}
        out[step.id] = {i for f in files for i in makes.get(f, ())}
    return out


def floats(project: Project, step: Step) -> bool:
    """Whether a step hangs on nothing: it works on nothing, waits for nothing, and nothing waits for it."""
    alone = not (step.surfaces or step.closes or step.tests or step.after or step.file)
    return alone and not any(step.id in s.after for s in project.steps)


def links(steps: tuple[Step, ...], keep_shut: bool = False, made: Mapping[str, set[str]] | None = None) -> dict[str, set[str]]:
    """For each step the steps that must come before it, as the maker's order means it.

    Steps on one surface keep their order; ``after`` is kept; what a step closes is worked on before it; so is what ``made`` tells.
    With ``keep_shut``, steps listed after the closing one stay after it, reachable or not.
    """
    before: dict[str, set[str]] = {s.id: {a for a in s.after if a != s.id} | (made or {}).get(s.id, set()) for s in steps}
    known = set(before)
    for i, later in enumerate(steps):
        for earlier in steps[:i]:
            shared = set(earlier.surfaces) & (set(later.surfaces) | set(later.closes))
            if shared or (keep_shut and set(earlier.closes) & set(later.surfaces)):
                before[later.id].add(earlier.id)
    return {k: v & known for k, v in before.items()}


def _closure(start: Iterable[str], way: dict[str, set[str]]) -> set[str]:
    """Everything reachable from ``start`` along ``way``, without the start itself unless it is reached."""
    found: set[str] = set()
    todo = [n for s in start for n in way[s]]
    while todo:
        node = todo.pop()
        if node not in found:
            found.add(node)
            todo.extend(way[node])
    return found


def access_conflicts(project: Project) -> tuple[Access, ...]:
    """For each closing step the later steps that need what it closes, with the shortest mend."""
    steps, out, made = project.steps, [], made_first(project)
    for i, closing in enumerate(steps):
        if closing.done or not closing.closes:
            continue
        late = [s for s in steps[i + 1 :] if set(s.surfaces) & set(closing.closes) and not s.done]
        if late:
            shut = tuple(sorted({x for s in late for x in s.surfaces} & set(closing.closes)))
            order, moved, words = _mend(steps, i, late, made)
            out.append(Access(closing.id, tuple(s.id for s in late), shut, order, moved, words))
    return tuple(out)


def _mend(steps: tuple[Step, ...], at: int, late: list[Step], made: Mapping[str, set[str]]) -> tuple[tuple[str, ...], tuple[str, ...], str]:
    """The new order, the steps moved and what to call it: fewest steps moved, either way round."""
    ids = [s.id for s in steps]
    before = links(steps, made=made)
    after: dict[str, set[str]] = {i: set() for i in ids}
    for later, earlier_set in before.items():
        for earlier in earlier_set:
            after[earlier].add(later)
    closing = ids[at]
    last = max(ids.index(s.id) for s in late)
    between = set(ids[at + 1 : last + 1])
    late_ids = {s.id for s in late}
    needed = _closure(late_ids, before)
    dragged = _closure([closing], after)
    options = []
    if closing not in needed:
        up = (needed | late_ids) & between
        options.append((len(up), 0, [*ids[:at], *(i for i in ids if i in up), *(i for i in ids[at:] if i not in up)], up, True))
    if not (dragged & late_ids):
        down = (dragged | {closing}) & set(ids[at : last + 1])
        order = [*(i for i in ids[: last + 1] if i not in down), *(i for i in ids if i in down), *ids[last + 1 :]]
        options.append((len(down), 1, order, down, False))
    if not options:
        return (), (), ""
    _size, _rank, order, moved, up_front = min(options, key=lambda o: (o[0], o[1]))
    names = {s.id: s.name for s in steps}
    if up_front:
        what = names[late[0].id] if len(late) == 1 else f"{len(late)} steps"
        words = f"Move “{what}” before “{names[closing]}”" if len(late) == 1 else f"Move {what} before “{names[closing]}”"
    else:
        words = f"Move “{names[closing]}” after “{names[ids[last]]}”"
    return tuple(order), tuple(i for i in ids if i in moved), words


def chemistry_conflicts(project: Project) -> tuple[Chemistry, ...]:
    """Coats whose thinner lifts the coat right under them, and pairs of kinds that never go that way round."""
    rows, never = table("coats")["coat"], table("coats")["never_over"]
    out: list[Chemistry] = []
    for surface in project.surfaces:
        layers = core_sample(project, surface.id)
        for i, over in enumerate(layers):
            for rule in never:
                for under in layers[:i]:
                    if rows[under.coat]["role"] == rule["under"] and rows[over.coat]["role"] == rule["over"]:
                        out.append(Chemistry(surface.id, under.step, over.step, rule["why"], "never"))
            if i and not over.done:
                under, thinner = layers[i - 1], rows[over.coat]["thinner"]
                told = any(c.surface == surface.id and c.over == over.step for c in out)
                if thinner in rows[under.coat]["lifts_with"] and rows[under.coat]["role"] not in ("liftoff", "pigment") and not told:
                    why = f"{thinner} in the {rows[over.coat]['name']} lifts the {rows[under.coat]['name']}"
                    out.append(Chemistry(surface.id, under.step, over.step, why, "lifts"))
    return tuple(out)


def missing(project: Project) -> tuple[Missing, ...]:
    """Colour without primer, decals without gloss, and lamps closed in before a light test."""
    rows, out = table("coats")["coat"], []
    for surface in project.surfaces:
        layers = core_sample(project, surface.id)
        roles = [(layer, rows[layer.coat]["role"]) for layer in layers]
        colour = next((i for i, layer in enumerate(layers) if rows[layer.coat]["colour"]), None)
        if colour is not None and not any(role in ("primer", "ground") for _l, role in roles[:colour]):
            out.append(Missing("primer", roles[colour][0].step, surface.id))
        for i, (layer, role) in enumerate(roles):
            if role == "decal" and not layer.done and (i == 0 or roles[i - 1][1] not in ("gloss", "decal")):
                out.append(Missing("gloss", layer.step, surface.id))
    tested: set[str] = set()
    for step in project.steps:
        tested |= set(step.tests)
        if not step.closes or step.done:
            continue
        pieces = {project.get(SURFACES, s).piece for s in step.closes}
        inside = [i for i in _lamps_inside(project, pieces) if i not in tested]
        if inside:
            out.append(Missing("test", step.id, step.closes[0], tuple(inside)))
    return tuple(out)


def _lamps_inside(project: Project, pieces: set[str]) -> list[str]:
    """Lamps within the bounds of any of these pieces."""
    out: list[str] = []
    resting = rest_places(project)
    for piece in project.pieces:
        if piece.id in pieces and piece.id in resting:
            ring, low, high = footprint(piece, resting[piece.id])
            (x0, y0), (x1, y1) = ring.min(0), ring.max(0)
            out += [m.id for m in project.lamps if x0 <= m.x <= x1 and y0 <= m.y <= y1 and low <= m.z <= high and m.id not in out]
    return out
