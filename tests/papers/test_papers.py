# SPDX-License-Identifier: MIT
import csv
import io
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from io import BytesIO

import icalendar
import pytest
from pypdf import PdfReader
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

from fondale.core.derived import PLAN, READINGS, SUPPLIES_SOLVED
from fondale.core.model import Bit, Lamp, Measure, Piece, String
from fondale.core.model.shapes import Box
from fondale.core.prompts import all_prompts
from fondale.core.reckoning import Look, Reckoner
from fondale.core.spreadsheets import PLAIN, desktop_signs
from fondale.core.words import cell, digits, ma, show_scale, uncell
from fondale.papers import all_papers, faces
from fondale.papers.build_sheet import build_sheet
from fondale.papers.build_sheet import build_sheet as make_sheet
from fondale.papers.calendar import running_order_ics
from fondale.storage.bits_csv import read_bits, write_bits
from tests.conftest import TODAY, derive, known


@pytest.fixture(scope="module")
def derived(heron):
    return derive(heron, TODAY)


@pytest.fixture(scope="module")
def sheet(heron, derived) -> str:
    reader = PdfReader(BytesIO(build_sheet(derived, all_prompts(derived), TODAY)))
    return "\n".join(page.extract_text() for page in reader.pages)


def test_the_sheet_is_a4_and_carries_the_project(heron, derived):
    reader = PdfReader(BytesIO(build_sheet(derived, (), TODAY)))
    box = reader.pages[0].mediabox
    # [iso216]: A4 is 210 x 297 mm; 1 point is 1/72 inch.
    assert float(box.width) * 25.4 / 72 == pytest.approx(210, abs=0.1)
    assert float(box.height) * 25.4 / 72 == pytest.approx(297, abs=0.1)
    assert reader.metadata.title == "Heron Stairs, last boat: build sheet"


def test_the_sheet_says_what_the_screens_say(heron, derived, sheet):
    assert "Heron Stairs, last boat" in sheet
    flat = " ".join(sheet.split())
    for evening in derived[PLAN].evenings:
        assert f"{evening.minutes} min" in flat
    for step in heron.steps:
        if not step.done:
            assert step.name.split()[0] in flat
    boy = derived[READINGS]["boy"]
    assert show_scale(boy.n) in flat
    assert f"{digits(boy.factor * 100, 1)} %" in flat
    assert "Kiosk counter" in flat
    assert all(ma(s.amps) in flat for s in derived[SUPPLIES_SOLVED])


def test_cautions_stand_with_their_steps(sheet):
    flat = " ".join(sheet.split())
    assert "organic-vapour mask" in flat
    assert "ask a licensed electrician" in flat
    assert "The label comes first" in flat


def test_open_prompts_are_on_the_sheet(heron, derived, sheet):
    flat = " ".join(sheet.split())
    assert "Open prompts" in flat
    for finding in all_prompts(derived)[:5]:
        assert finding.title.split(",")[0] in flat


def test_empty_projects_have_a_sheet_too(empty):
    text = PdfReader(BytesIO(make_sheet(derive(empty, TODAY), (), TODAY))).pages[0].extract_text()
    assert "Nothing is left to do" in text


def test_odd_names_do_not_break_the_sheet(heron, derived):
    odd = heron.model_copy(update={"name": "<b>&amp; \u2603 Ωµ “x”"})
    assert PdfReader(BytesIO(build_sheet(replace(derived, project=odd), (), TODAY))).pages


def test_the_calendar_follows_rfc_5545(heron, derived):
    assert (
        "is ready" not in running_order_ics(heron, derived[PLAN], datetime(2026, 11, 24, 12, tzinfo=UTC)).decode()
    )  # nobody can promise it
    plan = replace(derived[PLAN], stopped=())
    raw = running_order_ics(heron, plan, datetime(2026, 11, 24, 12, tzinfo=UTC))
    assert raw.count(b"\n") == raw.count(b"\r\n")
    assert max(len(line) for line in raw.split(b"\r\n")) <= 75
    events = [c for c in icalendar.Calendar.from_ical(raw).walk() if c.name == "VEVENT"]
    assert len(events) == len(plan.evenings) + 1
    assert len({str(e["uid"]) for e in events}) == len(events)
    for event, evening in zip(events, plan.evenings, strict=False):
        assert event["dtstart"].dt == evening.items[0].start
        assert timedelta(0) < event["dtend"].dt - event["dtstart"].dt <= timedelta(minutes=evening.minutes)
    assert events[-1]["dtstart"].dt == plan.finish.date()


