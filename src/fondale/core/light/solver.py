# SPDX-License-Identifier: MIT
"""Direct and bounced light of each lamp for itself, so that levels, moments and colours are sums.

Diffuse surfaces, B = rho (E_direct + sum F B). The bounced part is the unknown, one value a patch; direct light is known texel by texel
where it bounces for the first time, and evaluated exactly wherever it is shown.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from typing import TYPE_CHECKING, Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats, Ints, folded, length, rows
from fondale.core.emitters import Emitter
from fondale.core.light.aim import Aim, aim_at, alike
from fondale.core.light.casts import Cast, Since, halves_of
from fondale.core.light.matrices import ROW_MOST, at_most, bearing, by_patch, lit_by, replaced, stacked
from fondale.core.light.nodes import Bent, Nodes
from fondale.core.light.patches import Patches, cosine_ways, cut_patches, first_hits
from fondale.core.light.texels import Direct, Texels, cut_texels, direct_on
from fondale.core.light.weights import FEW, FINE_MORE, MORE, Told, weights
from fondale.core.progress import Progress, Quiet
from fondale.core.side_by_side import THREADS, in_parts
from fondale.core.stage.scene import Scene

if TYPE_CHECKING:
    from scipy import sparse

T = TypeVar("T")
PATCH_MM = 24.0
RAYS, FINE_RAYS = (128, 512)  # of a patch by the cosine, when light is solved first, and when it is solved again
TOWARDS, FINE_TOWARDS = 0.5, 1.0  # rays towards light for each of those
LOOKS = 16  # points of a patch from where rays go towards light
AGAIN, HARD = 2, 0.25  # times at most that patches send again: once more only where so many of them still need to
SMALL_MM2 = 300.0  # half as many go from patches that are smaller
FEWER = 8  # of them a group of free triangles gets an eighth at first: what it is given matters to itself alone
CONTACT_MM = 0.2  # two faces that are nearer touch
# Straight up and low to four sides, as numbers of a cosine way; how many of them must end inside a body.
WAYS_OUT, PROOFS = ((0.0, 0.0), *((0.88, 0.13 + k / 4) for k in range(4))), 2
MOST_SEEN = 1.1  # by a patch of all round it, as a few rays have it
_TOLERANCE, ROUGHLY = 2e-5, 2e-3
_MOST_BOUNCES = 200


@dataclass
class Basis:
    """Light of one lamp of 1 cd on its axis, in lux: direct (n,) and bounced (n, 3) on every patch, and direct on every texel, ``on`` (m,), which is known by ``looks``.
    What panes and mirrors throw back, ``thrown`` (n,), counts as bounced.
    """

    direct: Floats
    bounced: Floats
    looks: Direct
    thrown: Floats

    @property
    def on(self) -> NDArray[np.float32]:
        """Direct light on every texel (m,)."""
        return self.looks.on


@dataclass
class Lit:
    """A scene ready for light: patches and texels, the weights of texels for every patch, patches among themselves, and a basis for each emitter
    asked for so far. ``ready`` is direct light on texels that was worked out on the way, of the lamps that rays were ``aimed`` by; ``spread`` (m, n) is
    how texels share in what bounces on patches; ``bearing`` (n,) is which share of rays bears the light of patches thereabouts. ``casts`` are the ``rays``
    of patches, where they are kept for when something moves; ``since`` tells what has moved since they were sent.
    """

    scene: Scene
    patches: Patches
    texels: Texels
    weights: "sparse.csr_array"
    exchange: "sparse.csr_array"
    covered: Bools
    spread: "sparse.csr_array"
    ready: dict[Emitter, Direct]
    aimed: tuple[Emitter, ...]
    bearing: Floats
    rays: int
    casts: list[Cast] = field(default_factory=list)
    since: Since | None = None
    bases: dict[Emitter, Basis] = field(default_factory=dict)

    _aim: tuple[tuple[Emitter, ...], Aim, bool] | None = None
    _at_nodes: tuple[tuple[Emitter, ...], Ints | None, Bent] | None = None

    def aim(self) -> tuple[Aim, bool]:
        """Where rays of receivers go by the light of all lamps that are solved, and whether there is any."""
        key = tuple(self.bases)
        if self._aim is None or self._aim[0] != key:
            shine = self.alike(key)
            self._aim = key, aim_at(self.texels, shine, self.reached(shine)), bool(shine.any())
        return self._aim[1:]

    def alike(self, emitters: Sequence[Emitter]) -> Floats:
        """What every texel sends back (m,) of these lamps, all alike."""
        return alike(self.texels, self.spread, ((self.bases[e].on, self.bases[e].bounced) for e in emitters))

    def reached(self, shine: Floats) -> "sparse.csr_array":
        """What reaches every patch from every other (n, n), by what every texel sends back (m,)."""
        return by_patch(lit_by(self.weights, shine), self.texels)

    def bounced(self, wanted: Mapping[Emitter, Floats]) -> NDArray[np.float32]:
        """Bounced light on every patch (n, 3) of solved lamps of these strengths (3,)."""
        total = np.zeros((self.patches.n, 3))
        for emitter, bands in wanted.items():
            total += self.bases[emitter].bounced * bands
        return total.astype(np.float32)

    @cached_property
    def _nodes(self) -> Nodes:
        return Nodes(self.patches, self.covered)

    @cached_property
    def _halves(self) -> "sparse.coo_array":
        return halves_of(self.casts, self.patches.n, self.texels.n)

    def nodes(self) -> Bent:
        """How light bends between patches: where rays are kept, with the noise in that of all solved lamps taken out."""
        key = tuple(self.bases)
        if self._at_nodes is None or self._at_nodes[0] != key:
            best = self._nodes.best((self._halves @ self.alike(key)).reshape(2, -1)) if self.casts and key else None
            self._at_nodes = key, best, self._nodes.bent(self._fall(), best)
        return self._at_nodes[2]

    def _fall(self) -> Floats:
        """How bounced light falls over patches (n,), all lamps alike."""
        return all_alike([basis.bounced for basis in self.bases.values()], self.patches.n)

    def follow_nodes(self, before: "Lit") -> None:
        """Take over what was found out of nodes ``before`` something has moved: where no other patches are covered the same fits stay best."""
        if before._at_nodes is None or before._at_nodes[1] is None or set(before._at_nodes[0]) != set(self.bases):
            return
        self._nodes, near = before._nodes.again(self.patches, self.covered)
        best = before._at_nodes[1].copy()
        best[near] = 0
        self._at_nodes = tuple(self.bases), best, self._nodes.bent(self._fall(), best)

    def at_nodes(self, wanted: Mapping[Emitter, Floats]) -> NDArray[np.float32]:
        """Bounced light at every node (k, 3) of solved lamps of these strengths (3,)."""
        return self.nodes().of(self.bounced(wanted))

    def shine(self, wanted: Mapping[Emitter, Floats]) -> NDArray[np.float32]:
        """What every texel sends back (m, 3) of solved lamps of these strengths, as illuminance on it times its paint."""
        total = np.zeros((self.texels.n, 3), np.float32)
        for emitter, bands in wanted.items():
            total += self.bases[emitter].on[:, None] * np.asarray(bands, np.float32)
        total += self.spread @ self.bounced(wanted)
        return self.texels.paint32 * total


def prepare(
    scene: Scene,
    emitters: Sequence[Emitter] = (),
    patch_mm: float = PATCH_MM,
    rays: int = RAYS,
    progress: Progress | None = None,
    seed: int = 7,
    before: Lit | None = None,
    again: int = AGAIN,
) -> Lit:
    """Cut the scene into patches and trace how they see each other. ``rays`` a patch, a power of two, and half as many to where the light of
    the ``emitters`` bounces, if there are any; as many once it is known ``before``. ``before`` is the same scene solved with fewer: it tells better where that is.
    Patches that a few rays bring light to send ``again``, so many times at most.
    """
    progress = progress or Quiet()
    if before is not None:
        solve(before, emitters, progress)
    patches = before.patches if before is not None else cut_patches(scene, patch_mm)
    texels = cut_texels(patches, emitters, before is not None)
    lamps = list(dict.fromkeys(emitters))
    ready = dict(
        zip(lamps, of_each(partial(direct_on, texels), lamps, scene, texels.looked_at, texels.looked_over, texels.beside), strict=True)
    )
    onto, dark = texels.onto_patches(), np.zeros((patches.n, 3))
    shine = alike(texels, onto, ((d.on, before.bases[e].bounced if before is not None else dark) for e, d in ready.items()))
    reached = before.reached(before.alike(list(ready))) if before is not None else None
    shut = before.covered if before is not None else covered(patches)
    each = rays_each(patches, shut, rays, before is None)
    casts: list[Cast] | None = [] if before is None and rays <= RAYS else None  # so many as live light has: no more are followed

    def tracing(share: float) -> None:
        progress.step(share, "tracing bounced light")

    found = sent(
        aim_at(texels, shine, reached),
        np.arange(patches.n),
        each,
        TOWARDS if before is None else FINE_TOWARDS,
        seed,
        _between(tracing, 0.1, 0.6),
        casts,
    )
    found, bears = _asked_again(texels, found, shine, before is not None, each, seed, again, tracing, casts)
    if before is None:
        among = at_most(
            by_patch(found, texels), ROW_MOST
        )  # no surface sees more than all round it; a few rays may say so, and bounces would grow
        return Lit(scene, patches, texels, found, among, shut, onto, ready, tuple(emitters), bears, rays, casts or [])
    spread = texels.sharing(shut, all_alike([before.bases[e].bounced for e in ready], patches.n)) if ready else onto
    return Lit(scene, patches, texels, found, at_most(found @ spread, ROW_MOST), shut, spread, ready, tuple(emitters), bears, rays)


def all_alike(bounced: Sequence[Floats], n: int) -> Floats:
    """The sum (n,) of the bounced light of lamps, each (n, 3), as if all gave as much."""
    out = np.zeros(n)
    for light in bounced:
        out += light.mean(1) / max(float(light.sum()), 1e-30)
    return out


def rays_each(patches: Patches, shut: Bools, rays: int, first: bool) -> Ints:
    """How many rays by the cosine every patch sends (n,)."""
    each = np.where(patches.area < SMALL_MM2, rays // 2, rays)
    if first:
        each[patches.rect_patches :] = rays // FEWER
    each[shut] = 0
    return each


def _between(told: Told, begin: float, end: float) -> Told:
    """Tells of a part as of what it is of the whole."""
    return lambda share: told(begin + (end - begin) * share)


def sent(aim: Aim, which: Ints, around: Ints, times: float, seed: int, told: Told | None, casts: list[Cast] | None) -> "sparse.csr_array":
    """What rays find that are sent from these patches (k,): so many of each by the cosine, and ``times`` as many towards light if there is any. They are added to
    the ``casts``.
    """
    out, order, lit_up, done, total = [], [], bool(aim.shine.any()), 0, max(1, int(around.sum()))
    for number in np.unique(around).tolist():
        mine = np.flatnonzero(around == number)
        at, upto = partial(_samples, aim.texels.patches, which[mine]), done + number * len(mine)
        towards, hears = round(times * number) if lit_up else 0, _between(told, done / total, upto / total) if told is not None else None
        kept: list[Cast] | None = [] if casts is not None else None
        out.append(weights(aim, len(mine), at, number, towards, seed + int(mine[0]), LOOKS, hears, kept))
        if casts is not None and kept is not None:
            casts += [replace(cast, which=which[mine][cast.which]) for cast in kept]
        order.append(mine)
        done = upto
    return at_most(stacked(out)[np.argsort(np.concatenate(order))], MOST_SEEN)


def _asked_again(
    texels: Texels,
    found: "sparse.csr_array",
    shine: Floats,
    whole: bool,
    each: Ints,
    seed: int,
    most: int,
    told: Told,
    casts: list[Cast] | None,
) -> "tuple[sparse.csr_array, Floats]":
    """The weights of patches, with those where few rays bear the light sent out again to where the others have found it; and which share bore it thereabouts before
    (n,). ``shine`` (m,) is what texels send back, of all light if it is ``whole``, else of direct light; ``each`` (n,) how many rays patches have sent;
    they send again so many times at ``most``.
    """
    towards, more = (FINE_TOWARDS, FINE_MORE) if whole else (TOWARDS, MORE)
    first, tried = np.ones(len(each)), (1 + towards) * np.maximum(each, 1)
    if not shine.any():
        return found, first
    paint = texels.patches.paint.astype(np.float32)
    on = texels.paint32 * (shine / np.maximum(texels.paint32 @ np.full(3, 1 / 3), 1e-6)).astype(np.float32)[:, None]
    for times in range(most):
        shone = shine
        if not whole:
            back = _bounces(at_most(by_patch(found, texels), ROW_MOST), paint, np.asarray(found @ on), Quiet(), ROUGHLY)
            shone = (on + texels.paint32 * back[texels.patch]) @ np.full(3, 1 / 3)
        aim = aim_at(texels, shone, by_patch(lit_by(found, shone), texels))
        bears = aim.around(bearing(found, shone, tried))
        first = first if times else bears
        again = np.flatnonzero((bears < FEW) & (each > 0))
        if len(again) < (HARD * len(each) if times else 1):
            break
        tried[again] = each[again] // 2 * (1 + 2 * more)
        found = replaced(found, again, sent(aim, again, each[again] // 2, 2 * more, seed + 1 + times, _between(told, 0.6, 0.8), casts))
    return found, first


def of_each(work: Callable[[Emitter], T], emitters: Sequence[Emitter], scene: Scene, *_first: object) -> list[T]:
    """The work for each emitter, several side by side. What all of them look at is there first."""
    _engine = scene.rays
    found = in_parts(lambda lo, hi: [work(e) for e in emitters[lo:hi]], len(emitters), max(1, -(-len(emitters) // THREADS)))
    return [one for part in found for one in part]


def _samples(patches: Patches, some: Ints, which: Ints, x: Floats) -> tuple[Floats, Floats]:
    return patches.samples_of(some[which], x)


def covered(patches: Patches, some: Ints | None = None) -> Bools:
    """Which patches (n,) of rectangles, or of ``some`` of these (k,), something stands on, or lies in, looked at from points all over them; free triangles are never
    asked.
    """
    some = np.arange(patches.rect_patches) if some is None else some[some < patches.rect_patches]
    if not len(some):  # as near what moves in the air
        return np.zeros(patches.n, bool)
    grid = (np.stack(np.meshgrid(np.arange(3), np.arange(3), indexing="ij"), -1).reshape(-1, 2) + 0.5) / 3
    points, normals = (x.reshape(-1, 3) for x in patches.samples_of(some, np.repeat(grid[None], len(some), axis=0)))
    out = np.zeros(patches.n, bool)
    out[some] = shut_in(patches.scene, points, normals).reshape(len(some), -1).mean(1) > 0.5
    return out


def shut_in(scene: Scene, points: Floats, normals: Floats) -> Bools:
    """Which points (k, 3) of surfaces something stands on, or lies round: some ways out end at the inside of a body, or all of them at once.

    It hangs on the geometry alone. Where two bodies touch, either face may come first: one way alone proves nothing.
    """

    def part(lo: int, hi: int) -> Bools:
        at, facing = points[lo:hi], normals[lo:hi]
        inside, shut = np.zeros(len(at), np.int64), np.ones(len(at), bool)
        for way in WAYS_OUT:
            ways = cosine_ways(np.tile(way, (len(at), 1)), facing)
            prim, where, outside = first_hits(scene, at, facing, ways)
            inside += ~outside
            shut &= ~outside | ((prim >= 0) & (length(where - at) < CONTACT_MM))
        out: Bools = (inside >= PROOFS) | shut
        return out

    return np.concatenate(in_parts(part, len(points)))


def solve(lit: Lit, emitters: Sequence[Emitter], progress: Progress | None = None) -> None:
    """Fill ``lit.bases`` for every emitter that is not there yet."""
    progress = progress or Quiet()
    new = [e for e in dict.fromkeys(emitters) if e not in lit.bases]
    if not new:
        return
    progress.step(0.85, "adding up the bounces")
    texels = lit.texels
    more = [e for e in new if e not in lit.ready]
    lit.ready.update(
        zip(more, of_each(partial(direct_on, texels), more, lit.scene, texels.looked_at, texels.looked_over, texels.beside), strict=True)
    )
    direct = [lit.ready.pop(e) for e in new]
    thrown = of_each(partial(thrown_on, lit), new, lit.scene, lit.patches.quarters)
    lit.bases.update(zip(new, added_up(lit, direct, thrown, None, progress), strict=True))


def added_up(lit: Lit, direct: list[Direct], thrown: list[Floats], before: list[Basis] | None, progress: Progress) -> list[Basis]:
    """The light of lamps from what comes straight and what panes throw, with all that bounces; begun from what it was ``before``."""
    texels, n, count = lit.texels, lit.patches.n, len(direct)
    on, throws = (np.stack(x, 1).astype(np.float32) for x in ([d.on for d in direct], thrown))
    every = on + throws[texels.patch] if throws.any() else on
    first = np.stack([lit.weights @ (texels.paint32[:, band, None] * every) for band in range(3)], 1).reshape(n, -1)
    paint = np.repeat(lit.patches.paint.astype(np.float32), count, axis=1)
    if before is None:
        bounced = _bounces(lit.exchange, paint, first, progress)
    else:
        known = np.stack([b.bounced - b.thrown[:, None] for b in before], 2).reshape(n, -1).astype(np.float32)
        off = first + np.asarray(lit.exchange @ (paint * known)) - known
        bounced = known + _bounces(lit.exchange, paint, off, progress, scale=float(first.max()))
    whole: Floats = bounced.reshape(n, 3, -1).astype(float) + throws[:, None]
    area = np.maximum(np.bincount(texels.patch, texels.area, n), 1e-30)
    out = []
    for i in range(count):
        mean: Floats = np.bincount(texels.patch, on[:, i] * texels.area, n).astype(float) / area
        mean[lit.covered] = 0.0
        out.append(Basis(mean, whole[:, :, i].copy(), direct[i], thrown[i]))
    return out


def thrown_on(lit: Lit, emitter: Emitter, some: Ints | None = None) -> Floats:
    """Mean illuminance by a lamp's images in panes and mirrors of all patches, or of ``some`` (k,): smooth enough to be looked at in four points."""
    some = np.arange(lit.patches.n) if some is None else some
    if not len(lit.scene.panes):
        return np.zeros(len(some))
    points, normals = (rows(x.reshape(-1, 4, 3), some).reshape(-1, 3) for x in lit.patches.quarters)
    out: Floats = folded(np.add, emitter.thrown(lit.scene, points, normals).reshape(-1, 4)) / 4
    out[lit.covered[some]] = 0.0
    return out


def _bounces(
    exchange: "sparse.csr_array",
    paint: NDArray[np.float32],
    step: NDArray[Any],
    progress: Progress,
    tolerance: float = _TOLERANCE,
    scale: float = 0.0,
) -> NDArray[Any]:
    """Bounced illuminance (n, columns) from what the first bounce brings (n, columns), until the rest is below the tolerance of the ``scale``, if none is given
    that of the brightest.
    """
    total = step.copy()
    scale = scale or float(total.max()) or 1.0
    # The rest of the series is at most step * rho / (1 - rho).
    reach = float(paint.max()) / max(1e-3, 1 - float(paint.max()))
    for count in range(_MOST_BOUNCES):
        if float(np.abs(step).max()) * reach < tolerance * scale:
            break
        if count % 8 == 0:
            progress.step(0.9, "adding up the bounces")
        step = np.asarray(exchange @ (paint * step))
        total += step
    return total
