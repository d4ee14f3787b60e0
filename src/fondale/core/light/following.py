# SPDX-License-Identifier: MIT
"""A solved scene follows a body that moves in it: only rays that met it, or meet it now, are sent again, and bounces begin with what they were."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from fondale.core.arrays import Bools, Floats, Ints, folded
from fondale.core.emitters import Emitter
from fondale.core.light.casts import Cast, Since, matrix_of
from fondale.core.light.matrices import ROW_MOST, at_most, by_patch
from fondale.core.light.patches import Patches
from fondale.core.light.solver import MOST_SEEN, TOWARDS, Basis, Lit, added_up, covered, rays_each, sent, thrown_on
from fondale.core.light.texels import direct_again
from fondale.core.light.weights import FEW, MORE
from fondale.core.progress import Progress, Quiet
from fondale.core.stage.moved import Moved, moved_between
from fondale.core.stage.paths import images
from fondale.core.stage.scene import Scene

SEED = 1009
MOST_GONE = 6  # bodies that have moved since rays were sent: what comes from them is found by chance, so more are worth a new start


def followed(lit: Lit, scene: Scene, emitters: Sequence[Emitter], progress: Progress | None = None) -> Lit | None:
    """The light of a scene in which a body or two have moved since it was solved, for these lamps; None where more has changed, or its rays were not kept.

    Each ray that is sent again counts as it would have among those that were sent at first, so that what is found stays true on an average.
    """
    moved = moved_between(lit.scene, scene) if lit.casts else None
    if moved is None:
        return None
    (progress or Quiet()).step(0.1, "following what moves")  # once begun it is soon done, and the next step goes on from there
    patches = replace(lit.patches, scene=scene)
    texels = lit.texels.of(patches)
    on_it = np.zeros(patches.n, bool)
    on_it[patches.rect_patches + np.unique(scene.group[moved.tris])] = True
    near = np.flatnonzero(_beside(patches, moved) | on_it)
    shut = lit.covered.copy()
    shut[near] = covered(patches, near)[near]
    gone = on_it[texels.patch] | (lit.since.gone if lit.since is not None else False)
    if len(np.unique(scene.tri_owner[gone[texels.flat + scene.group]])) > MOST_GONE:
        return None
    since = Since(texels, gone)
    casts = _cast_again(lit, since, moved, near)
    each = rays_each(patches, shut, lit.rays, True)[near]
    aim, better = casts[0].aim, next((cast.aim for cast in reversed(casts) if cast.aim.seen is not None), None)
    hard = (lit.bearing[near] < FEW) & (each > 0) & (better is not None)
    if not hard.all():
        sent(aim, near[~hard], each[~hard], TOWARDS, SEED, None, casts)
    if better is not None and hard.any():
        sent(better, near[hard], each[hard] // 2, 2 * MORE, SEED + 1, None, casts)
    found = at_most(matrix_of(casts, patches.n, texels.n), MOST_SEEN)
    out = Lit(
        scene,
        patches,
        texels,
        found,
        at_most(by_patch(found, texels), ROW_MOST),
        shut,
        lit.spread,
        {},
        lit.aimed,
        lit.bearing,
        lit.rays,
        casts,
        since,
    )
    known = [e for e in dict.fromkeys(emitters) if e in lit.bases]
    # One after the other: each has little to do, and threads would wait for each other most of the time.
    direct = [direct_again(texels, e, lit.bases[e].looks, moved) for e in known]
    thrown = [_thrown(out, e, lit.bases[e], moved, on_it) for e in known]
    if known:
        out.bases.update(zip(known, added_up(out, direct, thrown, [lit.bases[e] for e in known], Quiet()), strict=True))
    out.follow_nodes(lit)
    return out


def _beside(patches: Patches, moved: Moved) -> Bools:
    """Which patches on rectangles (n,) touch where a body was or is."""
    out = np.zeros(patches.n, bool)
    corner, right, up = np.moveaxis(patches.frames, 1, 0)
    corners = np.stack([corner, corner + right, corner + up, corner + right + up])
    out[: patches.rect_patches] = moved.beside(corners.min(0), corners.max(0))
    return out


def _cast_again(lit: Lit, since: Since, moved: Moved, near: Ints) -> list[Cast]:
    """The rays that patches have sent last, but for those of patches that send anew, as they go now."""
    newest = np.full(lit.patches.n, -1)
    for number, cast in enumerate(lit.casts):
        newest[cast.which] = number
    newest[near] = -1
    alive = [newest[cast.which] == number for number, cast in enumerate(lit.casts)]
    live = [k for k, mine in enumerate(alive) if mine.any() or k == 0]  # the first tells how to aim
    return [lit.casts[k].again(moved, since.aim(lit.casts[k].aim), since.gone, alive[k]) for k in live]


def _thrown(lit: Lit, emitter: Emitter, before: Basis, moved: Moved, on_it: Bools) -> Floats:
    """What panes and mirrors throw on every patch (n,): anew where a body has moved between."""
    scene, patches, out = lit.scene, lit.patches, before.thrown.copy()
    if not len(scene.panes):
        return out
    points = patches.quarters[0].astype(np.float32)
    some = np.repeat(on_it, 4)
    for at in emitter.outline():
        for met, place, _way in images(scene, at, at):
            some |= moved.unfolded(scene.panes, met).between(place, points)
    which = np.flatnonzero(folded(np.logical_or, some.reshape(-1, 4)))
    out[which] = thrown_on(lit, emitter, which)
    return out
