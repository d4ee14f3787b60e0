# SPDX-License-Identifier: MIT
"""The odds: the running order played through many times, as a maker works."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Bools, Floats
from fondale.core.order.evenings import Calendar
from fondale.core.order.replay import Replay
from fondale.core.order.work import Work

RUNS = 2000
# How far evenings stray; common practice, no source.
PACE_SPREAD, DRYING_SPREAD = 0.15, 0.15  # of the whole piece, and of the bench: standard deviations of the logarithm
MISSED = 0.05


@dataclass(frozen=True)
class Draw:
    """What is drawn for each run: minutes (tasks, runs), a factor on what each task waits for afterwards (tasks, runs), as coats dry
    sooner or later, prints fail and parcels are late, and the evenings missed (evenings, runs).
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
        low, likely, high = sorted(work.estimates[work.step_of[task.id].id])
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
        elif task.id in work.late:
            share, most = work.late[task.id]
            waits[i] = 1 + (rng.random(runs) < share) * rng.uniform(0.0, most, runs) / (work.step_of[task.id].wait_h * 60)
    return Draw(pert(work, runs) * pace, waits, rng.random((evenings, runs)) < MISSED)


def play(work: Work, order: Sequence[int], drawn: Draw, windows: Sequence[tuple[int, int]]) -> Floats:
    """When each task ends (tasks, runs), in minutes; inf where the evenings do not suffice. ``order`` are task indices as planned.

    Evening by evening: begun work first; then what must follow soon; then the first in the planned order that may be worked on and ends by
    the evening's end or a little over it, with its tool's setting up and cleaning where that is not out, and with all that goes in one go
    or on one evening with it. What must be followed soon is begun only where that can be kept. Where nothing may yet, the maker waits
    while the evening lasts. What outgrows every evening goes on in the next.
    """
    replay = Replay(work, order, drawn.minutes, drawn.waits, windows)
    for evening, missed in enumerate(drawn.missed):
        replay.play(evening, missed)
        if np.isfinite(replay.ends).all():
            break
    done = np.empty((len(order), drawn.minutes.shape[1]))
    done[list(order)] = replay.ends.T
    return done


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
