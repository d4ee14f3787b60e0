# SPDX-License-Identifier: MIT
"""The nearest change of order that cures a coat over the wrong one, judged before it is offered."""

from dataclasses import replace
from itertools import zip_longest

from fondale.core.coats.conflicts import Chemistry, access_conflicts, chemistry_conflicts
from fondale.core.coats.schools import astray
from fondale.core.model import SURFACES, Project, Step, Surface
from fondale.core.words import as_name

NEAR = 12  # places on either side that are tried


def barrier(project: Project, surface: Surface, ident: str) -> Step:
    """Satin varnish on a surface, to keep two coats apart."""
    name = as_name(f"Satin varnish, {surface.name}")
    return Step(id=ident, name=name, coat="satin", colour=(0.85, 0.85, 0.82), surfaces=(surface.id,), tool="airbrush")


def with_cures(project: Project) -> tuple[Chemistry, ...]:
    """The chemistry conflicts, those of the wrong way round with the order that cures them and where that takes a varnish."""
    found = chemistry_conflicts(project)
    return tuple(replace(c, cure=_swapped(project, c, found)) if c.kind == "never" else c for c in found)


def _pairs(found: tuple[Chemistry, ...]) -> set[tuple[str, str, str]]:
    return {(c.surface, c.under, c.over) for c in found}


def _broken(project: Project) -> set[str]:
    """Closings and house rules that an order of steps breaks."""
    rules = project.brief.rules
    return {rule for rule in (rules.ageing, rules.order) if astray(project, rule) is not None} | {
        a.closing for a in access_conflicts(project)
    }


def _swapped(project: Project, chem: Chemistry, found: tuple[Chemistry, ...]) -> tuple[tuple[str, ...], tuple[str, ...]] | None:
    """The order that puts ``over`` below ``under`` and brings no other trouble, and the steps that a varnish goes before; None where there is none."""
    order = [s.id for s in project.steps]
    by_id = {s.id: s for s in project.steps}
    rest = [i for i in order if i != chem.over]
    at = rest.index(chem.under)
    earlier = [[*rest[:k], chem.over, *rest[k:]] for k in range(at, max(-1, at - NEAR), -1)]
    rest = [i for i in order if i != chem.under]
    at = rest.index(chem.over)
    later = [[*rest[:k], chem.under, *rest[k:]] for k in range(at + 1, min(len(rest), at + NEAR) + 1)]
    surface = project.get(SURFACES, chem.surface)
    before, others = _pairs(found), None
    for new in (o for pair in zip_longest(earlier, later) for o in pair if o is not None):
        for varnished in ((), (chem.under,), (chem.over,), (chem.over, chem.under)):
            steps: list[Step] = []
            for ident in new:
                steps += [barrier(project, surface, f"under-{ident}"[:64])] if ident in varnished else []
                steps.append(by_id[ident])
            turned = project.but(steps=tuple(steps))
            if not _pairs(chemistry_conflicts(turned)) < before:
                continue
            others = _broken(project) if others is None else others
            if _broken(turned) <= others:
                return tuple(new), varnished
    return None
