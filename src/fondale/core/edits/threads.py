"""Parts and needs that are made of the threads of a photograph: each thread has one of a kind, which follows what it reads."""

from collections.abc import Iterator

from pydantic import ValidationError

from fondale.core.edits.boxes import add_need
from fondale.core.edits.edit import Add, Edit, EditError, maker, put
from fondale.core.edits.ids import named_anew
from fondale.core.edits.printing import grown
from fondale.core.model import NEEDS, PIECES, Measure, Need, Photo, Piece, Project, Thread
from fondale.core.model.base import LARGEST_MM
from fondale.core.model.bench import LARGEST_REAL_MM
from fondale.core.model.shapes import Box
from fondale.core.photo.reading import read_photo
from fondale.core.words import show_real


def _key(photo: Photo, thread: Thread) -> str:
    """What a need or a piece remembers of its thread."""
    return f"{photo.id}/{thread.id}"


def _within(thread: Thread, mm: float, most: float) -> None:
    if mm > most:
        raise EditError(
            f"“{thread.name}” reads {show_real(mm)}: more than {show_real(most)}. Look at the length that is known, and where it lies."
        )


@maker
def need_of_thread(project: Project, photo: Photo, thread: Thread, real_mm: float, give_mm: float) -> tuple[Edit, str]:
    """The size that a thread reads becomes a need, or its need's size. Raises EditError for what no bit will ever be."""
    _within(thread, real_mm, LARGEST_REAL_MM)
    mine = next((n for n in project.needs if n.thread == _key(photo, thread)), None)
    if mine is not None:
        return put(NEEDS.at(mine.id), _longer(mine, real_mm / mine.real[-1], give_mm), f"Read {mine.name.lower()} again"), mine.id
    upright = abs(thread.b[1] - thread.a[1]) > abs(thread.b[0] - thread.a[0])
    outline = "rod" if upright else "box"
    real = (real_mm * 0.1, real_mm) if outline == "rod" else (real_mm,)
    return add_need(project, thread.name, outline, real, give_mm=give_mm, photo=photo.id, thread=_key(photo, thread))


def _longer(need: Need, times: float, give_mm: float) -> Need:
    return need.but(real=tuple(r * times for r in need.real), give_mm=give_mm)


@maker
def part_of_thread(project: Project, photo: Photo, thread: Thread, real_mm: float) -> tuple[Edit, str]:
    """A part to be built, as long as the thread reads at the house scale: upright threads give its height, level ones its width.

    The part that was made of it before takes that length, in its own proportions. Raises EditError for a part that is larger than
    anything here may be.
    """
    mm = real_mm / project.brief.house_n
    _within(thread, mm, LARGEST_MM)
    mine = next((p for p in project.pieces if p.thread == _key(photo, thread) and p.measure is not None), None)
    if mine is not None and mine.measure is not None:
        times = mm / mine.measure.mm
        return put(PIECES.at(mine.id), grown(mine, (times, times, times)), f"Read {mine.name.lower()} again"), mine.id
    upright = abs(thread.b[1] - thread.a[1]) > abs(thread.b[0] - thread.a[0])
    shape = Box(width=mm if not upright else mm * 0.3, depth=mm * 0.3, height=mm if upright else mm * 0.3)
    ident, name = named_anew(project.pieces, thread.name)
    piece = Piece(
        id=ident, name=name, shape=shape, origin="scratch", measure=Measure(mm=mm, error_mm=0.1), note=f"{real_mm / 1000:.2f} m real",
        thread=_key(photo, thread),
    )  # fmt: skip
    return Add(f"Make a part: {name}", PIECES, piece), ident


def follow(before: Project, after: Project) -> Project:
    """Needs and parts follow the threads that they were made of, as far as the sizes go; those whose thread is gone keep theirs."""
    if before.photos is after.photos or not any(t for t in (*(n.thread for n in after.needs), *(p.thread for p in after.pieces))):
        return after
    old, new = dict(_readings(before)), dict(_readings(after))
    try:
        needs = tuple(_longer(n, *_read(old, new, n.thread)) if _moved(old, new, n.thread) else n for n in after.needs)
        pieces = tuple(grown(p, (_read(old, new, p.thread)[0],) * 3) if _moved(old, new, p.thread) else p for p in after.pieces)
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


def _moved(old: Readings, new: Readings, key: str) -> bool:
    return key in old and key in new and old[key] != new[key]


def _read(old: Readings, new: Readings, key: str) -> tuple[float, float]:
    """How many times as long a thread reads now, and how far that may be off."""
    return new[key][0] / old[key][0], new[key][1]
