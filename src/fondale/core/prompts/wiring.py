# SPDX-License-Identifier: MIT
"""Lamps: strings and supplies that would burn, stay dark or die early. Judged by the solved current."""

import math
from collections.abc import Iterator

from fondale.core.cautions import cautions_of_supply
from fondale.core.circuit.diode import diode_of, most_ma
from fondale.core.circuit.supply import StringCurrent, most_in_series, split, supply_volts, volts_to_spare, with_resistor
from fondale.core.derived import SUPPLIES_SOLVED
from fondale.core.edits import put
from fondale.core.edits.wiring import ReplaceString
from fondale.core.model import LAMPS, STRINGS, SUPPLIES, Project, String, Supply
from fondale.core.prompts.finding import Finding, Fix, Rule
from fondale.core.reckoning import Derived
from fondale.core.words import digits, ma, ohm_words, percent
from fondale.knowledge import table


def _colour(project: Project, lamp: str) -> str:
    return str(table("electric")["led"][project.get(LAMPS, lamp).led]["name"])


def is_mixed(project: Project, string: String) -> bool:
    """A group side by side whose forward voltages at 10 mA differ by more than the limit."""
    if string.wiring != "group" or len(string.lamps) < 2:
        return False
    volts = [diode_of(project.get(LAMPS, i).led).volts(0.01) for i in string.lamps]
    return bool(max(volts) - min(volts) > table("electric")["limits"]["mixed_forward_v"])


def mixed_groups(project: Project, derived: Derived) -> Iterator[Finding]:
    """WIRE-MIXED: different colours side by side behind one resistor or none."""
    for string, result in _strings(project, derived):
        if not is_mixed(project, string):
            continue
        by_amps = sorted(result.lamps, key=lambda x: -x.amps)
        most, least = by_amps[0], by_amps[-1]
        ratio = most.amps / max(least.amps, 1e-9)
        yield Finding(
            "WIRE-MIXED", "stop", "lamps", string.name,
            f"Different colours hang side by side. The {_colour(project, most.lamp)} takes {digits(ratio, 0)} times the {_colour(project, least.lamp)}’s current.",
            f"{_colour(project, most.lamp)} {ma(most.amps)}, {_colour(project, least.lamp)} {ma(least.amps)}",
            ((STRINGS, string.id),),
            (Fix("Split the string", (ReplaceString(f"Split {string.name}", string.id, split(project, string)),)),),
        )  # fmt: skip


def _resistor(project: Project, string: String) -> tuple[Fix, ...]:
    """The resistor that a string wants, where there are volts for it."""
    better = with_resistor(project, string)
    if better.resistor_ohm <= 0:
        return ()
    spot = STRINGS.at(string.id).then(lambda s: s.resistor_ohm)
    return (Fix(f"Put in {ohm_words(better.resistor_ohm)}", (put(spot, better.resistor_ohm, f"Resistor for {string.name}"),)),)


def _more_volts(project: Project, string: String) -> str:
    """What would work where the supply has too few volts: fewer lamps in a row, or more volts."""
    supply = project.get(SUPPLIES, string.supply)
    kinds = {project.get(LAMPS, i).led for i in string.lamps}
    few = min(most_in_series(project, supply, led) for led in kinds)
    emf, _ohm, _limit = supply_volts(supply)
    need = emf - volts_to_spare(project, string)
    volts = f"a supply of {digits(math.ceil(need + 0.5), 0)} V or more" if supply.kind == "plug" else _cells(supply, need)
    return (f"at most {few} in a row, or " if 0 < few < len(string.lamps) and string.wiring == "series" else "it wants ") + volts


def _cells(supply: Supply, need_v: float) -> str:
    each = supply_volts(supply)[0] / supply.count
    count = math.ceil((need_v + 0.3) / each)
    return f"{count} such cells in series"


