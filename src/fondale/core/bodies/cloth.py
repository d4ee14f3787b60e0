# SPDX-License-Identifier: MIT
"""What garments share: the body underneath with so much cloth over it, folds, and cloth that hangs from the waist over the legs."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.bodies.chain import Arm, Chain, Leg, segments
from fondale.core.bodies.parts import Part
from fondale.core.bodies.volumes import Blend, Folds, Grid, Sheet, Tube, Volume, ball, joined, rod, unit
from fondale.knowledge import table

CELL, HANGING_CELL = 0.0096, 0.0125  # what hangs is broad
X = np.array([1.0, 0.0, 0.0])
Rows = list[tuple[float, ...]]


@dataclass(frozen=True)
class Wearer:
    """Who wears it: the posed chain and what makes this body differ. ``stout`` 1 is plain, 1.25 stocky; ``tucked``: trousers end in
    boots; ``skirted``: there is a skirt under what hangs over it.
    """

    chain: Chain
    person: str
    stout: float
    tucked: bool = False
    skirted: bool = False

    @property
    def row(self) -> dict[str, float]:
        """The person's numbers in the table."""
        row: dict[str, float] = table("body")["people"][self.person]
        return row

    @property
    def woman(self) -> bool:
        """Whether the trunk is a woman's."""
        return self.person == "woman"

    def thick(self, limb: str) -> float:
        """How many times thicker ``arms``, ``thighs`` or ``shanks`` are than a man's."""
        return float(self.row[limb]) * (1 + (self.stout - 1) * 0.6)

    @property
    def seg(self) -> dict[str, float]:
        """Segments, in shares of stature."""
        return segments(self.person)

    @property
    def neck(self) -> float:
        """Half the neck's thickness."""
        return 0.0335 * float(self.row["neck"]) * (1 + (self.stout - 1) * 0.5)


def rings(at: float, wide: float, much: float, apart: float, slant: float, start: float, front: int = 0) -> Folds:
    """Slanting rings of cloth about a limb, strongest at ``at``; ``front`` 1 gathers them before the limb, -1 behind it."""

    def more(s: Grid, phi: Grid) -> Grid:
        near = np.exp(-(((s - at) / wide) ** 2))
        wave = np.sin(s * (2 * np.pi / apart) + slant * phi + 1.3 * np.sin(phi + start) + start)
        side = 0.35 + 0.65 * np.clip(front * np.sin(phi) * 0.8 + 0.3, 0, 1) if front else 1.0
        return np.asarray(much * near * wave * side, np.float32)

    return more


def all_of(*folds: Folds) -> Folds:
    """Folds on folds."""
    return lambda s, phi: np.asarray(sum(f(s, phi) for f in folds), np.float32)


def trunk_rows(w: Wearer, cloth: float) -> Rows:
    """Height over the hips' axis, half width, half depth, shifts, with ``cloth`` over the body."""
    out: Rows = []
    broad = float(w.row["broad"])
    for z, wide, deep, ahead in table("body")["trunk"]["woman" if w.woman else "man"]:
        belly = float(np.exp(-(((z - 0.08) / 0.09) ** 2)))
        g = w.stout - 1
        tucked = -0.007 * float(np.clip((0.068 - z) / 0.012, 0, 1)) if cloth < 0.006 else 0.0
        out.append(
            (z, wide * broad * (1 + g * (0.45 + 0.75 * belly)) + cloth + tucked, deep * broad * (1 + g * (0.45 + 0.95 * belly)) + cloth + tucked,
             0.0, ahead + g * 0.03 * belly)
        )  # fmt: skip
    return out


def trunk(w: Wearer, cloth: float, low: float = -1.0) -> Tube:
    """The trunk from ``low`` over the hips' axis to the neck's root."""
    c = w.chain
    rows = [r for r in trunk_rows(w, cloth) if r[0] >= low]
    return Tube(c.hip, c.spine, -c.across_hips, rows, (0.010, 0.020), rings(0.075, 0.035, 0.0022, 0.034, 1, 0.5), 0.003, -c.twist)


