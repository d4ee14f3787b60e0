# SPDX-License-Identifier: MIT
"""How the picture from a seat is composed: hints to look at, never rules."""

from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Bools, Floats, Ints
from fondale.core.light.frames import front_window, look, seat_window
from fondale.core.model import SEATS, Project
from fondale.core.model.shapes import Figure
from fondale.core.stage.scene import Scene, build_scene
from fondale.core.views.sight import eye_of, head_triangles
from fondale.core.words import clipped

WIDTH_PX = 400
THIRD_NEAR, MIDDLE_NEAR = 0.05, 0.04  # of the picture's width (common practice, no source, as all of this is)
EMPTY_SHARE = 0.01
TOUCH_PX = 2


@dataclass(frozen=True)
class Hint:
    """One thing to look at: words, and the boxes (k, 4) that prove it: left, top, right, bottom as shares of the picture."""

    words: str
    boxes: tuple[tuple[float, float, float, float], ...]


def hints(project: Project, seat: str, head: tuple[float, float] = (0.0, 0.0)) -> tuple[Hint, ...]:
    """What the picture from a seat says of its composition; nothing where there is no such seat."""
    chosen = project.find(SEATS, seat)
    if chosen is None:
        return ()
    scene = build_scene(project)
    eye = eye_of(project, chosen, *head)
    frame = look(scene, eye, WIDTH_PX, seat_window(scene, eye, chosen))
    owner = np.where(frame.middle >= 0, scene.owner[np.maximum(frame.middle, 0)], -2)
    front = front_window(project.case)
    return (
        *_main(project, owner),
        *_tangents(project, owner),
        *_empty(project, owner),
        *_horizon(project, scene, eye, frame.window, front),
    )


def _figures(project: Project, owner: Ints) -> list[tuple[int, Bools]]:
    """Figures in the picture with their pixels, the largest first."""
    found = [(i, owner == i) for i, p in enumerate(project.pieces) if isinstance(p.shape, Figure)]
    return sorted(((i, m) for i, m in found if m.any()), key=lambda f: -int(f[1].sum()))


def _box(mask: Bools) -> tuple[float, float, float, float]:
    ys, xs = np.nonzero(mask)
    high, wide = mask.shape
    return float(xs.min() / wide), float(ys.min() / high), float((xs.max() + 1) / wide), float((ys.max() + 1) / high)


def _name(project: Project, index: int) -> str:
    return clipped(project.pieces[index].name, 30)


def _main(project: Project, owner: Ints) -> list[Hint]:
    """Where the largest figure stands: on a third, in the middle, at the edge."""
    figures = _figures(project, owner)
    if not figures:
        return []
    index, mask = figures[0]
    x = float(np.nonzero(mask)[1].mean() / mask.shape[1])
    name, boxes = _name(project, index), (_box(mask),)
    if min(abs(x - 1 / 3), abs(x - 2 / 3)) <= THIRD_NEAR:
        return [Hint(f"{name} stands on a third of the picture: the eye finds it there.", boxes)]
    if abs(x - 0.5) <= MIDDLE_NEAR:
        return [Hint(f"{name} stands in the very middle: calm and grave. A third is livelier.", boxes)]
    if min(x, 1 - x) < 1 / 6:
        return [Hint(f"{name}, the largest figure, stands at the edge: the eye may leave with it.", boxes)]
    return []


def _tangents(project: Project, owner: Ints) -> list[Hint]:
    """Outlines that just touch: the eye cannot tell which is in front."""
    found = []
    masks = [(i, owner == i) for i, p in enumerate(project.pieces) if p.role == "piece"]
    masks = [(i, m) for i, m in masks if int(m.sum()) > 30]
    for k, (i, a) in enumerate(masks):
        near = _grown(a, TOUCH_PX)
        for j, b in masks[k + 1 :]:
            touch = near & b
            count = int(touch.sum())
            if 0 < count <= 6 * TOUCH_PX:
                found.append(
                    Hint(f"{_name(project, i)} and {_name(project, j)} just touch: move one so that they overlap or part.", (_box(touch),))
                )
    return found[:3]


def _grown(mask: Bools, by: int) -> Bools:
    out = mask.copy()
    for _k in range(by):
        more = out.copy()
        more[1:] |= out[:-1]
        more[:-1] |= out[1:]
        more[:, 1:] |= out[:, :-1]
        more[:, :-1] |= out[:, 1:]
        out = more
    return out


def _empty(project: Project, owner: Ints) -> list[Hint]:
    """Thirds of the picture where nothing but the case and scenery is."""
    wanted = np.array([p.role == "piece" for p in project.pieces] + [False, False])
    mask = wanted[owner]  # -1 and -2, the case and nothing, are the last two
    if not mask.any():
        return []
    thirds = np.array_split(mask, 3, axis=1)
    names = ("left", "middle", "right")
    empty = [k for k, part in enumerate(thirds) if part.mean() < EMPTY_SHARE]
    return [
        Hint(f"The {names[k]} third is empty: room to breathe, or for one thing more.", ((k / 3, 0.0, (k + 1) / 3, 1.0),)) for k in empty
    ]


def _horizon(
    project: Project, scene: Scene, eye: Floats, window: tuple[float, float, float, float], front: tuple[float, float, float, float]
) -> list[Hint]:
    """Heads that the horizon runs through: it lies as high as the eye."""
    x0, x1, z0, z1 = window
    row = (z1 - float(eye[2])) / (z1 - z0)
    if not (0 < row < 1 and front[2] < float(eye[2]) < front[3]):
        return []
    cut = []
    for i, piece in enumerate(project.pieces):
        head = head_triangles(project, scene, i).reshape(-1, 3)
        if not len(head):
            continue
        share = -eye[1] / (head[:, 1] - eye[1])
        seen = eye + (head - eye) * share[:, None]
        low, high = seen[:, 2].min(), seen[:, 2].max()
        if low < eye[2] < high:
            left, right = (seen[:, 0].min() - x0) / (x1 - x0), (seen[:, 0].max() - x0) / (x1 - x0)
            cut.append((piece.name, (float(left), float((z1 - high) / (z1 - z0)), float(right), float((z1 - low) / (z1 - z0)))))
    if not cut:
        return []
    names = ", ".join(clipped(n, 30) for n, _b in cut[:3])
    return [Hint(f"The horizon runs through the head of {names}: raise or lower the eye, or the figure.", tuple(b for _n, b in cut))]
