# SPDX-License-Identifier: MIT
"""The loops of light: over pairs of receivers and points, and over rays. In arrays they took seven times as long as the rays themselves."""

import math

import numpy as np

from fondale.core.arrays import Floats, Ints, Shorts, Singles
from fondale.core.compiled import compiled
from fondale.core.rays import LIFT_MM

_LEAST, _NONE, _ONE = np.float32(1e-30), np.float32(0), np.float32(1)
_PI = np.float32(math.pi)
NEAREST = np.float32(0.05**2)  # mm², between two points that shine on each other
LIFT = np.float32(LIFT_MM)
_INSIDE = 1e-4  # of a gate: what goes through it is found to go through it
_LAST = 1 - 1e-9  # of the curve that fills it
_ALONG = np.float32(1e-9)  # a way so much along a gate never meets it


@compiled()
def _place(ends: Floats, low: int, high: int, share: float) -> int:
    """The first of ``ends`` from ``low`` to before ``high`` that is more than the share, or the last."""
    last = high - 1
    while low < last:
        middle = (low + last) // 2
        if ends[middle] > share:
            last = middle
        else:
            low = middle + 1
    return low


@compiled("void(f8[:,::1], f4[:,::1], i8[::1], f8[::1], i8[::1], f4[::1], f4[::1], f4[:,::1], i8[:,::1], i8[:,::1], f4[:,::1], f4[:,::1])")
def draw(
    share: Floats,
    x: Singles,
    order: Ints,
    ends: Floats,
    first: Ints,
    dense: Singles,
    shine: Singles,
    each: Singles,
    texel: Ints,
    patch: Ints,
    density: Singles,
    bright: Singles,
) -> None:
    """Fill ``texel`` (g, t) with texels that are drawn for groups, and ``patch`` with theirs, patch by patch by the ``share`` of each (g, patches) and numbers ``x`` (g, t) in 0..1;
    ``each`` (g, patches) with how many of them are to lie on a patch, and the first of ``density`` and ``bright`` (g, t and more) with how many are drawn on a mm² there, and what
    that sends back. ``order`` are all texels by their patches, of which each has its own from the number ``first`` (patches + 1,) on, and ``ends`` where the share of each
    in its patch ends; so many of those that are drawn on a patch as ``dense`` (n,) tells are drawn on a mm² of a texel, which sends back its ``shine`` (n,).
    """
    groups, count = x.shape
    patches = share.shape[1]
    for g in range(groups):
        total, last = 0.0, 0
        for p in range(patches):
            total += share[g, p]
            if share[g, p] > 0:
                last = p
        for p in range(patches):
            each[g, p] = share[g, p] * (count / total)
        p, before = 0, 0.0
        for q in range(count):
            wanted = (q + x[g, q]) / count * total
            while p < last and before + share[g, p] <= wanted:
                before += share[g, p]
                p += 1
            within = min(max((wanted - before) / max(share[g, p], 1e-30), 0.0), 1.0)
            on = order[_place(ends, first[p], first[p + 1], within)]
            texel[g, q], patch[g, q], density[g, q], bright[g, q] = on, p, each[g, p] * dense[on], shine[on]


