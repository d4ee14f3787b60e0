# SPDX-License-Identifier: MIT
"""Coats: what nobody has said, and what the order makes of it."""

from collections.abc import Iterator
from datetime import timedelta
from itertools import pairwise

from fondale.core.coat_kinds import coat_row, says_nothing
from fondale.core.coats.links import built_late, lands_nowhere
from fondale.core.derived import PLAN
from fondale.core.edits import put
from fondale.core.edits.new_things import add_surface, usual_for
from fondale.core.edits.steps import ReorderSteps
from fondale.core.model import PIECES, STEPS, SURFACES, Piece, Project, Step, Surface, Tie
from fondale.core.prompts.finding import Finding, Fix, Rule
from fondale.core.reckoning import Derived
from fondale.core.strata import core_sample
from fondale.core.words import count_words, digits, wait_words, words_in

SOON_H = 24.0  # within which the coat over a peel layer goes on: common practice, no source


def blank_steps(project: Project, derived: Derived) -> Iterator[Finding]:
    """STEP-BLANK: steps that say neither what goes on nor what is done. One prompt for all."""
    blank = [s for s in project.steps if not s.done and says_nothing(s)]
    if not blank:
        return
    names = ", ".join(f"“{s.name}”" for s in blank[:3]) + (f" and {len(blank) - 3} more" if len(blank) > 3 else "")
    work, tool = usual_for(project, "acrylic")
    paint = tuple(put(STEPS.at(s.id), s.but(coat="acrylic", work=work, tool=tool), "Water acrylic") for s in blank)
    build = tuple(put(STEPS.at(s.id), s.but(work="build", tool="hand", minutes=(10.0, 15.0, 25.0)), "No coat") for s in blank)
    yield Finding(
        "STEP-BLANK", "mind", "coats", "Not said yet",
        f"{names}: no coat is named, so nothing of it has to dry, and the date leans on that. Say what goes on, or that it is building.",
        count_words(len(blank), "step"), tuple((STEPS, s.id) for s in blank),
        (Fix("It is water acrylic" if len(blank) == 1 else "All are water acrylic", paint), Fix("It is building" if len(blank) == 1 else "All are building", build)),
    )  # fmt: skip


def on_nothing(project: Project, derived: Derived) -> Iterator[Finding]:
    """STEP-NOWHERE: coats that go onto nothing. One prompt for all."""
    lost = [s for s in project.steps if lands_nowhere(s)]
    if not lost:
        return
    names = ", ".join(f"“{s.name}”" for s in lost[:3]) + (f" and {len(lost) - 3} more" if len(lost) > 3 else "")
    fixes = []
    for surface in project.surfaces[:2]:
        label = f"Onto {surface.name}, in this order"
        fixes.append(Fix(label, tuple(put(STEPS.at(s.id).then(lambda s: s.surfaces), (surface.id,), label) for s in lost)))
    if not project.surfaces:
        piece = project.pieces[0] if len(project.pieces) == 1 else None
        add, ident = add_surface(project, piece.name if piece is not None else "The piece", piece.id if piece is not None else "")
        label = "All onto one surface, in this order" if len(lost) > 1 else "Onto a surface of its own"
        fixes.append(Fix(label, (add, *(put(STEPS.at(s.id).then(lambda s: s.surfaces), (ident,), label) for s in lost))))
    them = "it waits for no coat, and none for it" if len(lost) == 1 else "they wait for no coat, and none for them"
    yield Finding(
        "STEP-NOWHERE", "mind", "coats", "On what?", f"{names}: nobody has said onto what, so {them}. The date leans on that.",
        count_words(len(lost), "coat"), tuple((STEPS, s.id) for s in lost), tuple(fixes),
    )  # fmt: skip


