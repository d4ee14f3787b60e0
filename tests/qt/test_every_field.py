# SPDX-License-Identifier: MIT
"""Whatever the project holds can be set in the window: every page is walked, all that stands on it is used, and what changes is noted."""

from collections import Counter
from collections.abc import Iterator
from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QCheckBox, QRadioButton, QSlider, QWidget

from fondale.core.edits import apply, put
from fondale.core.edits.layouts import keep_layout
from fondale.core.edits.new_things import add_piece
from fondale.core.model import (
    AREAS,
    FITS,
    LAMPS,
    LISTS,
    METERS,
    MOMENTS,
    PIECES,
    PRINTS,
    ROOMS,
    SEATS,
    STEPS,
    STRINGS,
    SUPPLIES,
    SURFACES,
    Area,
    CaseOpening,
    CaseRoom,
    Fit,
    Join,
    Model,
    Need,
    Piece,
    Project,
    Seat,
    Sling,
    Step,
    Tie,
    bench,
    brief,
    coats,
    diary,
    lamps,
    own,
    photos,
    prints,
    project,
    shapes,
    stage,
)
from fondale.core.shapes import FURNITURE, KINDS
from fondale.core.troubles import Trouble
from fondale.qt.furniture.fields import Choice, Field
from fondale.qt.furniture.finder import Several
from fondale.qt.furniture.pages import PagedStation

MODULES = (bench, brief, coats, diary, lamps, own, photos, prints, project, shapes, stage)
TEXTS = (
    "30° down, turned 20°", "height 33 67, width 50", "1500 mm", "20", "7", "12 18 25", "3 mm", "30 mm", "5°", "1:24", "2026-12-24", "20:15", "Another name", "olive", "2", "0.5", "101 %", "110 100 100", "90",
    "15 g", "2 x 3 x 4", "60.5", "2 x water acrylic", "front 20-80 x 30-70, 3 mm",
)  # fmt: skip
# What has no field of its own, and why.
ELSEWHERE = {
    "id": "names what names it; nobody reads it",
    "kind": "what a shape is: chosen when it is added, or brought",
    "asset": "a file among the assets, brought",
}
BROUGHT = "measured on the file that was brought"
DRAWN = "stretched on the photograph with the mouse: test_photographs"
EXCEPTIONS = {
    **dict.fromkeys((("Mesh", n) for n in ("file", "points", "faces")), "made of the file that it shows"),
    **dict.fromkeys((("PrintFile", n) for n in ("size", "volume", "area", "centre", "base", "triangles", "bodies", "watertight", "repairs")), BROUGHT),
    ("GroundLine", "points"): "drawn on the ground with the mouse: test_stage_things",
    ("PrintFile", "unit"): "asked when the file is brought",
    **dict.fromkeys((("Photo", n) for n in ("width", "height")), BROUGHT),
    **dict.fromkeys((("Thread", "a"), ("Thread", "b"), ("Thread", "hand_px"), ("Frame", "hand_px"), ("Horizon", "hand_px"), ("Frame", "width_give_mm"), ("Frame", "height_give_mm"), ("Photo", "horizon"), ("Frame", "corners")), DRAWN),
    **dict.fromkeys((("Horizon", n) for n in ("left", "right")), DRAWN),
    **dict.fromkeys((("Accepted", n) for n in ("key", "reason")), "written by “Leave it because” in the prompt corner: test_frame"),
    **dict.fromkeys((("OwnRow", n) for n in ("name", "table", "section", "like", "values", "source")), "a row of one’s own in the window of the tables: test_tables_window"),
    ("Project", "own"): "made in the window of the tables: test_tables_window",
    ("Project", "schema_version"): "the version of the file's form",
    ("Supply", "kind"): "a plug or cells, chosen when it is added",
    ("Machine", "row"): "chosen when it is added",
    ("Need", "bit"): "the bit that was used for it: “Use it”",
    **dict.fromkeys((("Need", "thread"), ("Piece", "thread")), "the thread that it was made of: test_photographs"),
    ("Layout", "stands"): "kept by “Keep the present layout”: test_stations",
    **dict.fromkeys((("Stood", "piece"), ("Stood", "place")), "kept by “Keep the present layout”: test_stations"),
    ("Piece", "lost"): "“It is lost” and “It is found” on the shelf: test_bench",
    ("PrintFile", "thin"): BROUGHT,
    **dict.fromkeys((("Thin", n) for n in ("at", "mm")), BROUGHT),
    ("Need", "made"): "“Met” and “Open again”: test_bench",
    ("Step", "file"): "handed over by the print shop: test_thread",
    ("Step", "duty"): "handed over with the step: nobody reads it",
    ("Lamp", "level"): "the slider, where there is no moment; with one it sets the moment’s: test_stations",
    ("Project", "moment"): "the slide that is chosen on the rail: test_stations",
}  # fmt: skip


