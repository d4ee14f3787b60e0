# SPDX-License-Identifier: MIT
"""Which bits come near a need: distance between logarithms of sizes, every way round that keeps the outline.

Common practice, no source, for the weights: a length can be cut down, a diameter or a thickness cannot; what is too small is lost.
"""

from dataclasses import dataclass
from itertools import permutations
from typing import get_args

import numpy as np

from fondale.core.arrays import Bools, Floats, Ints
from fondale.core.model import Bit, Need
from fondale.core.model.bench import Outline
from fondale.core.words import show_mm

OUTLINES: tuple[Outline, ...] = get_args(Outline)
CODE = {name: k for k, name in enumerate(OUTLINES)}
ROUND_ONES = OUTLINES[:3]
# Cost of a size that is too large: cut it (a length), or live with it (a diameter); and of one that is too small.
CUT, FAT, SHORT = 0.45, 1.0, 1.6
OTHER_OUTLINE = {("cylinder", "rod"): 0.02, ("rod", "cylinder"): 0.02, ("box", "plate"): 0.03, ("plate", "box"): 0.03,
                 ("dome", "cylinder"): 0.25, ("cylinder", "dome"): 0.25, ("box", "cylinder"): 0.6, ("cylinder", "box"): 0.4}  # fmt: skip
APART = 1.5
KINSHIP = np.array([[0.0 if a == b else OTHER_OUTLINE.get((a, b), APART) for b in OUTLINES] for a in OUTLINES])
NEAR, FAR = 0.06, 0.15
VERDICTS = ("as it is", "to trim", "nearly", "far off")
KIN, FOREIGN = 0.1, 0.5  # an outline further from the wanted one than this never serves as it is, or not at all
FILE_MM, FILE_SHARE = 0.2, 0.25  # so little of a size is filed away, or filled, or never seen


@dataclass(frozen=True)
class Box:
    """The bits as arrays: ``sides`` (n, 3) in mm, round ones as (diameter, diameter, length); ``outline`` (n,) codes."""

    bits: tuple[Bit, ...]
    sides: Floats
    outline: Ints
    there: Bools


@dataclass(frozen=True)
class Match:
    """One bit for a need: ``score`` 0 is perfect; ``off`` per size of the need as shares; ``trim`` says what must be done."""

    bit: str
    score: float
    off: tuple[float, ...]
    verdict: str
    trim: str


def sides_of(outline: str, sizes: tuple[float, ...]) -> tuple[float, float, float]:
    """Three sides of an outline: round ones (diameter, diameter, length), boxes as given; a missing size repeats the last."""
    if outline in ROUND_ONES:
        return sizes[0], sizes[0], sizes[1] if len(sizes) > 1 else sizes[0]
    a = sizes[0]
    b = sizes[1] if len(sizes) > 1 else a
    return a, b, sizes[2] if len(sizes) > 2 else min(a, b)


def pack(bits: tuple[Bit, ...], before: Box | None = None) -> Box:
    """The bits box as arrays, once for many searches. With the box as it was ``before`` only the bits that changed are read."""
    if before is not None and len(before.bits) == len(bits):
        new = [i for i, (now, old) in enumerate(zip(bits, before.bits, strict=True)) if now is not old]
        if len(new) <= len(bits) // 8:
            some = pack(tuple(bits[i] for i in new))
            sides, outline, there = before.sides.copy(), before.outline.copy(), before.there.copy()
            sides[new], outline[new], there[new] = some.sides, some.outline, some.there
            return Box(bits, sides, outline, there)
    a, b, c = np.array([(*each.sizes, 0.0)[:3] for each in bits], float).reshape(-1, 3).T
    outline = np.array([CODE[each.outline] for each in bits], np.int64)
    # As sides_of does it, for all at once.
    sides = np.where(outline < len(ROUND_ONES), [a, a, b], [a, b, np.where(c > 0, c, np.minimum(a, b))]).T
    return Box(bits, sides, outline, np.array([each.state == "in the box" and each.count > 0 for each in bits], bool))


def wanted(need: Need, house_n: float) -> tuple[float, ...]:
    """The need's sizes in model mm, those that were given; a third one of something round, left from when it was a box, says nothing."""
    return tuple(r / house_n for r in (need.real[:2] if need.outline in ROUND_ONES else need.real))


def _cost(log_ratio: Floats, cuttable: Bools) -> Floats:
    large = np.where(cuttable, CUT, FAT)
    out: Floats = np.where(log_ratio > 0, log_ratio * large, -log_ratio * SHORT)
    return out


