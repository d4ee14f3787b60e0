"""Direct and bounced light of each lamp for itself, so that levels, moments and colours are sums.

Diffuse surfaces, B = rho (E_direct + sum F B). The bounced part is the unknown; direct light is evaluated
exactly wherever it is shown. Form factors by cosine-distributed rays (a Monte Carlo estimate).
"""

from dataclasses import dataclass, field
from typing import Any

import numpy as np

from fondale.core.arrays import Bools, Floats, Ints, length
from fondale.core.emitters import Emitter
from fondale.core.light.patches import Patches, cosine_ways, cut_patches, scrambled, trace
from fondale.core.progress import Progress, Quiet
from fondale.core.stage.cases import INSET_MM
from fondale.core.stage.scene import Scene

PATCH_MM = 24.0
RAYS = 128
GATHER_RAYS = 4096
CONTACT_MM = 0.2  # two faces that are nearer touch
# Straight up and low to four sides, as numbers of a cosine way; how many of them must end inside a body.
WAYS_OUT, PROOFS = ((0.0, 0.0), *((0.88, 0.13 + k / 4) for k in range(4))), 2
METER_LIFT_MM = 2 * INSET_MM  # a meter on a wall that is drawn in stands before it
_DENSE_UP_TO = 3500
_TOLERANCE = 2e-5
_MOST_BOUNCES = 200


@dataclass
class Basis:
    """Light of one lamp of 1 cd on its axis: direct (n,) and bounced (n, 3) illuminance of every patch, in lux."""

    direct: Floats
    bounced: Floats


@dataclass
class Lit:
    """A scene ready for light: patches, exchange matrix, and a basis for each emitter asked for so far."""

    scene: Scene
    patches: Patches
    exchange: Any
    covered: Bools
    bases: dict[Emitter, Basis] = field(default_factory=dict)


