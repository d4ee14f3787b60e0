# SPDX-License-Identifier: MIT
"""Parts, needs and openings that are made of the threads of a photograph: one or two threads have one of a kind, which follows what they
read.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from pydantic import ValidationError

from fondale.core.bits.search import ROUND_ONES
from fondale.core.edits.boxes import add_need
from fondale.core.edits.edit import Add, Edit, EditError, maker, put
from fondale.core.edits.ids import named_anew
from fondale.core.edits.printing import grown
from fondale.core.limits import LARGEST_MM
from fondale.core.model import NEEDS, PIECES, Measure, Need, Photo, Piece, Project, Thread
from fondale.core.model.bench import LARGEST_REAL_MM
from fondale.core.model.shapes import Box, Opening, Room, Wall
from fondale.core.photo.reading import read_photo
from fondale.core.words import digits, show_real

GUESS = 0.3  # of the shorter size that was read: so deep is a part until the maker says


def _key(photo: Photo, thread: Thread) -> str:
    """What a need or a piece remembers of its thread."""
    return f"{photo.id}/{thread.id}"


def _within(thread: Thread, mm: float, most: float) -> None:
    if mm > most:
        raise EditError(
            f"“{thread.name}” reads {show_real(mm)}: more than {show_real(most)}. Look at the length that is known, and where it lies."
        )


@dataclass(frozen=True)
class Read:
    """A thread and what it reads in real mm, give or take one standard deviation."""

    thread: Thread
    mm: float
    give_mm: float = 0.0

    @property
    def lean(self) -> float:
        """How upright it is: 0 level, 1 upright."""
        across, down = (abs(self.thread.b[i] - self.thread.a[i]) for i in (0, 1))
        return down / (across + down) if across + down else 0.0


def _in_order(reads: Sequence[Read]) -> tuple[Read, ...]:
    """The more level one first: it gives the width, the other the height."""
    return tuple(sorted(reads, key=lambda r: r.lean))


def _keys(photo: Photo, reads: Sequence[Read]) -> str:
    return " ".join(_key(photo, r.thread) for r in reads)


@maker
def need_of_threads(project: Project, photo: Photo, *given: Read) -> tuple[Edit, str]:
    """What one or two threads read becomes a need of these sizes and no others, or its need's sizes. Raises EditError for what no bit will
    ever be.
    """
    reads = _in_order(given)
    for read in reads:
        _within(read.thread, read.mm, LARGEST_REAL_MM)
    key, give = _keys(photo, reads), max(r.give_mm for r in reads)
    mine = next((n for n in project.needs if n.thread == key), None)
    if mine is not None:
        times = [r.mm / was for r, was in zip(reads, _sizes_read(mine, len(reads)), strict=True)]
        return put(NEEDS.at(mine.id), _longer(mine, times, give), f"Read {mine.name} again"), mine.id
    return add_need(project, reads[-1].thread.name, "box", tuple(r.mm for r in reads), give_mm=give, photo=photo.id, thread=key)


def _sizes_read(need: Need, threads: int) -> tuple[float, ...]:
    """The sizes of a need that its threads gave: the first ones, and of something round, made of one thread, its length."""
    return need.real[-1:] if threads == 1 and need.outline in ROUND_ONES else (need.real * 2)[:threads]


def _longer(need: Need, times: Sequence[float], give_mm: float) -> Need:
    """One thread's need keeps its proportions; of two each gives its own size."""
    each = [times[0] if len(times) == 1 else times[i] if i < len(times) else 1.0 for i in range(len(need.real))]
    return need.but(real=tuple(r * t for r, t in zip(need.real, each, strict=True)), give_mm=give_mm)


def _larger(piece: Piece, times: Sequence[float]) -> Piece:
    return grown(piece, (times[0],) * 3 if len(times) == 1 else (times[0], 1.0, times[1]))


