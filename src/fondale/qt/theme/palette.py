# SPDX-License-Identifier: MIT
"""The two lightings, fonts, and the style sheet made from them."""

from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication, QWidget

UP = {
    "ground": "#F6F1E7", "card": "#FFFBF3", "line": "#D8CDB9", "ink": "#26303A", "soft": "#5F6973", "curtain": "#8E2F3C",
    "lamp": "#B86E0C", "verdigris": "#2C756C", "slate": "#3B5B86", "stop": "#AE2318", "shade": "#E9E1D1",
}  # fmt: skip
DOWN = {
    "ground": "#14171B", "card": "#1E2329", "line": "#39424B", "ink": "#ECE5D8", "soft": "#A2A9AF", "curtain": "#C65B69",
    "lamp": "#F2B04A", "verdigris": "#6CB8AC", "slate": "#8FB0DA", "stop": "#FF7A6B", "shade": "#0E1013",
}  # fmt: skip
# The main action as text needs 4.5:1 on the card; the role's own red is kept for lines and fills.
_TEXT_ON_CARD = {"up": {"curtain": "#8E2F3C", "lamp": "#96580A"}, "down": {"curtain": "#DE7E8A", "lamp": "#F2B04A"}}
SEVERITY = {"stop": "stop", "mind": "lamp", "hint": "slate"}
VERDICT = {"right": "verdigris", "passes beside": "verdigris", "passes apart": "lamp", "wrong": "stop"}


@dataclass
class Theme:
    """The lighting in force; ``scale`` enlarges all type."""

    lighting: str = "up"
    scale: float = 1.0

    @property
    def look(self) -> str:
        """What a part wears that is dressed for this lighting."""
        return f"{self.lighting} {self.scale}"

    @property
    def colours(self) -> dict[str, str]:
        """Hex values by role."""
        return UP if self.lighting == "up" else DOWN

    def color(self, role: str, alpha: float = 1.0) -> QColor:
        """The colour of a role, for fills and lines."""
        return QColor(_color(self.colours[role], alpha))

    def text(self, role: str) -> QColor:
        """The colour of a role where it is type: dark or light enough to read."""
        return QColor(_color(_TEXT_ON_CARD[self.lighting].get(role, self.colours[role]), 1.0))

    def px(self, size: float) -> int:
        """A size in pixels at 100 %, with the type scale in force."""
        return max(1, round(size * self.scale))

    def font(self, size: float = 13, weight: int = 400, display: bool = False) -> QFont:
        """A shipped face at a pixel size."""
        return _font("Fraunces" if display else "IBM Plex Sans", self.px(size), 600 if display else weight)


@lru_cache
def _color(name: str, alpha: float) -> QColor:
    """Kept: a drawing asks for hundreds, and reading one out of its name takes longer than drawing with it."""
    out = QColor(name)
    out.setAlphaF(alpha)
    return out


@lru_cache
def _font(family: str, pixels: int, weight: int) -> QFont:
    """Kept: a font that was drawn with has found its letters."""
    font = QFont(family)
    font.setPixelSize(pixels)
    font.setWeight(QFont.Weight(weight))
    return font


def load_fonts() -> None:
    """Register the shipped faces."""
    folder = files("fondale") / "qt" / "theme" / "fonts"
    for entry in folder.iterdir():
        if entry.name.endswith(".ttf"):
            QFontDatabase.addApplicationFontFromData(entry.read_bytes())


def wears(part: QWidget, theme: Theme) -> bool:
    """Whether a part wears this lighting."""
    return bool(part.property("look") == theme.look)


def wear(part: QWidget, theme: Theme) -> bool:
    """Give a part of a window, and what opens from it, this lighting; False, and nothing done, where it wears it already.

    One sheet for the whole window would dress hundreds of hidden things too, each time the lights change.
    """
    if wears(part, theme):
        return False
    part.setProperty("look", theme.look)
    part.setStyleSheet(sheet(theme))
    return True