def front(w: Wearer, up: float, proud: float) -> Floats:
    """A point before the middle of a coated trunk, ``up`` over the hips' axis and ``proud`` of the cloth."""
    c = w.chain
    table = np.array([[0.0, 0.084], [0.09, 0.080], [0.14, 0.084], [0.19, 0.093], [0.225, 0.088], [0.26, 0.060]])
    deep = float(np.interp(up, table[:, 0], table[:, 1])) * float(w.row["broad"]) * (1 + (w.stout - 1) * 0.8)
    out: Floats = c.hip + (c.spine if up > 0.05 else c.pelvis) * up - c.back * (deep + proud)
    return out


def chest(w: Wearer, cloth: float, low: float) -> list[Blend]:
    """Trunk, shoulders and bust."""
    c = w.chain
    out = [Blend(trunk(w, 0.004 + cloth, low))]
    root = c.hip + c.spine * 0.292 + c.back * 0.008
    for arm in c.arms:
        out.append(Blend(rod(root, arm.shoulder - (arm.shoulder - root) * 0.10, 0.030 * max(w.thick("arms"), 0.9), 0.021 + cloth), 0.022))
    if w.woman:
        for s in (1, -1):
            at = c.hip + c.spine * 0.192 + c.across_shoulders * (s * 0.040) - c.back * 0.046
            out.append(Blend(ball(at, (0.036, 0.033, 0.036)), 0.028))
    return out


def sleeve(w: Wearer, arm: Arm, cloth: float, until: float = 2.0) -> list[Blend]:
    """An arm with its cloth; ``until`` 0 shoulder, 1 elbow, 2 wrist."""
    long, fore, k = w.seg["upper_arm"], w.seg["forearm"], w.thick("arms")
    bent = float(np.clip(arm.bend / 60, 0, 1))
    rows = [(s * long, a * k + cloth, b * k + cloth) for s, a, b in table("body")["limb"]["upper_arm"]]
    low = [
        (s * fore, a * k + cloth * m, b * k + cloth * m)
        for (s, a, b), m in zip(table("body")["limb"]["forearm"], (1, 1, 1.2, 1.3, 1.4), strict=True)
    ]
    if until < 1:
        rows = [r for r in rows if r[0] <= until * long]
        return [Blend(Tube(arm.shoulder, arm.upper, X, rows, (0.010, 0.006)), 0.030, arm.shoulder, 0.085)]
    upper = Tube(
        arm.shoulder, arm.upper, X, rows, (0.010, None), rings(0.92 * long, 0.035, 0.0010 + 0.0022 * bent, 0.024, arm.side, 1.0, 1), 0.004
    )
    wrinkles = all_of(
        rings(0.10 * fore, 0.035, 0.0010 + 0.0020 * bent, 0.024, -arm.side, 0.3, 1), rings(0.80 * fore, 0.03, 0.0014, 0.024, arm.side, 0.3)
    )
    lower = Tube(arm.elbow, arm.fore, X, low, (None, 0.006), wrinkles, 0.004)
    return [Blend(upper, 0.030, arm.shoulder, 0.085), Blend(lower, 0.005 + 0.020 * bent, arm.elbow, 0.07)]


def seat(w: Wearer) -> list[Blend]:
    """The pelvis with its cloth, belt and buttocks."""
    c, b = w.chain, float(w.row["broad"])
    g, hips = 1 + (w.stout - 1) * 0.8, 1.05 if w.woman else 1.0
    k = b * g
    rows = [
        (-0.035, 0.060 * b, 0.050 * b, 0, -0.006), (-0.010, 0.0900 * hips * k, 0.0620 * hips * k, 0, -0.006), (0.025, 0.0905 * hips * k, 0.0670 * k, 0, -0.004),
        (0.040, 0.0895 * k, 0.0675 * k, 0, -0.001), (0.044, 0.0925 * k, 0.0705 * k, 0, -0.001), (0.062, 0.0915 * k, 0.0700 * k, 0, 0),
    ]  # fmt: skip
    out = [Blend(Tube(c.hip, c.pelvis, -c.across_hips, rows, (0.02, 0.006)))]
    back = unit(np.cross(c.pelvis, c.across_hips))
    for leg in c.legs:
        at = leg.hip + back * 0.030 - c.pelvis * 0.004 - c.across_hips * (leg.side * 0.006)
        out.append(Blend(ball(at, (0.047 * hips * k, 0.050 * hips * k, 0.052), tuple(c.pelvis)), 0.03))
    return out


