# SPDX-License-Identifier: MIT
"""What goes to the workbench: the build sheet, the calendar, and the lists of pieces, needs, fits and boards."""

from datetime import date, datetime

from fondale.core.derived import CUTS, PLAN
from fondale.core.prompts import all_prompts
from fondale.core.reckoning import Derived
from fondale.core.spreadsheets import PLAIN, Signs


def all_papers(derived: Derived, today: date, now: datetime, signs: Signs = PLAIN) -> dict[str, bytes]:
    """All papers of a project by file name; lists with these ``signs``. A calendar without a day is none."""
    # The libraries of PDF and calendars take a quarter of a second to load, and a list alone needs none of them.
    from fondale.papers.build_sheet import build_sheet
    from fondale.papers.calendar import running_order_ics
    from fondale.papers.lists import cut_table, fit_list, need_list, piece_list

    project, plan = derived.project, derived.get(PLAN)
    out = {
        "build-sheet.pdf": build_sheet(derived, all_prompts(derived), today),
        "pieces.csv": piece_list(project, derived, signs).encode("utf-8"),
    }
    if project.needs:
        out["needs.csv"] = need_list(project, signs).encode("utf-8")
    if project.fits:
        out["fits.csv"] = fit_list(project, derived, signs).encode("utf-8")
    cuts = derived.get(CUTS)
    if cuts is not None and cuts.panels:
        out["cut-list.csv"] = cut_table(cuts, signs).encode("utf-8")
    if plan is not None and (plan.evenings or plan.ready is not None):
        out["running-order.ics"] = running_order_ics(project, plan, now)
    return out
