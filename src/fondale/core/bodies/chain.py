# SPDX-License-Identifier: MIT
"""The jointed chain of a posed person: where hips, knees, ankles, shoulders, elbows, wrists and head are.

Everything is in shares of stature, feet at z = 0, facing -y, the person's left at +x; lengths of segments after [drillis1966]. The table of
poses gives the angles that are meant and what touches the ground; the angles are changed as little as it takes for that to touch.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from types import MappingProxyType
from typing import Any

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.bodies.poses import pose_row
from fondale.core.bodies.settling import settled
from fondale.core.bodies.volumes import turned, unit
from fondale.knowledge import table

X = np.array([1.0, 0.0, 0.0])
SIDES = (1, -1)  # left, right
# Points of the sole from the ankle on, in shares of the foot's length: the heel's edge, the ball, the toes' tip.
HEEL, BALL, TIP = -0.28, 0.42, 0.72
# Where a heel's edge is round, and the back of a foot that lies on it: shares of the foot's length along and over the sole.
_HEELS = ((-0.27, 0.0), (-0.302, 0.016), (-0.305, 0.09))
_BACK = ((-0.02, 0.415), (0.22, 0.23), (0.42, 0.160), (0.56, 0.130), (0.70, 0.105))
TOES_BENT = {"ball": 30.0, "tucked": 80.0}  # degrees, where the foot stands on its ball
Holds = Mapping[int, Mapping[str, Any]]
NOTHING_HELD: Holds = MappingProxyType({})
_FREE = ("free", "back")
# Where a hand lies on a thigh: how far down the thigh, and how far over its middle the hand's is.
_ON_KNEE, _OVER_KNEE = 0.82, 0.058
_PALM = 0.45  # share of the hand's length
# How readily a joint gives way, degrees, and how strictly a contact holds against that: 3 mm of a person's size at most (a test).
_GIVES = {"hip": 6.0, "knee": 6.0, "foot": 8.0}
_HOLDS = 4000.0


@dataclass(frozen=True)
class Leg:
    """``thigh`` and ``shank`` are unit ways down the leg, ``toes`` along the foot, ``rise`` square to the sole, ``bend`` the knee's degrees."""

    hip: Floats
    knee: Floats
    ankle: Floats
    thigh: Floats
    shank: Floats
    toes: Floats
    rise: Floats
    bend: float
    contact: str
    side: int


@dataclass(frozen=True)
class Arm:
    """``upper`` and ``fore`` are unit ways down the arm, ``hand`` what the hand does, ``bend`` the elbow's degrees.

    ``rests`` are the ways along a hand that lies on something and out of what it lies on.
    """

    shoulder: Floats
    elbow: Floats
    wrist: Floats
    upper: Floats
    fore: Floats
    hand: str
    bend: float
    side: int
    rests: tuple[Floats, Floats] | None = None


@dataclass(frozen=True)
class Chain:
    """A posed person. ``spine`` leads up the trunk, ``pelvis`` up the hips, ``across_hips`` and ``across_shoulders`` to the left;
    ``low`` is the head's lowest point (chin), ``up`` leads to its crown, ``ahead`` is where the face looks, ``head`` the head's height.
    """

    hip: Floats
    spine: Floats
    pelvis: Floats
    across_hips: Floats
    across_shoulders: Floats
    back: Floats
    shoulder: float
    low: Floats
    up: Floats
    ahead: Floats
    head: float
    hand: float
    legs: tuple[Leg, Leg]
    arms: tuple[Arm, Arm]
    twist: float
    sits: bool
    lying: Floats | None

    @property
    def bent(self) -> float:
        """How far the thighs are lifted, degrees, on the mean."""
        return float(np.mean([np.degrees(np.arccos(np.clip(-leg.thigh[2], -1, 1))) for leg in self.legs]))


def head_times(person: str, heroic: bool) -> float:
    """How many times larger a person's head is than a man's of the same stature."""
    body = table("body")
    return float(body["people"][person]["head"]) * (float(body["heroic"]["head"]) if heroic else 1.0)


def hand_times(heroic: bool) -> float:
    """How many times larger the hands are."""
    return float(table("body")["heroic"]["hand"]) if heroic else 1.0


def hanging(swing: float, splay: float, side: int) -> Floats:
    """Unit way of a limb that hangs down, swung forward by ``swing`` and out by ``splay`` degrees."""
    a, s = np.radians(swing), np.radians(splay)
    return np.array([side * np.sin(s), -np.sin(a) * np.cos(s), -np.cos(a) * np.cos(s)])


