# SPDX-License-Identifier: MIT
"""Bits and needs as small drawings, all at one scale."""

from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from fondale.core.bits.search import Match, sides_of, wanted
from fondale.core.model import Bit, Need
from fondale.core.words import digits, show_real, show_scale
from fondale.qt.furniture.cells import Cells
from fondale.qt.session import Session
from fondale.qt.theme.palette import Theme

Ghost = tuple[str, tuple[float, ...]]
MATCH = {"as it is": "verdigris", "to trim": "verdigris", "nearly": "lamp", "far off": "soft"}
LEAN = 0.42  # how far the third side goes up and to the right in the drawing


def outline_path(outline: str, sides: tuple[float, float, float], scale: float) -> QPainterPath:
    """An outline drawn from a little above, its lower left corner at 0, 0 (y down); ``scale`` in pixels to a millimetre."""
    path = QPainterPath()
    if outline in ("cylinder", "rod"):
        d, long = sides[0] * scale, sides[2] * scale
        tip = d * 0.28
        if outline == "rod" or long > 2.5 * d:
            path.addEllipse(QRectF(0, -d, tip, d))
            path.moveTo(tip / 2, -d)
            path.lineTo(tip / 2 + long, -d)
            path.arcTo(QRectF(long, -d, tip, d), 90, -180)
            path.lineTo(tip / 2, 0)
        else:
            path.addEllipse(QRectF(0, -long - tip, d, tip))
            path.moveTo(0, -long - tip / 2)
            path.lineTo(0, -tip / 2)
            path.arcTo(QRectF(0, -tip, d, tip), 180, 180)
            path.lineTo(d, -long - tip / 2)
        return path
    if outline == "dome":
        d, high = sides[0] * scale, sides[2] * scale
        path.moveTo(0, 0)
        path.arcTo(QRectF(0, -high, d, 2 * high), 180, -180)
        path.arcTo(QRectF(0, -d * 0.1, d, d * 0.2), 0, -180)
        return path
    a, b, c = sorted((s * scale for s in sides), reverse=True)
    wide, high, deep = (a, c, b * LEAN) if outline == "plate" else (a, b, c * LEAN)
    path.addRect(QRectF(0, -high, wide, high))
    path.moveTo(0, -high)
    path.lineTo(deep, -high - deep)
    path.lineTo(wide + deep, -high - deep)
    path.lineTo(wide + deep, -deep)
    path.lineTo(wide, 0)
    path.moveTo(wide, -high)
    path.lineTo(wide + deep, -high - deep)
    return path


def fitting_scale(outline: str, sides: tuple[float, float, float], room: QRectF) -> float:
    """Pixels to a millimetre at which an outline just goes into ``room``."""
    bounds = outline_path(outline, sides, 1.0).boundingRect()
    return min(room.width() / max(bounds.width(), 1e-6), room.height() / max(bounds.height(), 1e-6))


def draw_outline(
    p: QPainter, theme: Theme, outline: str, sides: tuple[float, float, float], room: QRectF, scale: float, role: str, ghost: bool = False
) -> None:
    """An outline standing in the middle of ``room``."""
    path = outline_path(outline, sides, scale)
    bounds = path.boundingRect()
    p.save()
    p.translate(QPointF(room.center().x() - bounds.center().x(), room.bottom() - bounds.bottom()))
    p.setPen(QPen(theme.color(role), 1.0 if ghost else 1.3, Qt.PenStyle.DashLine if ghost else Qt.PenStyle.SolidLine))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPath(path)
    p.restore()


def sizes_words(outline: str, sizes: tuple[float, ...]) -> str:
    """Sizes in mm: ``ø 8.7 × 12 mm`` for round ones."""
    text = " × ".join(digits(s, 1 if s < 100 else 0) for s in sizes)
    return f"{'ø ' if outline in ('cylinder', 'rod', 'dome') else ''}{text} mm"


class BitCells(Cells):
    """The bits, in drawers or as they rank for a need."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "Bits", 148, 128, "No bits yet. Measure one and add it, or bring a table of them.")
        self.matches: dict[str, Match] = {}
        self.ghost: Ghost | None = None
        self._scale = 1.0

    def show_bits(self, bits: list[Bit], matches: dict[str, Match], ghost: Ghost | None = None) -> None:
        """Show bits; ``matches`` says how each serves the need, if there is one, and ``ghost`` is what would be right."""
        self.matches = matches
        self.ghost = ghost
        largest = sorted(max(sides_of(b.outline, b.sizes)) for b in bits[:400]) or [10.0]
        typical = largest[len(largest) // 2] * 1.3
        self._scale = self._session.theme.px(60) / max(typical, 1e-6)
        self.show_things(bits, "")

    def words(self, thing: Any) -> str:
        match = self.matches.get(thing.id)
        fits = f", {match.verdict}: {match.trim}" if match else ""
        return f"{thing.name}, {thing.outline}, {sizes_words(thing.outline, thing.sizes)}{fits}"

    def draw(self, p: QPainter, box: QRectF, thing: Any, chosen: bool) -> None:
        gone = thing.state != "in the box" or thing.count == 0
        room = box.adjusted(12, 8, -12, -self._session.theme.px(54))
        sides = sides_of(thing.outline, thing.sizes)
        # All at one scale; what would not go into its cell is drawn with its ghost as large as both go.
        scale = min(self._scale, fitting_scale(thing.outline, sides, room))
        if self.ghost is not None:
            wanted = sides_of(*self.ghost)
            scale = min(fitting_scale(self.ghost[0], wanted, room), fitting_scale(thing.outline, sides, room))
            draw_outline(p, self._session.theme, self.ghost[0], wanted, room, scale, "verdigris", ghost=True)
        draw_outline(p, self._session.theme, thing.outline, sides, room, scale, "line" if gone else "ink")
        match = self.matches.get(thing.id)
        native = f", {show_scale(thing.native_n)}" if thing.native_n else ""
        self.line(p, box, 2, thing.name, weight=600)
        self.line(p, box, 1, sizes_words(thing.outline, thing.sizes) + native, "ink", size=11)
        if match:
            self.line(p, box, 0, match.trim if match.verdict != "far off" else f"far off: {match.trim}", MATCH[match.verdict], size=11)
        else:
            drawer = f"drawer {thing.drawer}" if thing.drawer else "no drawer"
            state = f"{drawer}, {thing.count}" if not gone else thing.state if thing.state != "in the box" else "none left"
            self.line(p, box, 0, state, "soft", size=11)


class NeedCells(Cells):
    """What the scene still wants."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "Needs", 180, 62, "No needs yet. Type one above, or make one from a photograph.", across=1)

    def words(self, thing: Any) -> str:
        return f"{thing.count} × {thing.name}, {real_words(thing)}, {'met' if thing.made else 'open'}"

    def draw(self, p: QPainter, box: QRectF, thing: Any, chosen: bool) -> None:
        house = self._session.project.brief.house_n
        self.line(p, box, 2, f"{thing.count} × {thing.name}" if thing.count > 1 else thing.name, weight=600)
        self.line(p, box, 1, real_words(thing), size=11)
        model = sizes_words(thing.outline, wanted(thing, house))
        self.line(p, box, 0, f"{model}{', met' if thing.made else ''}", "verdigris" if thing.made else "soft", size=11)


def real_words(need: Need) -> str:
    """Real sizes: ``300 × 420 mm real``."""
    return " × ".join(show_real(r).removesuffix(" mm") for r in need.real) + (" mm real" if need.real[-1] < 995 else " real")
