# SPDX-License-Identifier: MIT
"""How large a piece is in life, as the maker knows it, and what of its dress lies within the measured height."""

from collections.abc import Callable
from typing import Any

from fondale.core.edits import put
from fondale.core.lengths import parse_real
from fondale.core.model import PIECES, Piece
from fondale.core.model import shapes as sh
from fondale.core.scale.people import parse_stature
from fondale.core.words import show_real
from fondale.knowledge import table
from fondale.qt.furniture.fields import Field
from fondale.qt.furniture.finder import Several
from fondale.qt.session import Session


def _person(piece: Piece) -> str:
    return piece.shape.person if isinstance(piece.shape, sh.Figure | sh.Mesh) else ""


def _as_tabled(piece: Piece) -> str:
    """What the tables say of it, for a field that is empty."""
    if person := _person(piece):
        return show_real(table("body")["people"][person]["mean_mm"])
    row = table("scales")["things"].get(piece.shape.species if isinstance(piece.shape, sh.Animal) else piece.thing)
    return show_real(row["real_mm"]) if row else "7.65 m"


class RealSize:
    """Two fields of a ticket; ``chosen`` is the piece that they speak of."""

    def __init__(self, session: Session, chosen: Callable[[], Piece | None], caption: int) -> None:
        self._session, self._chosen = session, chosen
        self.really = Field(
            "really", self._parse, lambda v: show_real(v) if v else "", lambda v: self._put(lambda p: p.real_mm, v, "Real size"), 90
        )
        self.really.caption_width(caption).setToolTip(
            "How large it is in life, where you know better than the table: a stature or an age, a shoulder’s height, 7.65 m. Empty: as the table has it."
        )
        worn = [(k, row["name"]) for k, row in table("body")["worn"].items()]
        self.worn = Several("worn:", lambda: worn, lambda: piece.worn if (piece := chosen()) else (), self._wear)
        self.worn.setToolTip("What of its dress lies within the measured height")

    def _put(self, get: Callable[[Piece], Any], value: Any, label: str) -> None:
        piece = self._chosen()
        if piece is not None:
            self._session.do(put(PIECES.at(piece.id).then(get), value, f"{label}: {piece.name}"))

    def _wear(self, key: str) -> None:
        """Put on what is not worn, and take off what is."""
        piece = self._chosen()
        if piece is not None:
            worn = tuple(k for k in piece.worn if k != key) if key in piece.worn else (*piece.worn, key)
            self._put(lambda p: p.worn, worn, "Worn")

    def _parse(self, text: str) -> float:
        piece, house = self._chosen(), self._session.project.brief.house_n
        if not text.strip():
            return 0.0
        return parse_stature(text, house) if piece is not None and _person(piece) else parse_real(text, house)

    def show_piece(self, piece: Piece) -> None:
        """Follow the piece."""
        self.really.set_value(piece.real_mm)
        self.really.edit.setPlaceholderText(_as_tabled(piece))
        self.worn.follow()
