# SPDX-License-Identifier: MIT
"""Stage: where everything stands, who sees what from where, and the case that holds it."""

from typing import Any

from fondale.core.model import SEATS, Listing
from fondale.qt.furniture.pages import PagedStation
from fondale.qt.stations.stage.case_page import CasePage
from fondale.qt.stations.stage.depth_page import DepthPage
from fondale.qt.stations.stage.layouts_page import LayoutsPage
from fondale.qt.stations.stage.rescale_page import RescalePage
from fondale.qt.stations.stage.stage_page import StagePage
from fondale.qt.stations.stage.weights_page import WeightsPage


class StageStation(PagedStation):
    """The scene with its seats, the case, its depth, what it all weighs, other layouts, and another scale."""

    name = "stage"
    kinds = (StagePage, CasePage, DepthPage, WeightsPage, LayoutsPage, RescalePage)

    def show_subject(self, listing: Listing[Any], ident: str) -> None:
        super().show_subject(listing, ident)
        if listing == SEATS:
            self.session.choose_seat(ident)