def _leg(seg: dict[str, float], hip: Floats, swing: float, splay: float, bend: float, foot: float, contact: str, side: int) -> Leg:
    thigh = hanging(swing, splay, side)
    knee = hip + thigh * seg["thigh"]
    shank = hanging(swing - bend, splay * 0.4, side)
    toes = hanging(foot, 7 * max(0.0, float(np.sin(np.radians(foot)))) ** 2, side)
    up = hanging(foot + 90, 0, side)
    return Leg(hip, knee, knee + shank * seg["shank"], thigh, shank, toes, unit(up - toes * (up @ toes)), bend, contact, side)


def _legs(row: dict[str, Any], seg: dict[str, float], v: Floats) -> tuple[Leg, Leg]:
    """Both legs by both hips', knees' and feet's angles and the height of the hips."""
    left, right = (
        _leg(seg, _hip(row, side, v[6]), v[i], row["splay"][i], v[2 + i], v[4 + i], row["contact"][i], side) for i, side in enumerate(SIDES)
    )
    return left, right


def _touching(leg: Leg, seg: dict[str, float]) -> list[float]:
    """Heights of the points of a leg that its contact puts on the ground."""
    long, sole = seg["foot_length"], leg.ankle - leg.rise * seg["ankle"]
    heel, ball = sole + leg.toes * (HEEL * long), sole + leg.toes * (BALL * long)
    knee = float(leg.knee[2]) - seg["knee_half"]

    def lowest(points: tuple[tuple[float, float], ...]) -> float:
        return min(float((sole + leg.toes * (a * long) + leg.rise * (b * long))[2]) for a, b in points)

    points: dict[str, list[float]] = {
        "sole": [float(heel[2]), float(ball[2])], "heel": [lowest(_HEELS)], "ball": [float(ball[2])],
        "tucked": [knee, lowest(((BALL + 0.02, 0.0),))], "instep": [knee, lowest(_BACK)], "free": [], "back": [],
    }  # fmt: skip
    return points[leg.contact]


@lru_cache(maxsize=64)
def _stands(pose: str, person: str) -> tuple[float, ...]:
    """The angles and the height of the hips, as ``_legs`` takes them, at which all that should touches the ground."""
    row, seg = pose_row(pose), segments(person)
    meant = np.array([*row["hip"], *row["knee"], *row["foot"]], float)
    gives = np.repeat([_GIVES["hip"], _GIVES["knee"], _GIVES["foot"]], 2)

    def misses(v: Floats) -> Floats:
        touch = [h for leg in _legs(row, seg, v) for h in _touching(leg, seg)]
        seat = [v[6] - seg["seat"]] if row.get("on_ground") else []
        return np.concatenate([(v[:6] - meant) / gives, np.array([*touch, *seat]) * _HOLDS])

    start = np.append(meant, seg["hip"] * 0.9)
    if all(c in _FREE for c in row["contact"]) and not row.get("on_ground"):
        lowest = min(
            float((leg.ankle + leg.toes * (p * seg["foot_length"]) - leg.rise * seg["ankle"])[2])
            for leg in _legs(row, seg, start)
            for p in (HEEL, TIP)
        )
        start[6] -= lowest
        return tuple(float(x) for x in start)
    return tuple(float(x) for x in settled(misses, start, np.append(np.full(6, 10.0), 0.1)))


def segments(person: str) -> dict[str, float]:
    """Lengths and heights of a person, in shares of stature: those of all, with what is this one's own."""
    body = table("body")
    return {**body["segments"], **body["people"][person].get("segments", {})}


def _hip(row: dict[str, Any], side: int, height: float) -> Floats:
    """A hip joint; where the weight is on one leg the other side sinks."""
    lean = np.radians(row.get("list", 0))
    return np.array([side * 0.052 * np.cos(lean), 0.0, height - side * 0.052 * np.sin(lean)])


