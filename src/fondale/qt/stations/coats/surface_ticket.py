# SPDX-License-Identifier: MIT
"""The ticket of the chosen surface: of which piece it is, how large, and whether it can be shut in."""

from collections.abc import Callable
from typing import Any, TypeVar

from PySide6.QtWidgets import QVBoxLayout, QWidget

from fondale.core.bodies.parts import NAMES
from fondale.core.derived import OUTLINES
from fondale.core.edits import Remove, put
from fondale.core.edits.new_things import surfaces_of_parts
from fondale.core.materials import materials_by_name
from fondale.core.model import PIECES, SURFACES, Listing, Piece, Surface
from fondale.core.model.shapes import BodyPart, Figure
from fondale.core.stage.solids import face_cm2, measured_height
from fondale.core.words import digits
from fondale.qt.furniture.again import Again
from fondale.qt.furniture.columns import FieldGrid
from fondale.qt.furniture.fields import Choice, Field, number, words
from fondale.qt.furniture.rows import action
from fondale.qt.session import Session

T = TypeVar("T")


class SurfaceTicket(QWidget):
    """Its name, piece, area and inside; nothing while no surface is chosen."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        grid = FieldGrid(2)
        self.surface_name = Field("surface", words(1, 120), str, self._setter(lambda s: s.name, "Rename")).caption_width(52)
        self.piece = Choice("of", [("", "no piece")], self._setter(lambda s: s.piece, "Piece")).caption_width(52)
        area = lambda v: f"{digits(v, 1)} cm²" if v is not None else ""  # noqa: E731
        self.area = Field("area", number(0, 1e6, "cm²"), area, self._setter(lambda s: s.area_cm2, "Area")).caption_width(52)
        self.inside = Choice("lies", [(False, "outside"), (True, "inside, can be shut")], self._setter(lambda s: s.inside, "Inside"))
        self.inside.caption_width(52)
        self.material = Choice(
            "bare", lambda: [("", "not said"), *materials_by_name()], self._setter(lambda s: s.material, "Material")
        ).caption_width(52)
        parts = [("", "all of it"), *((n, n) for n in NAMES)]
        self.part = Choice("part", parts, self._setter(lambda s: s.part, "Part")).caption_width(52)
        self.each = action("One for each part", self._each, "A surface for face, hair, clothes and whatever else the figure has")
        self.work_out = action("Area of its shape", self._work_out, "All the faces of its piece; a hollow one is counted inside and out")
        self.remove = action("Remove the surface", self._remove)
        self.again = Again(session, lambda: (SURFACES, self.surface.id) if self.surface else None, self._chose)
        fields: list[QWidget] = [
            self.surface_name,
            self.piece,
            self.area,
            self.inside,
            self.material,
            self.part,
            self.work_out,
            self.each,
            self.again.button,
            self.remove,
        ]
        grid.fill(fields)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(grid)
        self.hide()

    @property
    def surface(self) -> Surface | None:
        """The chosen surface; none before one was chosen."""
        return self._session.project.find(SURFACES, self._session.selected.get(SURFACES, ""))

    def _setter(self, get: Callable[[Surface], T], label: str) -> Callable[[T], None]:
        def commit(value: T) -> None:
            if self.surface is not None:
                self._session.do(put(SURFACES.at(self.surface.id).then(get), value, f"{label}: {self.surface.name}"))

        return commit

    def _remove(self) -> None:
        if self.surface is not None:
            self._session.do(Remove(f"Remove “{self.surface.name}”", SURFACES, self.surface.id))

    def _work_out(self) -> None:
        """The area follows from the shape of the piece."""
        surface, project = self.surface, self._session.project
        piece = project.find(PIECES, surface.piece) if surface is not None else None
        if surface is None or piece is None:
            self._session.said.emit("Say first of which piece it is.")
            return
        if isinstance(piece.shape, Figure):
            areas = self._areas(piece)
            area = round((areas.get(surface.part, 0.0) if surface.part else sum(areas.values())) / 100, 2)
            if not areas:
                return
        else:
            area = min(1e6, round(face_cm2(piece), 1))
        self._session.do(put(SURFACES.at(surface.id).then(lambda s: s.area_cm2), area, f"Area of {surface.name}"))

    def _areas(self, piece: Piece) -> dict[BodyPart, float]:
        """Areas in mm² of the parts of a figure; none, and said so, while its body is being built."""
        outlines = self._session.results[OUTLINES]
        if outlines is None or not self._session.results.fresh(OUTLINES) or piece.id not in outlines.areas:
            self._session.said.emit(f"{piece.name} is still being built: in a moment, please.")
            return {}
        return {part: share * measured_height(piece) ** 2 for part, share in outlines.areas[piece.id].items()}

    def _each(self) -> None:
        """The figure that it is of gets a surface for each of its parts."""
        surface, project = self.surface, self._session.project
        piece = project.find(PIECES, surface.piece) if surface is not None else None
        if piece is not None:
            areas = self._areas(piece)
            more = surfaces_of_parts(project, piece, areas)
            if more:
                self._session.do(*more)
                self._session.said.emit(f"{piece.name}: a surface for {', '.join(add.thing.part for add in more)}.")
            elif areas:
                self._session.said.emit(f"{piece.name} has a surface for each part already.")

    def _chose(self, listing: Listing[Any], ident: str) -> None:
        self._session.selected[listing] = ident
        self._session.selection_changed.emit()

    def refresh(self) -> None:
        """Follow the chosen surface."""
        surface, project = self.surface, self._session.project
        self.setVisible(surface is not None)
        if surface is None:
            return
        self.piece.set_options([("", "no piece"), *((p.id, p.name) for p in project.pieces)])
        self.surface_name.set_value(surface.name)
        self.piece.set_value(surface.piece)
        self.area.set_value(surface.area_cm2)
        self.inside.set_value(surface.inside)
        self.material.set_value(surface.material)
        self.part.set_value(surface.part)
        piece = project.find(PIECES, surface.piece)
        for widget in (self.part, self.each):
            widget.setVisible(piece is not None and isinstance(piece.shape, Figure))
