# SPDX-License-Identifier: MIT
"""What hangs: the pull in every line, and whether it hangs still."""

from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Floats, length

STILL = 0.02  # of the weight may be left over before it is said to swing


@dataclass(frozen=True)
class Hang:
    """``pulls`` (n,) in grams of each line; ``still`` when they hold the piece as it is placed; ``shift`` (2,) in mm is how far lines and
    hooks must move in plan, tied anew at the piece, so that it hangs still; NaN where no move alone does.
    """

    pulls: Floats
    still: bool
    shift: Floats


@dataclass(frozen=True)
class Loads:
    """What hangs on a body: points ``at`` (m, 3) in mm and the forces there (m, 3) in grams."""

    at: Floats
    forces: Floats

    def foot(self, grams: float, centre: Floats, floor: float) -> Floats:
        """Where the weight of a body of so many grams and its loads acts (3,): under it the ground, at height ``floor``, bears it without a
        turning moment. Forces aside move it by their lever over the ground.
        """
        down, x_y = -self.forces[:, 2], self.forces[:, :2]
        total = grams + float(down.sum())
        if total <= 0:
            return centre
        out: Floats = (grams * centre + down @ self.at) / total
        out[:2] += (self.at[:, 2] - floor) @ x_y / total
        return out


NOTHING = Loads(np.zeros((0, 3)), np.zeros((0, 3)))


def hang(grams: float, centre: Floats, tied: Floats, hooks: Floats, loads: Loads = NOTHING) -> Hang:
    """Pulls of lines from ``hooks`` (n, 3) to points ``tied`` (n, 3) of a stiff piece of this weight and centre of mass (3,), all in mm,
    and of what hangs on it in turn.

    Forces and turning moments about the centre add up to nothing, and a line only pulls: the least-squares answer with nothing below zero.
    Of lines that share a load in more than one way (four in a rectangle) each takes as little as it can. Raises ValueError for a line without
    a length.
    """
    from scipy.optimize import nnls  # slow to load

    n, total = len(hooks), grams - float(loads.forces[:, 2].sum())
    if n == 0 or total <= 0:
        return Hang(np.zeros(n), n > 0, np.zeros(2))
    ways, arms = _ways(tied, hooks), tied - centre
    size = max(float(length(arms).max()), 1.0)
    rows = np.concatenate([ways.T, np.cross(arms, ways).T / size])
    turning = np.cross(loads.at - centre, loads.forces).sum(0) / size
    wanted = np.concatenate([np.array([0.0, 0.0, grams]) - loads.forces.sum(0), -turning]) / total
    # A hair of cost on every pull spreads the load evenly where several answers hold.
    most = np.concatenate([rows, 1e-4 * np.eye(n)])
    pulls, _rest = nnls(most, np.concatenate([wanted, np.zeros(n)]))
    left = rows @ pulls - wanted
    still = bool(np.abs(left).max() < STILL)
    return Hang(pulls * total, still, np.zeros(2) if still else _shift(loads.foot(grams, centre, float(centre[2])), tied, hooks))


def _ways(tied: Floats, hooks: Floats) -> Floats:
    ways = hooks - tied
    long = length(ways)
    if (long < 1e-6).any():
        raise ValueError("a line has no length")
    out: Floats = ways / long[:, None]
    return out


def _shift(centre: Floats, tied: Floats, hooks: Floats) -> Floats:
    """From the nearest point of what lies between the hooks in plan to over the centre of mass. For upright lines."""
    import shapely

    if (length((hooks - tied)[:, :2]) > 0.2 * np.abs((hooks - tied)[:, 2])).any():
        return np.full(2, np.nan)
    between = shapely.convex_hull(shapely.multipoints(hooks[:, :2]))
    foot = shapely.points(centre[:2])
    nearest = shapely.shortest_line(foot, between)
    a, b = np.asarray(nearest.coords)
    out: Floats = a - b
    return out
