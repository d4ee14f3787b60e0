# SPDX-License-Identifier: MIT
"""What fits side by side on a plate: boxes from above, turned a quarter where that helps, with air between them."""

from collections import Counter
from collections.abc import Sequence
from itertools import permutations, product

from fondale.core.model.prints import Vector

Lying = tuple[Vector, str]  # a part as it lies, and the file that it is of
AIR_MM = 2.0  # between two parts on a plate: common practice, no source
FEW = 5  # parts of which every order is tried
MANY = 60  # parts: more are packed plate after plate
_SCALE = 100  # whole hundredths, or sums of decimals would decide


def packed(parts: Sequence[Lying], build: tuple[float, ...]) -> list[list[Lying]]:
    """Parts grouped into plates: as few as are found, by rectangles on a plate [jylanki2010], and like heights together. What goes on no plate has
    one to itself.
    """
    small = [p for p in parts if _goes(p[0], build)]
    alone = [[p] for p in parts if not _goes(p[0], build)]
    ways = (sorted(small, key=lambda p: -p[0][2]), sorted(small, key=lambda p: (-p[0][0] * p[0][1], -p[0][2])))
    best: list[list[Lying]] = []
    for order in ways:
        for found in _rectangles(order, build):
            if not best or (len(found), _heights(found)) < (len(best), _heights(best)):
                best = found
    if 1 < len(small) <= FEW and len(best) == 2 and side_by_side([(p[0][0], p[0][1]) for p in small], build[0], build[1]):
        best = [small]
    return sorted([*best, *alone], key=lambda plate: -max(size[2] for size, _file in plate))


def _goes(size: Vector, build: tuple[float, ...]) -> bool:
    w, d, _h = size
    return (w <= build[0] and d <= build[1]) or (d <= build[0] and w <= build[1])


def _heights(plates: list[list[Lying]]) -> float:
    return sum(max(size[2] for size, _file in plate) for plate in plates)


def _rectangles(order: Sequence[Lying], build: tuple[float, ...]) -> list[list[list[Lying]]]:
    """The plates that each of some ways of packing finds, parts taken in this order."""
    from rectpack import GuillotineBssfSas, MaxRectsBl, MaxRectsBssf, SkylineBlWm

    fill = _at_once if len(order) <= MANY else _one_by_one
    found = [fill(way, order, build) for way in (MaxRectsBssf, MaxRectsBl, SkylineBlWm, GuillotineBssfSas)] if order else []
    return [plates for plates in found if sum(map(len, plates)) == len(order)]


def _at_once(way: type, order: Sequence[Lying], build: tuple[float, ...], plates: int = 0) -> list[list[Lying]]:
    """All parts on as many plates as they take, or on so many at most."""
    from rectpack import PackingBin, PackingMode, newPacker

    air = AIR_MM * _SCALE
    packer = newPacker(PackingMode.Offline, PackingBin.BFF, way, sort_algo=list, rotation=True)
    packer.add_bin(round(build[0] * _SCALE + air), round(build[1] * _SCALE + air), count=plates or len(order))
    for k, ((w, d, _h), _file) in enumerate(order):
        packer.add_rect(round(w * _SCALE + air), round(d * _SCALE + air), k)
    packer.pack()
    return [plate for bin_ in packer if (plate := [order[r.rid] for r in bin_])]


def _one_by_one(way: type, order: Sequence[Lying], build: tuple[float, ...]) -> list[list[Lying]]:
    """Plate after plate, each as full as it gets, and again as often as there are such parts: hundreds of copies are a few different plates."""
    left, out = list(order), list[list[Lying]]()
    while left and (filled := _at_once(way, left, build, plates=1)):
        there, takes = Counter(left), Counter(filled[0])
        times = min(there[part] // n for part, n in takes.items())
        out += [list(filled[0]) for _ in range(times)]
        gone = Counter({part: n * times for part, n in takes.items()})
        kept = list[Lying]()
        for part in left:
            if gone[part]:
                gone[part] -= 1
            else:
                kept.append(part)
        left = kept
    return out


def side_by_side(sizes: Sequence[tuple[float, float]], wide: float, deep: float) -> bool:
    """Whether a few rectangles go on one plate: every order and turn, each as low and then as far left as it goes."""
    room = wide + AIR_MM + 1e-6, deep + AIR_MM + 1e-6
    if sum((w + AIR_MM) * (d + AIR_MM) for w, d in sizes) > room[0] * room[1]:
        return False
    for order in permutations(range(len(sizes))):
        for turns in product((False, True), repeat=len(sizes)):
            there: list[tuple[float, float, float, float]] = []
            for k in order:
                w, d = sizes[k][::-1] if turns[k] else sizes[k]
                w, d = w + AIR_MM, d + AIR_MM
                at = _lowest(there, w, d, room)
                if at is None:
                    break
                there.append((at[0], at[1], at[0] + w, at[1] + d))
            else:
                return True
    return False


def _lowest(there: list[tuple[float, float, float, float]], w: float, d: float, room: tuple[float, float]) -> tuple[float, float] | None:
    ys, xs = sorted({0.0, *(b[3] for b in there)}), sorted({0.0, *(b[2] for b in there)})
    for y in ys:
        for x in xs:
            free = x + w <= room[0] and y + d <= room[1]
            if free and all(x >= b[2] or x + w <= b[0] or y >= b[3] or y + d <= b[1] for b in there):
                return x, y
    return None
