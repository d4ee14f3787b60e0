"""What goes to the workbench: the build sheet, the calendar, the piece list."""

from fondale.papers.build_sheet import build_sheet
from fondale.papers.calendar import running_order_ics
from fondale.papers.lists import piece_list

__all__ = ["build_sheet", "piece_list", "running_order_ics"]
