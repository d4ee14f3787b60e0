# SPDX-License-Identifier: MIT
"""The build sheet as a PDF: pieces with their factors, wiring, running order with cautions, open prompts."""

from collections.abc import Sequence
from datetime import date
from io import BytesIO
from typing import Any

from reportlab.lib import colors
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from fondale.core.cautions import caution_words, cautions_of, cautions_of_supply
from fondale.core.derived import AIRS, JOBS, LEDGER, LIGHT, PLAN, READINGS, SUPPLIES_SOLVED
from fondale.core.diary.pace import money_words
from fondale.core.model import AREAS, BITS, METERS, MOMENTS, STRINGS, SUPPLIES, Project
from fondale.core.prints.jobs import percent_of
from fondale.core.prompts import Finding
from fondale.core.reckoning import Derived
from fondale.core.words import clipped, day_words, digits, hours_words, ma, odds_words, ohm_words, show_mm, show_real, show_scale
from fondale.papers import faces

INK, SOFT, LINE = colors.HexColor("#26303A"), colors.HexColor("#5F6973"), colors.HexColor("#D8CDB9")


SHOWN = (PLAN, LEDGER, READINGS, AIRS, JOBS, SUPPLIES_SOLVED, LIGHT)


def _style(font: str, size: float, **more: Any) -> ParagraphStyle:
    return ParagraphStyle(f"{font}{size}", fontName=font, fontSize=size, leading=size * 1.35, textColor=INK, **more)


def build_sheet(derived: Derived, prompts: Sequence[Finding], today: date) -> bytes:
    """The PDF, A4. Every number is that of the screens."""
    faces.register()
    project = derived.project
    out = BytesIO()
    document = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=16 * mm, rightMargin=16 * mm, topMargin=16 * mm, bottomMargin=16 * mm,
        title=f"{project.name}: build sheet", author="Fondale",
    )  # fmt: skip
    story = [
        *_head(project, derived, today),
        *_running_order(project, derived),
        *_pieces(project, derived),
        *_needs(project),
        *_fits(project, derived),
        *_prints(project, derived),
        *_wiring(project, derived),
        *_meters(project, derived),
        *_prompts(prompts),
    ]
    document.build(story, onFirstPage=_foot(project), onLaterPages=_foot(project))
    return out.getvalue()


def _foot(project: Project) -> Any:
    def draw(canvas: Any, document: Any) -> None:
        canvas.setFillColor(SOFT)
        x = 16 * mm
        for face, part in faces.runs(f"{clipped(project.name, 70)}, {show_scale(project.brief.house_n)}", "Plex"):
            canvas.setFont(face, 8)
            canvas.drawString(x, 9 * mm, part)
            x += canvas.stringWidth(part, face, 8)
        canvas.setFont("Plex", 8)
        canvas.drawRightString(A4[0] - 16 * mm, 9 * mm, f"page {document.page}")

    return draw


def _p(text: str, font: str = "Plex", size: float = 9) -> Paragraph:
    return Paragraph(faces.marked_up(text, font), _style(font, size))


def _section(title: str) -> Paragraph:
    return Paragraph(faces.marked_up(title, "Display"), _style("Display", 13, spaceBefore=10, spaceAfter=4))


def _grid(rows: list[list[str]], widths: list[float]) -> Table:
    cells = [[_p(c, "PlexBold" if i == 0 else "Plex", 8.5) for c in row] for i, row in enumerate(rows)]
    grid = Table(cells, colWidths=[w * mm for w in widths], repeatRows=1, splitInRow=1)
    grid.setStyle(TableStyle([("LINEBELOW", (0, 0), (-1, -1), 0.4, LINE), ("VALIGN", (0, 0), (-1, -1), "TOP"), ("TOPPADDING", (0, 0), (-1, -1), 2), ("BOTTOMPADDING", (0, 0), (-1, -1), 2)]))  # fmt: skip
    return grid


