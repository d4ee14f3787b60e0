# SPDX-License-Identifier: MIT
"""Every field of every station is typed full of nonsense: nothing breaks, nothing is lost, every refusal has words."""

import pytest
from PySide6.QtWidgets import QApplication

from fondale.core.edits import put
from fondale.core.model import PROJECT, Project
from fondale.qt.frame.footlights import STATIONS
from fondale.qt.furniture.fields import Choice, Field
from tests.conftest import KEYED, of_tomorrow

ODD = (
    "", " ", "0", "-1", "-0", "1e999", "nan", "inf", "1/0", "1 2 3 4", "abc", "37 parsecs", "9" * 40, "0.0000000001", "1:0", "1:35:2",
    "2026-02-30", "1,5", "½ in", "<b>x</b>", "\u202e37", "🐟", "37\x00mm", "x" * 5000, "'; drop", "%s%n", "６ mm",
)  # fmt: skip


def type_in(field: Field, text: str) -> None:
    """As if typed: the line is modified, edited and left."""
    field.edit.setText(text)
    field.edit.setModified(True)
    field.edit.textEdited.emit(text)
    field.edit.editingFinished.emit()
    QApplication.processEvents()


def things(d, station: str) -> list[tuple[str, str]]:
    """What can be chosen at a station, so that all kinds of tickets are tried."""
    p = d.project
    kinds = list({x.shape.kind: ("pieces", x.id) for x in p.pieces}.values())
    if station == "stage":
        return kinds
    if station == "bench":
        return [*kinds, ("bits", p.bits[0].id), ("prints", p.prints[2].id), ("fits", p.fits[0].id), ("joins", p.joins[0].id)]
    if station == "brief":
        return [("", ""), ("photos", p.photos[0].id)]
    if station == "lamps":
        return [("lamps", p.lamps[0].id), ("strings", p.strings[0].id), ("supplies", p.supplies[-1].id), ("meters", p.meters[0].id)]
    return [("steps", p.steps[5].id)] if station == "coats" else [("", "")]


def turn_to(d, page, field_of: str, ident: str) -> None:
    """The ticket of a thing stands open."""
    if field_of == "pieces":
        d.session.select(field_of, ident)
    elif field_of:
        page.show_subject(field_of, ident)
    page.refresh()


@pytest.mark.parametrize("station", STATIONS)
def test_no_field_breaks_on_nonsense(desk, heron, station):
    d = desk(heron)
    d.session.results.refresh(slow=False)
    d.settle("quick")
    page = d.station(station)
    tried = refused = 0
    met: set[str] = set()
    for field_of, ident in things(d, station):
        turn_to(d, page, field_of, ident)
        for name in [f.edit.accessibleName() for f in page.findChildren(Field) if f.isVisible()]:
            # A field that stands on several tickets is tried with everything once, then with some of it.
            texts = ODD if name not in met else ODD[::9]
            met.add(name)
            for text in texts:
                field = next((f for f in page.findChildren(Field) if f.edit.accessibleName() == name), None)
                if field is None:
                    break
                before = d.project
                type_in(field, text)
                tried += 1
                if d.project is before and field.error:
                    refused += 1
                    assert len(field.error) > 8
                if d.project is before:
                    continue
                assert Project.model_validate(d.project.model_dump()) == d.project
                while d.session.document.undo_label:
                    d.window.undo()
                assert d.project == heron
    assert tried >= len(ODD)
    assert refused > 0


@pytest.mark.slow
def test_every_choice_can_be_made(desk, heron):
    d = desk(heron)
    d.session.results.refresh(slow=False)
    d.settle("quick")
    met: set[tuple[str, str]] = set()
    for station in STATIONS:
        page = d.station(station)
        for field_of, ident in things(d, station):
            turn_to(d, page, field_of, ident)
            for caption in [c.box.accessibleName() for c in page.findChildren(Choice) if c.isVisible()]:
                choice = next((c for c in page.findChildren(Choice) if c.box.accessibleName() == caption and c.isVisible()), None)
                # One that stands on several tickets is made in every way once, then in some.
                some = 1 if (station, caption) not in met else 6
                met.add((station, caption))
                for k in range(0, choice.box.count() if choice else 0, some):
                    now = next((c for c in page.findChildren(Choice) if c.box.accessibleName() == caption and c.isVisible()), None)
                    if now is not None and k < now.box.count():
                        now.box.activated.emit(k)
                        QApplication.processEvents()
                        assert d.window.said() == ""
    assert Project.model_validate(d.project.model_dump()) == d.project


def test_prompts_of_a_project_full_of_oddities_have_words(desk, heron):
    odd = heron.model_copy(
        update={
            "name": "x" * 120,
            "pieces": heron.pieces[:6] + tuple(p.model_copy(update={"name": "Long " * 20}) for p in heron.pieces[6:]),
        }
    )
    d = desk(odd)
    d.session.results.refresh(slow=False)
    d.settle("quick")
    for station in STATIONS:
        d.station(station)
        assert d.window.grab().width() >= 1280
    assert all(f.text for f in d.session.results.prompts)


def test_a_project_with_keys_of_a_newer_version_can_be_worked_on(desk, rich):
    d = desk(of_tomorrow(rich, *KEYED))
    d.refresh()
    assert sum(f.code == "FILE-UNKNOWN" for f in d.session.results.prompts) == len(KEYED)
    for station in STATIONS:
        page = d.station(station)
        for field_of, ident in things(d, station):
            turn_to(d, page, field_of, ident)
            assert d.window.grab().width() >= 1280
    d.session.do(put(PROJECT.then(lambda p: p.brief.cap), 1.0, "Cap"))
    d.settle()
    assert d.project.brief.cap == 1.0
    assert d.session.results.trouble == ""
