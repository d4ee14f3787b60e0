# SPDX-License-Identifier: MIT
"""Dialogs that tell and ask. Names in them are the maker's own, and are never taken for markup."""

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QLocale
from PySide6.QtWidgets import QInputDialog, QLineEdit, QMessageBox, QWidget

from fondale.core.spreadsheets import PLAIN, Signs, desktop_signs
from fondale.qt.furniture.prose import literal
from fondale.qt.session import Session

Buttons = QMessageBox.StandardButton


def warn(parent: QWidget | None, title: str, text: str) -> None:
    """Tell of trouble."""
    QMessageBox.warning(parent, title, literal(text))


TABLES = ("Tables, with points and commas (*.csv)", "Tables, with the signs of this desktop (*.csv)")


def signs_of(kind: str) -> Signs:
    """The signs of a table that was asked for by one of these kinds."""
    return desktop_signs(QLocale().decimalPoint()) if "this desktop" in kind else PLAIN


def write_file(parent: QWidget, session: Session, path: Path, data: bytes) -> bool:
    """Write a file that the maker asked for; what keeps it from being written is told."""
    from fondale.storage import disk_words, put_file

    try:
        put_file(path, data)
    except OSError as error:
        warn(parent, "It could not be written", f"{path.name}: {disk_words(error)}.")
        return False
    session.said.emit(f"Wrote {path.name}.")
    return True


def inform(parent: QWidget | None, title: str, text: str) -> None:
    """Tell something."""
    QMessageBox.information(parent, title, literal(text))


def question(parent: QWidget | None, title: str, text: str, buttons: Buttons = Buttons.Yes | Buttons.No) -> Buttons:
    """Ask, and return which button was pressed."""
    return QMessageBox.question(parent, title, literal(text), buttons)


def choose(parent: QWidget | None, title: str, text: str, ways: Sequence[str]) -> str:
    """Ask which of several ways to go; an empty text where none was chosen."""
    box = QMessageBox(QMessageBox.Icon.Question, title, literal(text), Buttons.Cancel, parent)
    made = {box.addButton(way, QMessageBox.ButtonRole.ActionRole): way for way in ways}
    box.exec()
    pressed = box.clickedButton()
    return next((way for button, way in made.items() if button is pressed), "")


def ask(parent: QWidget | None, title: str, text: str, now: str = "") -> str | None:
    """Ask for words; None where the maker thinks better of it."""
    answer, sure = QInputDialog.getText(parent, title, literal(text), QLineEdit.EchoMode.Normal, now)
    return answer if sure else None


def ask_which(parent: QWidget | None, title: str, text: str, choices: Sequence[str]) -> str | None:
    """Ask for one of several words; None where the maker thinks better of it."""
    answer, sure = QInputDialog.getItem(parent, title, literal(text), list(choices), 0, False)
    return answer if sure else None