def test_all_papers_come_under_their_names(heron, derived):
    papers = all_papers(derived, TODAY, datetime(2026, 11, 24, tzinfo=UTC))
    assert set(papers) == {"build-sheet.pdf", "cut-list.csv", "fits.csv", "needs.csv", "pieces.csv", "running-order.ics"}
    needs = list(csv.DictReader(io.StringIO(papers["needs.csv"].decode())))
    assert (needs[0]["need"], needs[0]["real_mm"], needs[0]["met_by"]) == ("Winch drum", "300 x 420", "Watch barrel")
    assert needs[0]["model_mm"] == f"{300 / 35:.2f} x {420 / 35:.2f}"
    fits = list(csv.DictReader(io.StringIO(papers["fits.csv"].decode())))
    assert next(f["verdict"] for f in fits) == "will not go in"
    assert b"Ferryman" in papers["pieces.csv"]


def test_the_sheet_is_printed_without_what_could_not_be_worked_out(heron, derived):
    left = replace(derived, values={k: v for k, v in derived.values.items() if k not in ("plan", "light")})
    papers = all_papers(left, TODAY, datetime.now(UTC))
    flat = " ".join("\n".join(p.extract_text() for p in PdfReader(BytesIO(papers["build-sheet.pdf"])).pages).split())
    assert "could not be worked out: finding the running order" in flat
    assert show_scale(derived[READINGS]["boy"].n) in flat
    assert "running-order.ics" not in papers


def test_a_string_of_many_lamps_and_the_longest_words_fit_on_pages(heron):
    lamps = tuple(Lamp(id=f"l{k}", name=f"{k} " + "W" * 110, x=k, y=10, z=10) for k in range(120))
    string = String(id="long", name="N" * 120, supply=heron.supplies[0].id, lamps=tuple(m.id for m in lamps))
    project = heron.but(lamps=(*heron.lamps, *lamps), strings=(*heron.strings, string))
    found = Reckoner().derive(project, Look(TODAY), [SUPPLIES_SOLVED])
    assert len(PdfReader(BytesIO(build_sheet(found, (), TODAY))).pages) > 1


@pytest.mark.parametrize("text", ["=1+1", "+cmd", "-2+3", "@SUM(A1)", "\tx", "'=x", "''-y", "=", "-5", "+1.5", "plain", "'tis", ""])
def test_no_cell_is_taken_for_a_formula_and_all_come_back(text):
    assert uncell(cell(text)) == text
    written = cell(text)
    if written.startswith(("=", "+", "-", "@", "\t", "\r")):
        assert float(written) is not None  # a number is what it is


def test_names_like_formulas_are_harmless_in_every_table(heron):
    bad = "=HYPERLINK(0)"
    project = heron.but(
        pieces=tuple(p.but(name=bad) for p in heron.pieces), needs=tuple(n.but(name=bad) for n in heron.needs), fits=tuple(f.but(name=bad) for f in heron.fits)
    )  # fmt: skip
    papers = all_papers(known(project), TODAY, datetime.now(UTC))
    for name in ("pieces.csv", "needs.csv", "fits.csv"):
        rows = list(csv.reader(io.StringIO(papers[name].decode())))
        assert rows[1:]
        assert {row[0] for row in rows[1:]} == {"'" + bad}
    bits = tuple(b.but(name=bad, note="+x") for b in heron.bits)
    text = write_bits(bits)
    assert bad in text
    assert f"\n{bad}" not in text
    assert [(b.name, b.note) for b in read_bits(text).bits] == [(bad, "+x")] * len(bits)


COMMA = desktop_signs(",")


def test_lists_with_the_signs_of_a_desktop_are_read_back_by_csv(heron, derived):
    text = all_papers(derived, TODAY, datetime.now(UTC), COMMA)["pieces.csv"].decode("utf-8-sig")
    rows = list(csv.reader(io.StringIO(text), delimiter=";"))
    plain = list(csv.reader(io.StringIO(all_papers(derived, TODAY, datetime.now(UTC))["pieces.csv"].decode("utf-8"))))
    assert len(rows) == len(plain)
    at = rows[0].index("measured_mm")
    for row, other in zip(rows[1:], plain[1:], strict=True):
        assert row[at].replace(",", ".") == other[at]
        assert "." not in row[at]
        assert row[0] == other[0]  # names stay as they are