def _arm(
    row: dict[str, Any],
    seg: dict[str, float],
    leg: Leg,
    middle: Floats,
    spine: Floats,
    across: Floats,
    half: float,
    stout: float,
    holds: Holds,
) -> Arm:
    side, i = leg.side, SIDES.index(leg.side)
    own = {"swing": row["shoulder"][i], "splay": row["arm_splay"][i], "elbow": row["elbow"][i], "hand": row["hands"][i], **holds.get(i, {})}
    swing, splay, bend = (
        float(own["swing"]),
        float(own["splay"]) + 16 * (stout - 1),
        max(float(own["elbow"]), float(own.get("elbow_least", 0.0))),
    )
    raised = np.clip((swing - 50) / 100, 0, 1)
    forward = np.cross(across, spine)
    start = middle + across * side * half + spine * (0.028 * raised) + forward * (0.012 * np.clip(swing / 60, -0.5, 1))
    inward = 16 * np.clip((bend - 10) / 50, 0, 1) * (swing <= 120)

    def at(swing: float, splay: float, bend: float) -> tuple[Floats, Floats, Floats, Floats]:
        upper, fore = hanging(swing, splay, side), hanging(swing + bend, splay * 0.4 - inward, side)
        elbow = start + upper * seg["upper_arm"]
        return upper, fore, elbow, elbow + fore * seg["forearm"]

    rests: tuple[Floats, Floats] | None = None
    if own["hand"] in ("ground", "knee"):
        if own["hand"] == "ground":  # the palm is put down beside the body
            rests = unit(np.array([side * 0.55, 0.35, -0.06])), np.array([0.0, 0.0, 1.0])
        else:
            rests = leg.thigh, unit(np.array([0.0, 0.0, 1.0]) - leg.thigh * leg.thigh[2])
        there = leg.hip + rests[0] * (seg["thigh"] * _ON_KNEE - seg["hand"] * _PALM) + rests[1] * _OVER_KNEE
        meant, knee = np.array([swing, splay, bend]), own["hand"] == "knee"

        def misses(q: Floats) -> Floats:
            wrist = at(*q)[3]
            return np.append((q - meant) / 10, (wrist - there if knee else wrist[2:] - 0.026) * _HOLDS)

        swing, splay, bend = settled(misses, meant, np.full(3, 10.0))
    upper, fore, elbow, wrist = at(swing, splay, bend)
    return Arm(start, elbow, wrist, upper, fore, str(own["hand"]), bend, side, rests)


def posed(pose: str, person: str = "man", heroic: bool = False, stout: float = 1.0, holds: Holds = NOTHING_HELD) -> Chain:
    """The chain of a person in a pose. ``stout`` puts the arms further out, ``holds`` changes arms (0 left, 1 right) that hold something.

    Raises PoseError.
    """
    row, seg, who = pose_row(pose), segments(person), table("body")["people"][person]
    hips = np.array(_stands(pose, person))
    legs = _legs(row, seg, hips)
    hip = np.array([0.0, 0.0, hips[6]])
    lean, tip = np.radians(row["trunk"]), row.get("bend", 0)
    straight = np.array([0.0, -np.sin(lean), np.cos(lean)])
    spine = turned(np.array([0.0, 1.0, 0]), tip / 2) @ straight
    across = turned(spine, row.get("twist", 0)) @ turned(np.array([0.0, 1.0, 0]), tip) @ X
    tall = seg["head"] * head_times(person, heroic)
    nod = np.radians(row["trunk"] + row["head"])
    up = np.array([0.0, -np.sin(nod), np.cos(nod)])
    chin = hip + spine * (seg["chin"] - seg["hip"])
    low = chin + up * (seg["head"] - tall)  # a larger head grows downwards: the crown keeps its height
    ahead = turned(up, row.get("turn", 0)) @ np.cross(X, up)
    shoulder = seg["shoulder"] - seg["hip"] - 0.012
    thighs = float(np.mean(np.clip(hips[:2], -20, 120)))
    tuck = np.radians(row["trunk"] - 0.22 * max(0.0, thighs - row["trunk"] - 10))
    sink = turned(np.array([0.0, 1.0, 0]), row.get("list", 0))
    half = 0.099 * float(who["shoulders"]) * (1 + 0.45 * (stout - 1))
    arms = [_arm(row, seg, leg, hip + spine * shoulder, spine, across, half, stout, holds) for leg in legs]
    lying = None
    if roll := row.get("roll", 0):
        lying = turned(X, -roll)
    elif roll := row.get("side", 0):
        lying = turned(np.array([0.0, 1.0, 0]), roll)
    return Chain(
        hip, spine, sink @ np.array([0.0, -np.sin(tuck), np.cos(tuck)]), sink @ X, across, unit(np.cross(spine, across)),
        shoulder, low, up, ahead, tall, seg["hand"] * hand_times(heroic), legs, (arms[0], arms[1]),
        float(row.get("twist", 0)), bool(row.get("on_ground")), lying,
    )  # fmt: skip