@compiled("void(f4[:,:,::1], f8[::1], f8[:,:,::1], f8[:,::1], i8[:,:,::1], f4[:,:,:,::1], f4[:,:,:,::1])")
def draw_in_gates(x: Singles, ends: Floats, rects: Floats, normal: Floats, gate: Ints, points: Singles, facing: Singles) -> None:
    """Fill ``gate`` (g, 2, t) with gates that are drawn for groups, for either side, by the ``ends`` (gates,) of their shares and numbers ``x`` (g, 2, t) in 0..1; and ``points`` and
    ``facing`` (g, 2, t, 3) with a place in each, along a curve that fills it: each fourth of its length fills a quarter, and so on [morton1966].
    """
    groups, sides, count = x.shape
    at = np.empty(2)
    for g in range(groups):
        for side in range(sides):
            n = 0
            for q in range(count):
                wanted = (q + x[g, side, q]) / count * ends[-1]
                while n < len(ends) - 1 and ends[n] <= wanted:
                    n += 1
                before = ends[n - 1] if n else 0.0
                number = int(min(max((wanted - before) / (ends[n] - before), 0.0), _LAST) * 2.0**32)
                for axis in range(2):  # every other bit of it
                    bits = (number >> (1 - axis)) & 0x55555555
                    bits = (bits | bits >> 1) & 0x33333333
                    bits = (bits | bits >> 2) & 0x0F0F0F0F
                    bits = (bits | bits >> 4) & 0x00FF00FF
                    bits = (bits | bits >> 8) & 0x0000FFFF
                    at[axis] = _INSIDE + (1 - 2 * _INSIDE) * (bits + 0.5) / 2.0**16
                gate[g, side, q] = n
                for axis in range(3):
                    points[g, side, q, axis] = rects[n, 0, axis] + at[0] * rects[n, 1, axis] + at[1] * rects[n, 2, axis]
                    facing[g, side, q, axis] = (1 - 2 * side) * normal[n, axis]


@compiled("Tuple((i4[::1], i4[::1], f4[::1]))(i4[::1], i4[::1], f4[::1], i8[::1], i8)")
def by_patch(begins: Shorts, texel: Shorts, value: Singles, patch: Ints, patches: int) -> tuple[Shorts, Shorts, Singles]:
    """Sparse rows of ``value``s of texels, those of one row from the number ``begins`` (k + 1,) on, as rows of their patches: where they begin, patches, and sums."""
    total, place = np.zeros(patches, np.float32), np.full(patches, -1, np.int64)
    first, on, out, found = np.zeros(len(begins), np.int32), np.empty(len(texel), np.int32), np.empty(len(texel), np.float32), 0
    for k in range(len(begins) - 1):
        low = found
        for e in range(begins[k], begins[k + 1]):
            p = patch[texel[e]]
            if place[p] < low:
                place[p], total[p], on[found] = found, 0, p
                found += 1
            total[p] += value[e]
        for e in range(low, found):
            out[e] = total[on[e]]
        first[k + 1] = found
    return first, on[:found].copy(), out[:found].copy()


@compiled("void(i8[:,::1], i4[::1], i4[::1], f4[::1], f4[::1], f4[:,::1])")
def known(near: Ints, begins: Shorts, patch: Shorts, value: Singles, level: Singles, out: Singles) -> None:
    """Fill ``out`` (k, patches) with the share of each patch in what reached those ``near`` receivers (k, m), each of which counts alike: ``value``s from each ``patch``, those of
    one from the number ``begins`` (patches + 1,) on, and the ``level`` (patches,) of all that reached it.
    """
    for k in range(len(near)):
        mine = out[k]
        mine[:] = 0
        for other in near[k]:
            share = _ONE / (near.shape[1] * level[other])
            low, high = begins[other], begins[other + 1]
            whence, came = patch[low:high], value[low:high]
            for e in range(high - low):
                mine[whence[e]] += came[e] * share


@compiled("void(i8[::1], f4[:,::1], f4[:,::1], f4[:,::1], f4[:,::1], i4[::1], f4[:,::1], f4[:,::1], f4[:,::1])")
def points_on(
    texel: Ints, x: Singles, corner: Singles, right: Singles, up: Singles, prim: Shorts, normal: Singles, out: Singles, facing: Singles
) -> None:
    """Fill ``out`` (k, 3) with points on the texels that lie on rectangles, of which each has a ``corner`` (flat, 3) and edges, by numbers ``x`` (k, 2) in 0..1, and ``facing``
    with their normals.
    """
    for k in range(len(texel)):
        t = texel[k]
        if t < len(corner):
            for axis in range(3):
                out[k, axis] = corner[t, axis] + right[t, axis] * x[k, 0] + up[t, axis] * x[k, 1]
                facing[k, axis] = normal[prim[t], axis]


