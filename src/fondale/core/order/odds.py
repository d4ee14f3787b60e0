"""The odds: the running order played through many times, as a maker works."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Bools, Floats, Ints
from fondale.core.order.evenings import Calendar
from fondale.core.order.tasks import Link
from fondale.core.order.work import Work

RUNS = 2000
# How far evenings stray; common practice, no source.
OVER_MIN = 15.0  # a maker works on a little to finish something
PACE_SPREAD, DRYING_SPREAD = 0.15, 0.15  # of the whole piece, and of the bench: standard deviations of the logarithm
MISSED = 0.05


@dataclass(frozen=True)
class Draw:
    """What is drawn for each run: minutes (tasks, runs), a factor on what each task waits for afterwards (tasks, runs), as coats dry
    sooner or later and prints fail, and the evenings missed (evenings, runs).
    """

    minutes: Floats
    waits: Floats
    missed: Bools


@dataclass(frozen=True)
class Odds:
    """``share`` of the runs that make the date (None without one), the minutes when half and nine in ten of them are ready (inf: not in
    two years), and the steps that decide most.
    """

    share: float | None
    half: float
    ninety: float
    deciding: tuple[str, ...]


def pert(work: Work, runs: int, seed: int = 5) -> Floats:
    """Sampled minutes (tasks, runs) from the low, likely and high of each step (PERT beta, weight 4 [pert1959])."""
    rng = np.random.default_rng(seed)
    out = np.empty((len(work.tasks), runs))
    for i, task in enumerate(work.tasks):
        low, likely, high = sorted(work.step_of[task.id].minutes)
        span = max(high - low, 1e-9)
        sample = low + span * rng.beta(1 + 4 * (likely - low) / span, 1 + 4 * (high - likely) / span, runs)
        out[i] = sample / max(likely, 1e-9) * task.minutes
    return out


def draw(work: Work, evenings: int, runs: int = RUNS, seed: int = 6) -> Draw:
    """One throw of everything that varies; the same seed throws the same."""
    rng = np.random.default_rng(seed)
    pace = np.exp(rng.normal(0.0, PACE_SPREAD, runs))
    drying = np.exp(rng.normal(0.0, DRYING_SPREAD, runs))
    waits = np.ones((len(work.tasks), runs))
    for i, task in enumerate(work.tasks):
        if work.step_of[task.id].coat:
            waits[i] = drying
        elif task.id in work.success:
            # Tries are geometric; a failed one costs a share of the run that is drawn about its mean.
            fails = rng.geometric(work.success[task.id], runs) - 1
            waits[i] = 1 + fails * work.lost * rng.uniform(0.5, 1.5, runs)
    return Draw(pert(work, runs) * pace, waits, rng.random((evenings, runs)) < MISSED)


def play(work: Work, order: Sequence[int], drawn: Draw, windows: Sequence[tuple[int, int]]) -> Floats:
    """When each task ends (tasks, runs), in minutes; inf where the evenings do not suffice. ``order`` are task indices as planned.

    Evening by evening: begun work first; then what must follow soon; then the first in the planned order that may be worked on and ends by
    the evening's end or a little over it, with its tool's setting up and cleaning where that is not out, and with all that goes in one go
    or on one evening with it. What must be followed soon is begun only where that can be kept. Where nothing may yet, the maker waits
    while the evening lasts. What outgrows every evening goes on in the next.
    """
    tasks = [work.tasks[i] for i in order]
    place = {t.id: k for k, t in enumerate(tasks)}
    count, runs = len(tasks), drawn.minutes.shape[1]
    bundle, links = _bundles(work, place)
    # The links by the place of what comes before: those of one task stand together.
    chain = sorted(links, key=lambda k: place[k.before])
    after, lags = np.array([place[k.after] for k in chain], int), np.array([k.lag for k in chain], float)
    sources = np.array([order[place[k.before]] for k in chain], int)
    counts = np.bincount([place[k.before] for k in chain], minlength=count)
    firsts = np.cumsum(counts) - counts
    missing = np.tile(np.bincount([place[k.after] for k in links], minlength=count), (runs, 1))
    free = np.tile(np.array([t.release for t in tasks], float), (runs, 1))  # when all before it are done with
    may = np.where(missing == 0, free, np.inf)  # when it may be worked on
    left = drawn.minutes[list(order)].T.copy()
    ends = np.full((runs, count), np.inf)
    begun = np.full(runs, -1)
    longest = max((b - a for a, b in windows), default=0)
    together = left @ bundle.T if bundle is not None else left  # with all that goes along
    large = together > longest
    soon = [(place[k.before], place[k.after], k.lag, k.most) for k in work.links if k.most is not None]
    urgent = np.zeros((runs, count), bool) if soon or bundle is not None else None
    # Machines: which task may take which, which one clears it, and until when each is taken.
    machines = sorted({m for t in tasks for m in t.holds})
    holds = np.zeros((count, len(machines)), bool)
    for k, t in enumerate(tasks):
        holds[k, [machines.index(m) for m in t.holds]] = True
    holders = np.flatnonzero(holds.any(axis=1))
    only, several = holders[holds[holders].sum(axis=1) == 1], holders[holds[holders].sum(axis=1) > 1]
    machine = holds.argmax(axis=1) if machines else np.zeros(count, int)
    clears = np.array([place.get(t.clears, -1) for t in tasks], int)
    cleared = {t.clears for t in tasks if t.clears}
    held = np.array([np.inf if t.id in cleared else t.held for t in tasks], float)
    taken = np.tile(np.array([np.inf if m in work.bench.open_on else work.bench.free.get(m, -np.inf) for m in machines], float), (runs, 1))
    opened = {place[i]: machines.index(m) for m, i in work.bench.open_on.items() if m in machines}
    took = np.full((runs, count), -1)
    # Tools: what bringing out and cleaning takes, and which are out.
    tools = sorted({t.setup for t in tasks if sum(work.bench.setups.get(t.setup, (0, 0)))})
    tool = np.array([tools.index(t.setup) if t.setup in tools else len(tools) for t in tasks], int)
    tooled = np.flatnonzero(tool < len(tools))
    charge = np.array([*(sum(work.bench.setups[t]) for t in tools), 0.0])
    barred = any(t.barred for t in tasks)
    for w, ((opens, closes), missed) in enumerate(zip(windows, drawn.missed, strict=True)):
        lo = int(np.isfinite(ends).all(axis=0).argmin())  # what stands before it is done in every run
        one, more, with_tool = only[only >= lo], several[several >= lo], tooled[tooled >= lo]
        shut = np.array([not t.may_in((opens, opens + t.minutes)) for t in tasks[lo:]]) if barred else None
        clock = np.full(runs, float(opens))
        out = np.zeros((runs, len(tools) + 1), bool)
        at = np.flatnonzero(~missed & ((begun >= 0) | (may < closes).any(axis=1)))  # the runs that are at the bench
        while at.size:
            now, rest = clock[at], closes - clock[at]
            open_to = may[at, lo:]
            if one.size:
                open_to[:, one - lo] = np.maximum(open_to[:, one - lo], taken[at][:, machine[one]])
            if more.size:
                soonest = np.where(holds[more][None], taken[at][:, None, :], np.inf).min(axis=2)
                open_to[:, more - lo] = np.maximum(open_to[:, more - lo], soonest)
            if shut is not None:
                open_to[:, shut] = np.inf
            need = left[at, lo:] if bundle is None else left[at, lo:] @ bundle[lo:, lo:].T
            setting = np.where(out[at], 0.0, charge)
            if with_tool.size:
                need[:, with_tool - lo] += setting[:, tool[with_tool]]
            fits: Bools = open_to <= now[:, None]
            fits &= large[at, lo:] | (need <= rest[:, None] + OVER_MIN)
            for a, b, lag, most in soon:
                if a < lo:
                    continue
                over = now + need[:, a - lo] + lag + left[at, b] <= closes + OVER_MIN
                following = windows[w + 1][0] if w + 1 < len(windows) else np.inf
                fits[:, a - lo] &= over | (following <= now + need[:, a - lo] + most) | (left[at, a] + left[at, b] > longest)
            if urgent is not None:
                hot = urgent[at, lo:] & (open_to <= now[:, None])
                fits[hot.any(axis=1)] = hot[hot.any(axis=1)]
            best = fits.argmax(axis=1)
            works = (begun[at] >= 0) | fits[np.arange(at.size), best]
            chosen = np.where(begun[at] >= 0, begun[at], best + lo)
            if not works.all():
                later = open_to[~works]
                clock[at[~works]] = np.where(later > now[~works, None], later, np.inf).min(axis=1)
            r, c, rest = at[works], chosen[works], rest[works]
            set_up = setting[works, tool[c]]
            out[r, tool[c]] = True
            whole = left[r, c] + set_up <= rest + OVER_MIN
            whole |= left[r, c] <= 0
            spent = np.where(whole, left[r, c], np.clip(rest - set_up, 0, left[r, c]))
            left[r, c] -= spent
            clock[r] += spent + set_up
            begun[r] = np.where(whole, -1, c)
            clock[r] = np.where(whole, clock[r], np.maximum(clock[r], closes))
            r, c = r[whole], c[whole]
            may[r, c], ends[r, c] = np.inf, clock[r]
            if holders.size:
                _take_machines(r, c, clock[r], taken, took, holds, held, clears, opened)
            if bundle is not None and urgent is not None:
                urgent[r] |= bundle[c] > 0
            if urgent is not None:
                for a, b, _lag, _most in soon:
                    urgent[r[c == a], b] = True
            i, link = np.repeat(r, counts[c]), _runs_of(firsts[c], counts[c])
            j = after[link]
            free[i, j] = np.maximum(free[i, j], clock[i] + lags[link] * drawn.waits[sources[link], i])
            missing[i, j] -= 1
            may[i, j] = np.where(missing[i, j] == 0, free[i, j], np.inf)
            at = at[clock[at] < closes]
        if np.isfinite(ends).all():
            break
    done = np.empty((count, runs))
    done[list(order)] = ends.T
    return done


def _take_machines(
    r: Ints, c: Ints, now: Floats, taken: Floats, took: Ints, holds: Bools, held: Floats, clears: Ints, opened: dict[int, int]
) -> None:
    """Machines that tasks ``c`` of runs ``r``, which end now, start and clear."""
    starts = holds[c].any(axis=1)
    if starts.any():
        rows, which = r[starts], c[starts]
        first = np.where(holds[which], taken[rows], np.inf).argmin(axis=1)
        took[rows, which] = first
        taken[rows, first] = now[starts] + held[which]
    ends_it = clears[c] >= 0
    if ends_it.any():
        rows = r[ends_it]
        taken[rows, took[rows, clears[c[ends_it]]]] = now[ends_it]
    for k, m in opened.items():
        taken[r[c == k], m] = now[c == k]


def _bundles(work: Work, place: dict[str, int]) -> tuple[Floats | None, list[Link]]:
    """Which tasks go in one go or on one evening with which (None: none do), and the links: who goes along waits for all that they wait for."""
    group = {t.id: {t.id} for t in work.tasks}
    for a, b in [(k.before, k.after) for k in work.links if k.at_once] + [
        (t.id, u.id) for t in work.tasks for u in work.tasks if t.together and t.together == u.together
    ]:
        both = group[a] | group[b]
        for i in both:
            group[i] = both
    if all(len(g) == 1 for g in group.values()):
        return None, list(work.links)
    links = {(k.before, k.after): k for k in work.links}
    behind: dict[str, set[str]] = {t.id: set() for t in work.tasks}  # what waits for a task, near or far
    for i in sorted(place, key=lambda i: -place[i]):
        behind[i] = {x for k in work.links if k.before == i for x in (k.after, *behind[k.after])}
    for k in work.links:
        for mate in group[k.after] if k.before not in group[k.after] else ():
            if k.before not in behind[mate]:
                links.setdefault((k.before, mate), Link(k.before, mate, k.lag))
    bundle = np.zeros((len(place), len(place)))
    for i, mates in group.items():
        bundle[place[i], [place[m] for m in mates]] = 1
    return bundle, list(links.values())


def _runs_of(firsts: Ints, counts: Ints) -> Ints:
    """The numbers from each of ``firsts`` on, as many as ``counts`` says, one run after the other."""
    ends = np.cumsum(counts)
    return np.arange(ends[-1] if len(ends) else 0) - np.repeat(ends - counts - firsts, counts)


def ready(work: Work, ends: Floats, waits: Floats) -> Floats:
    """When everything may be handled (runs,), from the ends of the tasks and the factors on their waits."""
    tails = np.array([t.tail for t in work.tasks], float)[:, None]
    done: Floats = (ends + tails * waits).max(axis=0)
    return np.maximum(done, float(work.dry))


def odds(work: Work, order: Sequence[int], calendar: Calendar, deadline: int | None, runs: int = RUNS) -> Odds:
    """The odds of a planned order; the steps that decide most have the largest correlation with the day."""
    drawn = draw(work, len(calendar.windows), runs)
    done = ready(work, play(work, order, drawn, calendar.windows), drawn.waits)
    share = float((done < deadline).mean()) if deadline is not None else None
    half, ninety = (float(q) for q in np.quantile(done, (0.5, 0.9), method="higher"))
    known = np.isfinite(done)
    if known.sum() < 2 or float(done[known].std()) < 1e-9:
        return Odds(share, half, ninety, ())
    minutes, day = drawn.minutes[:, known], done[known]
    moved = minutes - minutes.mean(axis=1, keepdims=True)
    strength = np.abs(moved @ (day - day.mean())) / np.maximum(moved.std(axis=1) * day.std() * len(day), 1e-9)
    top = [i for i in np.argsort(-strength, kind="stable")[:6] if strength[i] > 0.05]
    return Odds(share, half, ninety, tuple(dict.fromkeys(work.step_of[work.tasks[i].id].id for i in top))[:3])