def too_much(project: Project, derived: Derived) -> Iterator[Finding]:
    """WIRE-OVER: a lamp over its limit. Asks for a resistor, unless the house rule lets cells do without."""
    for string, result in _strings(project, derived):
        if is_mixed(project, string):
            continue
        over = [x for x in result.lamps if x.amps * 1000 > most_ma(project.get(LAMPS, x.lamp))]
        if over:
            worst = max(over, key=lambda x: x.amps)
            limit = most_ma(project.get(LAMPS, worst.lamp))
            yield Finding(
                "WIRE-OVER", "stop", "lamps", string.name,
                f"Its lamps get more current than they bear: {ma(worst.amps)} where {digits(limit, 0)} mA is the most.",
                f"{ma(worst.low)} to {ma(worst.high)} with forward voltages ±0.1 V", ((STRINGS, string.id),),
                _resistor(project, string),
            )  # fmt: skip


def bare_strings(project: Project, derived: Derived) -> Iterator[Finding]:
    """WIRE-BARE: no resistor where it would be a gamble: the band of forward voltages decides the current."""
    for string, result in _strings(project, derived):
        supply = project.get(SUPPLIES, string.supply)
        lenient = project.brief.rules.resistors == "cells without" and supply.kind == "cells"
        calm = all(x.high * 1000 <= most_ma(project.get(LAMPS, x.lamp)) for x in result.lamps)
        over = any(x.amps * 1000 > most_ma(project.get(LAMPS, x.lamp)) for x in result.lamps)
        if string.resistor_ohm > 0 or is_mixed(project, string) or over or (lenient and calm) or not result.lamps:
            continue
        lit = max(result.lamps, key=lambda x: x.amps)
        if lit.amps * 1000 < table("electric")["limits"]["dim_ma"]:
            continue
        fixes = _resistor(project, string)
        why = "" if fixes else f" There are no volts left for one: {_more_volts(project, string)}."
        yield Finding(
            "WIRE-BARE", "mind", "lamps", string.name, f"No resistor: the current hangs on the forward voltage of the very LED in your hand.{why}",
            f"{ma(lit.low)} to {ma(lit.high)} with forward voltages ±0.1 V", ((STRINGS, string.id),),
            fixes,
        )  # fmt: skip


def too_little(project: Project, derived: Derived) -> Iterator[Finding]:
    """WIRE-DARK, WIRE-DIM: a string that stays dark or only glows: too long for its supply, or a lamp the wrong way round."""
    limits = table("electric")["limits"]
    least = limits["dim_ma"] / 1000
    for string, result in _strings(project, derived):
        if is_mixed(project, string) or not result.lamps or max(x.amps for x in result.lamps) >= least:
            continue
        fixes: tuple[Fix, ...] = ()
        if string.reversed:
            why = "A lamp is the wrong way round: the long leg is plus."
            fixes = (Fix("Turn it round", (put(STRINGS.at(string.id).then(lambda s: s.reversed), (), f"Turn the lamp in {string.name}"),)),)
        elif string.wiring == "series" and len(string.lamps) > 1:
            why = f"{len(string.lamps)} lamps one after the other need more volts than the supply has: {_more_volts(project, string)}."
            group = with_resistor(project, string.but(wiring="group"))
            if not is_mixed(project, group) and volts_to_spare(project, group) > 0:
                fixes = (Fix("Wire them side by side", (ReplaceString(f"Wire {string.name} side by side", string.id, (group,)),)),)
        else:
            why = f"The supply has too few volts for it: {_more_volts(project, string)}."
        dark = max(x.amps for x in result.lamps) * 1000 < limits["dark_ma"]
        said = "It stays dark" if dark else "It only glows, seen in a dark room and lighting nothing"
        yield Finding(
            "WIRE-DARK" if dark else "WIRE-DIM", "stop" if dark else "mind", "lamps", string.name, f"{said}. {why}",
            f"{ma(max(x.amps for x in result.lamps))} through it", ((STRINGS, string.id),), fixes,
        )  # fmt: skip


