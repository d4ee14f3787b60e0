# SPDX-License-Identifier: MIT
"""Coats: where the plan leaves the maker's own house rules."""

from collections.abc import Iterator

from fondale.core.coat_kinds import is_ageing, is_colour
from fondale.core.coats.schools import CALM, ageing_coats, ageing_share
from fondale.core.derived import ACCESS, ASTRAY
from fondale.core.edits import Remove
from fondale.core.edits.new_things import add_step
from fondale.core.edits.steps import ReorderSteps
from fondale.core.handwork import minutes_of
from fondale.core.model import STEPS, SURFACES, Project
from fondale.core.prompts.finding import Finding, Fix, Rule
from fondale.core.reckoning import Derived
from fondale.core.words import percent

LAYERED = 0.25  # share of the painting time under the rule "layers", where about half is usual: common practice, no source
WORTH_MIN = 60.0  # minutes of colour from which a share means anything


def orders(project: Project, derived: Derived) -> Iterator[Finding]:
    """COAT-RULE: steps that stand the other way round than the house rules on ageing and on joining want."""
    rules = project.brief.rules
    for name, rule in (("ageing", rules.ageing), ("joining", rules.order)):
        found = derived[ASTRAY].get(rule)
        if found is None or (name == "joining" and derived[ACCESS]):
            continue  # what has been closed too early is said by COAT-ACCESS
        (early, late), order = found
        moved = sum(a != b.id for a, b in zip(order, project.steps, strict=False))
        label = f"Order them by “{rule}”"
        fixes = (Fix(label, (ReorderSteps(label, order),)),) if order else ()
        yield Finding(
            f"COAT-RULE-{name.upper()}", "hint", "coats", f"House rule: {rule}",
            f"“{early.name}” stands before “{late.name}”, and the rule on {name} wants it the other way round.",
            f"{moved} steps would stand elsewhere" if order else "the colour is set to come after the joint", ((STEPS, early.id),), fixes,
        )  # fmt: skip


def calm(project: Project, derived: Derived) -> Iterator[Finding]:
    """COAT-CALM: more ageing on one surface than the house rule "less" allows."""
    if project.brief.rules.weathering != "less":
        return
    coats = ageing_coats(project.steps)
    for surface in project.surfaces:
        ageing = coats.get(surface.id, [])
        if len(ageing) > CALM:
            last = ageing[-1]
            drop = Remove(f"Leave out {last.name}", STEPS, last.id)
            yield Finding(
                "COAT-CALM", "hint", "coats", surface.name, "It gets more ageing than the house rule “less” wants: weather everything, and nothing is seen.",
                f"{len(ageing)} ageing coats, {CALM} are calm", ((SURFACES, surface.id),), (Fix(f"Leave out “{last.name}”", (drop,)),),
            )  # fmt: skip


def layers(project: Project, derived: Derived) -> Iterator[Finding]:
    """COAT-LAYERS: much less ageing than the house rule "layers" gives, and a painted surface without any."""
    share = ageing_share(project)
    colour = sum(minutes_of(project, s)[1] for s in project.steps if is_colour(s))
    if project.brief.rules.weathering != "layers" or share is None or share >= LAYERED or colour < WORTH_MIN:
        return
    aged = {i for s in project.steps if is_ageing(s) for i in s.surfaces}
    coloured = {i for s in project.steps if is_colour(s) for i in s.surfaces}
    things = [s for s in project.surfaces if s.id in coloured - aged and s.piece and not s.inside]
    if not things:
        return
    first = max(things, key=lambda s: s.area_cm2)
    after_all = project.brief.rules.ageing == "nice first"

    shuts = {ident: i for i, s in reversed([*enumerate(project.steps)]) for ident in s.closes}
    wet = [(i, s.surfaces) for i, s in enumerate(project.steps) if s.work in ("paint", "weather")]

    def last_paint(ident: str) -> int:
        return max((i for i, on in wet if i < shut(ident) and (after_all or ident in on)), default=-1)

    def shut(ident: str) -> int:
        return shuts.get(ident, len(project.steps))

    # One dusting for everything that can still be reached then: no prompt is left over for the next.
    at = last_paint(first.id) + 1
    dusted = [first, *(s for s in things if s is not first and shut(s.id) >= at)]
    at = max(at, *(min(last_paint(s.id) + 1, shut(first.id)) for s in dusted))
    dusted = [s for s in dusted if shut(s.id) >= at]
    what = first.name + (f" and {len(dusted) - 1} more" if len(dusted) > 1 else "")
    add, ident = add_step(project, f"Dust on {what}", tuple(s.id for s in dusted), "pigment")
    order = [s.id for s in project.steps]
    order.insert(at, ident)
    yield Finding(
        "COAT-LAYERS", "hint", "coats", " and ".join(s.name for s in dusted[:2]) + (f" and {len(dusted) - 2} more" if len(dusted) > 2 else ""),
        "It looks new. The house rule “layers” gives ageing about half of the painting time.",
        f"ageing has {percent(share)} of it", tuple((SURFACES, s.id) for s in dusted),
        (Fix(add.label, (add, ReorderSteps(add.label, tuple(order)))),),
    )  # fmt: skip


RULES = (Rule(orders, ACCESS, ASTRAY), Rule(calm), Rule(layers))
