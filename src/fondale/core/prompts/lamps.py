"""Lamps: bulbs in sight, and motion that flashes."""

from collections.abc import Iterator

from fondale.core.derived import BARE
from fondale.core.edits import put
from fondale.core.model import LAMPS, PROJECT, SEATS, Project
from fondale.core.motion.generators import most_flashes
from fondale.core.prompts.finding import Finding, Fix, Rule
from fondale.core.reckoning import Derived
from fondale.core.views.sight import BareLamp
from fondale.core.words import digits
from fondale.knowledge import table


def bare_bulbs(project: Project, derived: Derived) -> Iterator[Finding]:
    """LAMP-BARE: a bulb that can be seen. One prompt a lamp, with the lip that hides it from every seat."""
    seats = {s.id: s for s in project.seats}
    by_lamp: dict[str, list[BareLamp]] = {}
    for bare in derived[BARE]:
        if project.get(LAMPS, bare.lamp).meant_to_be_seen:
            continue
        by_lamp.setdefault(bare.lamp, []).append(bare)
    for ident, bares in by_lamp.items():
        lamp = project.get(LAMPS, ident)
        worst = max(bares, key=lambda b: (b.along_mm, b.seat))
        lips = [b.lip_mm for b in bares]
        fixes: tuple[Fix, ...] = ()
        if all(lips):
            lip = max(x for x in lips if x)
            fixes = (
                Fix(
                    f"Add a {digits(lip, 0)} mm lip", (put(PROJECT.then(lambda p: p.case.lip_top), lip, f"Add a {digits(lip, 0)} mm lip"),)
                ),
            )
        meant = put(LAMPS.at(ident).then(lambda m: m.meant_to_be_seen), True, f"{lamp.name} is meant to be seen")
        fixes = (*fixes, Fix("It is meant to be seen", (meant,)))
        where = seats[worst.seat]
        along = f"along {digits(worst.along_mm, 0)} of {digits(where.range, 0)} mm" if where.range else "head on"
        yield Finding(
            "LAMP-BARE", "mind", "lamps", lamp.name, f"Its bulb can be seen from {where.name}. A lip, a shade or another place hides it.",
            f"seen {along}; from {len(bares)} of {len(seats)} seats", ((LAMPS, ident), (SEATS, worst.seat)), fixes, "bright",
        )  # fmt: skip


def flashing(project: Project, derived: Derived) -> Iterator[Finding]:
    """LAMP-FLASH: more than three flashes in a second ([wcag22], 2.3.1)."""
    limit = table("electric")["limits"]["flashes_per_s"]
    for lamp in project.lamps:
        count = most_flashes(lamp) if lamp.motion != "steady" else 0
        if count > limit:
            calm = put(LAMPS.at(lamp.id).then(lambda m: m.flashes_per_s), limit, f"Slow {lamp.name} to three flashes a second")
            fix = (Fix("Slow it to 3 a second", (calm,)),) if lamp.motion == "beacon" else ()
            yield Finding(
                "LAMP-FLASH", "stop", "lamps", lamp.name, "It flashes faster than a public display may.",
                f"{count} flashes in a second, at most {digits(limit, 0)}", ((LAMPS, lamp.id),), fix, "flash",
            )  # fmt: skip


RULES = (Rule(bare_bulbs, BARE), Rule(flashing))
