# SPDX-License-Identifier: MIT
"""Every number that can be asked says how it was found, and says the number that is shown."""

import math
import re

import pytest
from PySide6.QtWidgets import QApplication, QLabel

from fondale.core.derived import JOBS, LEDGER, READINGS
from fondale.core.diary.pace import money_told, pace_told
from fondale.core.model import PIECES, SEATS
from fondale.core.prints.jobs import moneys
from fondale.core.scale.reading import factor_told
from fondale.core.stage.cases import floor_over_shelf
from fondale.qt.furniture.how import HowButton, HowCard
from fondale.qt.furniture.pages import PagedStation

NUMBER = re.compile(r"\d+(?:\.\d+)?")


def numbers(text: str) -> list[str]:
    return NUMBER.findall(text.replace("\u00a0", " "))


def asked(button: HowButton) -> list[str]:
    """Press the button, read the card, close it."""
    button.click()
    card = next(w for w in QApplication.topLevelWidgets() if isinstance(w, HowCard) and w.isVisible())
    said = [label.text() for label in card.findChildren(QLabel)]
    card.close()
    QApplication.processEvents()
    return said


@pytest.mark.parametrize("sample", ["heron", "glass", "hut"])
def test_every_how_ends_with_the_number_that_is_shown(desk, request, sample):
    d = desk(request.getfixturevalue(sample))
    d.refresh()
    opened = set()
    for name, station in d.window.stations.items():
        d.station(name)
        for page in station.pages if isinstance(station, PagedStation) else ("",):
            if page:
                station.turn_to(page)
            d.settle()
            for button in [b for b in d.window.findChildren(HowButton) if b.isVisible()]:
                title, formula, source = asked(button)
                assert title
                assert source.startswith("Source: ")
                assert len(source) > len("Source: ")
                opened.add(title)
                if button.how.result:
                    assert formula.splitlines()[-1].startswith("= ")
                    last = numbers(formula)[-1]
                    assert last in numbers(button.text()), (button.text(), formula)
                    assert button.how.result.removesuffix(f" {d.project.brief.currency}") in button.text(), (button.text(), formula)
    assert {"The date", "Time left at the bench", "Money", "Pace", "Hours", "Ready", "Drying at the bench", "Seen share"} <= opened


def test_the_sum_of_the_money_is_its_terms(desk, heron):
    """The judge adds up what the card says, and knows nothing else."""
    d = desk(heron)
    d.refresh()
    book = d.session.results[LEDGER]
    told = money_told(book, heron.brief.currency)
    *terms, total = (float(n) for n in numbers(told.how.text))
    assert math.isclose(sum(terms), total, abs_tol=0.011)
    assert book.prints > 0
    prints = sum(moneys(heron, d.session.results[JOBS]).values())
    assert math.isclose(terms[1], prints, abs_tol=0.006)


def test_ratios_are_what_their_cards_divide(desk, heron):
    d = desk(heron)
    d.refresh()
    worked, prior, planned, prior_too, _near, pace = (float(n) for n in numbers(pace_told(d.session.results[LEDGER]).how.text))
    assert math.isclose((worked + prior) / (planned + prior_too), pace, abs_tol=0.0051)
    for reading in d.session.results[READINGS].values():
        *_scales, native, house, share = (float(n) for n in numbers(factor_told(reading, heron.brief.house_n).how.text))
        assert math.isclose(native / house * 100, share, rel_tol=2e-3)


def test_the_eyes_of_a_seat_are_reckoned_from_its_stature(desk, heron):
    d = desk(heron)
    d.refresh()
    stage = d.station("stage").page
    stage._choose("seats")
    seat = heron.find(SEATS, d.session.results.look.seat_of(heron))
    _title, formula, source = asked(stage.seen)
    # [drillis1966]: eyes at 0.936 of stature.
    assert float(numbers(formula)[-1]) == pytest.approx(
        abs(seat.stature_mm * 0.936 - heron.brief.shelf_height_mm - floor_over_shelf(heron.case)), abs=0.51
    )
    assert "Drillis and Contini 1966" in source
    assert d.session.chosen(PIECES)
