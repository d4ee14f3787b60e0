# SPDX-License-Identifier: MIT
"""Ten kinds of scenes in which light is hard or easy to follow, each with a lamp, for judging the light."""

from collections.abc import Callable
from datetime import date

import numpy as np

from fondale.core.edits import new_project
from fondale.core.emitters.point import Point
from fondale.core.model import Case, Measure, Piece, Place
from fondale.core.model.shapes import Box, Figure, Opening, Wall
from fondale.core.stage.scene import Scene, build_scene
from tests.core.paths import Rect, by_paths

Made = tuple[Scene, Point]
GREY, LIGHT_GREY = (0.5, 0.5, 0.5), (0.6, 0.6, 0.6)
DOWN = (0.0, 0.0, -1.0)


def _case(*pieces: Piece, paint: tuple[float, float, float] = GREY, **more: tuple[float, float, float]) -> Scene:
    paints = {"floor_paint": paint, "wall_paint": paint, "ceiling_paint": paint, **more}
    case = Case(kind="open box", width=420, depth=260, height=250, **paints)
    return build_scene(new_project("Judged", date(2026, 1, 1)).but(case=case, pieces=pieces))


def _wall(ident: str, length: float, x: float, y: float, turn: float = 0.0, opening: Opening | None = None, height: float = 250.0, z: float = 0.0, thick: float = 4.0) -> Piece:  # fmt: skip
    shape = Wall(length=length, height=height, thickness=thick, openings=(opening,) if opening else ())
    return Piece(id=ident, name=ident, shape=shape, place=Place(x=x, y=y, z=z, turn_deg=turn), role="scenery", paint=GREY)


def _block(ident: str, width: float, depth: float, height: float, x: float, y: float, z: float = 0.0) -> Piece:
    return Piece(id=ident, name=ident, shape=Box(width=width, depth=depth, height=height), place=Place(x=x, y=y, z=z), role="scenery", paint=GREY)  # fmt: skip


def box() -> Made:
    return _case(), Point((150.0, 120.0, 240.0), DOWN, 1.0)


def spot() -> Made:
    return _case(), Point((120.0, 100.0, 240.0), (0.5, 0.3, -0.81), 12.0)


def doorway() -> Made:
    return _case(_wall("w", 420, 210, 150, opening=Opening(x=180, width=60, height=90))), Point((210.0, 220.0, 240.0), DOWN, 1.0)


def coloured() -> Made:
    return _case(left_paint=(0.8, 0.1, 0.1), right_paint=(0.1, 0.7, 0.1)), Point((210.0, 130.0, 240.0), DOWN, 1.0)


def near() -> Made:
    return _case(), Point((8.0, 130.0, 120.0), DOWN, 1.0)


def grazing() -> Made:
    return _case(), Point((200.0, 130.0, 6.0), (0.97, 0.0, -0.24), 3.0)


def kiosk() -> Made:
    """A small lit hut with a window on a block."""
    walls = (
        _wall("a", 80, 210, 101.5, opening=Opening(x=25, z=20, width=30, height=25), height=60, z=20, thick=3),
        _wall("b", 80, 210, 158.5, height=60, z=20, thick=3),
        _wall("c", 54, 171.5, 130, 90, height=60, z=20, thick=3),
        _wall("d", 54, 248.5, 130, 90, height=60, z=20, thick=3),
    )
    scene = _case(_block("base", 120, 90, 20, 210, 130), *walls, _block("roof", 80, 60, 3, 210, 130, 80))
    return scene, Point((210.0, 130.0, 70.0), DOWN, 1.0)


def slot() -> Made:
    return _case(_wall("w", 420, 210, 150, opening=Opening(x=150, z=80, width=100, height=10))), Point((210.0, 220.0, 200.0), DOWN, 1.0)


def corridor() -> Made:
    """Light goes round two bends."""
    return _case(_wall("a", 340, 170, 90), _wall("b", 340, 250, 170)), Point((60.0, 230.0, 200.0), DOWN, 1.0)


def figures() -> Made:
    people = tuple(
        Piece(id=f"p{k}", name=f"P{k}", shape=Figure(person=who, extras=worn), measure=Measure(mm=54), place=Place(x=120 + 60 * k, y=110, z=0, turn_deg=25 * k), paint=LIGHT_GREY)
        for k, (who, worn) in enumerate((("man", ("coat", "cap")), ("woman", ("skirt",)), ("boy_12", ()), ("man", ("long coat", "hat"))))
    )  # fmt: skip
    return _case(*people), Point((180.0, 60.0, 230.0), DOWN, 1.0)


def gap() -> Made:
    """A block two millimetres before the back wall."""
    return _case(_block("b", 100, 40, 120, 210, 238)), Point((300.0, 150.0, 240.0), DOWN, 1.0)


SCENES: dict[str, Callable[[], Made]] = {make.__name__: make for make in (box, spot, doorway, coloured, near, grazing, kiosk, slot, corridor, figures, gap)}  # fmt: skip
PLAIN, HARD, HARDEST = ("box", "spot", "coloured", "grazing", "figures"), ("doorway", "near", "gap"), ("kiosk", "slot", "corridor")
EYES = {"doorway": (210, -300, 140), "slot": (210, -300, 140), "kiosk": (260, -300, 140), "corridor": (330, -200, 140)}


def eye(name: str) -> np.ndarray:
    """From where a scene is looked at."""
    return np.array(EYES.get(name, (210, -400, 160)), float)


# Where much of the light of hard scenes comes through or from: openings and what shines in them, and what lies close to the lamp. By hand, from the scenes above.
GUIDES: dict[str, tuple[Rect, ...]] = {
    "doorway": (((180, 150, 0), (60, 0, 0), (0, 0, 90)), ((162, 106, 0), (96, 0, 0), (0, 44, 0))),
    "near": (((0, 100, 0), (0, 60, 0), (0, 0, 125)), ((0, 120, 90), (0, 20, 0), (0, 0, 28))),
    "grazing": (((200, 110, 0), (40, 0, 0), (0, 40, 0)), ((203, 124, 0), (12, 0, 0), (0, 12, 0))),
    "kiosk": (
        ((195, 101.5, 40), (30, 0, 0), (0, 0, 25)),
        ((140, 0, 0), (140, 0, 0), (0, 65, 0)),
        ((173, 103, 20), (74, 0, 0), (0, 54, 0)),
        ((195, 100, 40), (30, 0, 0), (0, 3, 0)),
    ),
    "slot": (
        ((150, 148, 80), (100, 0, 0), (0, 4, 0)),
        ((150, 150, 80), (100, 0, 0), (0, 0, 10)),
        ((105, 90, 0), (178, 0, 0), (0, 16, 0)),
        ((150, 260, 110), (120, 0, 0), (0, 0, 120)),
    ),
}


def judged(name: str, points: np.ndarray, normals: np.ndarray, paths: int, seed: int = 0) -> tuple[np.ndarray, np.ndarray]:
    """What plain paths say of a scene, and how sure they are."""
    scene, lamp = SCENES[name]()
    return by_paths(scene, lamp, points, normals, paths, seed, GUIDES.get(name, ()))