@compiled()
def by_look(points: Singles, normals: Singles, looks: int) -> Singles:
    """Points and normals (r, 3) number by number and look by look (6, r): those that follow each other go to one look after the other."""
    each = len(points) // looks
    out = np.empty((6, len(points)), np.float32)
    for k in range(each):
        for look in range(looks):
            for axis in range(3):
                out[axis, look * each + k] = points[k * looks + look, axis]
                out[3 + axis, look * each + k] = normals[k * looks + look, axis]
    return out


@compiled()
def forms(to: Singles, start: Singles, up: Singles, out: Singles) -> None:
    """Fill ``out`` (r,) with how much of what comes to where a receiver looks from, ``start`` (looks, 3), facing ``up``, would come from a mm² at points ``to`` (6, r), as they
    lie by looks, were nothing between.
    """
    looks = len(start)
    each = to.shape[1] // looks
    for look in range(looks):
        x, y, z = start[look, 0], start[look, 1], start[look, 2]
        u, v, w = up[look, 0], up[look, 1], up[look, 2]
        low, high = look * each, (look + 1) * each
        # Rows for themselves, and no max(): so that several are reckoned at once.
        to_x, to_y, to_z, out_x, out_y, out_z = (
            to[0, low:high],
            to[1, low:high],
            to[2, low:high],
            to[3, low:high],
            to[4, low:high],
            to[5, low:high],
        )
        mine = out[low:high]
        for k in range(each):
            a, b, c = to_x[k] - x, to_y[k] - y, to_z[k] - z
            d2, rising, facing = a * a + b * b + c * c, a * u + b * v + c * w, -(a * out_x[k] + b * out_y[k] + c * out_z[k])
            d2 = d2 if d2 > NEAREST else NEAREST
            rising = rising if rising > _NONE else _NONE
            facing = facing if facing > _NONE else _NONE
            mine[k] = rising * facing / (_PI * d2 * d2)


@compiled()
def laid_by_look(bright: Singles, density: Singles, patch: Ints, looks: int, shone: Singles, dense: Singles, of_patch: Ints) -> None:
    """What there is to know of points (r,) of a group, look by look; those that are on no patch (t,) get the first."""
    each, t = len(bright) // looks, len(patch)
    for k in range(each):
        for look in range(looks):
            q, at = k * looks + look, look * each + k
            shone[at], dense[at] = bright[q], density[q]
            of_patch[at] = patch[q] if q < t else 0


