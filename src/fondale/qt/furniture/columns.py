# SPDX-License-Identifier: MIT
"""What folds: columns and fields lie side by side while there is room, what is left over below."""

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QSize
from PySide6.QtGui import QResizeEvent, QShowEvent
from PySide6.QtWidgets import QFrame, QLayout, QSizePolicy, QWidget

Column = tuple[QWidget, int]
BAR = 24  # more than a scroll bar is wide


class Columns(QWidget):
    """A narrow window or large type makes the page longer, never wider than the window.

    It places its columns itself, as Qt's boxes give words that break the height they would like before others have what they
    need. Where it folds because a scroll bar came, it stays so when the bar goes: it would fold and unfold for ever.
    """

    below = 12  # between rows
    spread = True  # rows share what height is to spare

    def __init__(self, spacing: int, *columns: tuple[QWidget | QLayout, int]) -> None:
        """Each column comes with its share of the width."""
        super().__init__()
        self._gap = spacing
        self._columns: list[Column] = []
        self._rows: list[list[Column]] = []
        self._refused, self._need = -1, 0
        self._hold([(content if isinstance(content, QWidget) else _held(content), share) for content, share in columns])

    def _hold(self, columns: list[Column]) -> None:
        self._columns, self._rows = columns, []
        for column, _share in columns:
            column.setParent(self)
            column.show()
        self._fold()

    def _broken(self, width: int) -> list[list[Column]]:
        """The columns in rows that are no wider than ``width``."""
        rows: list[list[Column]] = [[]]
        used = 0
        for column in self._columns:
            least = _least(column[0])
            if rows[-1] and used + self._gap + least > width:
                rows.append([])
            used = used + self._gap + least if rows[-1] else least
            rows[-1].append(column)
        return rows

    def _widths(self, row: Sequence[Column], width: int) -> list[int]:
        """Widths of a row's columns: by their shares, none less than it needs."""
        out = [_least(c) for c, _share in row]
        free = [i for i, (_c, share) in enumerate(row) if share]
        room = width - self._gap * (len(row) - 1) - sum(w for i, w in enumerate(out) if i not in free)
        while free:
            shares = sum(row[i][1] for i in free)
            narrow = [i for i in free if out[i] > room * row[i][1] / shares]
            if not narrow:
                for i in free:
                    out[i] = int(room * row[i][1] / shares)
                break
            room -= sum(out[i] for i in narrow)
            free = [i for i in free if i not in narrow]
        return out

    def _heights(self, rows: list[list[Column]], width: int) -> list[int]:
        return [max((_tall(c, w) for (c, _s), w in zip(row, self._widths(row, width), strict=True)), default=0) for row in rows]

    def minimumSizeHint(self) -> QSize:
        return QSize(max((_least(c) for c, _share in self._columns), default=0), self._need)

    def sizeHint(self) -> QSize:
        wide = sum(c.sizeHint().width() for c, _share in self._columns) + self._gap * (len(self._columns) - 1)
        return QSize(wide, self._need)

    def _fold(self, was: int = -1) -> None:
        """Lay out for the present width; ``was`` is the width before, where that has changed."""
        width, before = self.width(), self._rows
        rows = self._broken(width)
        if len(rows) > len(before) and 0 < was - width <= BAR:
            self._refused = was
        if not (before and len(rows) < len(before) and width <= self._refused):
            self._rows = rows
        heights = self._heights(self._rows, width)
        need = sum(heights) + self.below * (len(heights) - 1)
        self._place(width, heights, max(self.height() - need, 0))
        if need != self._need:
            self._need = need
            self.updateGeometry()

    def _place(self, width: int, heights: list[int], spare: int) -> None:
        top = 0
        for row, high in zip(self._rows, heights, strict=True):
            tall = high + (spare // len(heights) if self.spread else 0)
            left = 0
            for (column, _share), wide in zip(row, self._widths(row, width), strict=True):
                own = column.sizePolicy().horizontalPolicy() == QSizePolicy.Policy.Maximum
                column.setGeometry(left, top, min(wide, column.sizeHint().width()) if own else wide, tall)
                left += wide + self._gap
            top += tall + self.below

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._fold(event.oldSize().width())

    def showEvent(self, event: QShowEvent) -> None:
        self._fold()
        super().showEvent(event)

    def event(self, event: QEvent) -> bool:
        """What is said in a column may need another room than before."""
        done = super().event(event)
        if event.type() == QEvent.Type.LayoutRequest:
            self._fold()
            self.updateGeometry()  # the least width may have changed
        return done


class FieldGrid(Columns):
    """Fields of one width in rows of at most ``most``."""

    below = 4
    spread = False

    def __init__(self, most: int) -> None:
        self._most = most
        super().__init__(10)

    def fill(self, fields: Sequence[QWidget]) -> None:
        """Show these fields; the ones before them go."""
        for old, _share in self._columns:
            old.hide()
            old.deleteLater()
        self._hold([(f, 1) for f in fields])
        self.updateGeometry()

    def _across(self, width: int) -> int:
        least = max((_least(f) for f, _share in self._columns), default=0)
        return max(1, min(self._most, (width + self._gap) // (least + self._gap)))

    def _broken(self, width: int) -> list[list[Column]]:
        across = self._across(width)
        return [self._columns[i : i + across] for i in range(0, len(self._columns), across)] or [[]]

    def _widths(self, row: Sequence[Column], width: int) -> list[int]:
        across = max(len(r) for r in self._rows) if self._rows and width == self.width() else self._across(width)
        return [(width - self._gap * (across - 1)) // max(across, 1)] * len(row)


LARGE = 40  # things; what holds more takes too long to be dressed in one turn of the loop


def parts_of(place: QWidget) -> list[QWidget]:
    """What is dressed each by itself, a turn of the loop each: a place, or what stands in one that holds much.

    Frames are not taken apart: the sheet of a lighting speaks of them, not of bare widgets.
    """
    if isinstance(place, QFrame) or len(place.findChildren(QWidget)) <= LARGE:
        return [place]
    return [part for w in place.children() if isinstance(w, QWidget) for part in parts_of(w)]


def _held(content: QLayout) -> QWidget:
    column = QWidget()
    content.setContentsMargins(0, 0, 0, 0)
    column.setLayout(content)
    return column


def _least(column: QWidget) -> int:
    return column.minimumSizeHint().expandedTo(column.minimumSize()).width()


def _tall(column: QWidget, width: int) -> int:
    layout = column.layout()
    if layout is not None and layout.hasHeightForWidth():
        return max(layout.minimumHeightForWidth(width), column.minimumHeight())
    return column.minimumSizeHint().expandedTo(column.minimumSize()).height()
