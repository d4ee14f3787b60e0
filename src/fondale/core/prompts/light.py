# SPDX-License-Identifier: MIT
"""Lamps: too little light where it is wanted, or too uneven."""

from collections.abc import Iterator

from fondale.core.derived import LIGHT
from fondale.core.edits.wiring import set_level
from fondale.core.light.desk import levels_of
from fondale.core.model import AREAS, LAMPS, METERS, Project
from fondale.core.prompts.finding import Finding, Fix, Rule
from fondale.core.reckoning import Derived
from fondale.core.words import digits, percent

LEAST = 0.75


def too_dim(project: Project, derived: Derived) -> Iterator[Finding]:
    """LIGHT-DIM: a meter under three quarters of what is wanted there, with the lamp that can make it up."""
    light = derived[LIGHT]
    if light is None:
        return
    levels = levels_of(project, light.moment)
    for reading in light.meters:
        meter = project.find(METERS, reading.meter)
        if meter is None or meter.wanted_lx <= 0 or reading.lux >= LEAST * meter.wanted_lx:
            continue
        short = meter.wanted_lx - reading.lux
        options = []
        for ident, lux in reading.by_lamp.items():
            level = levels.get(ident, 0.0)
            if level > 0.01 and lux > 0 and level < 1 and lux / level * (1 - level) >= short:
                options.append((short / (lux / level), ident, level))
        fixes: tuple[Fix, ...] = ()
        if options:
            extra, ident, level = min(options)
            new = min(1.0, level + extra)
            edit = set_level(project, ident, new, light.moment)
            fixes = (Fix(f"{project.get(LAMPS, ident).name} to {percent(new)}", (edit,)),)
        yield Finding(
            "LIGHT-DIM", "mind", "lamps", meter.name, f"It gets {digits(reading.lux, 0)} lx of the {digits(meter.wanted_lx, 0)} lx that you want there.",
            f"{percent(reading.lux / meter.wanted_lx)} of it", ((METERS, meter.id),), fixes,
        )  # fmt: skip


def uneven(project: Project, derived: Derived) -> Iterator[Finding]:
    """LIGHT-EVEN: an area whose light is less even than is wanted there."""
    light = derived[LIGHT]
    for found in light.areas if light is not None else ():
        area = project.find(AREAS, found.area)
        if area is not None and found.evenness < area.wanted_u0:
            yield Finding(
                "LIGHT-EVEN", "mind", "lamps", area.name, "Its light is less even than you want it: more lamps that share it, farther away, make it so.",
                f"U0 {digits(found.evenness, 2)} of {digits(area.wanted_u0, 2)}; {digits(found.min_lx, 0)} to {digits(found.max_lx, 0)} lx", ((AREAS, area.id),),
            )  # fmt: skip


RULES = (Rule(too_dim, LIGHT), Rule(uneven, LIGHT))