BELONGS = {
    "brief": ("photos", "machines"), "bench": ("pieces", "bits", "needs", "fits", "joins", "prints"), "stage": ("pieces", "seats", "rooms", "layouts"),
    "lamps": ("lamps", "strings", "supplies", "meters", "areas", "moments"), "coats": ("surfaces", "steps"), "diary": ("pages",),
}  # fmt: skip


def models() -> Iterator[type[Model]]:
    for module in MODULES:
        for thing in vars(module).values():
            if isinstance(thing, type) and issubclass(thing, Model) and thing.__module__ == module.__name__ and not thing.__subclasses__():
                yield thing


def changed(before: Any, after: Any) -> set[tuple[str, str]]:
    """(model, field) pairs whose value is another one."""
    if before is after or before == after:
        return set()
    if isinstance(after, Model) and type(before) is type(after):
        news = [n for n in type(after).model_fields if getattr(before, n) != getattr(after, n)]
        return {(type(after).__name__, n) for n in news} | {p for n in news for p in changed(getattr(before, n), getattr(after, n))}
    if isinstance(after, Model):
        return {(type(after).__name__, n) for n in type(after).model_fields} if before is None else set()
    if isinstance(after, tuple) and isinstance(before, tuple):
        out = {p for a, b in zip(before, after, strict=False) for p in changed(a, b)}
        new = [b for b in after[len(before) :] if isinstance(b, Model)]
        return out | {(type(b).__name__, n) for b in new for n in b.model_fields_set}
    return set()


def furnished(heron: Project) -> Project:
    """The demo with one thing of every kind that it lacks, and one step left to be done of each sort."""
    for kind in (*KINDS, FURNITURE[0]):
        if kind.words and kind.model not in {type(p.shape) for p in heron.pieces}:
            edit, _ident = add_piece(heron, kind)
            heron = apply(heron, edit)
    guessed = Piece(id="guessed", name="Guessed", shape=shapes.Animal(), shown_mm=20.0)  # an animal that nobody has measured
    last = next(k for k, p in reversed([*enumerate(heron.pieces)]) if isinstance(p.shape, shapes.Animal))
    heron = heron.but(pieces=(*heron.pieces[: last + 1], guessed, *heron.pieces[last + 1 :]))
    two = tuple(m.but(id=f"{m.id}-two", name=f"{m.name} two") for m in heron.brief.machines)
    heron = heron.but(
        brief=heron.brief.but(machines=(*heron.brief.machines, *two)),
        needs=heron.needs or (Need(id="need", name="Need", real=(300.0, 420.0)),), fits=heron.fits or (Fit(id="fit", name="Fit", hole=5.2, peg=5.0),), joins=heron.joins or (Join(id="join", name="Joint"),),
        steps=(*heron.steps, Step(id="past", name="Past", done=True), Step(id="tied", name="Tied", ties=(Tie(step="past"),))),
    )  # fmt: skip
    hole = CaseOpening(side="front", x=20, width=30, height=40)
    room = CaseRoom(id="upper", name="Upper room", z=300.0, front="board", openings=(hole,))
    heron = heron.but(case=heron.case.but(rooms=(room,), openings=(hole.but(side="back"),)))
    tied = [p.id for p in heron.pieces if isinstance(p.shape, shapes.Box)][-1]  # of every kind the last one is walked
    heron = apply(heron, put(PIECES.at(tied).then(lambda p: p.slings), (Sling(x=100.0, y=100.0, z=200.0, at_z=40.0),), "Hang"))
    ground = [p.id for p in heron.pieces if isinstance(p.shape, shapes.Ground)][-1]
    line = shapes.GroundLine(kind="stroke", points=((0.0, 0.0), (0.2, 0.1)))
    heron = apply(heron, put(PIECES.at(ground).then(lambda p: p.shape).narrowed(shapes.Ground).then(lambda s: s.lines), (line,), "Line"))
    heron = apply(heron, put(PIECES.at(ground).then(lambda p: p.swing_deg), 30.0, "Turn"))
    heron = heron.but(
        seats=(*heron.seats, Seat(id="lens", name="Lens", lens_mm=50.0)),
        areas=(Area(id="even", name="Even", x=20, y=20, width=60, depth=40),),
    )
    kept, _ident = keep_layout(heron)
    heron = apply(heron, kept)
    return heron.but(lamps=tuple(m.but(motion="candle") if i == 0 else m for i, m in enumerate(heron.lamps)))


