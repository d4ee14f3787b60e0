# SPDX-License-Identifier: MIT
"""Placing tasks one after the other: each at the first gap that keeps every rule."""

from bisect import bisect_left, bisect_right, insort
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from fondale.core.order.tasks import Bench, Link, Task, Window

MOST_TRIES = 80  # how often an order is begun anew because something came too late after something else


@dataclass(frozen=True)
class Placed:
    """Start minutes, and which machine each holder took."""

    starts: dict[str, int]
    machines: dict[str, str]


class TooLate(Exception):
    """A task would come too late: ``task`` must not begin before minute ``at``."""

    def __init__(self, task: str, at: int) -> None:
        super().__init__(task)
        self.task, self.at = task, at


class Placer:
    """Knows tasks and links, and places any order of them in the evenings of a bench."""

    def __init__(self, tasks: Sequence[Task], links: Sequence[Link], bench: Bench) -> None:
        self.tasks, self.links, self.bench = tuple(tasks), tuple(links), bench
        self.by_id = {t.id: t for t in tasks}
        self.before: dict[str, list[Link]] = {t.id: [] for t in tasks}
        self.after: dict[str, list[Link]] = {t.id: [] for t in tasks}
        for link in links:
            self.before[link.after].append(link)
            self.after[link.before].append(link)
        self.clearing = {t.clears: t for t in tasks if t.clears}
        self.opens, self.ends = [a for a, _b in bench.windows], [b for _a, b in bench.windows]
        self.block = self._blocks()
        self.groups: dict[str, list[Task]] = {}
        for t in tasks:
            if t.together:
                self.groups.setdefault(t.together, []).append(t)

    def _blocks(self) -> dict[str, tuple[Task, ...]]:
        """For each task the tasks that are done in one go with it, itself among them."""
        follows = {k.before: k.after for k in self.links if k.at_once}
        heads = set(follows) - set(follows.values())
        out: dict[str, tuple[Task, ...]] = {t.id: (t,) for t in self.tasks}
        for head in heads:
            chain = [self.by_id[head]]
            while chain[-1].id in follows and len(chain) <= len(follows):
                chain.append(self.by_id[follows[chain[-1].id]])
            for t in chain:
                out[t.id] = tuple(chain)
        return out

    def place(self, order: Iterable[Task], tools_in: Mapping[str, int] | None = None) -> Placed | None:
        """Every task of ``order`` in turn, after all that it waits for, at the first gap. None where the evenings end, or no gap keeps a link.

        With ``tools_in``, start minutes, work with a tool looks first in the evenings in which it is out there.
        """
        floors: dict[str, int] = {}
        order = list(order)
        for _ in range(MOST_TRIES):
            try:
                return _Placing(self, floors, tools_in).all(order)
            except TooLate as late:
                if late.at <= floors.get(late.task, -1):
                    return None
                floors[late.task] = late.at
        return None


@dataclass
class _Room:
    """One evening as it fills: what the hands do, and when each tool is brought out and cleaned."""

    busy: list[Window] = field(default_factory=list)
    slots: dict[str, tuple[Window, Window]] = field(default_factory=dict)
    left: int = 0