@compiled(
    "void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1], f4[:,:,::1], f4[:,::1], f4[:,::1], i8[:,::1], f4[:,::1], f4, f4, f4,"
    " f4[::1], f4[::1], f4[::1], f4[::1])"
)
def told(
    points: Singles,
    normals: Singles,
    start: Singles,
    up: Singles,
    bright: Singles,
    density: Singles,
    patch: Ints,
    known: Singles,
    around: float,
    times: float,
    times_gates: float,
    lit: Singles,
    beyond: Singles,
    any_: Singles,
    did: Singles,
) -> None:
    """Fill, for receivers (k, looks, 3), what would come from the points (g, r, 3) drawn for their groups were as many asked for as there are, ``times`` more than these:
    from those on texels (``lit``), beyond gates, and anything at all; and, where it is ``known`` (k, patches) what came from patches, put in its place how open these
    are, and tell what came by that (``did``). The first are on texels of these patches (g, t).
    """
    groups, r, _three = points.shape
    size, looks, t, n = len(start) // groups, start.shape[1], patch.shape[1], known.shape[1]
    each, on, beside, beside_gates = r // looks, t // looks, around / times, around / times_gates
    values, mean, bare = np.empty((size, r), np.float32), np.empty(r, np.float32), np.empty(n, np.float32)
    row, shone, dense, of_patch = np.empty(r, np.float32), np.empty(r, np.float32), np.empty(r, np.float32), np.empty(r, np.int64)
    for g in range(groups):
        to = by_look(points[g], normals[g], looks)
        laid_by_look(bright[g], density[g], patch[g], looks, shone, dense, of_patch)
        mean[:] = 0
        for k in range(size):
            receiver = g * size + k
            forms(to, start[receiver], up[receiver], row)
            on_texels, through, every = _NONE, _NONE, _NONE
            for look in range(looks):
                low, middle, high = look * each, look * each + on, (look + 1) * each
                form, thick, light, value = row[low:middle], dense[low:middle], shone[low:middle], values[k, low:middle]
                for q in range(on):
                    value[q] = form[q] / (beside * form[q] + thick[q] + _LEAST)
                    on_texels += value[q] * light[q]
                    every += value[q]
                form, thick, light = row[middle:high], dense[middle:high], shone[middle:high]
                for q in range(each - on):
                    one = form[q] / (beside_gates * form[q] + thick[q] + _LEAST)
                    through += one * light[q]
                    every += one
            for q in range(r):
                mean[q] += row[q]
            lit[receiver], beyond[receiver], any_[receiver] = on_texels, through, every
        if not n:
            continue
        bare[:] = 0
        for look in range(looks):
            for q in range(look * each, look * each + on):
                bare[of_patch[q]] += mean[q] / size * shone[q] / max(dense[q], _LEAST)
        for p in range(n):
            bare[p] = 1 / max(bare[p], _LEAST) if bare[p] > 0 else 0
        for k in range(size):
            receiver, came = g * size + k, _NONE
            out = known[receiver]
            for p in range(n):
                out[p] *= bare[p]
            for look in range(looks):
                low = look * each
                value, light, where = values[k, low : low + on], shone[low : low + on], of_patch[low : low + on]
                for q in range(on):
                    came += value[q] * out[where[q]] * light[q]
            did[receiver] = came


