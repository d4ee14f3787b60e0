"""A jointed figure: segment lengths after [drillis1966], joint angles by pose.

Everything here is in fractions of stature, feet at z = 0, facing -y, the person's left at +x.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from fondale.core.arrays import Floats, Ints
from fondale.core.bodies.lofts import ball, loft
from fondale.core.troubles import Trouble
from fondale.knowledge import table

HEAD, TRUNK, ARMS, LEGS, EXTRA = range(5)
ANKLE_DEG = (-30, 60)  # common practice, no source
_X = np.array([1.0, 0.0, 0.0])


class PoseError(Trouble):
    """A pose that is not in the table."""


@dataclass(frozen=True)
class Mannequin:
    """``tris`` (n, 3, 3) and ``part`` (n,) of a posed figure; heights as fractions of stature.

    ``crown`` is what is measured: the height of the head's highest point, or the length of one that lies. ``rests`` says how high over the
    ground each part lies that may bear the body.
    """

    tris: Floats
    part: Ints
    crown: float
    eye: float
    shoulder: float
    face: Floats
    rests: dict[str, float]


def head_times(person: str, heroic: bool) -> float:
    """How many times larger a person's head is than a man's of the same stature."""
    body = table("body")
    return float(body["people"][person]["head"]) * (float(body["heroic"]["head"]) if heroic else 1.0)


def hand_times(heroic: bool) -> float:
    """How many times larger the hands are."""
    return float(table("body")["heroic"]["hand"]) if heroic else 1.0


def poses() -> dict[str, str]:
    """Every pose by key, with its name."""
    return {key: row["name"] for key, row in table("body")["poses"].items()}


def lies(pose: str) -> bool:
    """Whether one in this pose is measured by its length; not in a pose that is not in the table."""
    return bool(table("body")["poses"].get(pose, {}).get("roll"))


def parse_pose(text: str) -> str:
    """The key of a pose that is typed as its key, as the window says it, or by the first words of that: ``kneeling``. Raises PoseError."""
    clean, known = text.strip().lower().replace("_", " ").replace("-", " "), poses()
    for key, name in known.items():
        if clean in (key.replace("_", " "), name):
            return key
    found = next((key for key, name in known.items() if clean and f"{name} ".startswith(f"{clean} ")), None)
    if found is None:
        raise PoseError(f"There is no pose “{text.strip()}”. Poses: {', '.join(known.values())}.")
    return found


def _down(angle_deg: float, splay_deg: float, side: int) -> Floats:
    """Unit vector of a limb that hangs down, swung forward by ``angle_deg`` and out by ``splay_deg``."""
    a, s = np.radians(angle_deg), np.radians(splay_deg)
    return np.array([side * np.sin(s), -np.sin(a) * np.cos(s), -np.cos(a) * np.cos(s)])


def _limb(start: Floats, way: Floats, length: float, radii: list[float], thick: float) -> tuple[Floats, Floats]:
    t = np.linspace(0, length, len(radii))
    r = np.array(radii) * thick
    u = _X if abs(way[0]) < 0.9 else np.array([0.0, 1.0, 0.0])
    return loft(start + np.outer(t, way), r, r, u), start + way * length


def _legs(pose: dict[str, Any], seg: dict[str, Any], hip: Floats, thick: float) -> list[Floats]:
    out = []
    for i, side in enumerate((1, -1)):
        swing, splay, bend = pose["hip"][i], pose["splay"][i], pose["knee"][i]
        start = hip + np.array([side * 0.052, 0, 0])
        thigh, knee = _limb(start, _down(swing, splay, side), seg["thigh"], [0.056, 0.057, 0.050, 0.041, 0.032], thick)
        shank_angle = swing - bend
        way = _down(shank_angle, splay * 0.4, side)
        shank, ankle = _limb(knee, way, seg["shank"], [0.029, 0.034, 0.036, 0.027, 0.021], thick)
        # As far as an ankle bends, the sole lies flat; beyond that the foot keeps its angle to the shank, or hangs in line with it.
        foot_angle = 90 if ANKLE_DEG[0] <= shank_angle <= ANKLE_DEG[1] else shank_angle + (90 if shank_angle > -45 else 2)
        toe = _down(foot_angle, 6, side)
        sole = ankle + way * (seg["ankle"] - 0.022)
        t = np.array([-0.30, -0.22, 0.1, 0.5, 0.68, 0.72]) * seg["foot_length"]
        half = np.array([0.012, 0.022, 0.026, 0.0275, 0.022, 0.010])
        high = np.array([0.014, 0.020, 0.022, 0.017, 0.014, 0.008])
        out += [thigh, shank, loft(sole + np.outer(t, toe), half, high, _X)]
    return out


def _arms(
    pose: dict[str, Any], seg: dict[str, Any], shoulder: Floats, wide: float, big: float, thick: float
) -> tuple[list[Floats], list[Floats]]:
    out, hands = [], []
    for i, side in enumerate((1, -1)):
        start = shoulder + np.array([side * (seg["shoulder_breadth"] / 2 - 0.018) * wide, 0, 0])
        swing, splay = pose["shoulder"][i], pose["arm_splay"][i]
        upper, elbow = _limb(start, _down(swing, splay, side), seg["upper_arm"], [0.028, 0.036, 0.032, 0.026], thick)
        way = _down(swing + pose["elbow"][i], splay * 0.4, side)
        fore, wrist = _limb(elbow, way, seg["forearm"], [0.026, 0.028, 0.022, 0.016], thick)
        t = np.array([0.0, 0.2, 0.5, 0.8, 0.92]) * seg["hand"] * big
        hand = loft(
            wrist + np.outer(t, way),
            np.array([0.012, 0.016, 0.018, 0.012, 0.006]) * big,
            np.array([0.014, 0.022, 0.024, 0.018, 0.009]) * big,
            _X,
        )
        out += [upper, fore, hand]
        hands.append(wrist + way * seg["hand"] * 0.5)
    return out, hands


def _trunk(spine: Floats, hip: Floats, woman: bool, broad: float, thick: float) -> Floats:
    at = np.array([-0.055, -0.02, 0.03, 0.10, 0.20, 0.265, 0.295, 0.315, 0.365])
    wide = np.array([0.060, 0.092, 0.092, 0.076, 0.092, 0.104, 0.075, 0.036, 0.033])
    deep = np.array([0.045, 0.064, 0.060, 0.052, 0.064, 0.056, 0.042, 0.034, 0.034])
    if woman:
        wide = wide * np.array([1.05, 1.08, 1.04, 0.90, 0.94, 0.92, 0.92, 0.88, 0.88])
        deep = deep * np.array([1.0, 1.05, 1.0, 0.95, 1.12, 0.98, 0.95, 0.9, 0.9])
    return loft(hip + np.outer(at, spine), wide * broad, deep * thick, _X, 12)


def _extras(
    extras: tuple[str, ...], hip: Floats, spine: Floats, head: tuple[Floats, Floats], hands: list[Floats], upright: bool
) -> list[Floats]:
    out: list[Floats] = []
    centre, up = head
    if "coat" in extras:
        at = [0.29, 0.25, 0.14, 0.05] + ([-0.10, -0.24] if upright else [])
        half_w = [0.085, 0.122, 0.104, 0.110] + ([0.122, 0.138] if upright else [])
        half_d = [0.055, 0.076, 0.072, 0.078] + ([0.088, 0.100] if upright else [])
        down = np.where(np.array(at)[:, None] >= 0, np.outer(at, spine), np.outer(at, [0, 0, 1.0]))
        out.append(loft((hip + down)[::-1], np.array(half_w)[::-1], np.array(half_d)[::-1], _X, 12))
    if "skirt" in extras and upright:
        level = np.array([-0.44, -0.25, -0.05, 0.10])
        out.append(
            loft(hip + np.outer(level, [0, 0, 1.0]), np.array([0.16, 0.135, 0.11, 0.072]), np.array([0.14, 0.115, 0.09, 0.055]), _X, 12)
        )
    if "cap" in extras:
        brim = np.array([0.020, 0.026, 0.034, 0.060, 0.069])
        out.append(
            loft(
                centre + np.outer(brim, up) + np.outer([1, 1, 0, 0, 0], [0, -0.012, 0]),
                np.array([0.050, 0.056, 0.050, 0.052, 0.030]),
                np.array([0.066, 0.070, 0.056, 0.055, 0.032]),
                _X,
                12,
            )
        )
    if "umbrella" in extras:
        grip = hands[1]
        top = grip + np.array([0.02, -0.02, 0.52])
        out.append(loft(np.linspace(grip - [0, 0, 0.08], top, 4), np.full(4, 0.006), np.full(4, 0.006), _X, 6))
        rise = np.array([-0.10, -0.095, -0.045, -0.008, 0.012])
        out.append(
            loft(
                top + np.outer(rise, [0, 0, 1.0]),
                np.array([0.02, 0.27, 0.20, 0.07, 0.006]),
                np.array([0.02, 0.27, 0.20, 0.07, 0.006]),
                _X,
                12,
            )
        )
    if "lantern" in extras:
        drop = np.array([-0.10, -0.095, -0.03, -0.02, 0.0])
        out.append(
            loft(
                hands[0] + np.outer(drop, [0, 0, 1.0]),
                np.array([0.02, 0.028, 0.028, 0.012, 0.004]),
                np.array([0.02, 0.028, 0.028, 0.012, 0.004]),
                _X,
                6,
            )
        )
    if "pack" in extras:
        back = hip + spine * 0.20 + np.array([0, 0.10, 0])
        out.append(ball(back, spine, 0.085, 0.075, 0.05, _X))
    return out


@lru_cache(maxsize=256)
def mannequin(pose: str, person: str = "man", extras: tuple[str, ...] = (), heroic: bool = False, build: str = "plain") -> Mannequin:
    """The figure in ``pose``. Raises PoseError for a pose that is not in the table.

    A stocky build is a quarter thicker all over; heroic heads are a fifth and hands a quarter too large (common practice).

    ``crown`` is the height of the bare body's highest point of the head over the lowest point of the
    body (for lying figures: the length along the ground), ``eye`` that of the eyes.
    """
    body = table("body")
    if pose not in body["poses"]:
        raise PoseError(f"There is no pose “{pose}”. Poses: {', '.join(body['poses'])}.")
    row, seg = body["poses"][pose], body["segments"]
    head_size, broad = head_times(person, heroic), float(body["people"][person]["broad"])
    thick = float(body["stocky"]["thick"]) if build == "stocky" else 1.0
    tau, nod = np.radians(row["trunk"]), np.radians(row["trunk"] + row["head"])
    hip = np.array([0.0, 0.0, seg["hip"]])
    spine = np.array([0.0, -np.sin(tau), np.cos(tau)])
    chin = hip + spine * (seg["chin"] - seg["hip"])
    up = np.array([0.0, -np.sin(nod), np.cos(nod)])
    # A larger head grows downwards over the neck: the crown keeps its height.
    half = seg["head"] / 2 * head_size
    centre = chin + up * (seg["head"] - half)
    shoulder = hip + spine * (seg["shoulder"] - seg["hip"] - 0.012)
    legs = _legs(row, seg, hip, thick)
    arms, hands = _arms(row, seg, shoulder, broad * (1 + thick) / 2, hand_times(heroic), thick)
    trunk = _trunk(spine, hip, person == "woman", broad * thick, thick)
    parts = [
        (HEAD, [ball(centre, up, half, 0.044 * head_size, 0.054 * head_size, _X)]),
        (TRUNK, [trunk]),
        (ARMS, arms),
        (LEGS, legs),
        (EXTRA, _extras(extras, hip, spine, (centre, up), hands, max(row["hip"]) < 60)),
    ]
    tris = np.concatenate([t for _, group in parts for t in group])
    part = np.concatenate([np.full(len(t), code) for code, group in parts for t in group])
    bearing = {"left knee": legs[1], "left foot": legs[2], "right knee": legs[4], "right foot": legs[5], "seat": trunk, "back": trunk}
    eye = centre - up * (half - (seg["eye"] - 1.0 + seg["head"]) * head_size) - np.array([0, 0.05, 0])
    face = np.stack([centre + np.array([0.0, -0.05, 0.0]), eye])
    if roll := np.radians(row.get("roll", 0)):
        turn = np.array([[1, 0, 0], [0, np.cos(roll), -np.sin(roll)], [0, np.sin(roll), np.cos(roll)]]).T
        tris, face, eye, shoulder = tris @ turn.T, face @ turn.T, turn @ eye, turn @ shoulder
        bearing = {name: t @ turn.T for name, t in bearing.items()}
    bare = tris[part != EXTRA]
    floor = float(bare[..., 2].min())
    middle = (bare.reshape(-1, 3).max(0) + bare.reshape(-1, 3).min(0)) / 2
    shift = np.array([middle[0], middle[1], floor])
    tris = tris - shift
    crown = float(np.ptp(bare[..., 1])) if roll else float(tris[part == HEAD][..., 2].max())
    rests = {name: float(t[..., 2].min()) - floor for name, t in bearing.items()}
    return Mannequin(tris, part.astype(np.int64), crown, float(eye[2] - floor), float(shoulder[2] + 0.012 - floor), face - shift, rests)


def pose_ratio(pose: str) -> float:
    """Crown height of the pose as a share of stature (1 when standing upright); its length where it lies."""
    return mannequin(pose).crown
