"""The odds: the running order played through many times, as a maker works."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Bools, Floats, Ints
from fondale.core.order.evenings import Calendar
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

    Evening by evening: begun work first; then the first in the planned order that may be worked on and ends by the evening's end or a
    little over it. Where nothing may yet, the maker waits while the evening lasts. What outgrows every evening goes on in the next.
    """
    tasks = [work.tasks[i] for i in order]
    place = {t.id: k for k, t in enumerate(tasks)}
    count, runs = len(tasks), drawn.minutes.shape[1]
    # The links by the place of what comes before: those of one task stand together.
    chain = sorted(work.links, key=lambda k: place[k.before])
    after, lags = np.array([place[k.after] for k in chain], int), np.array([k.lag for k in chain], float)
    sources = np.array([order[place[k.before]] for k in chain], int)
    counts = np.bincount([place[k.before] for k in chain], minlength=count)
    firsts = np.cumsum(counts) - counts
    missing = np.tile(np.bincount([place[k.after] for k in work.links], minlength=count), (runs, 1))
    free = np.tile(np.array([t.release for t in tasks], float), (runs, 1))  # when all before it are done with
    may = np.where(missing == 0, free, np.inf)  # when it may be worked on
    left = drawn.minutes[list(order)].T.copy()
    ends = np.full((runs, count), np.inf)
    begun = np.full(runs, -1)
    longest = max((b - a for a, b in windows), default=0)
    large = left > longest
    # Machines: which task takes which, which one clears it, and until when each is taken.
    machines = sorted({t.holds for t in tasks if t.holds})
    holds = np.array([machines.index(t.holds) if t.holds else -1 for t in tasks], int)
    clears = np.array([machines.index(work.tasks[order[place[t.clears]]].holds) if t.clears else -1 for t in tasks], int)
    cleared = {t.clears for t in tasks if t.clears}
    held = np.array([np.inf if t.id in cleared else t.held for t in tasks], float)
    holders = np.flatnonzero(holds >= 0)
    taken = np.full((runs, len(machines)), -np.inf)
    for (opens, closes), missed in zip(windows, drawn.missed, strict=True):
        clock = np.full(runs, float(opens))
        at = np.flatnonzero(~missed & ((begun >= 0) | (may < closes).any(axis=1)))  # the runs that are at the bench
        while at.size:
            now, rest = clock[at], closes - clock[at]
            open_to = may[at]
            open_to[:, holders] = np.maximum(open_to[:, holders], taken[at][:, holds[holders]])
            fits = (open_to <= now[:, None]) & (large[at] | (left[at] <= rest[:, None] + OVER_MIN))
            chosen = np.where(begun[at] >= 0, begun[at], fits.argmax(axis=1))
            works = (begun[at] >= 0) | fits[np.arange(at.size), chosen]
            if not works.all():
                later = open_to[~works]
                clock[at[~works]] = np.where(later > now[~works, None], later, np.inf).min(axis=1)
            r, c, rest = at[works], chosen[works], rest[works]
            whole = left[r, c] <= rest + OVER_MIN
            spent = np.where(whole, left[r, c], rest)
            left[r, c] -= spent
            clock[r] += spent
            begun[r] = np.where(whole, -1, c)
            r, c = r[whole], c[whole]
            may[r, c], ends[r, c] = np.inf, clock[r]
            starts_it, clears_it = holds[c] >= 0, clears[c] >= 0
            taken[r[starts_it], holds[c[starts_it]]] = clock[r[starts_it]] + held[c[starts_it]]
            taken[r[clears_it], clears[c[clears_it]]] = clock[r[clears_it]]
            i, link = np.repeat(r, counts[c]), _runs_of(firsts[c], counts[c])
            j = after[link]
            free[i, j] = np.maximum(free[i, j], clock[i] + lags[link] * drawn.waits[sources[link], i])
            missing[i, j] -= 1
            may[i, j] = np.where(missing[i, j] == 0, free[i, j], np.inf)
            at = at[clock[at] < closes]
        if np.isfinite(ends).all():
            break
    out = np.empty((count, runs))
    out[list(order)] = ends.T
    return out


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
