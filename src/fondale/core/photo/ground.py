# SPDX-License-Identifier: MIT
"""Things that stand on level ground: seen by a camera whose down is known, one known height gives all others (single view metrology [criminisi2000])."""

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.photo.cameras import Cameras

STEEP = np.tan(np.radians(8.0))
HORIZON = 0.002  # so much below the horizon is a foot at the least, as a slope


def heights(cameras: Cameras, foot: Floats, top: Floats) -> Floats:
    """How high things are, as shares of the camera's height over the ground (n,), by the pixels (n, 2) of their foot and top; not a number where
    the foot is not below the horizon.
    """
    down, up = cameras.level(cameras.rays(foot)), cameras.level(cameras.rays(top))
    with np.errstate(divide="ignore", invalid="ignore"):
        stands = down[:, [0, 2]] / down[:, 1:2]
        away = (stands * up[:, [0, 2]]).sum(1) / (up[:, [0, 2]] ** 2).sum(1)
        out: Floats = np.where(down[:, 1] > HORIZON, 1 - away * up[:, 1], np.nan)
    return out


def leans(cameras: Cameras, foot: Floats, top: Floats) -> bool:
    """Whether a thread is far from the way in which things stand there, by the likeliest camera."""
    ray = cameras.rays(foot)[0]
    over = ray - 0.05 * cameras.down[0]
    seen = over[:2] / over[2] - ray[:2]
    way = top[0] - foot[0]
    return bool(abs(seen[0] * way[1] - seen[1] * way[0]) > STEEP * max(abs(seen @ way), 1e-9))