def supply_load(project: Project, derived: Derived) -> Iterator[Finding]:
    """WIRE-SUPPLY, WIRE-SLEEP, WIRE-HOURS: overloaded supplies, power banks that go to sleep, and cells that do not last a show day."""
    share = table("electric")["limits"]["supply_share"]
    for result in derived[SUPPLIES_SOLVED]:
        supply = project.get(SUPPLIES, result.supply)
        if result.trouble:
            yield Finding("WIRE-SHORT", "stop", "lamps", supply.name, result.trouble, "no solution", ((SUPPLIES, supply.id),))
        elif result.overloaded:
            coin = "coin" in cautions_of_supply(supply)
            yield Finding(
                "WIRE-SUPPLY", "stop" if result.used > 1 else "mind", "lamps", supply.name,
                "A coin cell gives a few milliampere for long; this drains and heats it." if coin else f"More load than it bears for long. Stay under {percent(share)}.",
                f"{ma(result.amps)} of {ma(result.limit_a)}, {percent(result.used)}", ((SUPPLIES, supply.id),), caution="coin" if coin else "",
            )  # fmt: skip
        least = table("electric")["plug"].get(supply.row, {}).get("least_ma", 0.0)
        if 0 < result.amps * 1000 < least:
            yield Finding(
                "WIRE-SLEEP", "mind", "lamps", supply.name,
                f"A power bank switches itself off when it gives less than some {digits(least, 0)} mA. Take a USB plug or cells, or hang more on it.",
                f"{ma(result.amps)} of the {digits(least, 0)} mA that keep it awake", ((SUPPLIES, supply.id),), caution="lithium",
            )  # fmt: skip
        if result.hours_half is not None and result.hours_half < project.brief.show_hours:
            yield Finding(
                "WIRE-HOURS", "mind", "lamps", supply.name, f"Half the light is gone after {digits(result.hours_half, 1)} h; a show day has {digits(project.brief.show_hours, 0)} h.",
                f"{ma(result.amps)} fresh; hardly lit after {digits(result.hours_dark or 0, 1)} h", ((SUPPLIES, supply.id),), caution="cells",
            )  # fmt: skip


def hot_resistors(project: Project, derived: Derived) -> Iterator[Finding]:
    """WIRE-HOT: a resistor over 60 % of its rating."""
    row = table("electric")["resistor"]
    for string, result in _strings(project, derived):
        if result.resistor_w > row["rating_w"] * row["share"]:
            yield Finding(
                "WIRE-HOT", "mind", "lamps", string.name, "Its resistor gets hot. Take one with a larger rating, or two that share the load.",
                f"{digits(result.resistor_w * 1000, 0)} mW on a {digits(row['rating_w'], 2)} W resistor", ((STRINGS, string.id),),
            )  # fmt: skip


def unwired(project: Project, derived: Derived) -> Iterator[Finding]:
    """WIRE-NONE: lamps in no string. One prompt for all."""
    wired = {i for s in project.strings for i in s.lamps}
    loose = [m for m in project.lamps if m.id not in wired]
    if loose:
        names = ", ".join(m.name for m in loose)
        yield Finding(
            "WIRE-NONE", "hint", "lamps", "Not wired yet", f"{names}: shown at rated current until a string takes them.",
            f"{len(loose)} of {len(project.lamps)} lamps", tuple((LAMPS, m.id) for m in loose),
        )  # fmt: skip


def _strings(project: Project, derived: Derived) -> Iterator[tuple[String, StringCurrent]]:
    for supply in derived[SUPPLIES_SOLVED]:
        for result in supply.strings:
            yield project.get(STRINGS, result.string), result


RULES = (*(Rule(r, SUPPLIES_SOLVED) for r in (mixed_groups, too_much, bare_strings, too_little, supply_load, hot_resistors)), Rule(unwired))
