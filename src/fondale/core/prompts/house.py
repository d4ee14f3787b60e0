"""Coats: where the plan leaves the maker's own house rules."""

from collections.abc import Iterator

from fondale.core.coats.kinds import is_ageing, is_colour
from fondale.core.coats.schools import CALM, ageing_coats, ageing_share, astray
from fondale.core.derived import ACCESS
from fondale.core.edits import Remove
from fondale.core.edits.new_things import add_step
from fondale.core.edits.steps import ReorderSteps
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
        found = astray(project, rule)
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
    share = ageing_share(project.steps)
    colour = sum(s.minutes[1] for s in project.steps if is_colour(s))
    if project.brief.rules.weathering != "layers" or share is None or share >= LAYERED or colour < WORTH_MIN:
        return
    aged = {i for s in project.steps if is_ageing(s) for i in s.surfaces}
    coloured = {i for s in project.steps if is_colour(s) for i in s.surfaces}
    things = (s for s in project.surfaces if s.id in coloured - aged and s.piece and not s.inside)
    surface = max(things, key=lambda s: s.area_cm2, default=None)
    if surface is None:
        return
    add, ident = add_step(project, f"Dust on {surface.name.lower()}", (surface.id,), "pigment")
    shut = next((i for i, s in enumerate(project.steps) if surface.id in s.closes), len(project.steps))
    after_all = project.brief.rules.ageing == "nice first"
    last = max(
        i for i, s in enumerate(project.steps[:shut]) if s.work in ("paint", "weather") and (after_all or surface.id in s.surfaces)
    )  # fmt: skip
    order = [s.id for s in project.steps]
    order.insert(last + 1, ident)
    yield Finding(
        "COAT-LAYERS", "hint", "coats", surface.name, "It looks new. The house rule “layers” gives ageing about half of the painting time.",
        f"ageing has {percent(share)} of it", ((SURFACES, surface.id),),
        (Fix(add.label, (add, ReorderSteps(add.label, tuple(order)))),),
    )  # fmt: skip


RULES = (Rule(orders, ACCESS), Rule(calm), Rule(layers))
