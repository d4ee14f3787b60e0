# SPDX-License-Identifier: MIT
"""Lamps: bulbs in sight, and motion that flashes."""

from collections.abc import Callable, Iterator

from fondale.core.derived import BARE, HIDINGS
from fondale.core.edits import put
from fondale.core.model import LAMPS, PROJECT, SEATS, Lamp, Project
from fondale.core.motion.generators import most_flashes
from fondale.core.prompts.finding import Finding, Fix, Rule
from fondale.core.reckoning import Derived
from fondale.core.views.places import Hiding
from fondale.core.views.sight import BareLamp
from fondale.core.words import digits
from fondale.knowledge import table


def bare_bulbs(project: Project, derived: Derived) -> Iterator[Finding]:
    """LAMP-BARE: a bulb that can be seen. One prompt a lamp, with what hides it from every seat."""
    seats = {s.id: s for s in project.seats}
    by_lamp: dict[str, list[BareLamp]] = {}
    for bare in derived[BARE]:
        if project.get(LAMPS, bare.lamp).meant_to_be_seen:
            continue
        by_lamp.setdefault(bare.lamp, []).append(bare)
    for ident, bares in by_lamp.items():
        lamp = project.get(LAMPS, ident)
        worst = max(bares, key=lambda b: (not b.mirrored, b.along_mm, b.seat))
        fixes = _ways_to_hide(lamp, derived[HIDINGS].get(ident))
        meant = put(LAMPS.at(ident).then(lambda m: m.meant_to_be_seen), True, f"{lamp.name} is meant to be seen")
        fixes = (*fixes, Fix("It is meant to be seen", (meant,)))
        where = seats[worst.seat]
        along = f"along {digits(worst.along_mm, 0)} of {digits(where.range, 0)} mm" if where.range else "head on"
        yield Finding(
            "LAMP-BARE", "mind", "lamps", lamp.name, f"Its bulb can be seen{' in a mirror' if worst.mirrored else ''} from {where.name}. A lip, a shade or another place hides it.",
            f"seen {along}; from {len(bares)} of {len(seats)} seats", ((LAMPS, ident), (SEATS, worst.seat)), fixes, "bright",
        )  # fmt: skip


def _ways_to_hide(lamp: Lamp, hiding: Hiding | None) -> tuple[Fix, ...]:
    """A lip, a shift of the lamp, returns: at most two, the gentlest first."""
    if hiding is None:
        return ()
    case, at = PROJECT.then(lambda p: p.case), LAMPS.at(lamp.id)
    fixes = []
    if hiding.lip is not None:
        fixes.append(Fix(words := f"Add a {digits(hiding.lip, 0)} mm lip", (put(case.then(lambda c: c.lip_top), hiding.lip, words),)))
    if hiding.shift is not None:
        k = next(i for i, d in enumerate(hiding.shift) if d)
        way = (("left", "right"), ("forward", "back"), ("down", "up"))[k][hiding.shift[k] > 0]
        words = f"Move it {digits(abs(hiding.shift[k]), 0)} mm {way}"
        moves = tuple(
            put(at.then(get), now + d, words) for get, now, d in zip(_XYZ, (lamp.x, lamp.y, lamp.z), hiding.shift, strict=True) if d
        )
        fixes.append(Fix(words, moves))
    if hiding.returns is not None:
        words = f"Add returns of {digits(hiding.returns, 0)} mm"
        fixes.append(Fix(words, (put(case.then(lambda c: c.lip_sides), hiding.returns, words),)))
    return tuple(fixes[:2])


_XYZ: tuple[Callable[[Lamp], float], ...] = (lambda m: m.x, lambda m: m.y, lambda m: m.z)


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


RULES = (Rule(bare_bulbs, BARE, HIDINGS), Rule(flashing))
