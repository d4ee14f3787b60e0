# SPDX-License-Identifier: MIT
"""Meters, points of areas and of pictures: what bounces to them, gathered by rays of their own."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

import numpy as np

from fondale.core.arrays import Floats, Ints, folded, length
from fondale.core.emitters import Emitter
from fondale.core.light.casts import Cast, matrix_of
from fondale.core.light.matrices import stacked
from fondale.core.light.patches import Scrambled, cosine_ways, first_hits
from fondale.core.light.solver import Lit, solve
from fondale.core.light.weights import weights
from fondale.core.stage.cases import INSET_MM
from fondale.core.stage.moved import Moved
from fondale.core.stage.scene import Scene

if TYPE_CHECKING:
    from scipy import sparse

GATHER_RAYS = 4096
# Where fewer rays than so many bear the light there go as many times more towards it as the square of that, doubled so often at most.
ENOUGH, AT_FIRST, DOUBLED = 0.55, 0.35, 3
METER_LIFT_MM = 2 * INSET_MM  # a meter on a wall that is drawn in stands before it
TOGETHER = 8  # lamps whose light is received in one product
MOST_KNOWN = 64  # lamps that what is near is known of
MOST_NEAR = 6  # times that near things are looked at anew before all are
MOST_CASTS = 60  # of receivers that follow what moves, each a little work; with more it is less to begin anew
_SEED = 11
# Nearer than so many mm light changes within a texel; it is looked at where so much of all round lies so near.
NEAR_MM, NEAR_LEAST = 12.0, 0.02
LOOKS_LEAST, LOOKS_MOST = 8, 512  # rays of a receiver to what is near
LOOKS_FEWEST, LOOKED_AT = 4, 8192  # fewer of each where there are many, and so many in all
Looks = tuple[tuple[int, int], ...]  # rays of each receiver, and of each point where they end; and of these in turn
FEW_LOOKS: Looks = ((16, 64), (4, 32))  # of many receivers


@dataclass(frozen=True)
class Receivers:
    """Where light is received: points (k, 3) with their normals, and the weights (k, m) of texels in what bounces there, whatever lamps there are. ``casts`` are the
    rays, where they are kept for when something moves in the ``scene``.
    """

    scene: Scene
    points: Floats
    normals: Floats
    weights: "sparse.csr_array"
    casts: tuple[Cast, ...] = ()
    near: "tuple[Near, ...]" = ()


@dataclass(frozen=True)
class Near:
    """What lies so near to receivers that the light there differs from that of its texel as a whole: points of it that receive light for themselves,
    how much of what each sends back comes to which receiver (k, c), their reflectance (c, 3), and the texel of each (c,): by how much they send back
    more than that is what receivers lack.
    """

    points: Receivers
    share: "sparse.csr_array"
    paint: Floats
    texel: Ints
    known: dict[Emitter, Floats] = field(default_factory=dict)

    def light(self, lit: Lit, groups: Sequence[Mapping[Emitter, Floats]], back: Floats) -> Floats:
        """What comes from there to the receivers (k, 3 groups) more than from its texels, of groups of lamps of these strengths (3,), of which texels
        send ``back`` so much (m, 3 groups).
        """
        total = self.points.weights @ back
        total = total + sum(near.light(lit, groups, back) for near in self.points.near)
        for number, wanted in enumerate(groups):
            for emitter, bands in wanted.items():
                total[:, 3 * number : 3 * number + 3] += self._straight(lit.scene, emitter)[:, None] * bands
        out: Floats = self.share @ (np.tile(self.paint, (1, len(groups))) * total - back[self.texel])
        return out

    def of(self, rows: "sparse.csr_array") -> "Near":
        """The same for receivers of other numbers, of which ``rows`` (n, k) are the old ones."""
        return replace(self, share=rows @ self.share)

    def past(self, moved: Moved, scene: Scene) -> "Near":
        """The same where something has moved that is not near: it hides lamps from there, or does no longer. What it hides of what bounces, and of what
        mirrors throw, is too little to be looked at anew.
        """
        known = {}
        where, facing = self.points.points, self.points.normals
        for emitter, light in self.known.items():
            some = np.flatnonzero(folded(np.logical_or, np.stack([moved.between(at, where) for at in emitter.outline()], 1)))
            known[emitter] = light
            if len(some):
                known[emitter] = light.copy()
                known[emitter][some] = emitter.direct(scene, where[some], facing[some]) + emitter.thrown(scene, where[some], facing[some])
        stands = replace(self.points, scene=scene, near=tuple(near.past(moved, scene) for near in self.points.near))
        return replace(self, points=stands, known=known)

    def _straight(self, scene: Scene, emitter: Emitter) -> Floats:
        """What comes straight to the points (c,), and by way of panes and mirrors, of a lamp of 1 cd."""
        if emitter not in self.known:
            if len(self.known) > MOST_KNOWN:  # a lamp that is dragged is another one at each step
                self.known.clear()
            where = self.points.points, self.points.normals
            self.known[emitter] = emitter.direct(scene, *where) + emitter.thrown(scene, *where)
        return self.known[emitter]


def receivers(
    lit: Lit,
    points: Floats,
    normals: Floats,
    rays: int = GATHER_RAYS,
    seed: int = _SEED,
    parts: int = 1,
    kept: bool = False,
    enough: float = ENOUGH,
    looks: Looks | None = None,
    lift: float = METER_LIFT_MM,
) -> Receivers:
    """Send rays from receivers on surfaces, half of them towards where the light of all solved lamps comes from, and up to eight times as many where fewer than
    ``enough`` of these bear the light: in so many ``parts`` that know nothing of each other, all receivers in one and then in the next. The rays may be ``kept``.
    What is near to them receives light for itself, by so many ``looks`` at it; none asks for none. They lie ``lift`` mm before their surfaces.
    """
    aim, lit_up = lit.aim()
    if lit.since is not None:
        aim = lit.since.aim(aim)  # what has moved is asked for by nobody: when it moves again, all count as they did
    around, count = rays // parts // 2, len(points)
    points = points + normals * lift
    casts = list[Cast]()

    def at(which: Ints, x: Floats) -> tuple[Floats, Floats]:
        shape = (len(which), x.shape[1], 3)
        return np.broadcast_to(points[which, None], shape), np.broadcast_to(normals[which, None], shape)

    def sent(which: Ints, many: int, part: int) -> "sparse.csr_array":
        mine: list[Cast] | None = [] if kept else None
        found = weights(aim, len(which), lambda k, x: at(which[k], x), around, many, seed + 4 * part, kept=mine)
        casts.extend(replace(cast, which=part * count + which[cast.which]) for cast in mine or ())
        return found

    if lit_up:  # the error of as many rays falls as they bear the light
        lacking = np.log2(enough / np.maximum(aim.at(lit.bearing, points, normals), 1e-3))
        towards = around * 2 ** np.clip(np.round(2 * lacking), 0, DOUBLED).astype(np.int64)
    else:
        towards = np.zeros(count, np.int64)
    lifted, facing = np.tile(points, (parts, 1)), np.tile(normals, (parts, 1))
    near = _near(lit, lifted, facing, parts, seed, looks_of(rays, parts) if looks is None else looks)
    kinds = [(np.flatnonzero(towards == k), k) for k in np.unique(towards).tolist() or [0]]
    order, found = np.argsort(np.concatenate([which for which, _many in kinds])), []
    for part in range(parts):
        found.append(stacked([sent(which, many, part) for which, many in kinds])[order])
    return Receivers(lit.scene, lifted, facing, stacked(found), tuple(casts), near)


def looks_of(rays: int, parts: int) -> Looks:
    """How receivers of so many rays look at what is near."""
    times = min(max(LOOKS_LEAST, rays // parts // 16), LOOKS_MOST)
    first = times, min(max(64, rays // 16), 2 * LOOKS_MOST)
    return (first, (times // 8, 64)) if times > LOOKS_LEAST else (first,)


def _near(lit: Lit, points: Floats, normals: Floats, parts: int, seed: int, looks: Looks) -> tuple[Near, ...]:
    """What is near to receivers of so many parts, the same in each."""
    from scipy import sparse

    if not len(points) or not looks:
        return ()
    (times, rays), scene = looks[0], lit.scene
    times = 1 << (max(LOOKS_FEWEST, min(times, LOOKED_AT // len(points))).bit_length() - 1)  # a power of two: they are as even as can be
    x = Scrambled(len(points), times, 2, seed + 90).of(np.arange(len(points)))
    start, facing = (np.repeat(v, times, axis=0) for v in (points, normals))
    prim, where, outside = first_hits(scene, start, facing, cosine_ways(x.reshape(-1, 2), facing))
    near = (prim >= 0) & outside & (length(where - start) < NEAR_MM)
    some = near.reshape(parts, -1, times).mean((0, 2)) > NEAR_LEAST
    hit = np.flatnonzero(near & np.repeat(np.tile(some, parts), times))
    if not len(hit):
        return ()
    good = np.maximum(outside.reshape(len(points), times).mean(1), 1 / times)
    row, at = hit // times, where[hit]
    share = 1 / times / good[row]
    if len(scene.panes):
        share = share * scene.panes.through(start[hit], at)
    onto = sparse.csr_array((share, (row, np.arange(len(hit)))), shape=(len(points), len(hit)))
    stand = receivers(lit, at, scene.normal[prim[hit]], rays, seed + 91, enough=AT_FIRST, looks=looks[1:], lift=0.0)
    return (Near(stand, onto, scene.paint[prim[hit]], lit.texels.of_hits(prim[hit], at)),)


def receivers_again(
    before: Receivers,
    lit: Lit,
    moved: Moved,
    points: Floats,
    normals: Floats,
    rays: int = GATHER_RAYS,
    parts: int = 1,
    enough: float = ENOUGH,
) -> Receivers:
    """Receivers in a scene that has followed what ``moved``: of those that were there before only the rays are cast again that led past it, others send anew."""
    from scipy import sparse

    lifted = points + normals * METER_LIFT_MM
    was, count = len(before.points) // parts, len(points)
    place = {tuple(row): k for k, row in enumerate(np.concatenate([before.points[:was], before.normals[:was]], 1).tolist())}
    same = np.array([place.get(tuple(row), -1) for row in np.concatenate([lifted, normals], 1).tolist()], np.int64)
    same[moved.beside(lifted - NEAR_MM, lifted + NEAR_MM)] = -1  # rays may begin in it, and what is near is looked at anew
    old, new = np.flatnonzero(same >= 0), np.flatnonzero(same < 0)
    if lit.since is None or not len(old) or len(before.casts) > MOST_CASTS or len(before.near) > MOST_NEAR:
        return receivers(lit, points, normals, rays, parts=parts, kept=True, enough=enough)
    number = np.full(was * parts + 1, -1)  # of each receiver from now on; for -1 too
    for part in range(parts):
        number[part * was + same[old]] = part * count + old
    casts = []
    ends, kept = number[:-1], np.flatnonzero(number[:-1] >= 0)
    stay = sparse.csr_array((np.ones(len(kept)), (ends[kept], kept)), shape=(parts * count, parts * was))
    near = [one.past(moved, lit.scene).of(stay) for one in before.near]
    for cast in before.casts:
        now = number[cast.which]
        if (now >= 0).any():
            casts.append(replace(cast.again(moved, lit.since.aim(cast.aim), lit.since.gone, now >= 0), which=now))
    if len(new):
        fresh = receivers(lit, points[new], normals[new], rays, parts=parts, kept=True, enough=enough)
        for cast in fresh.casts:
            parts_of, which = np.divmod(cast.which, len(new))
            casts.append(replace(cast, which=parts_of * count + new[which]))
        ends = (np.arange(parts)[:, None] * count + new).ravel()
        joins = sparse.csr_array((np.ones(len(ends)), (ends, np.arange(len(ends)))), shape=(parts * count, len(ends)))
        near += [one.of(joins) for one in fresh.near]
    every, facing = np.tile(lifted, (parts, 1)), np.tile(normals, (parts, 1))
    return Receivers(lit.scene, every, facing, matrix_of(casts, parts * count, lit.texels.n), tuple(casts), tuple(near))


def received(lit: Lit, at: Receivers, emitter: Emitter) -> Floats:
    """Illuminance (k, 3) in lux at the receivers for 1 cd of an emitter: exact direct light, and what has bounced."""
    return received_by(lit, [at], [emitter])[0][0]


def received_by(lit: Lit, every: Sequence[Receivers], emitters: Sequence[Emitter]) -> list[list[Floats]]:
    """The same of several, by several lamps, lamp by lamp: light of many takes little longer than that of one."""
    solve(lit, emitters)
    points, normals = (np.concatenate([getattr(at, name) for at in every]) for name in ("points", "normals"))
    ends, out = np.cumsum([len(at.points) for at in every])[:-1], list[list[Floats]]()
    for low in range(0, len(emitters), TOGETHER):
        some = emitters[low : low + TOGETHER]
        groups = [{e: np.ones(3)} for e in some]
        back = np.concatenate([lit.shine(wanted) for wanted in groups], axis=1)
        bounced = [at.weights @ back + sum(near.light(lit, groups, back) for near in at.near) for at in every]
        for number, emitter in enumerate(some):
            straight = np.split(emitter.direct(lit.scene, points, normals) + emitter.thrown(lit.scene, points, normals), ends)
            mine = slice(3 * number, 3 * number + 3)
            # Where hardly any comes the correction for what is near may take more than there is.
            out.append([direct[:, None] + np.maximum(light[:, mine], 0.0) for direct, light in zip(straight, bounced, strict=True)])
    return out


def gather(lit: Lit, emitters: Sequence[Emitter], points: Floats, normals: Floats, rays: int = GATHER_RAYS, seed: int = _SEED) -> Floats:
    """Illuminance (points, lamps, 3) in lux for 1 cd of each emitter, by a final gather."""
    solve(lit, emitters)
    at = receivers(lit, points, normals, rays, seed)
    return np.stack([light for (light,) in received_by(lit, [at], emitters)], 1) if emitters else np.zeros((len(points), 0, 3))
