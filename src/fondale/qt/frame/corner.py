# SPDX-License-Identifier: MIT
"""The prompt corner: one card a prompt, worst first, for the station shown; the others are counted."""

from PySide6.QtCore import QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from fondale.core.cautions import caution_words
from fondale.core.derived import READINGS
from fondale.core.edits.leaving import Accept
from fondale.core.prompts import Finding
from fondale.qt.frame.breath import Breath
from fondale.qt.furniture.dialogs import ask
from fondale.qt.furniture.prose import Line, Prose
from fondale.qt.furniture.rows import ShortAction, clear, hold
from fondale.qt.session import Session
from fondale.qt.theme import signs

CARD_MS = 12  # between two cards: one a turn, and others in between


class SeveritySign(QWidget):
    """The square of a severity."""

    def __init__(self, session: Session, level: str) -> None:
        super().__init__()
        self._session, self._level = session, level
        self.setFixedSize(QSize(14, 18))
        self.setAccessibleName(level)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        signs.severity(p, self._session.theme, self._level, QRectF(1.5, 4, 10, 10))


def corner_width(session: Session) -> int:
    """How wide the corner is: it grows with the type, and leaves the station its room."""
    return max(296, min(372, session.theme.px(296)))


class PromptCard(QFrame):
    """What, why, the numbers, and at most three actions."""

    def __init__(self, session: Session, finding: Finding) -> None:
        super().__init__()
        self.finding = finding
        self._session = session
        self.setProperty("role", "card")
        self.setAccessibleName(f"{finding.severity}: {finding.title}")
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 8, 10, 6)
        column.setSpacing(2)
        head = QHBoxLayout()
        head.setSpacing(8)
        head.addWidget(SeveritySign(session, finding.severity), 0, Qt.AlignmentFlag.AlignTop)
        title = Prose("bold", finding.title)
        head.addWidget(title, 1)
        column.addLayout(head)
        body = QVBoxLayout()
        body.setContentsMargins(22, 0, 0, 0)
        body.setSpacing(2)
        cautions = ((text, "note") for text in caution_words((finding.caution,)))
        for text, role in ((finding.text, ""), (finding.numbers, "note"), *cautions):
            if text:
                label = Prose(role, text)
                body.addWidget(label)
        self._buttons(body)
        column.addLayout(body)

    def _buttons(self, body: QVBoxLayout) -> None:
        """The fixes by name, each on its own line where it is long, then Show me and Leave it."""
        for fix in self.finding.fixes[:2]:
            button = ShortAction(fix.label, lambda _c=False, f=fix: self._session.do(*f.edits, label=f.label))
            body.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        row = QHBoxLayout()
        row.setSpacing(4)
        if self.finding.subjects:
            row.addWidget(ShortAction("Show me", lambda: self._session.shown.emit(*self.finding.subjects[0]), role=""))
        row.addWidget(ShortAction("Leave it because…", self._leave, role=""))
        row.addStretch(1)
        body.addLayout(row)

    def _leave(self) -> None:
        reason = ask(self, "Leave it because…", f"{self.finding.title}: why may it stay so?")
        if reason is not None and reason.strip():
            self._session.do(Accept(f"Leave “{self.finding.title}”", self.finding.keys, reason.strip()))
        elif reason is not None:
            self._session.said.emit("A reason is needed: it is kept in the Diary.")


class PromptCorner(QWidget):
    """The panel on the right, 296 pixels, F8."""

    went = Signal(str)

    def __init__(self, session: Session, breath: Breath) -> None:
        super().__init__()
        self._session, self._breath = session, breath
        self._station = "brief"
        self._shown: tuple[tuple[Finding, ...], str, bool] | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 12, 8, 0)
        column.setSpacing(8)
        title = Line("head", "Prompt corner")
        column.addWidget(title)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column.addWidget(self._scroll, 1)
        inner = QWidget()
        self._column = QVBoxLayout(inner)
        self._column.setContentsMargins(0, 0, 4, 12)
        self._column.setSpacing(8)
        hold(self._scroll, inner)
        self._made: dict[str, PromptCard] = {}
        self._next = QTimer(self)
        self._next.timeout.connect(self._go_on)
        session.results_changed.connect(self.refresh)
        session.theme_changed.connect(self.begin_anew)
        self.refresh()

    def show_station(self, station: str) -> None:
        """The station whose prompts come as cards."""
        self._station = station
        self.refresh()

    def _mine(self) -> tuple[Finding, ...]:
        return tuple(f for f in self._session.results.prompts if f.station == self._station)

    def cards(self) -> list[PromptCard]:
        """The cards on show, all of them made."""
        while self._show_one():
            pass
        return [self._made[f.key] for f in self._mine()]

    def begin_anew(self) -> None:
        """Make all cards again: forty of them, dressed at once for other lights, would hold up the window."""
        for card in self._made.values():
            card.hide()
            card.deleteLater()
        self._made, self._shown = {}, None
        self.refresh()

    def refresh(self) -> None:
        """Show the prompts of the station; cards whose prompt is the same stay, those of other stations are kept."""
        prompts, mine = self._session.results.prompts, self._mine()
        others: dict[str, int] = {}
        stops: dict[str, int] = {}
        for f in prompts:
            if f.station != self._station:
                others[f.station] = others.get(f.station, 0) + 1
                stops[f.station] = stops.get(f.station, 0) + (f.severity == "stop")
        known = self._session.results[READINGS] is not None
        state = (tuple(prompts), self._station, known)
        self.setFixedWidth(corner_width(self._session))
        if state == self._shown:
            return
        self._shown = state
        now = {f.key: f for f in prompts}
        kept = {key: card for key, card in self._made.items() if now.get(key) == card.finding}
        clear(self._column, kept.values())
        for key, card in self._made.items():
            if key not in kept:
                card.hide()
                card.deleteLater()
            elif card.finding.station != self._station:
                card.hide()
        self._made = kept
        for finding in mine:
            if finding.key in kept and not kept[finding.key].isHidden():
                self._column.addWidget(kept[finding.key])
        if not mine:
            calm = Line("soft", "Nothing to say here." if known else "Reading the project…")
            self._column.addWidget(calm)
        for station, count in others.items():
            more = QPushButton(f"{count} more on {station.capitalize()}{f', {stops[station]} to stop for' if stops[station] else ''}")
            more.clicked.connect(lambda _c=False, s=station: self.went.emit(s))
            self._column.addWidget(more, 0, Qt.AlignmentFlag.AlignLeft)
        self._column.addStretch(1)
        self._next.start(CARD_MS)

    def _go_on(self) -> None:
        """The next card, one a turn, unless a page is on its way or this turn has done enough."""
        if self.window().updatesEnabled() and not self._session.turns.busy and not self._breath.short:
            self._show_one()

    def _stands(self, finding: Finding) -> bool:
        return finding.key in self._made and not self._made[finding.key].isHidden()

    def _show_one(self) -> bool:
        """Put the first card that is not there yet at its place, after those that are worse and stand; False when all do."""
        mine = self._mine()
        missing = next((f for f in mine if not self._stands(f)), None)
        if missing is None:
            self._next.stop()
            return False
        card = self._made.get(missing.key) or PromptCard(self._session, missing)
        self._made[missing.key] = card
        self._column.insertWidget(mine.index(missing), card)  # all before it stand
        card.show()
        return True

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setPen(self._session.theme.color("line"))
        p.drawLine(0, 0, 0, self.height())
