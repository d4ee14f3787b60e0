"""What is kept up to date in the background, by name: plain functions (progress, ...) -> result, on snapshots."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from typing import Any

import numpy as np

from fondale.core.derive import Quick, quick
from fondale.core.light.desk import LightDesk, LightResult
from fondale.core.light.picture import develop, look, work_light
from fondale.core.model import SEATS, Project
from fondale.core.order.plan import Plan, make_plan
from fondale.core.progress import Progress
from fondale.core.stage.outlines import Outlines, outlines
from fondale.core.stage.scene import build_scene
from fondale.core.views.sight import eye_of, hidden_floor

_desk = LightDesk()
STAGE_EXPOSURE = 2.2


@dataclass(frozen=True)
class StageView:
    """The view from a seat under work light (height, width, 3), and the floor that the seat does not see."""

    seat: str
    image: np.ndarray
    owners: np.ndarray
    hidden: np.ndarray


@dataclass(frozen=True)
class LitView:
    """The lit view of a moment and a small one of every moment, in sRGB; the exposure is shared."""

    seat: str
    moment: str
    image: np.ndarray
    slides: dict[str, np.ndarray]
    exposure: float


def quick_task(progress: Progress, project: Project) -> Quick:
    """Everything that is known within a blink."""
    return quick(project)


def stage_task(progress: Progress, project: Project, seat: str, width: int) -> StageView | None:
    """The view from a seat under work light."""
    chosen = project.find(SEATS, seat)
    if chosen is None:
        return None
    scene = build_scene(project)
    frame = look(scene, eye_of(project, chosen), width)
    owner = np.where(frame.prim >= 0, scene.owner[np.maximum(frame.prim, 0)], -2).reshape(frame.height, frame.width)
    points, hidden = hidden_floor(project, scene, chosen)
    return StageView(seat, develop(work_light(scene, frame), STAGE_EXPOSURE), owner.astype(np.int16), points[hidden])


def outlines_task(progress: Progress, project: Project) -> Outlines:
    """What the Bench draws."""
    return outlines(project)


def plan_task(progress: Progress, project: Project, today: date) -> Plan:
    """The running order."""
    return make_plan(project, today, progress=progress)


def light_task(progress: Progress, project: Project, amps: dict[str, float]) -> LightResult:
    """The meters and areas under the current moment."""
    return _desk.meters(project, amps=amps, progress=progress)


def picture_task(progress: Progress, project: Project, seat: str, width: int, amps: dict[str, float]) -> LitView | None:
    """The lit view and the slides of all moments."""
    if project.find(SEATS, seat) is None:
        return None
    exposure = _desk.exposure(project, seat, amps=amps)
    image = develop(_desk.luminance(project, seat, width, amps=amps, progress=progress), exposure)
    slides = {m.id: develop(_desk.luminance(project, seat, 160, m.id, amps), exposure) for m in project.moments}
    return LitView(seat, project.moment, image, slides, exposure)


TASKS: dict[str, Callable[..., Any]] = {
    "quick": quick_task,
    "stage": stage_task,
    "outlines": outlines_task,
    "plan": plan_task,
    "light": light_task,
    "picture": picture_task,
}
