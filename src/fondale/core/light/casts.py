# SPDX-License-Identifier: MIT
"""Rays of receivers with all that their weights hang on, so that those of them can be sent again that a body has moved into, or out of."""

from collections.abc import Sequence
from dataclasses import dataclass, field, fields, replace
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Ints, Shorts, rows
from fondale.core.light.aim import Aim
from fondale.core.light.matrices import sparse_of
from fondale.core.light.odds import Found, Goals, Odds, Vectors, arrived, balanced
from fondale.core.light.patches import trace
from fondale.core.light.texels import Texels
from fondale.core.stage.moved import Moved
from fondale.core.stage.paths import Leg, Met

if TYPE_CHECKING:
    from scipy import sparse


@dataclass(frozen=True)
class Entries:
    """What rays of receivers brought (e,): the receiver, the texel, the weight, and the ray: one by the cosine by its number, what was asked for by -1 less its own."""

    row: Shorts
    texel: Shorts
    value: NDArray[np.float32]
    ray: Shorts


NOTHING = Entries(np.zeros(0, np.int32), np.zeros(0, np.int32), np.zeros(0, np.float32), np.zeros(0, np.int32))


@dataclass(frozen=True)
class Cast:
    """Rays of some receivers ``which`` (k,), all that their weights hang on, and what they brought: ``around`` by the cosine from ``start`` (k around, 3) along
    ``ways``, which went along ``legs``, and ``goals`` that were asked for by ``odds``; ``good`` (k,) is the share of rays that began outside every body.
    """

    aim: Aim
    which: Ints
    around: int
    towards: int
    good: NDArray[np.float32]
    start: Vectors
    facing: Vectors
    ways: Vectors
    legs: list[Leg]
    goals: Goals | None
    odds: Odds | None
    entries: Entries = NOTHING

    def found(self, met: Met, ray: Ints, asked: Ints | None) -> "Cast":
        """The same with what rays that ``met`` something brought, of which ``ray`` (n,) are the numbers, and what was ``asked`` for of its goals (a,)."""
        texels, ray = self.aim.texels, ray[met.ray]
        row, texel, ends = ray // self.around, texels.of_hits(met.prim, met.where), np.arange(len(ray))
        value: Any = met.share / np.float32(self.around)
        if self.goals is not None and self.odds is not None and asked is not None:
            normal = texels.patches.scene.normal32
            whole = Found(row, texel, met.share, ray, self.start, self.facing, ends, met.where, met.prim.astype(np.int64), normal)
            # Light that a pane threw back on its way is found by rays by the cosine alone.
            value = np.where(met.first, balanced(self.aim, whole, self.odds, self.around, self.towards), value)
            for found, goal in arrived(texels, self.goals, asked):
                weighed = balanced(self.aim, found, self.odds, self.around, self.towards)
                parts = (row, found.row), (texel, found.texel), (ray, -1 - goal), (value, weighed)
                row, texel, ray, value = (np.concatenate(x) for x in parts)
        # What begins inside a body is not there.
        value = value.astype(np.float32) / self.good[row]
        return replace(self, entries=Entries(row.astype(np.int32), texel.astype(np.int32), value, ray.astype(np.int32)))

    def again(self, moved: Moved, aim: Aim, gone: Bools, alive: Bools) -> "Cast":
        """The same with the rays of receivers that are ``alive`` (k,) sent again that led through what has ``moved``, by the ``aim`` of the new scene; what lies on a texel
        that is ``gone`` (n,) is asked for no more.
        """
        around, old = self.around, self.entries
        redo = np.zeros(len(self.start), bool)
        for ray, begin, way, far in self.legs:
            redo[ray[moved.crossed(begin, way, far)]] = True
        redo &= np.repeat(alive, around)
        which = np.flatnonzero(redo)
        legs = list[Leg]()
        met = trace(aim.texels.patches.scene, rows(self.start, which), rows(self.facing, which), rows(self.ways, which), legs)
        stay = alive[old.row]
        stay[old.ray >= 0] &= ~redo[old.ray[old.ray >= 0]]
        asked, g = None, self.goals
        if g is not None:
            g = replace(g, far=g.far.copy())  # how far it is now is noted in it
            lost = (g.texel >= 0) & gone[g.texel]
            ask = alive[g.row] & ~lost & moved.crossed(g.begin, g.end - g.begin, g.far)
            goal = -1 - old.ray[old.ray < 0]
            stay[old.ray < 0] &= ~(lost | ask)[goal]
            asked = np.flatnonzero(ask)
        begun, ways, far = self.legs[0][1:]
        far = far.copy()
        far[which] = legs[0][3]
        later: list[Any] = [tuple(x[~redo[leg[0]]] for x in leg) for leg in self.legs[1:]] + [(which[leg[0]], *leg[1:]) for leg in legs[1:]]
        rest: Any = [tuple(np.concatenate(x) for x in zip(*later, strict=True))] if later else []  # in one, however often it has moved
        cast = replace(self, aim=aim, legs=[(self.legs[0][0], begun, ways, far), *rest], goals=g, entries=NOTHING)
        new = cast.found(met, which, asked).entries
        both = (np.concatenate([getattr(old, f.name)[stay], getattr(new, f.name)]) for f in fields(Entries))
        return replace(cast, entries=Entries(*both))


