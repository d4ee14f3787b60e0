# SPDX-License-Identifier: MIT
"""Random edits by all makers, with values at the ends of every range: only the project's own errors, and all can be saved and judged."""

import tempfile
import time
import traceback
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import BaseModel, ValidationError

from fondale.app.document import Document
from fondale.core.derived import QUICK
from fondale.core.edits import Put, Remove, new_project
from fondale.core.edits.again import Run, again
from fondale.core.edits.boxes import (
    add_bit,
    add_detail,
    add_fit,
    add_join,
    add_machine,
    add_need,
    add_photo,
    add_thread,
    drop_detail,
    drop_machine,
    drop_thread,
    use_bit,
)
from fondale.core.edits.edit import maker
from fondale.core.edits.handing import HandFit, HandJoin, HandRig
from fondale.core.edits.leaving import Accept, Reopen
from fondale.core.edits.new_things import add_piece, add_seat, add_step, add_surface, set_coat
from fondale.core.edits.pasting import copied, pasted
from fondale.core.edits.printing import HandOver, RescalePieces, ScaleFiles
from fondale.core.edits.steps import LogEvening, MarkDone, ReorderSteps, StopTimer
from fondale.core.edits.threads import Read, need_of_threads, opening_of_threads, part_of_threads
from fondale.core.edits.wiring import ReplaceString, add_lamp, add_meter, add_moment, add_string, add_supply, set_level, wire_lamp
from fondale.core.model import LISTS, Page, Project
from fondale.core.model.spots import Attribute, Spot
from fondale.core.order.plan import make_plan
from fondale.core.prompts import RULES
from fondale.core.reckoning import Look, Reckoner
from fondale.core.shapes import KINDS
from fondale.core.troubles import Trouble
from fondale.demo import SAMPLES
from fondale.knowledge import table
from fondale.storage.files import from_json, load, to_json
from fondale.storage.patience import bound_memory

TODAY = date(2026, 11, 24)
NUMBERS = (0, 1, -1, 0.001, 5e-324, 1e-9, 0.5, 2, 10, 99.5, 100, 360, 1e3, 1e4, 1e5, 1e6, -1e5, 1e308, float("inf"), float("nan"))
WORDS = (
    "", "x", "glass", "W" * 120, "W" * 121, "<b>bold</b>", "=1+1", "\ud800", "a\0b", "line\nline", "ΑΩ é 漢字 🙂", "../../etc", "%s{}", "'", "a" * 25_000,
)  # fmt: skip
DAYS = (date.min, date.max, TODAY, TODAY + timedelta(days=30), date(9999, 12, 1), date(1, 1, 3))
HELD_S, SLOW_S = 2.0, 30.0  # of processor time for an edit, and for all that follows it at once, beside whatever else is busy
MOST = 40  # of one kind: the attack is on values, not on numbers
_NAMES = {r.name for r in QUICK}
_RULES = tuple(r for r in RULES if all(n.name in _NAMES for n in r.needs))


@dataclass
class Found:
    """What went wrong: the place in the code, how often, and the first edit that led there."""

    kinds: dict[str, list[str]] = field(default_factory=dict)
    edits: int = 0
    refused: int = 0

    def note(self, what: str, error: BaseException) -> None:
        """Remember a fault by where it was raised."""
        frames = [f for f in traceback.extract_tb(error.__traceback__) if "/fondale/" in f.filename]
        last = frames[-1] if frames else traceback.extract_tb(error.__traceback__)[-1]
        key = f"{type(error).__name__} in {last.filename.rpartition('/fondale/')[2]}:{last.lineno} ({last.name})"
        self.kinds.setdefault(key, []).append(f"{what}: {str(error)[:160]}")

    def add(self, other: "Found") -> None:
        """What another attack found is found, too."""
        self.edits, self.refused = self.edits + other.edits, self.refused + other.refused
        for kind, said in other.kinds.items():
            self.kinds.setdefault(kind, []).extend(said)

    def told(self) -> str:
        """All kinds of faults, a line each."""
        return "\n".join(f"{k}, {len(v)} times, first: {v[0]}" for k, v in self.kinds.items())