class _Placing:
    """One placing, from empty evenings on."""

    def __init__(self, placer: Placer, floors: Mapping[str, int], tools_in: Mapping[str, int] | None) -> None:
        self.p, self.floors = placer, floors
        self.windows = placer.bench.windows
        self.ends, self.opens = placer.ends, placer.opens
        self.rooms: dict[int, _Room] = {}
        self.done: dict[str, int] = {}
        self.machines: dict[str, str] = {}
        self.free = dict(placer.bench.free)
        self.open_on = {m: placer.by_id[i] for m, i in placer.bench.open_on.items()}
        self.underway: set[str] = set()
        self.evening_of: dict[str, int] = {}
        self.out_in: dict[str, list[int]] = {}
        if tools_in is not None:
            for t in placer.tasks:
                if t.setup:
                    k = bisect_right(self.opens, tools_in[t.id]) - 1
                    if k not in self.out_in.setdefault(t.setup, []):
                        insort(self.out_in[t.setup], k)

    def all(self, order: Sequence[Task]) -> Placed | None:
        """Place every task; None where it cannot be."""
        return Placed(self.done, self.machines) if all(self._put(t) for t in order) else None

    def _put(self, task: Task) -> bool:
        if task.id in self.done:
            return True
        block = self.p.block[task.id]
        if block[0].id in self.underway:  # a machine that is cleared only after what it is to do next, or a circle
            return False
        self.underway.add(block[0].id)
        inside = {t.id for t in block}
        for t in block:
            for link in self.p.before[t.id]:
                if link.before not in inside and not self._put(self.p.by_id[link.before]):
                    return False
            if t.clears and t.clears not in inside and not self._put(self.p.by_id[t.clears]):
                return False
        held: list[tuple[Task, str]] = []
        for t in block:
            if t.holds:
                machine = self._machine(t)
                if machine is None:
                    return False
                held.append((t, machine))
        if block[0].id in self.done:  # what had to be cleared first has brought it along
            return True
        ready, offset = self.floors.get(block[0].id, 0), 0
        for t in block:
            ends = [self.done[k.before] + self.p.by_id[k.before].minutes + k.lag for k in self.p.before[t.id] if k.before not in inside]
            free = [self.free.get(m, 0) for x, m in held if x is t]
            ready = max([ready, t.release - offset, *(e - offset for e in [*ends, *free])])
            offset += t.minutes
        at = self._gap(block, ready)
        if at is None:
            return False
        for t in block:
            self.done[t.id] = at
            if t.latest is not None and at > t.latest:
                return False
            self._check(t, at)
            at += t.minutes
        for t, machine in held:
            self.machines[t.id] = machine
            if t.id in self.p.clearing and self.p.clearing[t.id].id not in inside:
                self.open_on[machine] = self.p.clearing[t.id]
            else:
                self.free[machine] = self.done[t.id] + t.minutes + t.held
        for t in block:
            for machine in [m for m, waiting in self.open_on.items() if waiting is t]:
                self.free[machine] = self.done[t.id] + t.minutes
                del self.open_on[machine]
        # Who must follow soon, or on the same evening, is placed now, or others would take its gap.
        soon = [k.after for t in block for k in self.p.after[t.id] if k.most is not None]
        soon += [mate.id for t in block if t.together for mate in self.p.groups[t.together]]
        return all(self._put(self.p.by_id[i]) for i in soon if self._can(i))

    def _can(self, ident: str) -> bool:
        """Whether all that a task waits for is placed."""
        block = self.p.block[ident]
        inside = {t.id for t in block}
        return all(k.before in self.done or k.before in inside for t in block for k in self.p.before[t.id])

    def _machine(self, task: Task) -> str | None:
        """The machine that is free first; what has to be cleared off it is put first."""
        ready = [m for m in task.holds if m not in self.open_on]
        if not ready:
            machine = task.holds[0]
            waiting = self.open_on[machine]
            if not self._put(waiting):
                return None
            ready = [m for m in task.holds if m not in self.open_on] or [machine]
        return min(ready, key=lambda m: (self.free.get(m, 0), task.holds.index(m)))

    def _check(self, task: Task, at: int) -> None:
        """Raises TooLate where ``task`` stands too late after something."""
        for link in self.p.before[task.id]:
            if link.most is None or link.before not in self.done:
                continue
            before = self.p.by_id[link.before]
            if at > self.done[link.before] + before.minutes + link.most:
                head = self.p.block[before.id][0].id
                raise TooLate(head, self.done[head] + at - (self.done[link.before] + before.minutes + link.most))

    def _gap(self, block: tuple[Task, ...], ready: int) -> int | None:
        """The first minute at which a block goes into an evening."""
        if not self.windows:
            return ready
        minutes = sum(t.minutes for t in block)
        tools = tuple(dict.fromkeys(t.setup for t in block if t.setup))
        groups = {t.together for t in block if t.together}
        fixed = {self.evening_of[g] for g in groups if g in self.evening_of}
        first = bisect_right(self.ends, ready)
        later: Iterable[int] = range(first, len(self.windows))
        out = [k for t in tools for k in self.out_in.get(t, ()) if k >= first]
        for k in [*fixed] if fixed else [*out, *later]:
            a, b = self.windows[k]
            if b - max(a, ready) < minutes or any(x <= a < y for t in block for x, y in t.barred):
                continue
            at = self._in(k, max(a, ready), minutes, tools)
            if at is not None:
                for g in groups:
                    self.evening_of[g] = k
                return at
        if fixed:  # the others must wait for an evening that holds all of them
            k = min(fixed) + 1
            if k < len(self.windows):
                mate = next(t for g in groups for t in self.p.groups[g] if t.id in self.done)
                head = self.p.block[mate.id][0].id
                raise TooLate(head, max(self.opens[k], self.floors.get(head, 0) + 1))
        return None

    def _in(self, k: int, ready: int, minutes: int, tools: tuple[str, ...]) -> int | None:
        """The first minute from ``ready`` on at which so many minutes with these tools go into one evening, and note it there.

        A tool is brought out somewhere before its first use and cleaned somewhere after its last, as late as it goes: more may come.
        """
        a, b = self.windows[k]
        room = self.rooms.get(k)
        if room is None:
            room = self.rooms[k] = _Room(left=b - a)
        if room.left < minutes:
            return None
        setups = self.p.bench.setups
        charged = [t for t in tools if sum(setups.get(t, (0, 0)))]
        taken = sorted([*room.busy, *(x for t, both in room.slots.items() if t not in charged for x in both)])
        bring = sum(setups[t][0] for t in charged if t not in room.slots)
        for at in sorted(
            {max(ready, a + bring), *(y for _x, y in taken if y >= ready), *(y + bring for _x, y in taken if y + bring > ready)}
        ):
            if at + minutes > b:
                return None
            if not _clear(taken, at, at + minutes):
                continue
            now = sorted([*taken, (at, at + minutes)])
            slots: dict[str, tuple[Window, Window]] = {}
            for t in charged:
                kept = room.slots.get(t, ((b, b), (a, a)))
                out: Window | None = kept[0]
                clean: Window | None = kept[1]
                if kept[0][1] > at:
                    out = _last_gap(now, a, at, setups[t][0])
                if out is None or not _clear(now, *out):
                    break
                insort(now, out)
                if kept[1][0] < at + minutes:
                    clean = _last_gap(now, at + minutes, b, setups[t][1])
                if clean is None or not _clear(now, *clean):
                    break
                insort(now, clean)
                slots[t] = out, clean
            else:
                insort(room.busy, (at, at + minutes))
                room.left -= minutes
                room.slots.update(slots)
                return at
        return None


def _last_gap(taken: Sequence[Window], start: int, end: int, size: int) -> Window | None:
    """The last free span of a size between two minutes."""
    at = end
    for x, y in reversed(taken):
        if x < at and y > at - size:
            at = x
    return (at - size, at) if at - size >= start else None


def _clear(taken: Sequence[Window], start: int, end: int) -> bool:
    """Whether nothing that is taken, sorted and apart, lies in a span."""
    if start >= end:
        return True
    k = bisect_left(taken, (start, start))
    if k < len(taken) and taken[k][0] < end:
        return False
    return k == 0 or taken[k - 1][1] <= start


def setups_in(tasks: Sequence[Task], windows: Sequence[Window], starts: Mapping[str, int]) -> int:
    """How often a tool is brought out."""
    opens = [a for a, _b in windows]
    return len({(t.setup, bisect_right(opens, starts[t.id])) for t in tasks if t.setup})