def scores(box: Box, need: Need, house_n: float) -> tuple[Floats, Floats]:
    """Score (n,) of every bit for a need, and the log ratios (n, 3) of its sides to the need's, best way round.

    Sizes that the need leaves open cost nothing.
    """
    want = wanted(need, house_n)
    round_need = need.outline in ROUND_ONES
    target = np.log(np.array(sides_of(need.outline, want)))
    given = np.array([True, round_need or len(want) > 1, len(want) > (1 if round_need else 2)])
    # What may be cut: the length of round things, every side of a block, the faces of a plate but not its thickness.
    cuttable = np.array({"box": [True, True, True], "plate": [True, True, False]}.get(need.outline, [False, False, True]))
    # A need of something round takes a block along its axis or across it.
    order = [(0, 1, 2), (1, 2, 0), (0, 2, 1)] if round_need else list(permutations(range(3)))
    logs = np.log(box.sides)
    each = np.stack([logs[:, list(w)] - target for w in order])
    weight = np.array([0.5, 0.5, 1.0]) if round_need else np.ones(3)
    cost = (_cost(each, cuttable) * given * weight).sum(2)
    if round_need:
        cost[1:, np.isin(box.outline, [0, 1, 2])] = np.inf  # something round lies only one way
    best = cost.argmin(0)
    rows = np.arange(len(best))
    total: Floats = cost[best, rows] + KINSHIP[CODE[need.outline], box.outline]
    return np.where(box.there, total, np.inf), each[best, rows]


def _off(logs: Floats, need: Need) -> Floats:
    """How far each size of every bit is off, as shares (n, 2) of something round or (n, 3): a block is as far off as its worse side."""
    each: Floats = np.expm1(logs)
    if need.outline not in ROUND_ONES:
        return each
    across = np.where(np.abs(each[:, 0]) >= np.abs(each[:, 1]), each[:, 0], each[:, 1])
    return np.stack([across, each[:, 2]], 1)


def _tier(off: Floats, box: Box, need: Need, want: tuple[float, ...]) -> Ints:
    """The place (n,) of every bit among the verdicts: what cannot be cut away, and what is missing, is what counts."""
    cuttable = np.array([False, True] if need.outline in ROUND_ONES else [True, True, need.outline != "plate"])[: off.shape[1]]
    miss = np.abs(off)
    miss = np.where((miss * want <= FILE_MM) & (miss <= FILE_SHARE), 0.0, miss)
    left = np.where((off < 0) | ~cuttable, miss, 0.0).max(1)
    tier: Ints = np.where(miss.max(1) <= NEAR, 0, np.where(left <= NEAR, 1, np.where(left <= FAR, 2, 3)))
    kin = KINSHIP[CODE[need.outline], box.outline]
    return np.where(kin > FOREIGN, 3, np.where(kin > KIN, np.maximum(tier, 2), tier))


def _names(need: Need, bit: Bit) -> tuple[str, ...]:
    """What the sizes of a need are called on this bit: two sides of a round one are its diameter, and nobody cuts that."""
    if need.outline in ("cylinder", "rod", "dome"):
        return ("diameter", "height" if need.outline == "dome" else "length")
    if bit.outline in ROUND_ONES:
        return ("length", "diameter", "diameter") if bit.sizes[1] >= bit.sizes[0] else ("diameter", "diameter", "length")
    return ("long side", "second side", "thickness" if need.outline == "plate" else "third side")


def _trim(need: Need, bit: Bit, off: tuple[float, ...], want: tuple[float, ...]) -> str:
    names = _names(need, bit)
    said = []
    for i, (share, mm) in enumerate(zip(off, want, strict=True)):
        by = abs(share) * mm
        if abs(share) <= 0.03 or by < 0.05:
            continue
        if share < 0:
            said.append(f"{names[i]} {show_mm(by)} short")
        elif names[i] in ("diameter", "thickness"):
            said.append(f"{names[i]} {show_mm(by)} too much")
        else:
            said.append(f"cut {show_mm(by)} off the {names[i]}")
    return ", ".join(said) or "as it is"


def rank(box: Box, need: Need, house_n: float, most: int = 12) -> tuple[Match, ...]:
    """The best bits for a need: those that serve first, then by score; ties go by id. An empty box gives none.

    Raises ValueError for a scale not above zero.
    """
    if not house_n > 0:
        raise ValueError("a scale is above zero")
    if not box.bits:
        return ()
    score, logs = scores(box, need, house_n)
    want = wanted(need, house_n)
    off = _off(logs, need)[:, : len(want)]
    tier = _tier(off, box, need, want)
    key = np.where(np.isfinite(score), tier * 1000.0 + np.minimum(score, 999.0), np.inf)
    most = min(most, int(np.isfinite(key).sum()))
    near = np.argpartition(key, most - 1)[:most] if 0 < most < len(key) else np.flatnonzero(np.isfinite(key))
    out = []
    for i in sorted(near.tolist(), key=lambda k: (float(key[k]), box.bits[k].id)):
        shares = tuple(off[i].tolist())
        out.append(Match(box.bits[i].id, float(score[i]), shares, VERDICTS[int(tier[i])], _trim(need, box.bits[i], shares, want)))
    return tuple(out)
