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


def hang(grams: float, centre: Floats, tied: Floats, hooks: Floats) -> Hang:
    """Pulls of lines from ``hooks`` (n, 3) to points ``tied`` (n, 3) of a stiff piece of this weight and centre of mass (3,), all in mm.

    Forces and turning moments about the centre add up to nothing, and a line only pulls: the least-squares answer with nothing below zero.
    Of lines that share a load in more than one way (four in a rectangle) each takes as little as it can. Raises ValueError for a line without
    a length.
    """
    from scipy.optimize import nnls  # slow to load

    n = len(hooks)
    if n == 0 or grams <= 0:
        return Hang(np.zeros(n), n > 0, np.zeros(2))
    ways, arms = _ways(tied, hooks), tied - centre
    size = max(float(length(arms).max()), 1.0)
    rows = np.concatenate([ways.T, np.cross(arms, ways).T / size])
    wanted = np.array([0.0, 0.0, 1.0, 0.0, 0.0, 0.0])
    # A hair of cost on every pull spreads the load evenly where several answers hold.
    most = np.concatenate([rows, 1e-4 * np.eye(n)])
    pulls, _rest = nnls(most, np.concatenate([wanted, np.zeros(n)]))
    left = rows @ pulls - wanted
    still = bool(np.abs(left).max() < STILL)
    return Hang(pulls * grams, still, np.zeros(2) if still else _shift(centre, tied, hooks))


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