@compiled(
    "Tuple((i8[::1], f4[:,::1], f4[:,::1], f4[:,::1], f4[:,::1], i8[::1]))(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1], f4[:,:,::1], f4[:,::1], f4[:,::1],"
    " i8[:,::1], i8[:,::1], f4, f4[::1], f4[::1], f4[::1], f4[::1], f4[:,::1], f4[::1], i8)"
)
def choose(
    points: Singles,
    normals: Singles,
    start: Singles,
    up: Singles,
    bright: Singles,
    density: Singles,
    patch: Ints,
    texel: Ints,
    around: float,
    lit: Singles,
    known: Singles,
    beyond: Singles,
    any_: Singles,
    open_: Singles,
    x: Singles,
    count: int,
) -> tuple[Ints, Singles, Singles, Singles, Singles, Ints]:
    """Of the points (g, r, 3) drawn for their groups, the first of which are on texels (g, t), those that the first ``count`` of receivers (k, looks, 3) ask for by their odds, each
    begun by a number ``x`` (k,) in 0..1: whose each is, from where and facing which way, to where and facing which way (n, 3), and on which texel (-1: in a gate).
    """
    groups, r, _three = points.shape
    size, looks, t, has = len(start) // groups, start.shape[1], patch.shape[1], open_.shape[1] > 0
    each, on, found = r // looks, t // looks, 0
    row, shone, dense, of_patch = np.empty(r, np.float32), np.empty(r, np.float32), np.empty(r, np.float32), np.empty(r, np.int64)
    taken = np.empty((1024, 2), np.int64)
    for g in range(groups):
        to = by_look(points[g], normals[g], looks)
        laid_by_look(bright[g], density[g], patch[g], looks, shone, dense, of_patch)
        for receiver in range(g * size, min((g + 1) * size, count)):
            forms(to, start[receiver], up[receiver], row)
            straight, before, through, least = lit[receiver], known[receiver], beyond[receiver], any_[receiver]
            for look in range(looks):
                low, middle, high = look * each, look * each + on, (look + 1) * each
                chance, thick, light, where = row[low:middle], dense[low:middle], shone[low:middle], of_patch[low:middle]
                if has:
                    opened = open_[receiver]
                    for q in range(on):
                        odds = (straight + before * opened[where[q]]) * light[q] + least
                        one = chance[q] / (around * chance[q] + thick[q] + _LEAST) * odds
                        chance[q] = one if one < _ONE else _ONE
                else:
                    for q in range(on):
                        one = chance[q] / (around * chance[q] + thick[q] + _LEAST) * (straight * light[q] + least)
                        chance[q] = one if one < _ONE else _ONE
                chance, thick, light = row[middle:high], dense[middle:high], shone[middle:high]
                for q in range(each - on):
                    one = chance[q] / (around * chance[q] + thick[q] + _LEAST) * (through * light[q] + least)
                    chance[q] = one if one < _ONE else _ONE
            if found + r > len(taken):
                more = np.empty((2 * len(taken) + r, 2), np.int64)
                more[:found] = taken[:found]
                taken = more
            step = x[receiver]
            for k in range(each):
                for look in range(looks):
                    step += row[look * each + k]
                    if step >= _ONE:
                        step -= _ONE
                        taken[found, 0], taken[found, 1] = receiver, k * looks + look
                        found += 1
    whose, on_texel = np.empty(found, np.int64), np.empty(found, np.int64)
    begin, faces = np.empty((found, 3), np.float32), np.empty((found, 3), np.float32)
    end, normal = np.empty((found, 3), np.float32), np.empty((found, 3), np.float32)
    for k in range(found):
        receiver, q = taken[k, 0], taken[k, 1]
        g, look = receiver // size, q % looks
        whose[k], on_texel[k] = receiver, texel[g, q] if q < t else -1
        for axis in range(3):
            faces[k, axis], normal[k, axis] = up[receiver, look, axis], normals[g, q, axis]
            begin[k, axis] = start[receiver, look, axis] + faces[k, axis] * LIFT
            end[k, axis] = points[g, q, axis] + normal[k, axis] * LIFT
    return whose, begin, faces, end, normal, on_texel