def trouser_leg(w: Wearer, leg: Leg, until: float = 2.0, cloth: float = 0.0045) -> list[Blend]:
    """A leg with its cloth, or bare with none; ``until`` 0 hip, 1 knee, 2 ankle."""
    thigh, shank = w.seg["thigh"], w.seg["shank"]
    upper, lower = w.thick("thighs"), w.thick("shanks")
    bent, lifted = float(np.clip(leg.bend / 70, 0, 1)), float(np.clip(np.degrees(np.arccos(np.clip(-leg.thigh[2], -1, 1))) / 90, 0, 1))
    rows = [
        (s * thigh, a * (upper + (lower - upper) * s) + cloth * k, b * (upper + (lower - upper) * s) + cloth * k, 0, ahead)
        for (s, a, b, ahead), k in zip(table("body")["limb"]["thigh"], (0, 1, 1, 1, 1), strict=True)
    ]
    wide = (
        ((1, 1), (1, 1), (1, 1), (1, 1), (0.6, 0.6), (0.6, 0.6))
        if w.tucked
        else ((1, 1), (1, 1), (1, 1), (1.4, 1.4), (2.0, 2.3), (2.2, 2.5))
    )
    low = [
        (s * shank, a * lower + cloth * k, b * lower + cloth * m, 0, ahead)
        for (s, a, b, ahead), (k, m) in zip(table("body")["limb"]["shank"], wide, strict=True)
    ]
    gathers = all_of(
        rings(0.03, 0.05, 0.0014 + 0.003 * lifted, 0.034, leg.side, 0.8, 1),
        rings(0.93 * thigh, 0.04, 0.0010 + 0.003 * bent, 0.028, -leg.side, 0.2, -1),
    )
    if until < 1:
        edge = until * thigh
        rows = [r for r in rows if r[0] < edge] + [(edge, rows[2][1] + 0.010, rows[2][2] + 0.010, 0, 0)]
        return [Blend(Tube(leg.hip, leg.thigh, X, rows, (None, 0.006), gathers, 0.005), 0.022, leg.hip, 0.10)]
    if not cloth:
        # What shorts cover is left out: thinned skins that lie close under cloth would pierce it.
        ways = ((leg.hip, leg.thigh, [r for r in rows if r[0] >= 0.45 * thigh]), (leg.knee, leg.shank, low))
        return [Blend(Tube(at, way, X, r), 0.022, at, 0.08) for at, way, r in ways]
    creases = all_of(
        rings(0.88 * shank, 0.04, 0.0 if w.tucked else 0.0022, 0.034, leg.side, 2.0),
        rings(0.05 * shank, 0.045, 0.0010 + 0.003 * bent, 0.028, leg.side, 1.1, -1),
    )
    return [
        Blend(Tube(leg.hip, leg.thigh, X, rows, (None, None), gathers, 0.005), 0.022, leg.hip, 0.10),
        Blend(Tube(leg.knee, leg.shank, X, low, (None, 0.008), creases, 0.006), 0.005 + 0.022 * bent, leg.knee, 0.08),
    ]


def _hem_folds(start: float, end: float, much: float, count: int, phase: float) -> Folds:
    """Folds that grow from nothing to the hem."""

    def more(s: Grid, phi: Grid) -> Grid:
        t = np.clip((s - start) / (end - start), 0, 1)
        wave = np.cos(count * phi + phase + 0.9 * np.sin(2 * phi + phase)) + 0.35 * np.cos((count + 4) * phi + 2 * phase)
        return np.asarray(much * t**1.2 * wave, np.float32)

    return more