def values(rng: np.random.Generator, now: Any, project: Project) -> Any:
    """Another value for one that is ``now``: at the ends of its range, of the kind, or of another kind altogether."""
    ids = [m.id for listing in LISTS for m in listing.members(project)]
    if rng.random() < 0.04:
        return (None, True, "x", -1, (), {"a": 1}, [None])[int(rng.integers(7))]
    if isinstance(now, bool):
        return not now
    if isinstance(now, int | float):
        return type(now)(now * float(rng.uniform(0, 3))) if rng.random() < 0.4 else NUMBERS[int(rng.integers(len(NUMBERS)))]
    if isinstance(now, str):
        if ids and rng.random() < 0.4:
            return ids[int(rng.integers(len(ids)))]
        keys = [
            k for name in ("coats", "scales", "body", "machines") for part in table(name).values() if isinstance(part, dict) for k in part
        ]
        return keys[int(rng.integers(len(keys)))] if rng.random() < 0.3 else WORDS[int(rng.integers(len(WORDS)))]
    if isinstance(now, datetime):
        return datetime.combine(DAYS[int(rng.integers(len(DAYS)))], datetime.max.time())
    if isinstance(now, date):
        return DAYS[int(rng.integers(len(DAYS)))]
    if isinstance(now, tuple):
        if not now:
            return (ids[int(rng.integers(len(ids)))],) if ids and rng.random() < 0.7 else (1.0, 2.0)
        way = int(rng.integers(4))
        if way == 0:
            return now[1:]
        if way == 1:
            return (*now, now[int(rng.integers(len(now)))])
        k = int(rng.integers(len(now)))
        return (*now[:k], values(rng, now[k], project), *now[k + 1 :]) if way == 2 else tuple(now[i] for i in rng.permutation(len(now)))
    if isinstance(now, dict):
        return {**now, **({ids[int(rng.integers(len(ids)))]: 0.5} if ids else {})}
    if now is None:
        return (1.0, "x", DAYS[int(rng.integers(len(DAYS)))], 0, None)[int(rng.integers(5))]
    return now


def a_put(rng: np.random.Generator, project: Project) -> Put[Any]:
    """Another value anywhere in the project."""
    listings = [x for x in LISTS if x.members(project)]
    if listings and rng.random() < 0.8:
        listing = listings[int(rng.integers(len(listings)))]
        members = listing.members(project)
        thing: Any = members[int(rng.integers(len(members)))]
        spot: Spot[Any] = listing.at(thing.id)
    else:
        name = ("brief", "case", "depth", "tonight")[int(rng.integers(4))]
        thing, spot = getattr(project, name), Spot((Attribute(name),))
    while True:
        names = list(type(thing).model_fields)
        name = names[int(rng.integers(len(names)))]
        value = getattr(thing, name)
        spot = Spot((*spot.path, Attribute(name)))
        if isinstance(value, BaseModel) and rng.random() < 0.8:
            thing = value
            continue
        return Put(f"Set {name}", spot, values(rng, value, project))


def makers(rng: np.random.Generator, project: Project) -> list[Callable[[], Any]]:
    """All makers of edits; each gives an edit, edits, or those with an id, and raises its own trouble at most."""

    def one(members: Any) -> Any:
        return members[int(rng.integers(len(members)))]  # raises where there is none: nothing is made then

    def number() -> float:
        return float(one(NUMBERS[:-2]))

    def listed() -> Any:
        return one([x for x in LISTS if x.members(project)])

    def member(listing: Any) -> str:
        return one(listing.members(project)).id

    def some_steps() -> tuple[str, ...]:
        return tuple(s.id for s in project.steps if rng.random() < 0.3)

    def day() -> datetime:
        return datetime.combine(one(DAYS), datetime.min.time())

    def removed() -> Remove:
        listing = listed()
        return Remove("Remove", listing, member(listing))

    def more() -> Any:
        listing = listed()
        step = (number(), number(), 0.0)
        return again(project, listing, member(listing), Run(int(rng.integers(1, 4)), step))

    def shuffled() -> ReorderSteps:
        order = [s.id for s in project.steps]
        rng.shuffle(order)
        return ReorderSteps("Shuffle", tuple(order))

    def page() -> LogEvening:
        name = f"page-{len(project.pages)}"
        return LogEvening("Log", Page(id=name, day=one(DAYS), minutes=float(rng.integers(0, 600)), done=some_steps()), day())

    def threaded(make: Callable[..., Any]) -> Any:
        photo = one([p for p in project.photos if p.threads])
        return make(photo, *dict.fromkeys(one(photo.threads) for _ in range(int(rng.integers(1, 3)))))

    rows = list(table("machines")["machine"])
    coats = list(table("coats")["coat"])
    return [
        lambda: add_bit(project), lambda: add_need(project), lambda: add_fit(project), lambda: add_join(project),
        lambda: add_machine(project, one(rows)), lambda: drop_machine(project, one(project.brief.machines).id),
        lambda: add_detail(one(project.pieces), one(("hip", "knee", "eyes", "shoulder", "nonsense")), number()),
        lambda: (lambda p: drop_detail(p, one(p.details).id))(one(project.pieces)),
        lambda: add_photo(project, one(WORDS), "assets/photos/x.png", int(rng.integers(1, 9000)), int(rng.integers(1, 9000))),
        lambda: add_thread(one(project.photos), (number(), number()), (number(), number()), one(("plane", "ground", "wall"))),
        lambda: (lambda p: drop_thread(p, one(p.threads).id))(one(project.photos)),
        lambda: threaded(lambda p, *t: need_of_threads(project, p, *(Read(x, number() or 1.0, number()) for x in t))),
        lambda: threaded(lambda p, *t: part_of_threads(project, p, *(Read(x, number() or 1.0) for x in t))),
        lambda: threaded(lambda p, *t: opening_of_threads(project, one(project.pieces).id, *(Read(x, number() or 1.0) for x in (t * 2)[:2]))),
        lambda: use_bit(project, one(project.bits), one((None, *project.needs))),
        lambda: HandJoin("Hand", one(project.joins).id), lambda: HandFit("Hand", one(project.fits).id), lambda: HandRig("Hand"),
        lambda: HandOver("Hand", one(project.prints).id),
        lambda: Accept("Leave", (f"X:{one(WORDS)}",), one(WORDS)), lambda: Reopen("Reopen", one(project.accepted).key),
        lambda: add_piece(project, one(KINDS)), lambda: add_seat(project), lambda: add_surface(project, one(WORDS)),
        lambda: add_step(project, one(WORDS), (one(project.surfaces).id,), one(coats)),
        lambda: set_coat(project, one(project.steps), one(("", "glass", *coats))),
        lambda: ScaleFiles("Scale", (one(project.prints).id,), number(), (number(), 1.0, 1.0)),
        lambda: RescalePieces("Rescale", (one(project.pieces).id,), number()),
        shuffled, maker(page), lambda: MarkDone("Done", some_steps(), bool(rng.integers(2)), day()),
        lambda: ReplaceString("Replace", one(project.strings).id, ()),
        lambda: add_lamp(project), lambda: add_supply(project, one(("plug", "coin", "aa", "nonsense"))), lambda: add_meter(project),
        lambda: add_moment(project), lambda: add_string(project, one(project.supplies).id, (one(project.lamps).id,)),
        lambda: wire_lamp(project, one(project.lamps).id, one(project.strings).id),
        lambda: set_level(project, one(project.lamps).id, number(), one(("", *(m.id for m in project.moments)))),
        lambda: pasted(project, from_json(to_json(copied(project, one(project.pieces).id)))), lambda: StopTimer("Stop", number()),
        removed, more,
    ]  # fmt: skip


