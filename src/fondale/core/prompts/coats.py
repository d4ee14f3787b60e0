# SPDX-License-Identifier: MIT
"""Coats: closed too early, wrong over one another, or missing."""

from collections.abc import Callable, Iterator

from fondale.core.coats.conflicts import Chemistry, is_clear
from fondale.core.coats.cures import barrier
from fondale.core.coats.drying import too_cold, too_damp
from fondale.core.coats.impossible import wrong_ground
from fondale.core.coats.links import shut_by
from fondale.core.derived import ACCESS, CHEMISTRY, MISSING
from fondale.core.edits import Add, Edit, new_id, put
from fondale.core.edits.handing import scrape_step
from fondale.core.edits.steps import ReorderSteps
from fondale.core.materials import material_name
from fondale.core.model import JOINS, LAMPS, PROJECT, STEPS, SURFACES, Brief, Project, Step
from fondale.core.prompts.finding import Finding, Fix, Rule
from fondale.core.reckoning import Derived
from fondale.core.words import as_name, digits
from fondale.knowledge import table

BENCH_RH = PROJECT.then(lambda p: p.brief.bench_rh)
BENCH_C = PROJECT.then(lambda p: p.brief.bench_c)


def insert_before(project: Project, step: Step, before: str, label: str) -> tuple[Edit, ...]:
    """Add a step and put it before another: one step of undo."""
    order = [s.id for s in project.steps]
    order.insert(order.index(before), step.id)
    add = Add(label, STEPS, step)
    return (add, ReorderSteps(label, tuple(order)))


def closed_too_early(project: Project, derived: Derived) -> Iterator[Finding]:
    """COAT-ACCESS: a surface is needed after a step has closed it off."""
    steps = {s.id: s for s in project.steps}
    number = {s.id: i + 1 for i, s in enumerate(project.steps)}
    for access in derived[ACCESS]:
        names = [thing.name for i in access.shut if (thing := project.find(SURFACES, i) or project.find(LAMPS, i)) is not None]
        late, closing = steps[access.late[0]], steps[access.closing]
        more = f" and {len(access.late) - 1} more" if len(access.late) > 1 else ""
        fixes = (Fix(access.words, (ReorderSteps(access.words, access.order),)),) if access.order else ()
        yield Finding(
            "COAT-ACCESS", "stop", "coats", ", ".join(names) or closing.name,
            f"“{late.name}”{more} needs what “{closing.name}” has shut. Open it again and take the mark of done off that step, or leave this one out."
            if closing.done
            else f"“{late.name}”{more} comes after “{closing.name}”. By then it can no longer be reached.",
            f"step {number[late.id]} needs what step {number[access.closing]} closes",
            ((STEPS, late.id), (STEPS, access.closing)), fixes,
        )  # fmt: skip


def wrong_over(project: Project, derived: Derived) -> Iterator[Finding]:
    """COAT-CHEM: a coat that lifts or loses the one below."""
    steps = {s.id: s for s in project.steps}
    order = [s.id for s in project.steps]
    for chem in derived[CHEMISTRY]:
        surface = project.get(SURFACES, chem.surface)
        under, over = steps[chem.under], steps[chem.over]
        if chem.kind == "lifts":
            varnish = barrier(project, surface, new_id(f"satin {surface.id}", (s.id for s in project.steps)))
            fix: Fix | None = Fix("Put satin varnish between", insert_before(project, varnish, over.id, f"Satin varnish under {over.name}"))
        else:
            fix = _swap(project, chem)
        yield Finding(
            "COAT-CHEM", "mind", "coats", surface.name, f"“{over.name}” lies over “{under.name}”: {chem.why}.",
            f"step {order.index(over.id) + 1} over step {order.index(under.id) + 1}",
            ((STEPS, over.id), (STEPS, under.id), (SURFACES, surface.id)), (fix,) if fix is not None else (),
        )  # fmt: skip


def _swap(project: Project, chem: Chemistry) -> Fix | None:
    """The way out of a wrong order that was judged to bring no other trouble; None where there is none."""
    if chem.cure is None:
        return None
    swapped, varnished = chem.cure
    label = f"{project.get(STEPS, chem.over).name} before {project.get(STEPS, chem.under).name}"
    surface, order = project.get(SURFACES, chem.surface), list(swapped)
    varnishes: list[Edit] = []
    for ident in varnished:
        step = barrier(project, surface, new_id(f"satin {surface.id}", order))
        order.insert(order.index(ident), step.id)
        varnishes.append(Add(label, STEPS, step))
    edits = (*varnishes, ReorderSteps(label, tuple(order)))
    return Fix("Swap them, with satin varnish" if varnished else "Swap them", edits)