def prepare(scene: Scene, patch_mm: float = PATCH_MM, rays: int = RAYS, progress: Progress | None = None, seed: int = 7) -> Lit:
    """Cut the scene into patches and trace how they see each other. ``rays`` a patch, a power of two."""
    progress = progress or Quiet()
    patches = cut_patches(scene, patch_mm)
    n = patches.n
    block = max(1, 262_144 // rays)
    numbers = scrambled(n, rays, 4, seed)
    points, normals = patches.samples(numbers[..., :2])
    rows, cols, valid = [], [], np.zeros(n)
    for lo in range(0, n, block):
        progress.step(0.1 + 0.7 * lo / n, "tracing bounced light")
        hi = min(n, lo + block)
        ways = cosine_ways(numbers[lo:hi, :, 2:], normals[lo:hi]).reshape(-1, 3)
        prim, where, outside = trace(scene, points[lo:hi].reshape(-1, 3), normals[lo:hi].reshape(-1, 3), ways)
        row = np.repeat(np.arange(lo, hi), rays)
        valid[lo:hi] = outside.reshape(-1, rays).sum(1)
        keep = outside & (prim >= 0)
        rows.append(row[keep])
        cols.append(patches.of_hits(prim[keep], where[keep]))
    row, col = np.concatenate(rows), np.concatenate(cols)
    weight = 1.0 / np.maximum(valid, 1.0)
    if n <= _DENSE_UP_TO:
        counts = np.bincount(row * n + col, minlength=n * n).reshape(n, n)
        exchange: Any = (counts * weight[:, None]).astype(np.float32)
    else:
        from scipy import sparse

        exchange = sparse.csr_array((weight[row].astype(np.float32), (row, col)), shape=(n, n))
        exchange.sum_duplicates()
    return Lit(scene, patches, exchange, covered(patches))


def covered(patches: Patches) -> Bools:
    """Which patches (n,) something stands on, or lies in, looked at from points all over them."""
    n = patches.n
    grid = (np.stack(np.meshgrid(np.arange(3), np.arange(3), indexing="ij"), -1).reshape(-1, 2) + 0.5) / 3
    points, normals = (x.reshape(-1, 3) for x in patches.samples(np.repeat(grid[None], n, axis=0)))
    out: Bools = shut_in(patches.scene, points, normals).reshape(n, -1).mean(1) > 0.5
    return out


def shut_in(scene: Scene, points: Floats, normals: Floats) -> Bools:
    """Which points (k, 3) of surfaces something stands on, or lies round: some ways out end at the inside of a body, or all of them at once.

    It hangs on the geometry alone. Where two bodies touch, either face may come first: one way alone proves nothing.
    """
    inside, shut = np.zeros(len(points), np.int64), np.ones(len(points), bool)
    for way in WAYS_OUT:
        ways = cosine_ways(np.tile(way, (len(points), 1)), normals)
        prim, where, outside = trace(scene, points, normals, ways)
        inside += ~outside
        shut &= ~outside | ((prim >= 0) & (length(where - points) < CONTACT_MM))
    out: Bools = (inside >= PROOFS) | shut
    return out


def solve(lit: Lit, emitters: list[Emitter], progress: Progress | None = None) -> None:
    """Fill ``lit.bases`` for every emitter that is not there yet."""
    progress = progress or Quiet()
    new = [e for e in dict.fromkeys(emitters) if e not in lit.bases]
    if not new:
        return
    progress.step(0.85, "adding up the bounces")
    patches, side = lit.patches, 4
    grid = (np.stack(np.meshgrid(np.arange(side), np.arange(side), indexing="ij"), -1).reshape(-1, 2) + 0.5) / side
    jitter = (np.random.default_rng(3).random((patches.n, side * side, 2)) - 0.5) / side
    points, normals = patches.samples(np.clip(grid[None] + jitter, 0, 1 - 1e-9))
    flat_points, flat_normals = points.reshape(-1, 3), normals.reshape(-1, 3)
    direct = np.stack([e.direct(lit.scene, flat_points, flat_normals).reshape(patches.n, -1).mean(1) for e in new], 1)
    direct[lit.covered] = 0.0
    bounced = _bounce(lit, direct, progress)
    for i, emitter in enumerate(new):
        lit.bases[emitter] = Basis(direct[:, i], bounced[:, :, i])


def _bounce(lit: Lit, direct: Floats, progress: Progress) -> Floats:
    """Bounced illuminance (n, 3, lamps) by repeated bounces until the rest is below the tolerance."""
    n, lamps = direct.shape
    paint = lit.patches.paint.astype(np.float32)
    first = (paint[:, :, None] * direct[:, None, :].astype(np.float32)).reshape(n, 3 * lamps)
    rho = np.repeat(paint, lamps, axis=1)
    step = np.asarray(lit.exchange @ first)
    total = step.copy()
    scale = float(total.max()) or 1.0
    # The rest of the series is at most step * rho / (1 - rho).
    reach = float(paint.max()) / max(1e-3, 1 - float(paint.max()))
    for count in range(_MOST_BOUNCES):
        if float(step.max()) * reach < _TOLERANCE * scale:
            break
        if count % 8 == 0:
            progress.step(0.9, "adding up the bounces")
        step = np.asarray(lit.exchange @ (rho * step))
        total += step
    out: Floats = total.reshape(n, 3, lamps).astype(np.float64)
    return out


@dataclass(frozen=True)
class Probe:
    """Receivers (k, 3) with their normals, and what their gather rays met: whose each hit is, where, its normal, its patch. ``valid`` (k,) is how
    many rays of each count.
    """

    points: Floats
    normals: Floats
    owner: Ints
    where: Floats
    facing: Floats
    patch: Ints
    valid: Ints


def probe(lit: Lit, points: Floats, normals: Floats, rays: int = GATHER_RAYS, seed: int = 11) -> Probe:
    """Send gather rays from receivers on surfaces: once for all lamps, wherever they hang."""
    k, points = len(points), points + normals * METER_LIFT_MM
    numbers = scrambled(k, rays, 2, seed)
    ways = cosine_ways(numbers, np.repeat(normals[:, None], rays, axis=1)).reshape(-1, 3)
    starts, start_normals = np.repeat(points, rays, axis=0), np.repeat(normals, rays, axis=0)
    prim, where, outside = trace(lit.scene, starts, start_normals, ways)
    keep = outside & (prim >= 0)
    valid = np.maximum(outside.reshape(k, rays).sum(1), 1)
    owner = np.repeat(np.arange(k), rays)[keep]
    return Probe(points, normals, owner, where[keep], lit.scene.normal[prim[keep]], lit.patches.of_hits(prim[keep], where[keep]), valid)


def received(lit: Lit, at: Probe, emitter: Emitter) -> Floats:
    """Illuminance (k, 3) in lux at the receivers for 1 cd of an emitter.

    Direct light is exact at the receiver and at every hit of its rays; only light that has bounced twice or more comes from the patches.
    """
    solve(lit, [emitter])
    k = len(at.points)
    out = np.repeat(emitter.direct(lit.scene, at.points, at.normals)[:, None], 3, axis=1)
    light = lit.patches.paint[at.patch] * (emitter.direct(lit.scene, at.where, at.facing)[:, None] + lit.bases[emitter].bounced[at.patch])
    for band in range(3):
        out[:, band] += np.bincount(at.owner, light[:, band], k) / at.valid
    return out


def gather(lit: Lit, emitters: list[Emitter], points: Floats, normals: Floats, rays: int = GATHER_RAYS, seed: int = 11) -> Floats:
    """Illuminance (points, lamps, 3) in lux for 1 cd of each emitter, by a final gather."""
    solve(lit, emitters)
    at = probe(lit, points, normals, rays, seed)
    return np.stack([received(lit, at, e) for e in emitters], 1) if emitters else np.zeros((len(points), 0, 3))
