"""The scale ribbon: the case at candidate scales, and how many of the figures at hand fit as they are."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from fondale.core.lengths import show_scale
from fondale.core.scale.outline import figure_outline
from fondale.core.scale.reading import verdict_of
from fondale.core.stage.clearance import footprint
from fondale.core.stage.scene import rest_places
from fondale.qt.session import Session
from fondale.qt.theme import signs

CANDIDATES = (24.0, 28.0, 32.0, 35.0, 48.0, 72.0, 87.0)
MAN_MM = 1752.5
Front = tuple[float, float, float, float, bool]


class ScaleRibbon(QWidget):
    """The scene in the case at each scale (an empty project: a man of average height); click or arrow keys choose the house scale."""

    chosen = Signal(float)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Scale ribbon")
        self.setMinimumHeight(140)

    def sizeHint(self) -> QSize:
        return QSize(800, self._session.theme.px(150))

    def candidates(self) -> list[float]:
        """The scales on show: the usual ones and the house scale."""
        return sorted({*CANDIDATES, self._session.project.brief.house_n})

    def fitting(self, n: float) -> tuple[int, int]:
        """How many measured pieces pass beside their like at 1:n, and how many there are."""
        quick = self._session.results.quick
        readings = list(quick.readings.values()) if quick else []
        good = sum(verdict_of(r.measured_mm * n / r.real_mm - 1) in ("right", "passes beside") for r in readings)
        return good, len(readings)

    def _cells(self) -> list[tuple[float, QRectF]]:
        scales = self.candidates()
        width = self.width() / len(scales)
        return [(n, QRectF(i * width, 0, width, self.height())) for i, n in enumerate(scales)]

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        case, house = self._session.project.case, self._session.project.brief.house_n
        best = max((self.fitting(n)[0] for n in self.candidates()), default=0)
        notes = theme.px(52)
        fronts = self._fronts()
        for n, cell in self._cells():
            inner = cell.adjusted(5, 4, -5, -notes)
            scale = min(inner.width() / case.width, inner.height() / case.height)
            box = QRectF(0, 0, case.width * scale, case.height * scale)
            box.moveCenter(QPointF(inner.center().x(), 0))
            box.moveBottom(inner.bottom())
            mine = n == house
            p.setPen(QPen(theme.color("curtain" if mine else "soft"), 2 if mine else 1))
            p.setBrush(theme.color("card"))
            p.drawRect(box)
            self._scene(p, box, scale, house / n, fronts)
            good, total = self.fitting(n)
            p.setFont(theme.font(13, 600))
            p.setPen(theme.text("curtain" if mine else "ink"))
            line = theme.px(17)
            p.drawText(QRectF(cell.left(), inner.bottom() + 3, cell.width(), line), Qt.AlignmentFlag.AlignCenter, show_scale(n))
            p.setFont(theme.font(11.5, 600 if good == best and good else 400))
            p.setPen(theme.text("verdigris" if good == best and good else "soft"))
            words = f"{good} of {total} fit" if total else ""
            p.drawText(QRectF(cell.left(), inner.bottom() + 3 + line, cell.width(), line), Qt.AlignmentFlag.AlignCenter, words)
            real = case.width * n / 1000
            p.setFont(theme.font(11))
            p.setPen(theme.text("soft"))
            p.drawText(
                QRectF(cell.left(), inner.bottom() + 3 + 2 * line, cell.width(), line), Qt.AlignmentFlag.AlignCenter, f"{real:.1f} m wide"
            )
        signs.focus_ring(p, theme, self)

    def _scene(self, p: QPainter, box: QRectF, scale: float, grow: float, fronts: list[Front]) -> None:
        """The scene's outlines as seen from the front, as large as they would be; red where they leave the case."""
        theme, case = self._session.theme, self._session.project.case
        p.save()
        p.setClipRect(box.adjusted(1, 1, -1, -1))
        over = False
        for x0, x1, z0, z1, scenery in fronts:
            left, right = ((x - case.width / 2) * grow * scale + box.center().x() for x in (x0, x1))
            over |= left < box.left() - 1 or right > box.right() + 1 or z1 * grow > case.height + 1
            low, high = box.bottom() - z0 * grow * scale, box.bottom() - z1 * grow * scale
            p.setPen(QPen(theme.color("soft"), 0.6))
            p.setBrush(theme.color("line", 0.5) if scenery else theme.color("ink"))
            p.drawRect(QRectF(left, high, right - left, low - high))
        if not fronts:
            man = figure_outline("standing", "man", (), False)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.color("ink"))
            p.drawPath(signs.path_of(man, MAN_MM / self._session.project.brief.house_n * grow * scale, box.center().x(), box.bottom()))
        p.restore()
        if over:
            p.setPen(QPen(theme.color("stop"), 1.4, Qt.PenStyle.DashLine))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(box.adjusted(-2, -2, 2, 2))

    def _fronts(self) -> list[Front]:
        """Left, right, bottom and top of every placed piece, the rear ones first."""
        project = self._session.project
        places = rest_places(project)
        out = []
        for piece in sorted((p for p in project.pieces if p.id in places), key=lambda p: -places[p.id].y):
            ring, low, high = footprint(piece, places[piece.id])
            out.append((float(ring[:, 0].min()), float(ring[:, 0].max()), low, high, piece.role == "scenery"))
        return out

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for n, cell in self._cells():
            if cell.contains(event.position()):
                self.chosen.emit(n)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        scales = self.candidates()
        if step is None:
            super().keyPressEvent(event)
            return
        at = scales.index(self._session.project.brief.house_n) + step
        if 0 <= at < len(scales):
            self.chosen.emit(scales[at])