@maker
def part_of_threads(project: Project, photo: Photo, *given: Read) -> tuple[Edit, str]:
    """A part to be built of one or two threads at the house scale; sides that no thread gives are a guess, and its note says which.

    The part that was made of them before takes what they read, in its own proportions. Raises EditError for a part that is larger than
    anything here may be.
    """
    reads = _in_order(given)
    mm = [r.mm / project.brief.house_n for r in reads]
    for read, size in zip(reads, mm, strict=True):
        _within(read.thread, size, LARGEST_MM)
    key = _keys(photo, reads)
    mine = next((p for p in project.pieces if p.thread == key and p.measure is not None and isinstance(p.shape, Box)), None)
    if mine is not None and isinstance(mine.shape, Box) and mine.measure is not None:
        was = [mine.measure.mm] if len(reads) == 1 else [mine.shape.width, mine.shape.height]
        return put(PIECES.at(mine.id), _larger(mine, [m / w for m, w in zip(mm, was, strict=True)]), f"Read {mine.name} again"), mine.id
    guess = GUESS * min(mm)
    if len(mm) == 2:
        shape, guessed = Box(width=mm[0], depth=guess, height=mm[1]), "depth"
    elif reads[0].lean > 0.5:
        shape, guessed = Box(width=guess, depth=guess, height=mm[0]), "width and depth"
    else:
        shape, guessed = Box(width=mm[0], depth=guess, height=guess), "depth and height"
    ident, name = named_anew(project.pieces, reads[-1].thread.name)
    piece = Piece(
        id=ident, name=name, shape=shape, origin="scratch", measure=Measure(mm=mm[-1], error_mm=0.1), thread=key,
        note=f"{' × '.join(show_real(r.mm) for r in reads)} real. No thread gives its {guessed}: a guess, to be set.",
    )  # fmt: skip
    return Add(f"Make a part: {name}", PIECES, piece), ident


@maker
def opening_of_threads(project: Project, piece: str, *given: Read) -> Edit:
    """An opening as wide and as high as two threads read at the house scale, in the middle of a wall or of a room's front, on its foot.

    Raises EditError where it is larger than that.
    """
    level, upright = _in_order(given)
    owner = project.get(PIECES, piece)
    if not isinstance(owner.shape, Wall | Room):
        raise EditError(f"{owner.name} takes no openings.")
    along = owner.shape.length if isinstance(owner.shape, Wall) else owner.shape.width
    wide, high = level.mm / project.brief.house_n, upright.mm / project.brief.house_n
    if wide >= along or high >= owner.shape.height:
        raise EditError(
            f"{digits(wide, 1)} × {digits(high, 1)} mm is larger than {owner.name}, {digits(along, 1)} × {digits(owner.shape.height, 1)} mm."
        )
    new = Opening(x=(along - wide) / 2, width=wide, height=high)
    spot = PIECES.at(piece).then(lambda p: p.shape)
    holes = (
        spot.narrowed(Wall).then(lambda w: w.openings) if isinstance(owner.shape, Wall) else spot.narrowed(Room).then(lambda r: r.openings)
    )
    return put(holes, (*owner.shape.openings, new), f"Opening in {owner.name}")


def follow(before: Project, after: Project) -> Project:
    """Needs and parts follow the threads that they were made of, as far as the sizes go; those whose thread is gone keep theirs."""
    if before.photos == after.photos or not any(t for t in (*(n.thread for n in after.needs), *(p.thread for p in after.pieces))):
        return after
    old, new = dict(_readings(before)), dict(_readings(after))
    try:
        needs = tuple(_longer(n, *read) if (read := _read(old, new, n.thread)) is not None else n for n in after.needs)
        pieces = tuple(_larger(p, read[0]) if (read := _read(old, new, p.thread)) is not None else p for p in after.pieces)
        return after.but(needs=needs, pieces=pieces)
    except ValidationError:  # longer than anything may be: they stay, and the photograph says what it reads
        return after


Readings = dict[str, tuple[float, float]]


def _readings(project: Project) -> Iterator[tuple[str, tuple[float, float]]]:
    """What each thread reads, and how far it may be off."""
    for photo in project.photos:
        found = read_photo(photo)
        for thread in photo.threads:
            reading = found.get(thread.id)
            if reading is not None and reading.real_mm is not None:
                yield _key(photo, thread), (reading.real_mm, reading.give_mm)


def _read(old: Readings, new: Readings, keys: str) -> tuple[list[float], float] | None:
    """How many times as long each of these threads reads now, and how far that may be off; None where nothing has changed."""
    each = keys.split(" ") if keys else []
    if not each or any(k not in old or k not in new for k in each) or all(old[k] == new[k] for k in each):
        return None
    return [new[k][0] / old[k][0] for k in each], max(new[k][1] for k in each)