USED = (Field, Choice, Several, QCheckBox, QRadioButton, QSlider)


def caption_of(widget: QWidget) -> str:
    """What a box, a list or a slider is called."""
    if isinstance(widget, Choice):
        return widget.box.accessibleName()
    return widget.text() if isinstance(widget, QCheckBox | QRadioButton) else widget.accessibleName()


class Walk:
    """Uses everything that can be seen, and undoes it again."""

    def __init__(self, desk: Any) -> None:
        self.desk, self.found = desk, set[tuple[str, str]]()
        self.where: tuple[str, ...] = ()
        self.done = set[tuple[Any, ...]]()
        self.of_all = set[tuple[Any, ...]]()  # what stands on the tickets of all shapes, and changes nothing of the shape
        self.shaped = False
        self.took = dict[str, str]()  # what a field of a name took last

    def note(self, before: Project) -> bool:
        now = self.desk.session.project
        if now is before:
            return False
        pairs = changed(before, now)
        self.found |= pairs
        self.shaped |= ("Piece", "shape") in pairs
        while self.desk.session.document.undo_label:
            self.desk.session.document.undo()
        QApplication.processEvents()
        return True

    def use(self, root: QWidget) -> None:
        """Every field, list, box and slider below a widget, each once for each sort of thing that is chosen."""
        met: Counter[tuple[Any, ...]] = Counter()
        for widget in [w for w in root.findChildren(QWidget) if isinstance(w, USED)]:
            if not self.alive(widget):
                continue
            what = (type(widget), getattr(widget, "caption", "") or caption_of(widget))
            met[what] += 1
            key, everywhere = (*self.where, *what, met[what]), (*self.where[:-1], *what, met[what])
            self.shaped = False
            if key not in self.done and everywhere not in self.of_all and self.use_one(widget):
                self.done.add(key)
                if not self.shaped:
                    self.of_all.add(everywhere)

    @staticmethod
    def alive(widget: QWidget) -> bool:
        try:
            return widget.isVisible() and widget.isEnabled()
        except RuntimeError:  # its page was built anew by what was done before
            return False

    def use_one(self, widget: QWidget) -> bool:
        """Whether using it changed something."""
        before = self.desk.session.project
        if isinstance(widget, Field):
            name = widget.edit.accessibleName()
            for text in dict.fromkeys((self.took.get(name, TEXTS[0]), *TEXTS)):
                try:
                    if not self.alive(widget) or widget._parse(text) is None:
                        continue
                except Trouble:
                    continue
                self.desk.type(widget.edit, text)
                if self.note(before):
                    self.took[name] = text
                    return True
                widget.edit.setModified(False)
            return False
        if isinstance(widget, Choice):
            known = False
            for i in range(len(widget.box.words)):
                if self.alive(widget) and not (known and not isinstance(widget._options[i][0], tuple)):
                    widget.box.activated.emit(i)
                    known |= self.note(before)
            return known
        if isinstance(widget, Several):
            sorts = {v[0] if isinstance(v, tuple) else "": text for v, text in reversed(widget._options())}
            for text in sorts.values():  # one thing of each sort that it offers
                QTest.mouseClick(widget, Qt.MouseButton.LeftButton)
                QTest.keyClicks(widget.finder.line, text)
                QTest.keyClick(widget.finder.line, Qt.Key.Key_Return)
                widget.finder.close()
                self.note(before)
            return bool(sorts)
        if isinstance(widget, QCheckBox | QRadioButton):
            widget.click()
        else:
            widget.setValue(widget.value() + 7 if widget.value() < 90 else 10)
        return self.note(before)