def lacking(project: Project, derived: Derived) -> Iterator[Finding]:
    """COAT-PRIMER, COAT-GLOSS, COAT-TEST, COAT-JOINT: what was forgotten, and the step that makes up for it."""
    ids = [s.id for s in project.steps]
    for miss in derived[MISSING]:
        surface, before = project.find(SURFACES, miss.surface), project.get(STEPS, miss.step)
        name = surface.name if surface else before.name
        if miss.kind == "test":
            lamps = ", ".join(project.get(LAMPS, i).name for i in miss.lamps)
            step = Step(id=new_id(f"test {before.id}", ids), name=as_name(f"Test the light: {lamps}"), work="test", tests=miss.lamps, minutes=(5, 10, 15), tool="hand")  # fmt: skip
            yield Finding(
                "COAT-TEST", "mind", "coats", name, f"“{before.name}” closes {lamps} in before anybody has tested the light.",
                f"step {ids.index(before.id) + 1} has no test before it", ((STEPS, before.id),),
                (Fix("Test before closing", insert_before(project, step, before.id, f"Light test before {before.name}")),),
            )  # fmt: skip
            continue
        if miss.kind == "bare":
            join = project.get(JOINS, before.joints[0])
            scrape, mask = scrape_step(project, join), scrape_step(project, join)
            mask = mask.but(id=new_id(f"mask {join.id}", ids), name=as_name(f"Mask the faces of {join.name}"), duty="mask")
            yield Finding(
                "COAT-JOINT", "mind", "coats", before.name, f"Glue holds on to the paint on {name}, and paint does not hold. Mask the faces first, or scrape them bare.",
                f"step {ids.index(before.id) + 1} joins what step {ids.index(miss.first) + 1} has painted", ((STEPS, before.id), (SURFACES, miss.surface)),
                (Fix("Scrape them first", insert_before(project, scrape, before.id, scrape.name)),
                 Fix("Mask before painting", insert_before(project, mask, miss.first, mask.name))),
            )  # fmt: skip
            continue
        if miss.kind == "mask":
            mask = Step(
                id=new_id(f"mask {miss.surface}", ids), name=as_name(f"Mask {name}"), work="build", tool="hand", surfaces=(miss.surface,),
                duty="mask",
            )  # fmt: skip
            bare = before.but(surfaces=tuple(s for s in before.surfaces if s != miss.surface))
            off = f"Keep it off {name}"
            yield Finding(
                "COAT-CLEAR", "mind", "coats", name, f"It is clear, and “{before.name}” paints it over. Mask it first, or keep the coat off it.",
                f"before step {ids.index(before.id) + 1}, “{before.name}”", ((SURFACES, miss.surface), (STEPS, before.id)),
                (Fix("Mask it first", insert_before(project, mask, before.id, mask.name)), Fix(off, (put(STEPS.at(before.id), bare, off),))),
            )  # fmt: skip
            continue
        primer = miss.kind == "primer"
        coat, words = ("primer_spray", "Prime") if primer else ("gloss", "Gloss varnish on")
        step = Step(
            id=new_id(f"{miss.kind} {miss.surface}", ids), name=as_name(f"{words} {name}"), coat=coat, surfaces=(miss.surface,),
            colour=(0.55, 0.55, 0.55), tool="spray can" if primer else "airbrush",
        )  # fmt: skip
        trouble = (
            "has colour and no primer under it. Colour comes off with the first touch."
            if primer
            else "gets a decal on a surface that is not glossy: the film will show."
        )
        yield Finding(
            f"COAT-{miss.kind.upper()}", "mind", "coats", name, f"It {trouble}", f"before step {ids.index(before.id) + 1}, “{before.name}”",
            ((SURFACES, miss.surface), (STEPS, before.id)),
            (Fix("Add primer" if primer else "Add a gloss coat", insert_before(project, step, before.id, step.name)),),
        )  # fmt: skip


def _unfit(project: Project, bound: Callable[[Step, Brief], float | None]) -> tuple[list[Step], list[float], str]:
    """The open steps that the bench's air does not suit, their bounds, and the names of their coats."""
    found = [(s, least) for s in project.steps if not s.done and (least := bound(s, project.brief)) is not None]
    names = sorted({table("coats")["coat"][s.coat]["name"] for s, _bound in found})
    return [s for s, _bound in found], [b for _s, b in found], ", ".join(names)


def cold_bench(project: Project, derived: Derived) -> Iterator[Finding]:
    """COAT-COLD: materials that fail at the bench's temperature. One prompt for all."""
    steps, bounds, names = _unfit(project, too_cold)
    if not steps:
        return
    least = max(bounds)
    yield Finding(
        "COAT-COLD", "stop", "coats", "The bench is cold", f"{digits(project.brief.bench_c, 0)} °C is too cold for {names}. Warm the room, or wait for a warmer day.",
        f"needs {digits(least, 0)} °C; {len(steps)} step{'s' if len(steps) > 1 else ''}", tuple((STEPS, s.id) for s in steps),
        (Fix(f"Warm it to {digits(least, 0)} °C", (put(BENCH_C, least, f"Bench at {digits(least, 0)} °C"),)),),
    )  # fmt: skip


