# SPDX-License-Identifier: MIT
"""Moving pieces: what is part of a piece or hangs on it goes with it, and so do its lines and the lamps that are built into it."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from fondale.core.edits.edit import Edit, EditError, Put, maker, put
from fondale.core.model import LAMPS, PIECES, Lamp, Piece, Place, Project
from fondale.core.shapes.solid import placed
from fondale.core.stage.scene import rest_places
from fondale.core.stage.together import going_along


@dataclass(frozen=True)
class Move(Edit):
    """A piece at another place, and all that goes with it there."""

    piece: str
    place: Place

    def done(self, project: Project) -> Project:
        for edit in _moves(project, self.piece, self.place, self.label):
            project = edit.done(project)
        return project


@maker
def move(project: Project, ident: str, place: Place, gesture: str = "") -> Move:
    """The edit that brings a piece to another place, and all that goes with it. Raises EditError for one that is fixed."""
    piece = project.get(PIECES, ident)
    if piece.fixed:
        raise EditError(f"{piece.name} is fixed. Let it go in its ticket first.")
    return Move(f"Move {piece.name}", ident, place, gesture=gesture)


def _moves(project: Project, ident: str, place: Place, label: str) -> list[Edit]:
    piece = project.get(PIECES, ident)
    before = piece.place
    edits: list[Edit] = [Put(label, PIECES.at(ident).then(lambda p: p.place), place)]
    if before is None or (before == place.but(room=before.room) and before.room == place.room):
        return edits
    was, lift = rest_places(project)[ident], 0.0
    if place.z is not None:
        lift = place.z - (was.z or 0.0)
    turn = place.turn_deg - before.turn_deg

    def carried(points: Any) -> Any:
        """Points (k, 3) that are stiffly tied to the piece."""
        about = np.array([before.x, before.y, 0.0])
        return placed(np.asarray(points, float) - about, np.array([place.x, place.y, lift]), turn)

    along = going_along(project, ident)
    inside = {ident, *(p.id for p in along)}
    for part in along:
        if part.place is not None:
            edits.append(_carry_piece(part, part.place, carried, turn, place.room, label))
    for one in project.pieces:
        if one.slings and (one.id in inside or any(s.on in inside for s in one.slings)):
            hooks = carried([[s.x, s.y, s.z] for s in one.slings]).round(3).tolist()
            moved = (
                s.but(x=x, y=y, z=z) if one.id in inside or s.on in inside else s for s, (x, y, z) in zip(one.slings, hooks, strict=True)
            )
            edits.append(Put(label, PIECES.at(one.id).then(lambda p: p.slings), tuple(moved)))
    for lamp in project.lamps:
        if lamp.piece in inside:
            edits += _carry_lamp(lamp, carried, turn, label)
    return edits


def _carry_piece(part: Piece, at: Place, carried: Any, turn: float, room: str, label: str) -> Put[Any]:
    (x, y, z), = carried([[at.x, at.y, at.z or 0.0]]).round(3).tolist()  # fmt: skip
    turned = (at.turn_deg + turn + 180) % 360 - 180
    new = at.but(x=x, y=y, z=None if at.z is None else z, turn_deg=at.turn_deg if not turn else turned, room=room)
    return Put(label, PIECES.at(part.id).then(lambda p: p.place), new)


def _carry_lamp(lamp: Lamp, carried: Any, turn: float, label: str) -> list[Edit]:
    (x, y, z), = carried([[lamp.x, lamp.y, lamp.z]]).round(3).tolist()  # fmt: skip
    at, out = LAMPS.at(lamp.id), []
    for get, value in ((lambda m: m.x, x), (lambda m: m.y, y), (lambda m: m.z, z)):
        out.append(put(at.then(get), value, label))
    if turn:
        aim = placed(np.array([[lamp.ax, lamp.ay, lamp.az]]), np.zeros(3), turn)[0].round(6).tolist()
        for get, value in ((lambda m: m.ax, aim[0]), (lambda m: m.ay, aim[1])):
            out.append(put(at.then(get), value, label))
    return list(out)
