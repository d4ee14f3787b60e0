# SPDX-License-Identifier: MIT
"""The work of a few evenings packed anew, while all else stays where it is."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from fondale.core.order.exact import Exact
from fondale.core.order.place import Placed
from fondale.core.order.tasks import Bench, Link, NoPlan, Task, Window


def repacked(
    tasks: Sequence[Task], links: Sequence[Link], bench: Bench, now: Placed, few: Sequence[Window], due: Mapping[str, float], effort: float
) -> tuple[Placed, float]:  # fmt: skip
    """An order whose work in ``few`` evenings, which follow each other, lies as early in them as it goes; and the search spent on it.

    What ends after its ``due`` minute goes first, what keeps it goes on keeping it. CP-SAT sees the tasks of these evenings, what they
    hang on as their bounds, and every run of a machine.
    """
    starts = dict(now.starts)
    free = {t.id for t in tasks if t.windowed and few[0][0] <= starts[t.id] < few[-1][1]}
    if len(free) < 2:
        return now, 0.0
    by_id = {t.id: t for t in tasks}
    first = {i: by_id[i].release for i in free}
    last = {i: min(max(int(due[i]) - by_id[i].minutes, starts[i]), few[-1][1]) for i in free}
    for k in links:
        if k.after in free and k.before not in free:
            end = starts[k.before] + by_id[k.before].minutes
            first[k.after] = max(first[k.after], end + k.lag)
            if k.most is not None:
                last[k.after] = min(last[k.after], end + k.most)
        elif k.before in free and k.after not in free:
            end = starts[k.after] - by_id[k.before].minutes
            last[k.before] = min(last[k.before], end - k.lag)
            if k.most is not None:
                first[k.before] = max(first[k.before], end - k.most)
    opened = set(bench.open_on.values())
    seen = []
    for t in tasks:
        if t.id in free:
            limit = last[t.id] if t.latest is None else min(last[t.id], t.latest)
            seen.append(replace(t, release=first[t.id], latest=limit))
        elif t.holds or t.clears or t.id in opened:
            at = starts[t.id]
            taken = (now.machines[t.id],) if t.holds else ()
            seen.append(Task(t.id, t.minutes, release=at, latest=at, holds=taken, held=t.held, clears=t.clears))
    between = [k for k in links if k.before in free and k.after in free]
    limit = max(few[-1][1], max(starts[t.id] + t.minutes for t in seen))
    try:
        model = Exact(seen, between, {"hands": 1}, few, limit, replace(bench, windows=few))
    except NoPlan:
        return now, 0.0
    late = {i for i in free if starts[i] + by_id[i].minutes > due[i]}
    found = model.packed({t.id: starts[t.id] for t in seen}, late, effort)
    if found is None:
        return now, effort
    placed, spent = found
    return Placed(starts | placed.starts, dict(now.machines) | placed.machines), spent
