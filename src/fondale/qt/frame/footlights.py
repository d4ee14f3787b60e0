# SPDX-License-Identifier: MIT
"""The footlights: six half-round shells along the bottom edge are the navigation."""

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QPainter, QPainterPath, QPaintEvent, QPen, QRadialGradient
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QWidget

from fondale.app.actions import KEYS
from fondale.core.model import Project
from fondale.qt.furniture.prose import Short
from fondale.qt.session import Session

RADIUS, BEFORE, WORDS_AFTER = 27.0, 20.0, 6.0
STATIONS = ("brief", "bench", "stage", "lamps", "coats", "diary")


def missing_in(project: Project, station: str) -> str:
    """What a station still needs before it glows, in words; empty when it has it."""
    wants = {
        "brief": (project.brief.deadline is not None, "no date yet"),
        "bench": (any(p.measure for p in project.pieces), "nothing measured yet"),
        "stage": (any(p.place for p in project.pieces), "nothing placed yet"),
        "lamps": (bool(project.lamps), "no lamps yet"),
        "coats": (bool(project.steps), "no steps yet"),
        "diary": (bool(project.pages), "no pages yet"),
    }
    ready, words = wants[station]
    return "" if ready else words


class Shell(QPushButton):
    """One footlight: glows when its station has what it needs, carries a red square for stops."""

    def __init__(self, session: Session, station: str) -> None:
        super().__init__(station.capitalize())
        self._session, self.station = session, station
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.stops = 0
        self.lit = False
        self._shown: tuple[str, int, str, float] | None = None

    def sizeHint(self) -> QSize:
        """Room for its word at the size of type in force."""
        return self.minimumSizeHint().expandedTo(QSize(150, 0))

    def minimumSizeHint(self) -> QSize:
        words = QFontMetrics(self._session.theme.font(15, display=True)).horizontalAdvance(self.text())
        return QSize(round(BEFORE + 2 * RADIUS + WORDS_AFTER) + words + 2, 56)

    def refresh(self) -> None:
        """Follow the project and the prompts."""
        lacking = missing_in(self._session.project, self.station)
        stops = sum(f.station == self.station and f.severity == "stop" for f in self._session.results.prompts)
        shown = lacking, stops, self._session.theme.lighting, self._session.theme.scale
        if shown == self._shown:  # it is asked with every step of a drag, and drawing all of them takes long
            return
        self._shown, self.lit, self.stops = shown, not lacking, stops
        self.updateGeometry()
        tip = KEYS[f"go_{self.station}"]
        if lacking:
            tip += f": {lacking}"
        if self.stops:
            tip += f"; {self.stops} to stop for"
        self.setToolTip(tip)
        self.setAccessibleName(f"{self.text()} station")
        self.setAccessibleDescription(tip)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        theme = self._session.theme
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        centre = QPointF(BEFORE + RADIUS, self.height())
        if self.lit:
            glow = QRadialGradient(centre, RADIUS * 1.7)
            glow.setColorAt(0.0, theme.color("lamp", 0.55))
            glow.setColorAt(1.0, theme.color("lamp", 0.0))
            p.setBrush(glow)
            p.setPen(Qt.PenStyle.NoPen)
            p.drawEllipse(centre, RADIUS * 1.7, RADIUS * 1.7)
        shell = QPainterPath()
        shell.moveTo(centre.x() - RADIUS, centre.y())
        shell.arcTo(QRectF(centre.x() - RADIUS, centre.y() - RADIUS, 2 * RADIUS, 2 * RADIUS), 180, -180)
        shell.closeSubpath()
        chosen = self.isChecked()
        p.setBrush(theme.color("card"))
        p.setPen(QPen(theme.color("curtain" if chosen else "soft"), 2.2 if chosen else 1.0))
        p.drawPath(shell)
        p.setPen(QPen(theme.color("lamp" if self.lit else "line"), 1.0))
        for k in range(5):
            a = (30 + 30 * k) * math.pi / 180
            way = QPointF(math.cos(a), -math.sin(a))
            p.drawLine(centre + way * 9, centre + way * 20)
        if self.stops:
            box = QRectF(centre.x() - 9, centre.y() - 22, 18, 18)
            p.fillRect(box, theme.color("stop"))
            p.setFont(theme.font(11, 600))
            p.setPen(theme.color("card"))
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, str(min(self.stops, 99)))
        p.setFont(theme.font(15, display=True))
        p.setPen(theme.text("curtain") if chosen else theme.color("ink" if self.lit else "soft"))
        left = centre.x() + RADIUS + WORDS_AFTER
        p.drawText(QRectF(left, 14, self.width() - left, 30), Qt.AlignmentFlag.AlignVCenter, self.text())
        if self.hasFocus():
            p.setPen(QPen(theme.color("curtain"), 1, Qt.PenStyle.DotLine))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(self.rect().adjusted(4, 6, -6, -4))


class Footlights(QWidget):
    """The row of shells."""

    chosen = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 16, 0)
        row.setSpacing(0)
        self.shells: dict[str, Shell] = {}
        for station in STATIONS:
            shell = Shell(session, station)
            shell.clicked.connect(lambda _checked=False, s=station: self.chosen.emit(s))
            self.shells[station] = shell
            row.addWidget(shell)
        self._lights = Short("note")
        self._lights.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self._lights.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._lights.setMinimumWidth(1)
        row.addWidget(self._lights, 1)
        self.setFixedHeight(56)
        session.project_changed.connect(self.refresh)
        session.results_changed.connect(self.refresh)
        session.theme_changed.connect(self.refresh)
        self.refresh()

    def go(self, station: str) -> None:
        """Light the chosen shell."""
        self.shells[station].setChecked(True)

    def refresh(self) -> None:
        """Follow the project."""
        for shell in self.shells.values():
            shell.refresh()
        self._lights.setText(f"house lights {self._session.theme.lighting} · {KEYS['lights']}")

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), self._session.theme.color("ground"))
        p.setPen(self._session.theme.color("line"))
        p.drawLine(0, 0, self.width(), 0)
