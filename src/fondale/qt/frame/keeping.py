# SPDX-License-Identifier: MIT
"""Unsaved work is written down while the maker goes on, and what a window left behind is offered."""

from collections.abc import Callable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QModelIndex, QObject, QPersistentModelIndex, QRect, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QFont, QFontMetrics, QPainter, QPalette
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from fondale.core.model import Project
from fondale.core.words import day_words
from fondale.qt.furniture.dialogs import Buttons, question
from fondale.qt.furniture.prose import Prose, literal
from fondale.qt.furniture.rows import action
from fondale.qt.furniture.typed import Typing, news
from fondale.qt.session import Session
from fondale.storage import Left, Recovery, Rescued, known_as

# An edit waits for this long at most, and for what is being written; together well below the two seconds that may be lost.
KEEP_MS, AGAIN_MS, RETRY_MS = 1000, 100, 5000
PAD, WRAPPED = 8, Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignLeft
Index = QModelIndex | QPersistentModelIndex


class Keeper(QObject):
    """Writes unsaved work down, whatever the pace of edits, beside the window's own thread."""

    _kept = Signal(str)

    def __init__(self, session: Session, recovery: Recovery, writer: ThreadPoolExecutor, typing: Callable[[], list[Typing]]) -> None:
        """``typing`` tells what is being typed: it is kept as if it had been taken, and is not taken for that."""
        super().__init__()
        self._session, self._recovery, self._writer, self._typing = session, recovery, writer, typing
        self._under_way: Future[str] | None = None
        self._trouble = ""
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.keep)
        self._kept.connect(self._told)
        session.project_changed.connect(self._soon)
        news.typed.connect(self._soon)

    def _soon(self) -> None:
        """The first edit starts the clock; those that follow find it running."""
        if not self._timer.isActive() or self._timer.interval() == RETRY_MS:
            self._timer.start(KEEP_MS)

    def keep(self) -> None:
        """Write unsaved work down for recovery; a saved project leaves nothing behind."""
        document = self._session.document
        if self._under_way is not None and not self._under_way.done():
            self._timer.start(AGAIN_MS)
            return
        project = self._session.after(f.attempt for f in self._typing())
        if document.modified or project != document.project:
            assets = document.assets.only(list(document.assets))
            self._under_way = self._writer.submit(self._recovery.keep, project, document.path, assets, document.stamp)
            self._under_way.add_done_callback(lambda done: self._kept.emit(done.result()))
        else:
            self.forget()

    def _told(self, trouble: str) -> None:
        """What came of it: trouble is told once, and tried again until it is over."""
        if trouble:
            self._timer.start(RETRY_MS)
            if trouble != self._trouble:
                self._session.said.emit(
                    f"Unsaved work cannot be written down for a crash: {trouble}. Save the project now; Fondale goes on trying."
                )
        elif self._trouble:
            self._session.said.emit("Unsaved work is written down for a crash again.")
        self._trouble = trouble

    def forget(self) -> None:
        """Nothing is left to recover; what is still being written down goes first."""
        self._writer.submit(self._recovery.drop)

    def take_over(self, left: Left, project: Project, path: Path | None, rescued: Rescued) -> None:
        """What another window left is in this one's care now; it lets go where it could be written down. For the writer's thread."""
        if not self._recovery.keep(project, path, rescued.assets, left.recovery.stamp()):
            left.recovery.drop()
            left.recovery.end()

    def close(self) -> None:
        """Write nothing more."""
        news.typed.disconnect(self._soon)
        self._timer.stop()
        self._writer.submit(self._recovery.end)


def _said_of(left: Left) -> list[str]:
    """What is told of an unsaved project, a line each."""
    when = f"written down {day_words(left.when.date())} at {left.when:%H:%M}"
    if left.when > datetime.now():
        when += ", which is still to come: this machine’s clock was set back"
    if left.trouble:
        return [f"{when}, and not to be read", left.trouble]
    lines = [f"{when}, {f'of {left.path}' if left.path is not None else 'never saved'}"]
    for where in dict.fromkeys(where for _name, where in left.missing):
        names = [known_as(n) for n, w in left.missing if w == where]
        ends = f"to be had from {where.name}" if where is not None else "in no save of it either, and missing"
        lines.append(f"Not written down yet when it ended, {ends}: {', '.join(names)}.")
    return lines