def dress(theme: Theme) -> None:
    """Give the application the colours and the face of this lighting."""
    QApplication.setFont(theme.font())
    palette = QPalette()
    for role, name in (
        (QPalette.ColorRole.Window, "ground"), (QPalette.ColorRole.Base, "card"), (QPalette.ColorRole.Button, "card"),
        (QPalette.ColorRole.WindowText, "ink"), (QPalette.ColorRole.Text, "ink"), (QPalette.ColorRole.ButtonText, "ink"),
        (QPalette.ColorRole.Highlight, "curtain"), (QPalette.ColorRole.ToolTipBase, "card"), (QPalette.ColorRole.ToolTipText, "ink"),
        (QPalette.ColorRole.PlaceholderText, "soft"), (QPalette.ColorRole.Link, "slate"),
    ):  # fmt: skip
        palette.setColor(role, theme.color(name))
    palette.setColor(QPalette.ColorRole.HighlightedText, QColor("#FFFBF3"))
    QApplication.setPalette(palette)


def sheet(theme: Theme) -> str:
    """The style sheet of a lighting."""
    c, px = theme.colours, theme.px
    icons = (files("fondale") / "qt" / "theme" / "icons").as_posix()  # type: ignore[attr-defined]
    action, lamp = theme.text("curtain").name(), theme.text("lamp").name()
    return f"""
QMainWindow, QDialog, QStackedWidget, QScrollArea, QScrollArea > QWidget > QWidget {{ background: {c["ground"]}; }}
QMenuBar {{ background: {c["ground"]}; color: {c["soft"]}; padding: 2px 8px; }}
QMenuBar::item {{ padding: 4px 8px; background: transparent; }}
QMenuBar::item:selected {{ color: {c["ink"]}; background: {c["shade"]}; }}
QMenu {{ background: {c["card"]}; color: {c["ink"]}; border: 1px solid {c["line"]}; padding: 4px; }}
QMenu::item {{ padding: 4px 24px 4px 12px; }}
QMenu::item:selected {{ background: {c["curtain"]}; color: #FFFBF3; }}
QMenu::item:disabled {{ color: {c["soft"]}; }}
QMenu::separator {{ height: 1px; background: {c["line"]}; margin: 4px 8px; }}
QLabel[role="soft"] {{ color: {c["soft"]}; }}
QLabel[role="note"] {{ color: {c["soft"]}; font-size: {px(12)}px; }}
QLabel[role="error"] {{ color: {c["stop"]}; font-size: {px(11)}px; }}
QLabel[role="head"] {{ font-family: Fraunces; font-weight: 600; font-size: {px(15)}px; min-height: {px(26)}px; }}
QLabel[role="title"] {{ font-family: Fraunces; font-weight: 600; font-size: {px(22)}px; }}
QLabel[role="bold"] {{ font-weight: 600; }}
QLineEdit, QPlainTextEdit, QComboBox, QDateEdit {{ background: {c["card"]}; border: 1px solid {c["line"]}; border-radius: 3px; padding: 2px 6px; selection-background-color: {c["curtain"]}; selection-color: #FFFBF3; min-height: {px(20)}px; }}
QLineEdit:focus, QPlainTextEdit:focus, QComboBox:focus, QDateEdit:focus {{ border: 1px solid {c["curtain"]}; }}
QLineEdit[bad="true"] {{ border: 1px solid {c["stop"]}; }}
QComboBox::drop-down, QDateEdit::drop-down {{ border: 0; width: {px(18)}px; }}
QComboBox::down-arrow, QDateEdit::down-arrow {{ image: url("{icons}/open-{theme.lighting}.svg"); width: 10px; height: 6px; margin-right: 8px; }}
QComboBox QAbstractItemView {{ background: {c["card"]}; border: 1px solid {c["line"]}; selection-background-color: {c["curtain"]}; selection-color: #FFFBF3; outline: 0; }}
QPushButton {{ background: transparent; border: 1px solid transparent; border-radius: 3px; padding: 2px 6px; color: {c["soft"]}; text-align: left; }}
QPushButton:hover {{ color: {c["ink"]}; text-decoration: underline; }}
QPushButton:focus {{ border: 1px solid {c["curtain"]}; }}
QPushButton:disabled {{ color: {c["line"]}; }}
QPushButton[role="action"] {{ color: {action}; font-weight: 600; }}
QPushButton[role="solid"] {{ background: {c["curtain"]}; color: #FFFBF3; font-weight: 600; padding: 4px 12px; }}
QPushButton[role="solid"]:focus {{ border: 1px solid {c["ink"]}; }}
QPushButton[role="how"] {{ color: {c["ink"]}; padding: 0 0 1px 0; border: 0; border-bottom: 1px dotted {c["soft"]}; border-radius: 0; }}
QPushButton[role="how"]:hover {{ text-decoration: none; border-bottom: 1px solid {c["curtain"]}; }}
QPushButton[role="how"]:focus {{ border-bottom: 2px solid {c["curtain"]}; }}
QPushButton[role="swatch"] {{ border: 1px solid {c["soft"]}; border-radius: 3px; min-height: {px(18)}px; padding: 0; }}
QPushButton[role="swatch"]:focus {{ border: 2px solid {c["curtain"]}; }}
QFrame[role="finder"] {{ background: {c["card"]}; border: 1px solid {c["line"]}; }}
QPushButton[role="pick"] {{ padding: 2px 8px; }}
QPushButton[role="pick"]:checked {{ color: {c["ink"]}; border-bottom: 2px solid {c["curtain"]}; border-radius: 0; }}
QPushButton[role="page"] {{ font-family: Fraunces; font-size: {px(16)}px; font-weight: 600; padding: 2px 8px 3px 8px; color: {c["soft"]}; border: 0; border-bottom: 2px solid transparent; border-radius: 0; }}
QPushButton[role="page"]:hover {{ color: {c["ink"]}; text-decoration: none; }}
QPushButton[role="page"]:checked {{ color: {c["ink"]}; border-bottom: 2px solid {c["curtain"]}; }}
QPushButton[role="page"]:focus {{ border-bottom: 2px dotted {c["curtain"]}; }}
QCheckBox {{ spacing: 6px; }}
QCheckBox::indicator {{ width: {px(12)}px; height: {px(12)}px; border: 1px solid {c["soft"]}; border-radius: 2px; background: {c["card"]}; }}
QCheckBox::indicator:checked {{ background: {c["verdigris"]}; border-color: {c["verdigris"]}; image: url("{icons}/tick.svg"); }}
QCheckBox:focus, QRadioButton:focus {{ color: {action}; }}
QRadioButton {{ spacing: 6px; }}
QRadioButton::indicator {{ width: {px(12)}px; height: {px(12)}px; border: 1px solid {c["soft"]}; border-radius: {px(12) // 2 + 1}px; background: {c["card"]}; }}
QRadioButton::indicator:checked {{ width: {px(12) - 6}px; height: {px(12) - 6}px; border: 4px solid {c["verdigris"]}; }}
QSlider::groove:horizontal {{ height: 3px; background: {c["line"]}; border-radius: 1px; }}
QSlider::sub-page:horizontal {{ background: {c["lamp"]}; }}
QSlider::handle:horizontal {{ width: {px(12)}px; height: {px(12)}px; margin: -{(px(12) - 2) // 2}px 0; border-radius: {px(6)}px; background: {c["lamp"]}; border: 1px solid {c["card"]}; }}
QSlider:focus {{ border: 1px dotted {c["curtain"]}; }}
QScrollArea {{ border: 0; }}
QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
QScrollBar:horizontal {{ background: transparent; height: 8px; margin: 0; }}
QScrollBar::handle {{ background: {c["line"]}; border-radius: 3px; min-height: 24px; min-width: 24px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
QFrame[role="card"] {{ background: {c["card"]}; border: 1px solid {c["line"]}; border-radius: 3px; }}
QFrame[role="rule"] {{ background: {c["line"]}; border: 0; }}
QToolTip {{ background: {c["card"]}; color: {c["ink"]}; border: 1px solid {c["line"]}; padding: 4px; }}
QSplitter::handle {{ background: {c["line"]}; }}
QCalendarWidget QWidget {{ background: {c["card"]}; }}
#warm {{ color: {lamp}; }}
"""
