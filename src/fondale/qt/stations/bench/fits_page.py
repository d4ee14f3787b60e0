# SPDX-License-Identifier: MIT
"""Fits: what goes into what after paint, and how many figures go into an inside."""

from typing import get_args

from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from fondale.core.cautions import cautions_of_fit
from fondale.core.derived import AIRS, PULLS
from fondale.core.edits import Remove
from fondale.core.edits.boxes import add_fit
from fondale.core.edits.handing import HandFit
from fondale.core.edits.measuring import mend_fit
from fondale.core.fits.air import Air, air_of, air_told, coat_names, parse_coats
from fondale.core.fits.magnets import pull_told
from fondale.core.model import FITS, Fit
from fondale.core.model.bench import Process
from fondale.knowledge import table
from fondale.qt.furniture.columns import Columns, FieldGrid
from fondale.qt.furniture.fields import Choice, Field, length_field, length_or_none, words
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.pages import Page
from fondale.qt.furniture.prose import Prose
from fondale.qt.furniture.rows import action, headed, line_of
from fondale.qt.furniture.ticket import Row, Ticket
from fondale.qt.session import Session
from fondale.qt.stations.bench.fit_cells import VERDICT, FitCells, draw_section
from fondale.qt.stations.bench.how_many import HowMany

CAPTION = 84