def _head(project: Project, derived: Derived, today: date) -> list[Flowable]:
    brief, plan, book = project.brief, derived.get(PLAN), derived.get(LEDGER)
    parts = [f"House scale {show_scale(brief.house_n)}"]
    if brief.deadline:
        parts.append(f"opens {day_words(brief.deadline)}")
    if plan and plan.silence:
        parts.append(plan.silence)
    if plan and plan.ready:
        parts.append(f"ready {day_words(plan.ready)}" + (f", odds {odds_words(plan.odds)}" if plan.odds is not None else ""))
    if plan:
        parts.append(f"{hours_words(plan.hands_minutes / 60)} at the bench to go")
    if book:
        parts.append(money_words(book, brief.currency))
    missing = [r.words for r in SHOWN if derived.get(r) is None and not (r is LIGHT and not project.lamps)]
    case = project.case
    size = f"Case: {case.kind}, inside {digits(case.width, 0)} × {digits(case.depth, 0)} × {digits(case.height, 0)} mm"
    return [
        Paragraph(faces.marked_up(project.name, "Display"), _style("Display", 22, spaceAfter=4)),
        _p("; ".join(parts) + "."),
        _p(size + f". Printed {day_words(today)} {today.year}."),
        *([_p(f"Not in it, because it could not be worked out: {', '.join(missing)}.", "PlexBold")] if missing else []),
        Spacer(1, 4 * mm),
    ]


def _running_order(project: Project, derived: Derived) -> list[Flowable]:
    plan = derived.get(PLAN)
    if plan is None:
        return []  # what could not be worked out is told at the head
    if not plan.evenings:
        return [_section("Running order"), _p(plan.trouble or "Nothing is left to do.")]
    steps = {s.id: s for s in project.steps}
    out: list[Flowable] = [_section("Running order")]
    for evening in plan.evenings:
        rows: list[list[str]] = [["", f"{day_words(evening.day)}, {evening.minutes} min", "min", "care"]]
        for item in evening.items:
            step = steps[item.step]
            part = f" ({item.part} of {item.parts})" if item.parts > 1 else ""
            rows.append(["–", step.name + part, str(item.minutes), " ".join(caution_words(cautions_of(project, step)))])
        out.append(KeepTogether([_grid(rows, [6, 78, 12, 82]), Spacer(1, 2 * mm)]))
    if plan.cords:
        out.append(_section("What dries"))
        rows = [["coat", "from", "until", "then"]]
        for cord in plan.cords:
            rows.append([steps[cord.step].name, f"{day_words(cord.start)} {cord.start:%H:%M}", f"{day_words(cord.until)} {cord.until:%H:%M}", steps[cord.next_step].name])  # fmt: skip
        out.append(_grid(rows, [58, 32, 32, 56]))
    return out


def _pieces(project: Project, derived: Derived) -> list[Flowable]:
    rows = [["piece", "measured", "native scale", "right here", "print at", "reads as"]]
    for piece in project.pieces:
        reading = (derived.get(READINGS) or {}).get(piece.id)
        if reading is None:
            mm_told = show_mm(piece.measure.mm) if piece.measure is not None else ""
            rows.append([piece.name, mm_told, "not read", "", "", "lost" if piece.lost else ""])
            continue
        percent = f"{digits(percent_of(project, piece) * reading.factor, 1)} %" if piece.origin == "printed file" else ""
        native = f"{show_scale(reading.n)} ({show_scale(reading.low)} to {show_scale(reading.high)})"
        rows.append([piece.name, show_mm(reading.measured_mm), native, show_mm(reading.wanted_mm), percent, f"{reading.words}: {reading.verdict}"])  # fmt: skip
    return [_section("Pieces"), _grid(rows, [34, 20, 44, 20, 18, 42])] if len(rows) > 1 else []


def _needs(project: Project) -> list[Flowable]:
    """What is still to be made, with the sizes that were read off photographs."""
    house = project.brief.house_n
    rows = [["to make", "real", "here", "how"]]
    for need in project.needs:
        bit = project.find(BITS, need.bit)
        real = " × ".join(show_real(r) for r in need.real)
        how = f"from {bit.name}" if bit else "made" if need.made else "open"
        rows.append([need.name, real, " × ".join(show_mm(r / house) for r in need.real), how])
    return [_section("Parts to make"), _grid(rows, [46, 54, 44, 34])] if len(rows) > 1 else []