def damp_bench(project: Project, derived: Derived) -> Iterator[Finding]:
    """COAT-DAMP: sprays that bloom in the damp air of the bench. One prompt for all."""
    steps, bounds, names = _unfit(project, too_damp)
    if not steps:
        return
    most = min(bounds)
    yield Finding(
        "COAT-DAMP", "mind", "coats", "The air is damp", f"At {digits(project.brief.bench_rh, 0)} % humidity {names} may dry cloudy when sprayed. Wait for a dry day, warm the room, or brush it.",
        f"good up to {digits(most, 0)} %; {len(steps)} step{'s' if len(steps) > 1 else ''}", tuple((STEPS, s.id) for s in steps),
        (Fix(f"Dry the air to {digits(most, 0)} %", (put(BENCH_RH, most, f"Bench at {digits(most, 0)} %"),)),),
    )  # fmt: skip


def never_dries(project: Project, derived: Derived) -> Iterator[Finding]:
    """COAT-STICKY: a first coat that never dries on what is bare there. Common practice, no source."""
    rows, ids = table("coats")["coat"], [s.id for s in project.steps]
    for ident, step in wrong_ground(project, "sticky_on"):
        surface = project.get(SURFACES, ident)
        first = Step(
            id=new_id(f"first {surface.id}", ids), name=as_name(f"Water acrylic first: {surface.name}"), coat="acrylic", surfaces=(surface.id,),
            colour=(0.5, 0.5, 0.5), tool="brush",
        )  # fmt: skip
        yield Finding(
            "COAT-STICKY", "stop", "coats", surface.name,
            f"“{step.name}” puts {rows[step.coat]['name']} on bare {material_name(surface.material)}, and stays sticky for good. Water acrylic goes on first.",
            f"step {ids.index(step.id) + 1} is the first coat on it", ((STEPS, step.id), (SURFACES, surface.id)),
            (Fix("Water acrylic first", insert_before(project, first, step.id, first.name)),),
        )  # fmt: skip


def frosted(project: Project, derived: Derived) -> Iterator[Finding]:
    """COAT-FROST: fuming glue that shuts clear parts in, or is put on them."""
    rows = table("coats")["coat"]
    for step in project.steps:
        if step.done or not rows.get(step.coat, {}).get("frosts", False):
            continue
        shut = {i for kind, i in shut_by(project, step) if kind == "surfaces"}
        clear = [s for s in project.surfaces if s.id in shut | set(step.surfaces) and is_clear(project, s)]
        if clear:
            label = "Take five-minute epoxy"
            yield Finding(
                "COAT-FROST", "mind", "coats", step.name, f"Its fumes have nowhere to go and frost {clear[0].name}. Take epoxy or PVA, or leave it open until they are gone.",
                f"{rows[step.coat]['name']} beside {len(clear)} clear face{'s' if len(clear) > 1 else ''}", ((STEPS, step.id), *((SURFACES, s.id) for s in clear)),
                (Fix(label, (put(STEPS.at(step.id).then(lambda s: s.coat), "epoxy", label),)),), caution="ca",
            )  # fmt: skip


def on_bare_foam(project: Project, derived: Derived) -> Iterator[Finding]:
    """COAT-FOAM: solvent on bare foam eats it. Common practice, no source."""
    rows, ids = table("coats")["coat"], [s.id for s in project.steps]
    for ident, step in wrong_ground(project, "eats"):
        surface = project.get(SURFACES, ident)
        seal = Step(
            id=new_id(f"seal {surface.id}", ids), name=as_name(f"Seal the foam: {surface.name}"), coat="pva", surfaces=(surface.id,),
            colour=(0.9, 0.9, 0.88), tool="brush",
        )  # fmt: skip
        yield Finding(
            "COAT-FOAM", "stop", "coats", surface.name, f"“{step.name}” puts {rows[step.coat]['name']} on bare foam. Its solvent eats the foam: seal it with PVA first, or brush water acrylic on.",
            f"step {ids.index(step.id) + 1} is the first coat on foam", ((STEPS, step.id), (SURFACES, surface.id)),
            (Fix("Seal it first", insert_before(project, seal, step.id, seal.name)),),
        )  # fmt: skip


RULES = (
    Rule(closed_too_early, ACCESS),
    Rule(wrong_over, CHEMISTRY),
    Rule(lacking, MISSING),
    *(Rule(r) for r in (cold_bench, damp_bench, on_bare_foam, never_dries, frosted)),
)
