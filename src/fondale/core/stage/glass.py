# SPDX-License-Identifier: MIT
"""Panes and mirrors as light meets them: what they throw back, and what they let through."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from fondale.core.arrays import Floats, Ints, length
from fondale.core.model import Case
from fondale.core.model.shapes import Glass, Mirror, Shape, Water
from fondale.core.stage.cases import INSET_MM, SIDES, cells, frame_of

INDEX = 1.5  # of glass and acrylic
# Share of the light that a mirror throws back: common practice, no source.
MIRRORS: dict[Mirror, float] = {
    "glass mirror": 0.88, "mirror acrylic": 0.83, "front-silvered": 0.94, "half mirror": 0.5, "dark half mirror": 0.3,
}  # fmt: skip
HALF: tuple[Mirror, ...] = ("half mirror", "dark half mirror")  # what they do not throw back goes through
_NEAR = 1e-6  # of a ray's length: where it starts it crosses nothing


def face_throws(cos: Floats, n: float = INDEX) -> Floats:
    """The share (k,) that one face of glass throws back, by cosines off its normal, for light of no polarisation [hecht]: 4 % straight on at n = 1.5."""
    across, along = _throws(cos, n)
    out: Floats = (across + along) / 2
    return out


def _throws(cos: Floats, n: float) -> tuple[Floats, Floats]:
    """What one face throws back of light that swings across the plane of incidence, and of light that swings along it (k,) [hecht]."""
    cos_a = np.clip(np.abs(cos), 1e-9, 1.0)
    cos_in = np.sqrt(1 - (1 - cos_a**2) / n**2)
    across, along = (cos_a - n * cos_in) / (cos_a + n * cos_in), (n * cos_a - cos_in) / (n * cos_a + cos_in)
    return across**2, along**2


def pane_throws(cos: Floats, n: float = INDEX) -> Floats:
    """The share (k,) that a clear pane throws back with both faces, and what goes to and fro between them: 2 R / (1 + R) of each way to swing,
    and the mean of the two; what the first face lets through is polarised.
    """
    across, along = _throws(cos, n)
    out: Floats = across / (1 + across) + along / (1 + along)
    return out


def _cos(angle_deg: float) -> Floats:
    return np.array([math.cos(math.radians(min(abs(angle_deg), 89.999)))])


def fresnel(angle_deg: float, n: float = INDEX) -> float:
    """The share that one face of glass throws back at an angle from its normal."""
    return float(face_throws(_cos(angle_deg), n)[0])


def pane_reflects(angle_deg: float, n: float = INDEX) -> float:
    """The share that a clear pane throws back at an angle from its normal."""
    return float(pane_throws(_cos(angle_deg), n)[0])


@dataclass(frozen=True)
class Panes:
    """Flat panes and mirrors: ``rects`` (p, 3, 3) corner and edges. ``throws`` (p,) is the share that each throws back, NaN: a clear pane, by
    the angle, by its ``faces``, two, or one of water; ``passes`` is what a mirror lets through. ``owner`` (p,) indexes the project's pieces (-1: the case's own).
    """

    rects: Floats
    throws: Floats
    passes: Floats
    faces: Ints
    owner: Ints

    def __len__(self) -> int:
        return len(self.rects)

    @cached_property
    def normal(self) -> Floats:
        """Unit normals (p, 3)."""
        n = np.cross(self.rects[:, 1], self.rects[:, 2])
        out: Floats = n / np.linalg.norm(n, axis=1, keepdims=True)
        return out

    @cached_property
    def straight_on(self) -> tuple[float, ...]:
        """The share that each throws back of light that meets it straight on (p,)."""
        if not len(self):
            return ()
        return tuple(self.shares(np.arange(len(self)), np.ones(len(self)))[0].tolist())

    def of_pieces(self) -> "Panes":
        """Those that stand in the case."""
        mine = self.owner >= 0
        return Panes(self.rects[mine], self.throws[mine], self.passes[mine], self.faces[mine], self.owner[mine])

    def met(self, k: int, origins: Floats, ways: Floats, reach: Floats | float = np.inf) -> tuple[Ints, Floats]:
        """Which rays (n, 3) cross pane ``k`` within ``reach`` lengths of ``ways``, and where in these lengths."""
        p, u, v, normal = (x.astype(ways.dtype) for x in (*self.rects[k], self.normal[k]))
        across = ways @ normal
        # Rays along the pane never meet it: their place is not a number, or beyond any reach.
        with np.errstate(divide="ignore", invalid="ignore"):
            t = ((p @ normal) - origins @ normal) / across
            near = np.flatnonzero((t > _NEAR) & (t < reach))
        t = t[near]
        rel = origins[near] + ways[near] * t[:, None] - p
        s, r = rel @ (u / (u @ u)), rel @ (v / (v @ v))
        inside = np.flatnonzero((s >= 0) & (s <= 1) & (r >= 0) & (r <= 1))
        return near[inside], t[inside]

    def first(self, origins: Floats, ways: Floats, reach: Floats) -> tuple[Ints, Floats]:
        """The first pane (n,) that each ray crosses within ``reach`` (n,) lengths of ``ways`` (-1: none), and where."""
        which, at = np.full(len(origins), -1), reach.copy()
        for k in range(len(self)):
            hit, t = self.met(k, origins, ways, at)
            which[hit], at[hit] = k, t
        return which, at

    def shares(self, which: Ints, cos: Floats) -> tuple[Floats, Floats]:
        """What the panes ``which`` (n,) throw back and let through at cosines (n,) off their normals."""
        clear = np.where(self.faces[which] == 2, pane_throws(cos), face_throws(cos))
        is_clear = np.isnan(self.throws[which])
        return np.where(is_clear, clear, self.throws[which]), np.where(is_clear, 1 - clear, self.passes[which])

    def through(self, origins: Floats, targets: Floats, but: int = -1) -> Floats:
        """The share (n,) of light that comes from ``targets`` (n, 3) to ``origins`` through all panes between; ``but`` one that it touches."""
        out = np.ones(len(origins), origins.dtype)
        for k in range(len(self)):
            if k == but:
                continue
            normal = self.normal[k].astype(origins.dtype)
            level = normal @ self.rects[k, 0].astype(origins.dtype)
            apart = np.flatnonzero((origins @ normal < level) != (targets @ normal < level))
            if not len(apart):
                continue  # both ends of each way lie on one side of it
            ways = targets[apart] - origins[apart]
            hit, _t = self.met(k, origins[apart], ways, 1 - _NEAR)
            if len(hit):
                cos = ways[hit] @ self.normal[k] / np.maximum(length(ways[hit]), 1e-12)
                out[apart[hit]] *= self.shares(np.full(len(hit), k), cos)[1]
        return out


NO_PANES = Panes(np.zeros((0, 3, 3)), np.zeros(0), np.zeros(0), np.zeros(0, np.int64), np.zeros(0, np.int64))


def see_through(shape: Shape) -> bool:
    """Whether one sees through it."""
    return isinstance(shape, Water) or (isinstance(shape, Glass) and shape.made in ("glass", "acrylic", *HALF))


def shining_face(shape: Shape) -> int | None:
    """Which of its faces light comes back from or goes through: the front of a pane or mirror, the surface of water."""
    return 0 if isinstance(shape, Glass) else 4 if isinstance(shape, Water) else None


def _case_rects(case: Case) -> Iterator[Floats]:
    """The flat panes of a case inside their frames; a dome is round, and is none."""
    if case.kind == "dome":
        return
    for cell in cells(case):
        for side in SIDES:
            if cell.sides[side] == "pane":
                at, frame = frame_of(cell, side), cell.hollow.frame
                wide, high = at.length - 2 * frame, at.height - 2 * frame
                if wide > 0 and high > 0:
                    yield np.array([at.at(np.array([frame, frame])), at.right * wide, at.up * high])


def panes_of(case: Case, placed: list[tuple[int, Shape, Floats]]) -> Panes:
    """All panes of a scene: the case's own, and those of pieces by their index, with the face (3, 3) of each where it stands."""
    own = list(_case_rects(case))
    rects = [*own, *(_before(face) for _i, _shape, face in placed)]
    if not rects:
        return NO_PANES
    shares: dict[str, float] = {str(kind): share for kind, share in MIRRORS.items()}
    made = [*([""] * len(own)), *(shape.made if isinstance(shape, Glass) else "" for _i, shape, _face in placed)]
    return Panes(
        np.array(rects),
        np.array([shares.get(m, math.nan) for m in made]),
        np.array([1 - shares[m] if m in HALF else 0.0 for m in made]),
        np.array([2] * len(own) + [1 if isinstance(shape, Water) else 2 for _i, shape, _face in placed]),
        np.array([-1] * len(own) + [i for i, _shape, _face in placed]),
    )


def _before(face: Floats) -> Floats:
    """A hair before a face: light meets the mirror before the body behind it."""
    n = np.cross(face[1], face[2])
    return np.stack([face[0] + n / np.linalg.norm(n) * INSET_MM * 2, face[1], face[2]])