def _fits(project: Project, derived: Derived) -> list[Flowable]:
    rows = [["fit", "hole", "peg", "air after paint", "what to do"]]
    for fit in project.fits:
        air = (derived.get(AIRS) or {}).get(fit.id)
        if air is None:
            continue
        todo = "; or ".join(air.ways) or air.verdict
        rows.append([fit.name, f"{digits(fit.hole, 2)} mm", f"{digits(fit.peg, 2)} mm", f"{digits(air.painted, 2)} mm a side", todo])
    return [_section("Fits after paint"), _grid(rows, [44, 20, 20, 28, 66])] if len(rows) > 1 else []


def _prints(project: Project, derived: Derived) -> list[Flowable]:
    rows = [["file", "percent", "printed", "on", "what it takes"]]
    for file in project.prints:
        job = (derived.get(JOBS) or {}).get(file.id)
        if job is None:
            continue
        parts = f", {job.parts} parts" if job.parts > 1 else ""
        size = " × ".join(digits(s, 0) for s in file.printed)
        rows.append([file.name, f"{digits(file.percent, 1)} %", f"{size} mm{parts}", job.machine, job.words])
    return [_section("Prints"), _grid(rows, [36, 18, 40, 34, 50])] if len(rows) > 1 else []


def _wiring(project: Project, derived: Derived) -> list[Flowable]:
    solved = derived.get(SUPPLIES_SOLVED)
    if not solved:
        return []
    out: list[Flowable] = [_section("Wiring")]
    names = {m.id: m.name for m in project.lamps}
    for result in solved:
        supply = project.get(SUPPLIES, result.supply)
        load = f"{supply.name}: {ma(result.amps)} of {ma(result.limit_a)}"
        if result.hours_half is not None:
            load += f"; half light after {digits(result.hours_half, 1)} h"
        out.append(_p(load, "PlexBold"))
        rows = [["string", "wired", "resistor", "lamps and current", "wire"]]
        for strung in result.strings:
            string = project.get(STRINGS, strung.string)
            lamps = ", ".join(f"{names[x.lamp]} {ma(x.amps)}" for x in strung.lamps)
            wired = "one after the other" if string.wiring == "series" else "side by side"
            resistor = ohm_words(string.resistor_ohm) if string.resistor_ohm else "none"
            rows.append([string.name, wired, resistor, lamps, f"{digits(string.wire_mm, 0)} mm, AWG {string.awg}"])
        out += [_grid(rows, [34, 32, 20, 62, 30]), Spacer(1, 2 * mm)]
    fed = {key: None for supply in project.supplies for key in cautions_of_supply(supply)}
    out += [_p(text, size=8) for text in caution_words(fed)]
    return out


def _meters(project: Project, derived: Derived) -> list[Flowable]:
    light = derived.get(LIGHT)
    if light is None or not (light.meters or light.areas):
        return []
    moment = project.find(MOMENTS, light.moment)
    rows = [["meter", "light", "wanted"]]
    for reading in light.meters:
        meter = project.get(METERS, reading.meter)
        wanted = f"{digits(meter.wanted_lx, 0)} lx" if meter.wanted_lx else ""
        rows.append([meter.name, f"{digits(reading.lux, 0)} lx", wanted])
    for found in light.areas:
        area = project.find(AREAS, found.area)
        wanted = f"{digits(area.wanted_u0, 2)} even" if area is not None and area.wanted_u0 else ""
        rows.append([found.name(project), f"{digits(found.mean_lx, 0)} lx, {digits(found.evenness, 2)} even", wanted])
    return [_section("Light" + (f" under “{moment.name}”" if moment else "")), _grid(rows, [70, 30, 30])]


def _prompts(prompts: Sequence[Finding]) -> list[Flowable]:
    if not prompts:
        return []
    rows = [["", "what", "why and what to do"]]
    rows += [[f.severity, f.title, f"{f.text} ({f.numbers})"] for f in prompts]
    return [_section("Open prompts"), _grid(rows, [14, 40, 124])]