def hanging(w: Wearer, hem: float, loose: float, flare: float, much: float, count: int, top: float, sunk: float = 0.0) -> list[Volume]:
    """Cloth from the waist over the legs to ``hem`` (0 hips, 1 knees, 2 ankles) with ``count`` folds of ``much``.

    Over legs that stand together it is a bell; over a lap it lies on the thighs and falls from the knees; where one thigh goes forward and
    one down, or one leg far back, cloth spans between them. The upper edge is ``sunk`` under what is worn over it.
    """
    c, seg = w.chain, w.seg
    k = float(w.row["broad"]) * (1 + (w.stout - 1) * 0.8)
    hips = 1.03 if w.woman else 1.0
    wide, deep, r = 0.096 * k * hips + loose, 0.078 * k * hips + loose, 0.045 * w.thick("thighs") + loose
    left, right = c.legs

    def along(leg: Leg, t: float) -> Floats:
        return leg.hip + leg.thigh * (seg["thigh"] * min(t, 1.0)) + leg.shank * (seg["shank"] * max(t - 1.0, 0.0))

    waist_wide, waist_deep = (0.0785, 0.0600) if w.woman else (0.0905, 0.0690)
    rows = [
        (-0.03, wide, deep, 0, -0.004),
        (0.0, wide, deep, 0, -0.004),
        (0.04, wide * 0.94, deep * 0.93, 0, -0.002),
        (top, waist_wide * k + loose * 0.6 - sunk, waist_deep * k + loose * 0.6 - sunk),
    ]
    out: list[Volume] = [Tube(c.hip, c.pelvis, -c.across_hips, rows, (0.04, 0.01))]
    if float(left.thigh @ right.thigh) < 0.3:
        ahead, behind = (left, right) if left.thigh[1] < right.thigh[1] else (right, left)
        until = min(hem, 0.95)
        length = seg["thigh"] * until
        for leg in (ahead, behind):
            folds = _hem_folds(0.0, length, much * 0.5, count, 0.0)
            out.append(
                Tube(
                    leg.hip,
                    leg.thigh,
                    X,
                    [(0, r + 0.004, r + 0.008), (length, r + flare * 0.3, r + flare * 0.2)],
                    (0.03, 0.012),
                    folds,
                    much,
                )
            )
        out.append(Sheet(c.hip, along(ahead, until * 0.97), along(behind, until * 0.9), r * 0.8))
        if hem > 1.2:
            out.append(Sheet(along(ahead, 0.97), along(ahead, hem), along(behind, 0.93), r * 0.9))
            out.append(Sheet(along(behind, 0.9), along(behind, 1.5), along(ahead, hem), r * 0.75))
        return out

    def bell(a: Floats, t: float, near: tuple[float, float], from_: float, spread: float, end: float) -> Tube:
        b = (along(left, t) + along(right, t)) / 2
        long = float(np.linalg.norm(b - a))
        way = (b - a) / long
        u = unit(X - way * way[0])
        v = np.cross(way, u)
        apart = along(left, t) - along(right, t)
        far = (abs(float(apart @ u)) / 2 + r + flare * spread, abs(float(apart @ v)) / 2 + r + flare * spread)
        rows = [(0, *near), (0.45 * long, *((n + f) / 2 for n, f in zip(near, far, strict=True))), (long, *far)]
        return Tube(a, way, X, rows, (0.03, end), _hem_folds(from_, long, much, count, 0.4), much * 1.4)

    knees = float(np.linalg.norm(left.thigh + right.thigh - left.shank - right.shank))
    over_lap = c.bent > 50
    if hem <= 1.0 or knees > 0.5:
        lap = (wide * 0.98, 0.066 * k + loose if over_lap else deep)
        out.append(bell(c.hip, min(hem, 1.0), lap, 0.02, min(hem, 1.0), 0.006 if hem <= 1 else 0.03))
        if hem > 1.0:
            apart = abs(float((along(left, 1.0) - along(right, 1.0))[0])) / 2 + r + flare
            out.append(bell((along(left, 1.0) + along(right, 1.0)) / 2, hem, (apart, r + 0.01), 0.0, hem * 0.55, 0.006))
    else:
        out.append(bell(c.hip, hem, (wide, deep), 0.03, hem, 0.006))
    return out


def skin_of(code: int, blends: Sequence[Blend], most: int, cell: float = CELL) -> Part:
    """One part out of volumes that flow into each other."""
    return Part(code, *joined(blends, cell, most))


def cloth_of(code: int, volumes: Sequence[Volume], most: int, soft: float = 0.05) -> Part:
    """One part out of hanging cloth."""
    return skin_of(code, [Blend(volumes[0]), *(Blend(v, soft) for v in volumes[1:])], most)