def loose_surfaces(project: Project, derived: Derived) -> Iterator[Finding]:
    """COAT-LOOSE: surfaces that steps work on and that belong to no piece. Asked about once, for all."""
    worked = {i for s in project.steps if not s.done for i in s.surfaces}
    loose = [s for s in project.surfaces if not s.piece and s.id in worked]
    if not loose or not project.pieces:
        return
    names = ", ".join(s.name for s in loose[:3]) + (f" and {len(loose) - 3} more" if len(loose) > 3 else "")
    fixes = []
    for surface in loose[:3]:
        piece = _likely(project, surface)
        if piece is not None:
            label = f"“{surface.name}” is of {piece.name}"
            fixes.append(Fix(label, (put(SURFACES.at(surface.id).then(lambda s: s.piece), piece.id, label),)))
    yield Finding(
        "COAT-LOOSE", "hint", "coats", "Of which piece?",
        f"{names}: no piece is named, so nobody knows what must be printed, freed of its supports or built before.",
        count_words(len(loose), "surface"), tuple((SURFACES, s.id) for s in loose), tuple(fixes),
    )  # fmt: skip


def _likely(project: Project, surface: Surface) -> Piece | None:
    """The piece that a surface is called after: the only one there is, or one that shares a word with it."""
    near = {p.id: len(words_in(surface.name) & words_in(p.name)) for p in project.pieces}
    best = max(near, key=lambda i: (near[i], i))
    return project.find(PIECES, best) if len(near) == 1 or near[best] else None


def build_first(project: Project, derived: Derived) -> Iterator[Finding]:
    """COAT-BUILD: building on a face that is listed after its paint is planned before it."""
    ids = [s.id for s in project.steps]
    for ident, coats in built_late(project.steps).items():
        step, first, last = project.get(STEPS, ident), project.get(STEPS, coats[0]), project.get(STEPS, coats[-1])
        order = [i for i in ids if i != ident]
        order.insert(order.index(coats[0]), ident)
        up, stay = f"Move “{step.name}” before “{first.name}”", f"It comes after “{last.name}”"
        yield Finding(
            "COAT-BUILD", "hint", "coats", step.name, f"It builds on what “{first.name}” has painted. Building comes first: it is planned before the paint.",
            f"step {ids.index(ident) + 1} is listed after step {ids.index(coats[0]) + 1}", ((STEPS, ident), (STEPS, first.id)),
            (Fix(up, (ReorderSteps(up, tuple(order)),)), Fix(stay, (put(STEPS.at(ident).then(lambda s: s.after), (*step.after, last.id), stay),))),
        )  # fmt: skip


def peel_soon(project: Project, derived: Derived) -> Iterator[Finding]:
    """COAT-PEEL: the coat over a lift-off layer is planned long after it, and nobody has tied them."""
    plan = derived[PLAN]
    ends = {i.step: i.start + timedelta(minutes=i.minutes) for e in plan.evenings for i in e.items}
    starts = {i.step: i.start for e in reversed(plan.evenings) for i in reversed(e.items)}
    told: set[tuple[str, str]] = set()
    for surface in project.surfaces:
        layers = core_sample(project, surface.id)
        for under, over in pairwise(layers):
            row, step = coat_row(under.coat), project.get(STEPS, over.step)
            if row is None or row["role"] != "liftoff" or under.coat == over.coat or (under.step, over.step) in told:
                continue
            told.add((under.step, over.step))
            end = ends.get(under.step) or project.get(STEPS, under.step).finished
            tied = any(t.step == under.step and t.kind in ("at once", "within", "together") for t in step.ties)
            if over.done or tied or end is None or over.step not in starts:
                continue
            gap = (starts[over.step] - end).total_seconds() / 3600
            if gap > SOON_H:
                yield _peel(step, project.get(STEPS, under.step), surface, gap)


def _peel(step: Step, under: Step, surface: Surface, gap: float) -> Finding:
    label = f"Within {digits(SOON_H, 0)} h of “{under.name}”"
    ties = (*step.ties, Tie(step=under.id, kind="within", hours=SOON_H))
    return Finding(
        "COAT-PEEL", "mind", "coats", surface.name, f"“{step.name}” goes over “{under.name}” late. The longer that lies, the worse it lifts: paint over it soon.",
        f"{wait_words(gap)} between them", ((STEPS, step.id), (STEPS, under.id)), (Fix(label, (put(STEPS.at(step.id).then(lambda s: s.ties), ties, label),)),),
    )  # fmt: skip


RULES = (Rule(blank_steps), Rule(on_nothing), Rule(loose_surfaces), Rule(build_first), Rule(peel_soon, PLAN))