class SectionDrawing(QWidget):
    """The chosen fit, large, with its dimensions."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.fit: Fit | None = None
        self.setAccessibleName("Section of the fit")

    def minimumSizeHint(self) -> QSize:
        return QSize(0, self._session.theme.px(120))

    def sizeHint(self) -> QSize:
        return QSize(280, 170)

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.fit is None:
            return
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        air = self._session.results.one(AIRS, self.fit.id)
        theme = self._session.theme
        room = QRectF(self.rect()).adjusted(20, theme.px(28), -20, -theme.px(40))
        draw_section(p, self._session, self.fit, air, room, large=True)


class FitsPage(Page):
    """Sections of all fits; below, the chosen one with its ticket, and the counting of seats."""

    title = "Fits"
    shows = (FITS,)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        row = QHBoxLayout()
        row.addWidget(action("Add a fit", self._add))
        row.addStretch(1)
        column.addLayout(row)
        self.cells = FitCells(session)
        self.cells.chosen.connect(lambda i: session.select(FITS, i))
        column.addWidget(self.cells.framed(), 3)
        self.how_many = HowMany(session)
        left = QVBoxLayout()
        self.ticket = Ticket(1)
        self.ticket.removed.connect(self._remove)
        self.foresee(self.ticket, "fit", self._rows)
        left.addWidget(self.ticket)
        self.hand = action("Hand it to Coats", self._hand_over, "A step that tries this fit dry")
        left.addLayout(line_of(self.hand))
        left.addStretch(1)
        column.addWidget(Columns(14, (left, 10), (self._what_is_left(), 9), (self.how_many, 9)), 4)

    def _what_is_left(self) -> QVBoxLayout:
        column = headed("The air left")
        self.air = HowButton()
        column.addLayout(line_of(self.air))
        self.section = SectionDrawing(self.session)
        column.addWidget(self.section, 1)
        self._ways = Prose()
        self._ways.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        column.addWidget(self._ways)
        self.mend = action("Open the hole", lambda: self._mend(0))
        self.again = action("Print it again", lambda: self._mend(1))
        column.addWidget(self.mend)
        column.addWidget(self.again)
        self._magnet_fields = FieldGrid(1)
        self.pull = HowButton()
        self._magnet = Prose()
        for widget in (self._magnet_fields, self.pull, self._magnet):
            column.addWidget(widget)
        column.addStretch(0)
        return column

    @property
    def fit(self) -> Fit | None:
        """The chosen fit."""
        found = self.chosen(FITS)
        return found if isinstance(found, Fit) else None

    def _rows(self) -> list[Row]:
        house = lambda: self.session.project.brief.house_n  # noqa: E731

        kinds = [(k, r["name"]) for k, r in table("fits")["kind"].items()]
        processes = [(p, table("fits")["process"][p]["name"]) for p in get_args(Process)]
        masks = [("", "no face"), ("hole", "the hole"), ("peg", "the peg"), ("both", "both faces")]
        fields = (
            self.row(FITS, lambda f: f.name, "Rename", lambda put: Field("name", words(1, 120), str, put)),
            self.row(FITS, lambda f: f.kind, "Kind of fit", lambda put: Choice("kind", kinds, put)),
            self.row(FITS, lambda f: f.hole, "Hole", lambda put: length_field("hole", put, house)),
            self.row(FITS, lambda f: f.peg, "Peg", lambda put: length_field("peg", put, house)),
            self.row(FITS, lambda f: f.process, "Process", lambda put: Choice("made as", processes, put)),
            self.row(FITS, lambda f: f.peg_process, "Process", lambda put: Choice("the other", [("", "the same way"), *processes], put)),
            self.row(FITS, lambda f: f.hole_coats, "Coats in the hole", lambda put: Field("coats, hole", parse_coats, coat_names, put)),
            self.row(FITS, lambda f: f.hole_on, "Face of the hole", lambda put: Choice("hole is on", [], put)),
            self.row(FITS, lambda f: f.peg_coats, "Coats on the peg", lambda put: Field("coats, peg", parse_coats, coat_names, put)),
            self.row(FITS, lambda f: f.peg_on, "Face of the peg", lambda put: Choice("peg is on", [], put)),
            self.row(FITS, lambda f: f.brushed, "Put on", lambda put: Choice("put on", [(False, "sprayed"), (True, "brushed")], put)),
            self.row(FITS, lambda f: f.masked, "Masked", lambda put: Choice("masked", masks, put)),
        )
        magnet = (
            self.row(FITS, lambda f: f.magnet.thick, "Magnet", lambda put: length_or_none("thick", put, "not told")),
            self.row(FITS, lambda f: f.magnet.deep, "Seat", lambda put: length_or_none("seat deep", put, "as it needs")),
            self.row(FITS, lambda f: f.magnet.ring, "Ring", lambda put: length_or_none("ring’s hole", put, "a disc")),
            self.row(FITS, lambda f: f.magnet.between, "Between", lambda put: length_or_none("between", put, "nothing")),
            self.row(FITS, lambda f: f.magnet.grade, "Kind of magnet", lambda put: Choice("of", lambda: [(k, r["name"]) for k, r in table("fits")["grade"].items()], put)),
            self.row(FITS, lambda f: f.magnet.other, "What it pulls", lambda put: Choice("pulls", [(o, o) for o in ("its like", "steel")], put)),
        )  # fmt: skip
        self._named = dict(zip(("hole", "peg", "hole_coats", "hole_on", "peg_coats", "peg_on", "brushed"), (f for f, _r in (*fields[2:4], *fields[6:11])), strict=True))  # fmt: skip
        self._magnet_rows = [(f.caption_width(CAPTION), read) for f, read in magnet]
        self._magnet_fields.fill([f for f, _read in self._magnet_rows])
        return [(f.caption_width(CAPTION), read) for f, read in fields]

    def _fit_rows(self, fit: Fit) -> None:
        """The rows that this fit has, by the words of its kind."""
        project, kind = self.session.project, table("fits")["kind"][fit.kind]
        faces = [("", "no face of Coats"), *((s.id, s.name) for s in project.surfaces)]
        for name in ("hole", "peg"):
            field = self._named[name]
            if isinstance(field, Field):
                field.caption = kind[name]
            on = self._named[f"{name}_on"]
            if isinstance(on, Choice):
                on.set_options(faces)
            on.setVisible(bool(project.surfaces))
            self._named[f"{name}_coats"].setVisible(not getattr(fit, f"{name}_on"))
        self._named["brushed"].setVisible(not (fit.hole_on and fit.peg_on))
        for field, read in self._magnet_rows:
            field.set_value(read(project))

    def _add(self) -> None:
        edit, ident = add_fit(self.session.project)
        if self.session.do(edit):
            self.session.select(FITS, ident)

    def _hand_over(self) -> None:
        if self.fit is not None and self.session.do(HandFit(f"Steps of {self.fit.name}", self.fit.id)):
            self.session.said.emit(f"“Try {self.fit.name} dry” is among the steps on Coats.")

    def _remove(self) -> None:
        fit = self.fit
        if fit is not None:
            self.session.do(Remove(f"Remove {fit.name}", FITS, fit.id))

    def _air(self, fit: Fit) -> Air:
        return air_of(fit, self.session.project.brief.rules.tolerance, self.session.project)

    def _mend(self, which: int) -> None:
        fit = self.fit
        if fit is not None:
            mends = self._air(fit).mends
            if which < len(mends):
                self.session.do(mend_fit(fit, mends[which]))

    def refresh(self) -> None:
        """Follow the project."""
        project = self.session.project
        airs = self.session.results[AIRS] or {}
        bad = sum(a.verdict in ("tight", "will not go in") for a in airs.values())
        self.note = (
            f"{bad} of {len(project.fits)} will not fit after paint"
            if project.fits
            else "bare sizes, coats on both faces, and the air that is left"
        )
        fit = self.fit
        self.cells.show_things(project.fits, fit.id if fit else "")
        for widget in (self.ticket, self.hand, self.air, self.section, self.mend, self.again, self.pull, self._magnet, self._magnet_fields):
            widget.setVisible(fit is not None)
        self.how_many.refresh()
        if fit is None:
            self._ways.setText("Add a fit, and the air that is left after paint stands here.")
            return
        self.ticket.show_thing("fit", fit.name, True, self._rows)
        self._fit_rows(fit)
        self.ticket.read(project)
        self.ticket.show_care(cautions_of_fit(fit))
        air = self._air(fit)
        self.section.fit = fit
        self.section.update()
        self.air.show_told(air_told(air))
        self.air.setProperty("verdict", VERDICT[air.verdict])
        ways = f" You can {'; or '.join(air.ways)}." if air.ways else ""
        self._ways.setText(air.words + ways)
        for button, mend in zip((self.mend, self.again), (*air.mends, None, None), strict=False):
            button.setVisible(mend is not None)
            if mend is not None:
                button.setText(mend.label)
        pull = self.session.results.one(PULLS, fit.id)
        self._magnet_fields.setVisible(fit.kind == "magnet")
        self._magnet.setVisible(fit.kind == "magnet")
        self.pull.setVisible(pull is not None)
        if pull is not None:
            self.pull.show_told(pull_told(pull))
        self._magnet.setText(pull.words if pull is not None else "Say how thick the magnet is, and its pull stands here.")
