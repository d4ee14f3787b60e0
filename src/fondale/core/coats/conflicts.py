# SPDX-License-Identifier: MIT
"""Order conflicts: access, chemistry, what is missing; and the least change of order that mends access."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from fondale.core.coats.links import Chain, chain_of, links, reached, shut_by
from fondale.core.model import PIECES, Project, Step, Surface
from fondale.core.model.shapes import Glass
from fondale.core.strata import core_sample
from fondale.knowledge import table

BITES = "lacquer"


@dataclass(frozen=True)
class Access:
    """Steps that need what ``closing`` shuts: ``shut`` are ids of faces and lamps; ``order`` is the mended order of ids (empty: none)."""

    closing: str
    late: tuple[str, ...]
    shut: tuple[str, ...]
    order: tuple[str, ...]
    moved: tuple[str, ...]
    words: str


@dataclass(frozen=True)
class Chemistry:
    """A coat that should not lie over the one below it on a surface.

    ``cure``, where the one should lie under the other: the order of ids that does it, and the steps that a varnish goes
    before.
    """

    surface: str
    under: str
    over: str
    why: str
    kind: Literal["lifts", "never"]
    cure: tuple[tuple[str, ...], tuple[str, ...]] | None = None


@dataclass(frozen=True)
class Missing:
    """A coat or a test that is not there: ``primer``, ``gloss``, ``mask`` (on a clear face) or ``test``, before ``step``; or the ``bare`` faces of a joint.

    ``first`` is the first coat that would have to be kept off those.
    """

    kind: Literal["primer", "gloss", "mask", "test", "bare"]
    step: str
    surface: str
    lamps: tuple[str, ...] = ()
    first: str = ""


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
    """For each closing step the later steps that need what it closes, with the shortest mend; none for what is shut already."""
    steps, out, chain = project.steps, [], chain_of(project)
    for i, closing in enumerate(steps):
        if not closing.closes:
            continue
        closed = chain.shuts[closing.id]
        others = [*steps[:i], *steps[i + 1 :]] if closing.done else steps[i + 1 :]
        late = [s for s in others if reached(s, chain) & closed and not s.done]
        if late:
            shut = tuple(sorted({x for s in late for _kind, x in reached(s, chain) & closed}))
            order, moved, words = ((), (), "") if closing.done else _mend(steps, i, late, chain)
            out.append(Access(closing.id, tuple(s.id for s in late), shut, order, moved, words))
    return tuple(out)


def _mend(steps: tuple[Step, ...], at: int, late: list[Step], chain: Chain) -> tuple[tuple[str, ...], tuple[str, ...], str]:
    """The new order, the steps moved and what to call it: fewest steps moved, either way round."""
    ids = [s.id for s in steps]
    before = links(steps, chain)
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
    rows, never, steps = table("coats")["coat"], table("coats")["never_over"], {s.id: s for s in project.steps}
    out: list[Chemistry] = []
    for surface in project.surfaces:
        layers = core_sample(project, surface.id)
        for i, over in enumerate(layers):
            for rule in never:
                for under in layers[:i]:
                    if _is_one(under.coat, rule["under"]) and _is_one(over.coat, rule["over"]):
                        out.append(Chemistry(surface.id, under.step, over.step, rule["why"], "never"))
            if i and not over.done:
                under, thinner = layers[i - 1], rows[over.coat]["thinner"]
                told = any(c.surface == surface.id and c.over == over.step for c in out)
                if not told and lifts(under.coat, over.coat, steps[over.step].tool):
                    why = f"{thinner} in the {rows[over.coat]['name']} lifts the {rows[under.coat]['name']}"
                    out.append(Chemistry(surface.id, under.step, over.step, why, "lifts"))
    return tuple(out)


def _is_one(coat: str, wanted: Iterable[str]) -> bool:
    """Whether a coat is one of these, by its key or its role."""
    return not {coat, table("coats")["coat"][coat]["role"]}.isdisjoint(wanted)


def lifts(under: str, over: str, tool: str) -> bool:
    """Whether the thinner in one coat lifts the dry coat under it. Lacquer thinner bites at once; the others only where they are put on wet, by a
    brush or as a wash. A second coat of the same kind is what a dry one is made for, unless its row says otherwise. Common practice, no source.
    """
    rows = table("coats")["coat"]
    low, top = rows[under], rows[over]
    if (
        top["thinner"] not in low["lifts_with"]
        or low["role"] in ("liftoff", "pigment")
        or (under == over and not low.get("lifts_itself", False))
    ):
        return False
    return top["thinner"] == BITES or tool in ("brush", "hand") or top["role"] in ("wash", "streaks")


def missing(project: Project) -> tuple[Missing, ...]:
    """Colour without primer, decals without gloss, and lamps closed in before a light test."""
    rows, out = table("coats")["coat"], []
    for surface in project.surfaces:
        layers = core_sample(project, surface.id)
        roles = [(layer, rows[layer.coat]["role"]) for layer in layers]
        colour = next((i for i, layer in enumerate(layers) if rows[layer.coat]["colour"]), None)
        if is_clear(project, surface):
            first = next((k for k, (layer, role) in enumerate(roles) if role == "primer" or rows[layer.coat]["colour"]), None)
            if first is not None and not roles[first][0].done and not _masked(project, surface.id, roles[first][0].step):
                out.append(Missing("mask", roles[first][0].step, surface.id))
        elif colour is not None and not any(role in ("primer", "ground") for _l, role in roles[:colour]):
            out.append(Missing("primer", roles[colour][0].step, surface.id))
        for i, (layer, role) in enumerate(roles):
            if role == "decal" and not layer.done and (i == 0 or roles[i - 1][1] not in ("gloss", "decal")):
                out.append(Missing("gloss", layer.step, surface.id))
    out += _painted_joints(project)
    tested: set[str] = set()
    for step in project.steps:
        tested |= set(step.tests)
        if not step.closes or step.done:
            continue
        shut = shut_by(project, step)
        inside = [m.id for m in project.lamps if ("lamps", m.id) in shut and m.id not in tested]
        if inside:
            out.append(Missing("test", step.id, step.closes[0], tuple(inside)))
    return tuple(out)


CLEAR = ("clear plastic", "glass")


def is_clear(project: Project, surface: Surface) -> bool:
    """Whether one is meant to see through a face."""
    piece = project.find(PIECES, surface.piece) if surface.piece else None
    return surface.material in CLEAR or (
        not surface.material and piece is not None and (piece.material in CLEAR or isinstance(piece.shape, Glass))
    )


def _masked(project: Project, surface: str, before: str) -> bool:
    """Whether a step masks a face before another one."""
    for step in project.steps:
        if step.id == before:
            return False
        if surface in step.surfaces and step.duty == "mask":
            return True
    return False


def _painted_joints(project: Project) -> list[Missing]:
    """Joints that are to be closed on paint, which no glue holds on to, where nobody masks or scrapes them."""
    rows, chain, out = table("coats")["coat"], chain_of(project), []
    for i, step in enumerate(project.steps):
        others = [s for s in project.steps if s is not step and set(s.joints) & set(step.joints)]
        if step.done or not step.joints or others:
            continue
        faces = {x for kind, x in chain.things[step.id] if kind == "surfaces"}
        coats = [
            s for s in project.steps[:i] if s.coat in rows and rows[s.coat]["role"] not in ("glue", "sanding") and set(s.surfaces) & faces
        ]
        if coats:
            surface = next(x for x in coats[0].surfaces if x in faces)
            out.append(Missing("bare", step.id, surface, first=coats[0].id))
    return out
