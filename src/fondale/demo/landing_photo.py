# SPDX-License-Identifier: MIT
"""The reference photograph of the demo: a quay at low water, drawn by our own painter with a camera that is known.

The scene is built at a tenth of its real size, so that a millimetre in it stands for a centimetre. Because the camera is known,
every reading off the picture can be checked against what was built.
"""

import io
from functools import lru_cache
from typing import Any

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.light.frames import front_window, look
from fondale.core.light.picture import develop, work_light
from fondale.core.model import Brief, Case, Measure, Piece, Place, Project, Seat
from fondale.core.model.shapes import Box, Cylinder, Figure, Opening, Stairs, Wall, Wheel
from fondale.core.stage.scene import build_scene
from fondale.core.views.sight import eye_of

REAL = 10.0  # real millimetres to one of the scene
WIDTH_PX = 1200
WALL = Wall(
    length=520, height=330, thickness=20, openings=(Opening(x=120, width=95, height=203), Opening(x=300, z=104, width=128, height=92))
)
WALL_AT = Place(x=470, y=330, z=0.0, turn_deg=-24)
STONE, DOORLESS, SKY = (0.42, 0.41, 0.38), (0.36, 0.22, 0.17), np.array([176, 186, 192])


@lru_cache(maxsize=1)
def scene_project() -> Project:
    """What stands on the quay: a wall with a door and a window, a man, a bollard, a winch on its block, a cart wheel."""
    from datetime import date

    def put(ident: str, shape: object, x: float, y: float, paint: tuple[float, float, float], **more: Any) -> Piece:
        z, turn = more.pop("z", None), more.pop("turn", 0.0)
        return Piece(id=ident, name=ident, shape=shape, place=Place(x=x, y=y, z=z, turn_deg=turn), paint=paint, **more)  # type: ignore[arg-type]

    pieces = (
        put("quay", Box(width=2600, depth=820, height=0.5), 400, 290, STONE, role="scenery", z=-0.45),
        put("river", Box(width=9000, depth=3000, height=0.5), 400, 2200, (0.17, 0.22, 0.24), role="scenery", z=-6.0),
        put("far-bank", Box(width=9000, depth=60, height=70), 400, 3000, (0.19, 0.22, 0.19), role="scenery", z=-6.0),
        put("far-sheds", Box(width=700, depth=40, height=150), -700, 2900, (0.2, 0.19, 0.2), role="scenery", z=-6.0),
        put(
            "roof",
            Box(width=560, depth=60, height=12),
            WALL_AT.x,
            WALL_AT.y,
            (0.2, 0.2, 0.21),
            z=330.0,
            turn=WALL_AT.turn_deg,
            role="scenery",
        ),
        put(
            "shutter",
            Box(width=64, depth=3, height=92),
            *on_wall(464, 0)[:2],
            (0.12, 0.28, 0.25),
            z=104.0,
            turn=WALL_AT.turn_deg,
            role="scenery",
        ),
        put("post", Cylinder(diameter=9, length=290), 20, 260, (0.1, 0.1, 0.11)),
        put("drum", Cylinder(diameter=58.5, length=88), 235, 215, (0.2, 0.3, 0.34)),
        put("wall", WALL, WALL_AT.x, WALL_AT.y, DOORLESS, z=0.0, turn=WALL_AT.turn_deg, role="scenery"),
        put("steps", Stairs(width=150, depth=90, height=54, steps=3), 735, 170, STONE, role="scenery"),
        put("man", Figure(extras=("cap",)), 150, 170, (0.16, 0.2, 0.3), measure=Measure(mm=175.3), turn=-20.0),
        put("bollard", Cylinder(diameter=26, length=55), 60, 60, (0.1, 0.1, 0.11)),
        put("block", Box(width=60, depth=44, height=62), 300, 110, (0.33, 0.26, 0.16), role="scenery"),
        put("winch", Cylinder(diameter=30, length=42, axis="x"), 300, 110, (0.2, 0.22, 0.23), z=62.0),
        put("wheel", Wheel(diameter=146, width=8, spokes=12), 640, 60, (0.3, 0.2, 0.12), turn=72.0, z=0.0),
    )
    return Project(
        id="landing", name="Landing", brief=Brief(start=date(2026, 1, 1), house_n=REAL, shelf_height_mm=1530.0),
        case=Case(kind="open base", width=800, depth=600, height=390, floor_paint=STONE), pieces=pieces,
        seats=(Seat(id="camera", name="camera", stature_mm=1800.0, distance=560, offset=-60, range=0),),
    )  # fmt: skip


def eye() -> Floats:
    """Where the camera stands, in the scene's millimetres."""
    project = scene_project()
    return eye_of(project, project.seats[0])


def on_wall(x: float, z: float) -> tuple[float, float, float]:
    """A point of the wall's front face, from its lower left corner, in the scene's axes."""
    a = np.radians(WALL_AT.turn_deg)
    lx, ly = x - WALL.length / 2, -WALL.thickness / 2
    return float(WALL_AT.x + lx * np.cos(a) - ly * np.sin(a)), float(WALL_AT.y + lx * np.sin(a) + ly * np.cos(a)), z


def pixel(point: tuple[float, float, float]) -> tuple[float, float]:
    """Where a point of the scene is seen: pixels from the upper left corner of the picture."""
    x0, x1, _z0, z1 = front_window(scene_project().case)
    at = eye()
    share = -at[1] / (point[1] - at[1])
    px, pz = at[0] + (point[0] - at[0]) * share, at[2] + (point[2] - at[2]) * share
    k = WIDTH_PX / (x1 - x0)
    return float((px - x0) * k), float((z1 - pz) * k)


def horizon_px() -> float:
    """The eye-level line: the camera is level, so it is level too."""
    _x0, x1, _z0, z1 = front_window(scene_project().case)
    return float((z1 - eye()[2]) * WIDTH_PX / (x1 - _x0))


@lru_cache(maxsize=1)
def photograph() -> tuple[bytes, int, int]:
    """The picture as PNG, its width and its height."""
    from PIL import Image  # only when the demo is opened

    scene = build_scene(scene_project())
    frame = look(scene, eye(), WIDTH_PX, front_window(scene.case))
    image = develop(work_light(scene, frame), 2.4)
    nothing = frame.middle < 0
    fade = np.linspace(1.12, 0.86, frame.height)[:, None, None]
    image = np.where(nothing[..., None], np.clip(SKY * fade, 0, 255), image).astype(np.uint8)
    grain = np.random.default_rng(7).normal(0, 3.0, image.shape[:2])[..., None]
    out = io.BytesIO()
    Image.fromarray(np.clip(image + grain, 0, 255).astype(np.uint8)).save(out, "PNG")
    return out.getvalue(), frame.width, frame.height