def _edits(made: Any) -> tuple[Any, ...]:
    """The edits of what a maker gives."""
    if isinstance(made, tuple) and made and isinstance(made[0], tuple):
        return made[0]
    if isinstance(made, tuple):
        return tuple(e for e in made if not isinstance(e, str))
    return (made,)


def attack(
    start: Project, count: int, seed: int, found: Found, judge_each: int = 1, plan_each: int = 40, file_each: int = 60
) -> Iterator[Project]:
    """So many edits one after the other, taken back and brought back, saved and opened; what goes wrong is noted in ``found``. Yields each project."""
    rng = np.random.default_rng(seed)
    document, reckoner = Document(start), Reckoner()
    with tempfile.TemporaryDirectory() as folder:
        for k in range(count):
            found.edits += 1
            project, what = document.project, "put"
            try:
                if rng.random() < 0.6:
                    edits: tuple[Any, ...] = (a_put(rng, project),)
                    what = f"{edits[0].label} = {edits[0].value!r:.60}"
                else:
                    try:
                        make = makers(rng, project)
                        edits = _edits(make[int(rng.integers(len(make)))]())
                    except (IndexError, ValueError) as nothing:  # there is nothing to choose from
                        if isinstance(nothing, ValidationError) or "/fondale/" in traceback.extract_tb(nothing.__traceback__)[-1].filename:
                            raise
                        continue
                    what = edits[0].label if edits else "nothing"
                since = time.process_time()
                document.do(*edits)
                assert time.process_time() - since < HELD_S, "the window is held up by an edit"
            except Trouble:
                found.refused += 1
                continue
            except Exception as error:
                found.note(what, error)
                continue
            after = document.project
            try:
                _round(document, rng, Path(folder) / "a.fondale", k % file_each == 0)
                if k % judge_each == 0:
                    since = time.process_time()
                    derived = reckoner.derive(after, Look(TODAY), QUICK)
                    assert time.process_time() - since < SLOW_S, "what follows at once takes its time"
                    for rule in _RULES:
                        rule.findings(derived)
                if k % plan_each == 0:
                    make_plan(after, TODAY, effort=0.02)
            except Exception as error:
                found.note(what, error)
                document = Document(project)
                continue
            if any(len(x.members(after)) > max(MOST, len(x.members(project))) for x in LISTS):
                document.undo()
            elif after is not project:
                yield after


def of_seed(seed: int, each: int) -> Found:
    """So many edits on an empty project and on each sample, in a process that takes no more memory than the workers of the window."""
    bound_memory()  # what takes all that there is would end everything here
    found = Found()
    for start in (new_project("Empty", TODAY), *(make(TODAY) for make in SAMPLES.values())):
        for _project in attack(start, each, seed, found, judge_each=4, plan_each=200):
            pass
    return found


def _round(document: Document, rng: np.random.Generator, path: Path, to_file: bool) -> None:
    """What was done comes back the same: out of its text, out of a file, and after steps were taken back and brought back."""
    after = document.project
    assert from_json(to_json(after)) == after, "it comes back as another one"
    if rng.random() < 0.1:
        steps = int(rng.integers(1, 6))
        for _ in range(steps):
            document.undo()
        for _ in range(steps):
            document.redo()
        assert document.project == after, "it is another one after undo and redo"
    if to_file:
        document.save(path)
        assert load(path) == after, "it comes back as another one out of its file"
