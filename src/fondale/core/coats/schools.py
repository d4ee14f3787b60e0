# SPDX-License-Identifier: MIT
"""The order that a house rule asks for, as near to the maker's own as links between steps allow."""

import heapq
from collections.abc import Callable

from fondale.core.coat_kinds import is_ageing, is_colour, is_glue
from fondale.core.coats.links import chain_of, links
from fondale.core.handwork import minutes_of
from fondale.core.model import Project, Step

CALM = 2  # ageing coats on one surface under the rule "less": common practice, no source
Rank = Callable[[Step], int]


def ranked(project: Project, rank: Rank) -> tuple[str, ...]:
    """Ids of the steps, lower ranks first where links allow it, otherwise in the maker's order. A circle keeps its own order.

    Topological sorting with a heap [kahn1962].
    """
    steps = project.steps
    before = {k: set(v) for k, v in links(steps, chain_of(project)).items()}
    after: dict[str, list[str]] = {s.id: [] for s in steps}
    for later, earlier in before.items():
        for e in earlier:
            after[e].append(later)
    at = {s.id: i for i, s in enumerate(steps)}
    ranks = {s.id: rank(s) for s in steps}
    ready = [(ranks[i], at[i], i) for i in at if not before[i]]
    heapq.heapify(ready)
    out: list[str] = []
    while ready:
        _rank, _at, ident = heapq.heappop(ready)
        out.append(ident)
        for later in after[ident]:
            before[later].discard(ident)
            if not before[later]:
                heapq.heappush(ready, (ranks[later], at[later], later))
    return tuple(out) if len(out) == len(steps) else tuple(at)


def _last(steps: tuple[Step, ...], wanted: Callable[[Step], bool]) -> int:
    return max((i for i, s in enumerate(steps) if wanted(s) and not s.done), default=-1)


def school_ranks(steps: tuple[Step, ...], rule: str) -> dict[str, int]:
    """What goes first under a house rule: ``nice first``, ``aged at once``, ``whole`` or ``pieces``; what is done stays first."""
    late: Callable[[Step], bool] = is_ageing if rule == "nice first" else is_colour
    last = {"nice first": _last(steps, is_colour), "whole": _last(steps, lambda s: s.work == "build")}.get(rule, -1)
    out = {}
    for i, s in enumerate(steps):
        if s.done:
            out[s.id] = -1
        elif rule == "aged at once":
            out[s.id] = int(not is_ageing(s))
        else:
            out[s.id] = 2 if i > last else int(late(s))
    return out


def _painted_joined(steps: tuple[Step, ...]) -> tuple[tuple[Step, Step], tuple[str, ...]] | None:
    """The first joint that stands before a colour of its own parts, and the order with it after that colour.

    What must follow the joint moves with it; where the colour itself must follow it, the order is empty.
    """
    for i, joint in enumerate(steps):
        late = [s for s in steps[i + 1 :] if is_colour(s) and not s.done and set(s.surfaces) & set(joint.surfaces)]
        if joint.done or joint.work != "build" or not is_glue(joint) or not late:
            continue
        moving, at = [joint.id], steps.index(late[-1])
        stay: list[str] = []
        for s in steps[i + 1 : at + 1]:
            (moving if set(s.after) & set(moving) else stay).append(s.id)
        if set(moving) & {s.id for s in late}:
            return (joint, late[0]), ()
        return (joint, late[0]), (*(s.id for s in steps[:i]), *stay, *moving, *(s.id for s in steps[at + 1 :]))
    return None


def ageing_coats(steps: tuple[Step, ...]) -> dict[str, list[Step]]:
    """By surface, the ageing that is still to come, in the maker's order."""
    out: dict[str, list[Step]] = {}
    for step in steps:
        for surface in step.surfaces if is_ageing(step) and not step.done else ():
            out.setdefault(surface, []).append(step)
    return out


def ageing_share(project: Project) -> float | None:
    """Share of the likely minutes at colours and ageing that goes into ageing; None where nothing is painted."""
    ageing = sum(minutes_of(project, s)[1] for s in project.steps if is_ageing(s))
    colour = sum(minutes_of(project, s)[1] for s in project.steps if is_colour(s))
    return ageing / (ageing + colour) if colour else None


Astray = tuple[tuple[Step, Step], tuple[str, ...]]


def astray(project: Project, rule: str) -> Astray | None:
    """The first pair of steps that stand the other way round than a house rule wants, and the order that would do.

    None where all is well; an empty order where links between steps leave none.
    """
    steps = project.steps
    if rule == "pieces":
        return _painted_joined(steps)
    ranks = school_ranks(steps, rule)
    order = ranked(project, lambda s: ranks[s.id])
    place = {ident: i for i, ident in enumerate(order)}
    wanted: dict[str, Callable[[Step], bool]] = {"nice first": is_colour, "aged at once": is_ageing, "whole": lambda s: s.work == "build"}
    matters = wanted[rule]
    stray = is_ageing if rule == "nice first" else is_colour
    for i, early in enumerate(steps):
        for later in steps[i + 1 :]:
            if stray(early) and matters(later) and ranks[early.id] > ranks[later.id] and place[later.id] < place[early.id]:
                return (early, later), order
    return None