def test_what_is_measured_stands_in_the_list_though_nothing_is_read(empty):
    piece = Piece(id="a", name="Lump", shape=Box(width=1, depth=1, height=1), measure=Measure(mm=12.5))
    rows = list(
        csv.DictReader(io.StringIO(all_papers(derive(empty.but(pieces=(piece,)), TODAY), TODAY, datetime.now(UTC))["pieces.csv"].decode()))
    )
    assert rows[0]["measured_mm"] == "12.50"


def test_a_calendar_without_a_day_is_not_written(empty, derived):
    assert "running-order.ics" not in all_papers(derive(empty, TODAY), TODAY, datetime.now(UTC))
    calendar = icalendar.Calendar.from_ical(all_papers(derived, TODAY, datetime.now(UTC))["running-order.ics"])
    assert [c for c in calendar.walk() if c.name == "VEVENT"]


def test_bits_with_a_comma_come_back_as_they_went(heron):
    bits = (*heron.bits, Bit(id="odd", name="Odd; one", outline="box", sizes=(12.345, 0.125, 1234.5)))
    for signs in (PLAIN, COMMA):
        text = write_bits(bits, signs)
        assert text.startswith("\ufeff") == signs.mark
        table = read_bits(text)
        assert table.troubles == ()
        assert [b.sizes for b in table.bits] == [pytest.approx(b.sizes, rel=1e-4) for b in bits]
        assert [b.name for b in table.bits] == [b.name for b in bits]


NAMES = {
    "Greek": "Ψαράς στην αποβάθρα", "Cyrillic": "Ночной паром", "Arabic": "سفينة صغيرة", "Hebrew": "סירה קטנה", "Chinese": "夜渡", "Japanese": "よるのふね", "Korean": "밤배", "Georgian": "ნავი",
}  # fmt: skip


@pytest.mark.parametrize("script", list(NAMES))
def test_names_of_any_script_have_their_letters_on_paper(empty, script):
    """No letter is left to a face that has none for it, in titles too."""
    faces.register()
    name = NAMES[script]
    for face in ("Plex", "PlexBold", "Display"):
        for found, part in faces.runs(f"{name} 12", face):
            font = pdfmetrics.getFont(found)
            if isinstance(font, TTFont):
                assert all(c.isspace() or ord(c) in font.face.charToGlyph for c in part), (script, found, part)
    piece = Piece(id="a", name=name, shape=Box(width=1, depth=1, height=1), measure=Measure(mm=12.5))
    data = make_sheet(derive(empty.but(name=name, pieces=(piece,)), TODAY), (), TODAY)
    assert len(PdfReader(BytesIO(data)).pages) >= 1


def test_what_is_read_from_the_right_is_joined_and_turned():
    """The order of the Unicode bidirectional algorithm, by python-bidi; joined forms by their code points: seen, yeh, feh, noon, teh marbuta."""
    faces.register()
    (run,) = faces.runs("سفينة", "Plex")
    assert [hex(ord(c)) for c in run[1]] == ["0xfe94", "0xfee8", "0xfef4", "0xfed4", "0xfeb3"]
    assert "".join(part for _f, part in faces.runs("Boat סירה 12", "Plex")).startswith("Boat הריס")
    assert faces.runs("Plain words", "Plex") == [("Plex", "Plain words")]


def test_a_long_name_without_a_blank_stays_on_the_page(empty):
    name = "W" * 119
    piece = Piece(id="a", name=name, shape=Box(width=1, depth=1, height=1), measure=Measure(mm=12.5))
    reader = PdfReader(BytesIO(make_sheet(derive(empty.but(name=name, pieces=(piece,)), TODAY), (), TODAY)))
    edge = []

    def visit(text, _matrix, place, _font, size):
        if text.strip():
            edge.append(place[4])

    for page in reader.pages:
        page.extract_text(visitor_text=visit)
        assert max(edge) < float(page.mediabox.width) - 20
    faces.register()
    assert faces.width(name[:20], "Display", 22) < 510


def test_nothing_is_missed_that_nobody_asked_for(empty):
    piece = Piece(id="a", name="Lump of Something", shape=Box(width=1, depth=1, height=1), measure=Measure(mm=12.5))
    text = " ".join(
        "".join(
            p.extract_text() for p in PdfReader(BytesIO(make_sheet(derive(empty.but(pieces=(piece,)), TODAY), (), TODAY))).pages
        ).split()
    )
    assert "could not be worked out" not in text
    assert "Lump of Something" in text
    assert "12.5 mm" in text
