# SPDX-License-Identifier: MIT
"""Fields that are typed in the maker's way, say what is wrong while typing, and lose nothing."""

import contextlib
from collections.abc import Callable
from typing import Any, Self

from pydantic import ValidationError
from PySide6.QtCore import QEvent, QSize, Qt
from PySide6.QtGui import QColor, QFocusEvent, QKeyEvent, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import (
    QColorDialog,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QStyle,
    QStyleOptionComboBox,
    QStylePainter,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from fondale.core.colours import Rgb, linear, parse_colour, show_colour, shown
from fondale.core.edits.edit import words_of
from fondale.core.lengths import LengthError, parse_length, parse_number, parse_scale
from fondale.core.sayings import sayings
from fondale.core.troubles import Trouble
from fondale.core.words import digits, show_scale
from fondale.qt.furniture.finder import Finder
from fondale.qt.furniture.prose import Line, Prose, literal
from fondale.qt.furniture.typed import REFUSED, note

Parse = Callable[[str], Any]
Show = Callable[[Any], str]
PLAIN_HEIGHT = 17.0  # of a line of the text face at 100 %


_ALSO = {
    "°C": ("deg C", "degrees", "deg", "°"),
    "%": ("percent", "per cent"),
    "mm": ("millimetres",),
    "h": ("hours", "hour"),
    "min": ("minutes", "mins"),
}


def without_unit(text: str, unit: str) -> str:
    """A number as it is typed, without its unit: ``5 °C``, ``5 C`` and ``5 degrees`` are the same."""
    clean = text.strip().rstrip(".")
    for word in sorted({unit, unit.removeprefix("°"), *_ALSO.get(unit, ())}, key=len, reverse=True):
        if word and clean.lower().endswith(word.lower()):
            return clean[: -len(word)].strip()
    return clean


def number(least: float, most: float, unit: str = "") -> Parse:
    """A parser of plain numbers within bounds."""

    def parse(text: str) -> float:
        try:
            value = parse_number(without_unit(text, unit), unit, least, most)
        except ValueError:
            raise LengthError(f"“{text.strip()}” is not a number.") from None
        if not least <= value <= most:
            raise LengthError(f"Between {digits(least, 2)} and {digits(most, 2)}{' ' + unit if unit else ''}, please.")
        return value

    return parse


def words(least: int = 0, most: int = 20_000) -> Parse:
    """A parser of plain text."""

    def parse(text: str) -> str:
        if len(text.strip()) < least:
            raise LengthError("It needs a name.")
        if len(text) > most:
            raise LengthError(f"At most {most} letters.")
        return text.strip()

    return parse


class Scaled(QWidget):
    """Keeps the widths given at 100 % in step with the size of the type."""

    def __init__(self) -> None:
        super().__init__()
        self._widths: list[tuple[QWidget, int]] = []

    def keep_width(self, widget: QWidget, pixels: int) -> None:
        """Fix the width of a part, at 100 %."""
        self._widths.append((widget, pixels))
        widget.setFixedWidth(self._scaled(pixels))

    def _scaled(self, pixels: int) -> int:
        return round(pixels * max(1.0, self.fontMetrics().height() / PLAIN_HEIGHT))

    def changeEvent(self, event: QEvent) -> None:
        if event.type() in (QEvent.Type.FontChange, QEvent.Type.StyleChange):
            for widget, pixels in getattr(self, "_widths", ()):
                widget.setFixedWidth(self._scaled(pixels))
        super().changeEvent(event)


class Captioned(Scaled):
    """What is set, with its caption before it; ``row`` holds both."""

    def __init__(self, caption: str, editor: QWidget, width: int) -> None:
        super().__init__()
        self.row = QHBoxLayout()
        self.row.setContentsMargins(0, 0, 0, 0)
        self.row.setSpacing(8)
        self._caption = Line("soft", caption)
        if not caption:  # not shown otherwise: what is shown before it stands in something opens as a window of its own
            self._caption.hide()
        editor.setAccessibleName(caption)
        self.row.addWidget(self._caption)
        self.row.addWidget(editor, 0 if width else 1)
        if width:
            self.keep_width(editor, width)
            self.row.addStretch(1)

    def caption_width(self, pixels: int) -> Self:
        """Align captions of a column of fields."""
        self.keep_width(self._caption, pixels)
        return self


class Field(Captioned):
    """A caption, a line to type in, and a line below for what is wrong. ``commit`` gets parsed values."""

    def __init__(self, caption: str, parse: Parse, show: Show, commit: Callable[[Any], object], width: int = 0) -> None:
        self.edit = QLineEdit()
        super().__init__(caption, self.edit, width)
        self._parse, self._show, self._commit = parse, show, commit
        self.takes_length = False
        self.expected: Callable[[], float] | None = None
        self._value: Any = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(1)
        self._caption.setBuddy(self.edit)
        column.addLayout(self.row)
        self.error = ""  # what is wrong with what is typed
        self._line: Prose | None = None  # says it, once there is something to say
        self.edit.setMinimumWidth(44)
        self.edit.textEdited.connect(self._check)
        self.edit.returnPressed.connect(self.settle)
        self.edit.editingFinished.connect(lambda: None if self.error else self.settle())  # why it is not taken is told once

    @property
    def caption(self) -> str:
        """What stands before the field."""
        return self._caption.text()

    @caption.setter
    def caption(self, text: str) -> None:
        self._caption.setText(text)

    def set_value(self, value: Any) -> None:
        """Show a value, unless something else is being typed; what is typed and cannot be taken stays until there is another value to show."""
        other, self._value = value != self._value, value
        if not self.edit.isModified() or (other and not self.edit.hasFocus()):
            self.edit.setModified(False)
            text = self._show(value)
            if text != self.edit.text():
                self.edit.setText(text)
                self.edit.setCursorPosition(0)
            self._say("")

    @property
    def value(self) -> Any:
        """What the field shows when nothing is being typed."""
        return self._value

    def take(self, mm: float) -> None:
        """What an instrument shows goes in as if it had been typed."""
        self.edit.setText(f"{mm:.2f} mm")
        self.edit.setModified(True)
        self._check(self.edit.text())
        self.settle()

    @property
    def typed(self) -> str:
        """What is typed, as long as it was not taken; otherwise an empty text."""
        return self.edit.text() or "nothing" if self.edit.isModified() else ""

    def _say(self, text: str) -> None:
        if text == self.error:
            return
        other, self.error = bool(text) != bool(self.error), text
        if self._line is None:
            self._line = Prose("error")
            self.layout().addWidget(self._line)  # type: ignore[union-attr]
        self._line.setText(text)
        self._line.setVisible(bool(text))
        self.edit.setAccessibleDescription(text)
        if other:
            self.edit.setProperty("bad", bool(text))
            self.edit.style().unpolish(self.edit)
            self.edit.style().polish(self.edit)

    def _check(self, text: str) -> None:
        note(self)
        try:
            self._parse(text)
        except Trouble as error:
            self._say(str(error))
        else:
            self._say("")

    def settle(self) -> str:
        """Take what is typed. What cannot be taken stays, and it is told why."""
        if not self.edit.isModified():
            return ""
        typed, trouble = self.edit.text(), ""
        try:
            value = self._parse(typed)
            self.edit.setModified(False)
            self.edit.setText(self._show(value))
            if self._commit(value) is False:  # last: whoever takes the value says what is shown from now on
                trouble = REFUSED
        except Trouble as error:
            trouble = str(error)
        except ValidationError as error:  # it can be typed, and cannot be
            trouble = words_of(error)
        if trouble:
            self.edit.setText(typed)
            self.edit.setModified(True)
            self._say(trouble)
        return trouble

    def drop(self) -> None:
        """Let go of what is typed, and show what was there before."""
        self.edit.setModified(False)
        self.set_value(self._value)

    def attempt(self) -> None:
        """Do with what is typed what taking it would do, and show nothing of it."""
        with contextlib.suppress(Trouble, ValidationError):
            self._commit(self._parse(self.edit.text()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.edit.isModified():
            self.drop()
        else:
            super().keyPressEvent(event)


class Writing(QPlainTextEdit):
    """A few lines to write in; ``commit`` gets them when they are left, or when something else is done."""

    def __init__(self, caption: str, hint: str, commit: Callable[[str], object]) -> None:
        super().__init__()
        self.caption = caption
        self._commit = commit
        self._value = ""
        self.setAccessibleName(caption)
        self.setPlaceholderText(hint)
        self.setTabChangesFocus(True)
        self.textChanged.connect(lambda: note(self) if self.typed else None)

    @property
    def typed(self) -> str:
        """What is written, as long as it was not taken; otherwise an empty text."""
        text = self.toPlainText()
        return (text or "nothing") if text != self._value else ""

    def set_value(self, value: str) -> None:
        """Show a text, unless something else is being written."""
        if value == self._value:
            return
        fresh, self._value = not self.typed, value
        if fresh or not self.hasFocus():
            self.setPlainText(value)

    def settle(self) -> str:
        """Take what is written. What cannot be taken stays, and it is told why."""
        if not self.typed:
            return ""
        before, self._value = self._value, self.toPlainText()
        try:
            if self._commit(self._value) is not False:
                return ""
            trouble = REFUSED
        except (Trouble, ValidationError) as error:
            trouble = str(error) if isinstance(error, Trouble) else words_of(error)
        self._value = before
        return trouble

    def drop(self) -> None:
        """Let go of what is written, and show what was there before."""
        self.setPlainText(self._value)

    def attempt(self) -> None:
        """Do with what is written what taking it would do, and show nothing of it."""
        with contextlib.suppress(Trouble, ValidationError):
            self._commit(self.toPlainText())

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.settle()


def length_field(caption: str, commit: Callable[[float], object], house_n: Callable[[], float], width: int = 110) -> Field:
    """A length in millimetres, typed in any unit or as a real size."""
    field = Field(caption, lambda t: parse_length(t, house_n()), lambda v: f"{digits(v, 2)} mm" if v is not None else "", commit, width)
    field.edit.setPlaceholderText("37 mm, 1.3 m real")
    field.edit.setToolTip(f'37, 1.46in, 1 7/16", 6ft 2in, 1.3 m real; or said by people: {", ".join(sayings()[:6])}')
    field.takes_length = True
    return field


def length_or_none(caption: str, commit: Callable[[float], object], nothing: str = "", width: int = 110) -> Field:
    """A length, typed in any unit, that may be nothing, which shows as ``nothing``, or as 0 mm where there is no word for it."""
    show = lambda v: f"{digits(v, 2)} mm" if v is not None and (v or not nothing) else ""  # noqa: E731

    field = Field(caption, lambda text: parse_length(text) if text.strip(" 0.,m") else 0.0, show, commit, width)
    field.edit.setPlaceholderText(nothing)
    return field


def place_field(caption: str, commit: Callable[[float], object], width: int = 90) -> Field:
    """A coordinate in millimetres: zero and below are fine."""
    return Field(caption, number(-100_000, 100_000, "mm"), lambda v: f"{digits(v, 1)} mm", commit, width)


def up_field(caption: str, stands: str, commit: Callable[[float | None], object], width: int = 90) -> Field:
    """A height over the floor in millimetres, or the word for what stands on whatever is beneath it: None."""

    def parse(text: str) -> float | None:
        if text.strip().lower() in ("", stands, f"{stands} on what is beneath"):
            return None
        try:
            return float(number(-100_000, 100_000, "mm")(text))
        except LengthError:
            raise LengthError(f"Write the height over the floor in mm, or “{stands}”.") from None

    return Field(caption, parse, lambda v: stands if v is None else f"{digits(v, 1)} mm", commit, width)


def money_field(caption: str, most: float, currency: Callable[[], str], commit: Callable[[float], object], width: int = 90) -> Field:
    """Money, shown with the project's currency and typed with or without it; 0 shows as nothing, and nothing is 0."""

    def parse(text: str) -> float:
        return float(number(0, most, currency())(text)) if text.strip() else 0.0

    return Field(caption, parse, lambda v: f"{digits(v, 3)} {currency()}" if v else "", commit, width)


def scale_field(caption: str, commit: Callable[[float], object], width: int = 80) -> Field:
    """A scale such as 1:35."""
    return Field(caption, parse_scale, lambda v: show_scale(v), commit, width)


LONG = 9  # lists from here on are found by typing
LETTERS = 9  # a list has room for at least


class _Box(QComboBox):
    """A list; a long one opens as a finder. Words that have no room end in an ellipsis, and are whole in the tip.

    Qt makes eight widgets for the list of a box as soon as it holds something. Few are ever opened, and a ticket has a dozen: a box holds
    its words by itself until it is gone into.
    """

    def __init__(self) -> None:
        super().__init__()
        self.words: list[str] = []
        self._at = -1
        self._filled = False

    def offer(self, words: list[str]) -> None:
        """What can be chosen; nothing is."""
        self.words, self._at, was, self._filled = words, -1, self._filled, False
        if was:
            self._fill()
        self._tell()

    def show_at(self, at: int) -> None:
        """Show one as chosen; -1 for none."""
        self._at = at
        if self._filled and self.currentIndex() != at:
            self.setCurrentIndex(at)
        self._tell()

    @property
    def shown(self) -> str:
        """The words of what is chosen."""
        at = self.currentIndex() if self._filled else self._at
        return self.words[at] if at >= 0 else ""

    def _tell(self) -> None:
        self.setAccessibleDescription("" if self._filled else self.shown)  # its own words tell it otherwise
        self.update()

    def _fill(self) -> None:
        if not self._filled:
            self._filled = True
            self.blockSignals(True)
            self.clear()
            self.addItems(self.words)
            self.setCurrentIndex(self._at)
            self.blockSignals(False)
            self._tell()

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._fill()
        super().focusInEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._fill()
        super().wheelEvent(event)

    def changeEvent(self, event: QEvent) -> None:
        """An empty one has no list that would have to know of its type."""
        if not self._filled and event.type() in (QEvent.Type.StyleChange, QEvent.Type.FontChange):
            QWidget.changeEvent(self, event)
        else:
            super().changeEvent(event)

    def sizeHint(self) -> QSize:
        """It asks for the room of a few letters, whatever is on the list."""
        option, metrics = QStyleOptionComboBox(), self.fontMetrics()
        self.initStyleOption(option)
        words = QSize(LETTERS * metrics.horizontalAdvance("X"), max(metrics.height(), 14) + 2)
        return self.style().sizeFromContents(QStyle.ContentsType.CT_ComboBox, option, words, self)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def _seen(self) -> tuple[QStyleOptionComboBox, str]:
        """How it is drawn, and its words as far as they have room."""
        option = QStyleOptionComboBox()
        self.initStyleOption(option)
        room = self.style().subControlRect(QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, self)
        return option, self.fontMetrics().elidedText(self.shown, Qt.TextElideMode.ElideRight, room.width() - 2)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QStylePainter(self)
        option, words = self._seen()
        option.currentText = words
        painter.drawComplexControl(QStyle.ComplexControl.CC_ComboBox, option)
        painter.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip:
            cut = self._seen()[1] != self.shown
            self.setToolTip(literal(self.shown) if cut else "")
        return super().event(event)

    def showPopup(self) -> None:
        self._fill()
        if self.count() < LONG:
            super().showPopup()
            return
        self.finder = Finder(self, list(enumerate(self.words)), self._take)
        self.finder.open_below(self)

    def _take(self, at: int) -> None:
        self.setCurrentIndex(at)
        self.activated.emit(at)


class ColourField(Field):
    """A colour, typed as #rrggbb or by one of its words, with a swatch that opens the colours."""

    def __init__(self, caption: str, commit: Callable[[Rgb], object], width: int = 84) -> None:
        super().__init__(caption, parse_colour, lambda v: show_colour(v) if v is not None else "", commit, width)
        self.swatch = QPushButton()
        self.swatch.setProperty("role", "swatch")
        self.swatch.setAccessibleName(f"Choose the {caption or 'colour'}")
        self.swatch.clicked.connect(self._choose)
        self.row.insertWidget(2, self.swatch)
        self.keep_width(self.swatch, 20)

    def set_value(self, value: Any) -> None:
        super().set_value(value)
        if value is not None:
            self.swatch.setStyleSheet(f"background: {show_colour(value)};")

    def _choose(self) -> None:
        now = QColor.fromRgbF(*shown(self.value or (0.5, 0.5, 0.5)))
        found = QColorDialog.getColor(now, self.window(), "Colour")
        if found.isValid():
            self._commit(linear((found.redF(), found.greenF(), found.blueF())))


Options = list[tuple[Any, str]]


class Choice(Captioned):
    """A caption and a list of (value, words)."""

    def __init__(self, caption: str, options: Options | Callable[[], Options], commit: Callable[[Any], object], width: int = 0) -> None:
        """``options`` may be told by a function: they are asked for again whenever a value is shown."""
        self.box = _Box()
        super().__init__(caption, self.box, width)
        self.setLayout(self.row)
        self._options: list[tuple[Any, str]] = []
        self._asked = options if callable(options) else None
        self.set_options(options() if callable(options) else options)
        self.box.activated.connect(lambda i: commit(self._options[i][0]))

    def set_options(self, options: list[tuple[Any, str]]) -> None:
        """Change what can be chosen."""
        if options == self._options:
            return
        self._options = options
        self.box.offer([text for _value, text in options])

    def set_value(self, value: Any) -> None:
        """Show a value; one that is not on the list shows as nothing."""
        if self._asked is not None:
            self.set_options(self._asked())
        at = next((i for i, (v, _t) in enumerate(self._options) if v == value), -1)
        self.box.show_at(at)