@dataclass(frozen=True)
class Since:
    """What has moved since rays were sent: the ``texels`` as they lie now, and which of them are ``gone`` (n,) from where they were."""

    texels: Texels
    gone: Bools
    _found: list[tuple[Aim, Aim]] = field(default_factory=list)

    def aim(self, before: Aim) -> Aim:
        """The aim that rays were sent by, as they count by it now: nothing that is gone is asked for."""
        for aim, now in self._found:
            if aim is before:
                return now
        within = np.where(self.gone, 0.0, before.within)
        flux = np.where(np.bincount(self.texels.patch, ~self.gone, self.texels.patches.n) > 0, before.flux, 0.0)
        self._found.append((before, replace(before, texels=self.texels, within=within, flux=flux)))
        return self._found[-1][1]


def halves_of(casts: Sequence[Cast], k: int, n: int) -> "sparse.coo_array":
    """The weights (2 k, n) of texels by either half of the rays that receivers have sent last: every other ray, and every other point that is asked for, each as even as
    all of them.
    """
    from scipy import sparse

    newest, found = np.full(k, -1), list[tuple[NDArray[Any], ...]]()
    for number, cast in enumerate(casts):
        newest[cast.which] = number
    for number, cast in enumerate(casts):
        e, half = cast.entries, cast.entries.ray.copy()
        if cast.goals is not None:  # they are numbered from that of the first receiver on
            first = np.searchsorted(cast.goals.row, np.arange(len(cast.which))).astype(np.int32)
            half += np.where(half < 0, first[e.row] + 1, 0)
        entries = rows(cast.which.astype(np.int32), e.row) + k * (half & 1), e.texel, 2 * e.value
        mine = newest[cast.which] == number
        found.append(entries if mine.all() else tuple(x[mine[e.row]] for x in entries))
    row, texel, value = (np.concatenate(x) for x in zip(*found, strict=True))
    return sparse.coo_array((value, (row, texel)), shape=(2 * k, n))


def matrix_of(casts: Sequence[Cast], k: int, n: int) -> "sparse.csr_array":
    """The weights (k, n) of texels for receivers, from what all these rays brought."""
    entries = [(rows(cast.which, cast.entries.row), cast.entries.texel, cast.entries.value) for cast in casts]
    row, texel, value = (np.concatenate(x) for x in zip(*entries, strict=True))
    order = np.argsort(row.astype(np.uint16 if k < 65_536 else np.int64), kind="stable")
    ends = np.concatenate([[0], np.cumsum(np.bincount(row, minlength=k))]).astype(np.int32)
    return sparse_of((rows(value, order), rows(texel, order), ends), (k, n))
