# SPDX-License-Identifier: MIT
"""Depth that is not there: forced perspective, facing mirrors, and what a pane throws back."""

import math
from dataclasses import dataclass

import numpy as np

from fondale.core.how import PRACTICE, How, Told, cite
from fondale.core.scale.placing import forced_scale
from fondale.core.stage.glass import fresnel, pane_reflects
from fondale.core.words import digits, percent, show_mm, show_scale

DIMMEST = 0.02  # of the first light: what is dimmer than this is lost in the dark (common practice, no source)
ARC_MINUTE = math.tan(math.radians(1 / 60))  # what a good eye tells apart


@dataclass(frozen=True)
class Images:
    """``count`` images brighter than the dimmest, the last one ``depth_mm`` behind the front mirror; ``light`` is the share left of each.

    ``breaks_deg`` is the angle from the middle at which the last one leaves the mirrors. ``thin`` says that there is room for few.
    """

    count: int
    depth_mm: float
    light: tuple[float, ...]
    breaks_deg: float


def facing_mirrors(apart_mm: float, front: float, back: float, width_mm: float, through: float = 1.0) -> Images:
    """Images between two facing mirrors ``apart_mm`` apart that throw back shares ``front`` and ``back``; seen through a front that lets
    ``through`` pass.

    Image k stands 2 k times the distance further away, with (front x back)^k of the light. Raises ValueError for what is no mirror.
    """
    if not (apart_mm > 0 and width_mm > 0 and 0 < front < 1 and 0 < back <= 1 and 0 < through <= 1):
        raise ValueError("mirrors stand apart, and throw back between 1 and 99 %")
    each = front * back
    count = math.floor(math.log(DIMMEST) / math.log(each) + 1e-9)
    light = tuple(each**k for k in range(1, min(count, 400) + 1))
    breaks = math.degrees(math.atan2(width_mm / 2, 2 * apart_mm * max(count, 1)))
    return Images(count, 2 * apart_mm * count, light, breaks)


@dataclass(frozen=True)
class Veil:
    """``share`` is the light that the pane throws back, against that of the scene behind it; ``lamps`` by how much the lamps must be
    brighter, and ``tilt_deg`` how far the top of the pane must lean to the viewer, for a clear view.
    """

    reflects: float
    share: float
    lamps: float
    tilt_deg: float


CLEAR = 0.1  # of the scene's light: less than this of a reflection is overlooked (common practice, no source)
BLACK = 1.0


def veil(
    room_lx: float, seen_reflectance: float, scene_cd: float, angle_deg: float, away_mm: float, eye_high_mm: float, top_high_mm: float
) -> Veil:
    """The room in the pane. ``seen_reflectance`` of what stands in the room in front of it (a viewer's clothes) lit by ``room_lx`` gives E rho / pi.

    ``scene_cd`` is the mean luminance behind the pane in cd/m2. Tilted, the pane shows the floor before the viewer: the ray from the eye,
    ``away_mm`` before it and ``eye_high_mm`` over the room's floor, to its top edge, ``top_high_mm`` over that floor, must come down where the
    viewer stands. Raises ValueError for sizes and light not above zero.
    """
    if not (room_lx >= 0 and scene_cd > 0 and away_mm > 0 and eye_high_mm > 0 and top_high_mm > 0 and 0 <= seen_reflectance <= 1):
        raise ValueError("the scene has light, and the eye stands before the pane")
    reflects = pane_reflects(angle_deg)
    thrown = room_lx * seen_reflectance / math.pi * reflects
    share = thrown / scene_cd
    # Upright, the ray comes back as steep as it went up; leaning by a it turns down by 2 a. It has to fall as far as the edge is high.
    up = math.atan2(top_high_mm - eye_high_mm, away_mm)
    down = math.atan2(top_high_mm, away_mm)
    tilt = max(0.0, math.degrees(up + down) / 2)
    return Veil(reflects, share, max(1.0, share / CLEAR), tilt if share > CLEAR else 0.0)


def dpi_for(distance_mm: float) -> float:
    """The resolution at which an eye this near sees no dots: one of them in a minute of arc."""
    return 25.4 / (distance_mm * ARC_MINUTE)


def forced_told(n: float, eye_mm: float, real_mm: float, depth_mm: float) -> Told:
    """The scale of what stands further back than there is room."""
    found = forced_scale(n, eye_mm, real_mm, depth_mm)
    said = show_scale(found)
    formula = (
        f"N′ = N (D + R/N) ÷ (D + d) = {digits(n, 2)} × ({digits(eye_mm, 0)} + {digits(real_mm, 0)} ÷ {digits(n, 2)}) ÷ ({digits(eye_mm, 0)} + {digits(depth_mm, 0)})"
        "\nD from the eye to the front, R the real distance behind the front, d where it stands behind it, in mm"
    )
    return Told(f"build it at {said}", How("Forced perspective", formula, said, "similar triangles"))


def mirrors_told(images: Images, apart_mm: float, each: float) -> Told:
    """How far two facing mirrors go."""
    said = f"{images.count} {'image' if images.count == 1 else 'images'}, {show_mm(images.depth_mm)} deep"
    first = ", ".join(f"{k + 1}: {percent(x)}" for k, x in enumerate(images.light[:5]))
    formula = (
        f"image k stands 2 k × {digits(apart_mm, 0)} mm further away, with {digits(each, 3)}^k of the light: {first}…\n"
        f"counted while more than {percent(DIMMEST)} is left; the last one leaves the mirrors {digits(images.breaks_deg, 1)}° from the middle"
    )
    return Told(said, How("Facing mirrors", formula, said, f"mirror images; what is counted: {PRACTICE}"))


def veil_told(found: Veil, angle_deg: float) -> Told:
    """What the pane throws back."""
    said = f"the pane throws back {percent(found.reflects)}, {percent(found.share)} of the scene’s own light"
    formula = (
        f"a face of glass at {digits(angle_deg, 0)}° throws back {digits(fresnel(angle_deg) * 100, 2)} %, both {digits(found.reflects * 100, 2)} % "
        "= 2 R ÷ (1 + R), each polarisation on its own\nthe room’s luminance = lux × reflectance ÷ π, times that, against the mean luminance behind the pane"
    )
    return Told(said, How("The room in the pane", formula, said, f"{cite('hecht')}; what is overlooked: {PRACTICE}"))


def zones(n: float, eye_mm: float, depth_mm: float, far_mm: float, count: int) -> tuple[tuple[float, float, float], ...]:
    """``count`` depth zones between the front and ``depth_mm``: where each lies (mm), how far away it is meant (real mm), and its scale.

    The meant distances grow evenly in how small things look, so that no step between two zones is larger than another.
    """
    at = (np.arange(count) + 0.5) / count * depth_mm
    near, far = n, forced_scale(n, eye_mm, far_mm, depth_mm)
    scales = near * (far / near) ** ((np.arange(count) + 0.5) / count)
    meant = (scales * (eye_mm + at) / n - eye_mm) * n
    return tuple((float(d), float(r), float(s)) for d, r, s in zip(at, meant, scales, strict=True))