@compiled(
    "void(i8[::1], f4[:,::1], f4[:,::1], i8[::1], f4[:,::1], i8[::1], f4[:,::1], i8[::1], f4[::1], i8[::1], f4, i8[::1], f4[::1], f4[::1], f4[::1], f4[::1], f4[::1], f4[::1],"
    " f4[:,::1], i8[::1], f4[:,::1], f4[:,:,::1], f4[:,::1], f4[:,::1], f4[::1], f4[::1])"
)
def weigh(
    begins: Ints,
    begin: Singles,
    up: Singles,
    ends: Ints,
    end: Singles,
    faces: Ints,
    normal: Singles,
    row: Ints,
    share: Singles,
    texel: Ints,
    around: float,
    patch: Ints,
    dense: Singles,
    shine: Singles,
    lit: Singles,
    known: Singles,
    beyond: Singles,
    any_: Singles,
    open_: Singles,
    group: Ints,
    each: Singles,
    gates: Singles,
    gate_normal: Singles,
    gate_bright: Singles,
    gate_each: Singles,
    out: Singles,
) -> None:
    """Fill ``out`` (k,) with the weights of rays from which of ``begin`` (., 3) they begin, facing ``up``, to which of ``end`` (., 3), with which ``normal`` (., 3), on texels: how much comes from a mm² there, against how
    many rays of all kinds end there, ``around`` of them by the cosine, and others by the odds of the receivers ``row`` (k,). Through a mm² of a gate that is
    met at t of the way as many go to where it ends as t² facing / |way · normal| of its own says.
    """
    has = open_.shape[1] > 0
    for k in range(len(row)):
        i, j, m = begins[k], ends[k], faces[k]
        a, b, c = end[j, 0] - begin[i, 0], end[j, 1] - begin[i, 1], end[j, 2] - begin[i, 2]
        d2 = max(a * a + b * b + c * c, NEAREST)
        rising = max(a * up[i, 0] + b * up[i, 1] + c * up[i, 2], _NONE)
        facing = max(-(a * normal[m, 0] + b * normal[m, 1] + c * normal[m, 2]), _NONE)
        whose, on = row[k], texel[k]
        p, d4 = patch[on], _PI * d2 * d2
        form = rising * facing / d4
        density = each[group[whose], p] * dense[on]
        odds, least = lit[whose], any_[whose]
        if has:
            odds += known[whose] * open_[whose, p]
        total = around * form + density * min(form / (around * form + density + _LEAST) * (odds * shine[on] + least), np.float32(1.0))
        for g in range(len(gates)):
            along = a * gate_normal[g, 0] + b * gate_normal[g, 1] + c * gate_normal[g, 2]
            x, y, z = begin[i, 0] - gates[g, 0, 0], begin[i, 1] - gates[g, 0, 1], begin[i, 2] - gates[g, 0, 2]
            before = -(x * gate_normal[g, 0] + y * gate_normal[g, 1] + z * gate_normal[g, 2])
            across = abs(along)
            if across < _ALONG or before * along <= 0 or abs(before) >= across:
                continue
            t = before / along
            x, y, z = x + t * a, y + t * b, z + t * c
            s = x * gates[g, 1, 0] + y * gates[g, 1, 1] + z * gates[g, 1, 2]
            u = x * gates[g, 2, 0] + y * gates[g, 2, 1] + z * gates[g, 2, 2]
            if s < 0 or s > 1 or u < 0 or u > 1:
                continue
            t = max(t * t, np.float32(1e-12))
            form_there = rising * across / (t * d4)
            odds = beyond[whose] * gate_bright[g, 0 if along < 0 else 1] + least
            asked = min(form_there / (around * form_there + gate_each[g] + _LEAST) * odds, np.float32(1.0))
            total += gate_each[g] * asked * t * facing / across
        out[k] = form / max(total, _LEAST) * share[k]


@compiled(
    "void(i4[::1], f4[:,::1], i8[::1], i8[::1], i8[::1], i8[::1], f8[::1], f8[::1], f8[:,:,::1], f8[:,::1], i8[::1], i8[::1], i8[::1])"
)
def texels_at(
    prim: Shorts,
    where: Singles,
    s_start: Ints,
    t_start: Ints,
    t_count: Ints,
    base: Ints,
    s_key: Floats,
    t_key: Floats,
    edge: Floats,
    level: Floats,
    side: Ints,
    first: Ints,
    out: Ints,
) -> None:
    """Fill ``out`` (k,) with the texels of hits on rectangles, whose triangles have numbers below twice as many as there are of them."""
    count = len(base)
    for k in range(len(prim)):
        r = prim[k] // 2
        if r >= count:
            continue
        s, t = -level[r, 0], -level[r, 1]
        for axis in range(3):
            s += where[k, axis] * edge[r, 0, axis]
            t += where[k, axis] * edge[r, 1, axis]
        s, t = 2 * r + min(max(s, 0.0), 1 - 1e-9), 2 * r + min(max(t, 0.0), 1 - 1e-9)
        s_end = s_start[r + 1] if r + 1 < count else len(s_key)
        t_end = t_start[r + 1] if r + 1 < count else len(t_key)
        i, j = _place(s_key, s_start[r] + 1, s_end, s) - 1, _place(t_key, t_start[r] + 1, t_end, t) - 1
        p = base[r] + (i - s_start[r]) * t_count[r] + j - t_start[r]
        n = side[p]
        across = min(int((s - s_key[i]) / (s_key[i + 1] - s_key[i]) * n), n - 1)
        along = min(int((t - t_key[j]) / (t_key[j + 1] - t_key[j]) * n), n - 1)
        out[k] = first[p] + across * n + along