class _Entry(QStyledItemDelegate):
    """The first line of an entry is its name; the others are told below it."""

    def __init__(self, around: QListWidget) -> None:
        super().__init__(around)
        self._list = around

    def _texts(self, index: Index, fonts: QFont) -> list[tuple[QFont, str]]:
        bold = QFont(fonts)
        bold.setWeight(QFont.Weight.DemiBold)
        return [(fonts if k else bold, line) for k, line in enumerate(str(index.data()).split("\n"))]

    def _boxes(self, option: QStyleOptionViewItem, index: Index) -> list[tuple[QFont, str, QRect]]:
        width, top, out = self._list.viewport().width() - 2 * PAD, PAD, []
        for font, line in self._texts(index, self._list.font()):
            box = QFontMetrics(font).boundingRect(QRect(0, 0, width, 10_000), WRAPPED, line)
            out.append((font, line, QRect(PAD, top, width, box.height())))
            top += box.height() + 2
        return out

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(10, self._boxes(option, index)[-1][2].bottom() + PAD)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        rect, palette = option.rect, self._list.palette()
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        if chosen:
            painter.fillRect(rect, palette.highlight())
        painter.setPen(palette.color(QPalette.ColorRole.HighlightedText if chosen else QPalette.ColorRole.Text))
        for font, line, box in self._boxes(option, index):
            painter.setFont(font)
            painter.drawText(box.translated(rect.topLeft()), WRAPPED, line)
        painter.restore()


class LeftBehind(QDialog):
    """Every project that a window left unsaved: open one, let one go, or leave them all for later."""

    def __init__(self, left: Sequence[Left], open_it: Callable[[Left], bool], parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Unsaved work")
        self._left, self._open_it = list(left), open_it
        column = QVBoxLayout(self)
        column.addWidget(
            Prose("", "Fondale did not end well last time. Open what is here and save it, or let it go; later it is offered again.")
        )
        self.list = QListWidget()
        self.list.setAccessibleName("Unsaved projects")
        self.list.setItemDelegate(_Entry(self.list))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.itemActivated.connect(lambda _item: self.open_chosen())
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        open_button = action("Open it", self.open_chosen)
        open_button.setDefault(True)
        self.list.currentRowChanged.connect(lambda at: open_button.setEnabled(0 <= at < len(self._left) and not self._left[at].trouble))
        row.addWidget(open_button)
        row.addWidget(action("Let it go…", self.drop_chosen))
        row.addStretch(1)
        row.addWidget(action("Later", self.reject))
        column.addLayout(row)
        self._fill()
        scale = max(1.0, self.fontMetrics().height() / 17)
        self.resize(round(620 * scale), round(400 * scale))

    def _fill(self) -> None:
        self.list.clear()
        for left in self._left:
            item = QListWidgetItem("\n".join((left.name, *_said_of(left))))
            item.setData(Qt.ItemDataRole.ToolTipRole, literal(str(left.path or left.recovery.folder)))
            self.list.addItem(item)
        self.list.setCurrentRow(0)

    @property
    def _chosen(self) -> Left | None:
        row = self.list.currentRow()
        return self._left[row] if 0 <= row < len(self._left) else None

    def open_chosen(self) -> None:
        """Open the chosen one in this window."""
        left = self._chosen
        if left is not None and not left.trouble and self._open_it(left):
            self.accept()

    def drop_chosen(self) -> None:
        """Let the chosen one go, once that is confirmed."""
        left = self._chosen
        if left is None:
            return
        what = left.name if left.trouble else f"“{left.name}”"
        answer = question(self, "Let it go", f"{what} is lost for good then. Let it go?")
        if answer == Buttons.Yes:
            left.recovery.drop()
            left.recovery.end()
            self._left.remove(left)
            self._fill()
            if not self._left:
                self.reject()