@pytest.mark.slow
def test_every_field_of_every_model_has_a_place_in_the_window(desk, heron):
    d = desk(furnished(heron), width=1280, height=800)
    d.settle("quick")
    walk, session = Walk(d), d.session
    kinds = {(type(p.shape), bool(getattr(p.shape, "person", ""))): p.id for p in d.project.pieces}
    chosen = {SURFACES: [d.project.surfaces[0].id, "ferryman"], SUPPLIES: [s.id for s in d.project.supplies], PIECES: [*kinds.values()], STEPS: ["past", d.project.steps[5].id],
              FITS: [d.project.fits[0].id, "roof-magnet"], SEATS: [d.project.seats[0].id, "lens"]}  # fmt: skip
    for name in ("brief", "bench", "stage", "lamps", "coats", "diary"):
        station = d.station(name)
        for page in list(station.pages) if isinstance(station, PagedStation) else [""]:
            if page:
                station.turn_to(page)
            for listing in LISTS:
                members = listing.members(d.project)
                for ident in chosen.get(listing, [m.id for m in members[:1]]) if members else ():
                    if (listing == PIECES and name not in ("bench", "stage")) or (listing == STEPS and name != "coats"):
                        continue
                    if listing.name not in BELONGS[name]:
                        continue
                    session.select(listing, ident)
                    d.settle("quick")
                    if listing in (LAMPS, STRINGS, SUPPLIES, METERS, AREAS, MOMENTS) and name == "lamps":
                        station._choose(listing, ident)
                    if listing == SEATS and name == "stage" and page == "The scene":
                        session.choose_seat(ident)
                        station.page._choose("seats")
                        d.settle("quick")
                    if listing == SURFACES and name == "coats":
                        station._choose_surface(ident)
                    QApplication.processEvents()
                    thing = d.project.find(listing, ident)
                    walk.where = (name, page, listing.name, type(getattr(thing, "shape", None)).__name__)
                    walk.use(station)
            if page == "The case":
                session.select(ROOMS, "")  # the case itself
                d.click(station.page.sides["back"])
                d.settle("quick")
                walk.where = (name, page, "case", "")
                walk.use(station)
    others(d, walk)
    missing = []
    for model in models():
        for field in model.model_fields:
            pair = (model.__name__, field)
            if pair not in walk.found and field not in ELSEWHERE and pair not in EXCEPTIONS and not lists(model, field):
                missing.append(pair)
    assert missing == [], ", ".join(f"{m}.{f}" for m, f in missing)
    needless = [p for p in EXCEPTIONS if p in walk.found]
    assert needless == [], f"what can be set needs no excuse: {needless}"


def lists(model: type[Model], field: str) -> bool:
    """Whether a field of the project is one of its lists: its members are walked themselves."""
    return model is Project and (field in {x.name for x in LISTS} or field in ("brief", "case", "accepted"))


def others(d: Any, walk: Walk) -> None:
    """What is not a field: ties, a page of the diary, days off."""
    before = d.project
    bench_ = d.station("bench")
    bench_.turn_to("The shelf")
    d.session.select(PIECES, d.project.pieces[0].id)
    QApplication.processEvents()
    d.type(bench_.page.details.error.edit, "0.3")
    d.type(bench_.page.details.length.edit, "8 mm")
    walk.note(before)
    coats_ = d.station("coats")
    d.session.select(STEPS, "tied")
    coats_.ticket._tie_to("together", d.project.steps[0].id)
    walk.note(before)
    brief_ = d.station("brief")
    brief_.turn_to("House rules")
    d.settle("quick")
    for line in brief_.page._lines.values():
        if line.own_fields:
            line.own.click()
            QApplication.processEvents()
            walk.where = ("brief", "House rules", "own", line.objectName())
            walk.use(line)
    bench_.turn_to("Print shop")
    d.session.select(PRINTS, d.project.prints[0].id)
    d.settle("quick")
    before, quotes = d.project, bench_.page.takes.quotes
    d.click(d.button(quotes, "Take it"))
    walk.found |= changed(before, d.project)
    d.settle("quick")
    for field in quotes.fields.values():
        asked = d.project
        d.type(field.edit, "3")
        walk.found |= changed(asked, d.project)
    while d.session.document.undo_label:
        d.session.document.undo()
    diary_ = d.station("diary")
    before = d.project
    d.type(diary_.minutes.edit, "40")
    d.type(diary_.spent.edit, "3.5")
    diary_.begun.box.activated.emit(1)
    d.type(diary_.begun_min.edit, "20")
    next(b for b in diary_.findChildren(QCheckBox) if b.isVisible()).click()
    diary_.words.setPlainText("Mixed two greens")
    diary_.lesson.setPlainText("Thinner next time")
    d.click(diary_.timer_button)
    d.window.projects.taking.take()
    walk.found |= changed(before, d.project)
    d.click(diary_.write)
    walk.note(before)
