# SPDX-License-Identifier: MIT
"""What the window shows of a scene from a seat: under work light, and lit."""

from dataclasses import dataclass

import numpy as np

from fondale.core.light.desk import LightDesk
from fondale.core.light.frames import Window, look, seat_window
from fondale.core.light.picture import develop, shared_exposure, work_light
from fondale.core.model import SEATS, Project
from fondale.core.progress import Progress
from fondale.core.stage.scene import build_scene
from fondale.core.views.sight import eye_of, hidden_floor

STAGE_EXPOSURE = 2.2
Image = np.ndarray[tuple[int, ...], np.dtype[np.uint8]]


@dataclass(frozen=True)
class StageView:
    """The view from a seat through a ``window`` of the front plane under work light (height, width, 3), who is seen in each pixel, and the
    floor that the seat never sees as cells (k, 5): middle, breadth and depth.
    """

    seat: str
    window: Window
    image: Image
    owners: np.ndarray[tuple[int, ...], np.dtype[np.int16]]
    hidden: np.ndarray[tuple[int, ...], np.dtype[np.float64]]


@dataclass(frozen=True)
class LitView:
    """The lit view of a moment through a ``window`` of the front plane and a small one of every moment, in sRGB; the exposure is shared."""

    seat: str
    window: Window
    moment: str
    image: Image
    slides: dict[str, Image]
    exposure: float


def stage_view(project: Project, seat: str, width: int, head: tuple[float, float] = (0.0, 0.0)) -> StageView | None:
    """The view from a seat under work light, the head at shares of its range and rise; None where there is no such seat."""
    chosen = project.find(SEATS, seat)
    if chosen is None:
        return None
    scene = build_scene(project)
    eye = eye_of(project, chosen, *head)
    frame = look(scene, eye, width, seat_window(scene, eye, chosen))
    owner = np.where(frame.middle >= 0, scene.owner[np.maximum(frame.middle, 0)], -2)
    points, hidden = hidden_floor(project, scene, chosen)
    return StageView(seat, frame.window, develop(work_light(scene, frame), STAGE_EXPOSURE), owner.astype(np.int16), points[hidden])


def lit_view(desk: LightDesk, project: Project, seat: str, width: int, amps: dict[str, float], progress: Progress) -> LitView | None:
    """The lit view and the slides of all moments; None where there is no such seat."""
    if project.find(SEATS, seat) is None:
        return None
    small = desk.slides(project, seat, amps)
    exposure = shared_exposure(small.values())
    image = develop(desk.luminance(project, seat, width, amps=amps, progress=progress), exposure)
    slides = {m.id: develop(small[m.id], exposure) for m in project.moments}
    return LitView(seat, desk.picture(project, seat, width).frame.window, project.moment, image, slides, exposure)
