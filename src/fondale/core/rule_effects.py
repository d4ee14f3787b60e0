# SPDX-License-Identifier: MIT
"""What each house rule does to this project, in a sentence: a choice is easier where its effect is seen."""

from collections.abc import Mapping

from fondale.core.coats.schools import CALM, Astray, ageing_coats, ageing_share
from fondale.core.fits.air import air_of
from fondale.core.model import SUPPLIES, SURFACES, Project
from fondale.core.prints.printers import house_machine
from fondale.core.scale.reading import read_claim
from fondale.core.words import digits, percent, show_scale
from fondale.knowledge import table

BOX_MM = "54 mm"


def _strings(project: Project) -> str:
    bare = [s for s in project.strings if s.resistor_ohm == 0]
    if not bare:
        return "Every string has its resistor." if project.strings else "No strings yet."
    cells = sum(project.brief.rules.resistors == "cells without" and _on_cells(project, s.supply) for s in bare)
    count = f"{len(bare)} of {len(project.strings)} strings {'has' if len(bare) == 1 else 'have'} none"
    return f"{count}, {cells} of them on cells." if cells else f"{count}."


def _on_cells(project: Project, supply: str) -> bool:
    found = project.find(SUPPLIES, supply)
    return found is not None and found.kind == "cells"


def _order(project: Project, found: Astray | None) -> str:
    if found is None:
        return "The steps keep to it." if project.steps else "No steps yet."
    (early, late), _mended = found
    return f"Against it, “{early.name}” stands before “{late.name}”."


def _ageing(project: Project) -> str:
    if project.brief.rules.weathering == "layers":
        share = ageing_share(project)
        return (
            "Nothing is painted yet."
            if share is None
            else f"Ageing has {percent(share)} of the painting time; this way gives it about half."
        )
    coats = ageing_coats(project.steps)
    if not coats:
        return "No ageing is still to come."
    worst = max(coats, key=lambda i: len(coats[i]))
    surface, count = project.find(SURFACES, worst), len(coats[worst])
    return f"{surface.name if surface else worst} has the most: {count} ageing {'coat' if count == 1 else 'coats'}; {CALM} are calm."


def _sizes(project: Project) -> str:
    claim = read_claim(BOX_MM)
    assert claim is not None
    eyes = project.brief.rules.sizes == "eyes"
    here, other = (claim.to_eyes, claim.to_crown) if eyes else (claim.to_crown, claim.to_eyes)
    return f"{BOX_MM} on a box means {show_scale(here)}; to the {'crown' if eyes else 'eyes'} it would be {show_scale(other)}."


def _prints(project: Project) -> str:
    machine = house_machine(project)
    row = table("fits")["process"][project.brief.rules.prints]
    return f"A new file goes to {machine.name}; a new fit has {digits(row['least'], 2)} to {digits(row['most'], 2)} mm of air a side."


def _fits(project: Project) -> str:
    short = {
        way: sum(air_of(f, way, project).verdict in ("tight", "will not go in") for f in project.fits) for way in ("measured", "mock-up")
    }
    here, other = ("measured", "mock-up") if project.brief.rules.tolerance == "measured" else ("mock-up", "measured")
    if not project.fits:
        return "No fits yet."
    way = "off a mock-up" if other == "mock-up" else "measured on the parts"
    return f"{short[here]} of {len(project.fits)} fits are short of air; {way}, {short[other]} would be."


def effects(project: Project, strayed: Mapping[str, Astray]) -> dict[str, str]:
    """By the name of the rule, what follows from it in this project as it stands; ``strayed`` are the rules that the order of steps breaks."""
    rules = project.brief.rules
    sprayed = "A new coat takes the airbrush; washes, oils and glues stay with the brush."
    return {
        "resistors": _strings(project),
        "order": _order(project, strayed.get(rules.order)),
        "ageing": _order(project, strayed.get(rules.ageing)),
        "weathering": _ageing(project),
        "sizes": _sizes(project),
        "prints": _prints(project),
        "tolerance": _fits(project),
        "paint": sprayed if rules.paint == "spray" else "A new coat takes the brush.",
    }
