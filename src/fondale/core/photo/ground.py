"""Things that stand on level ground: with the horizon known, one known height gives all others.

A level camera of height c over the ground sees a thing from y_b (foot) to y_t (top) with height
c (y_b - y_t) / (y_b - y_h), y_h the horizon there (single view metrology [criminisi2000]).
"""

import math
from dataclasses import dataclass

from fondale.core.photo.wall import PIXEL_SIGMA, PhotoError

Point = tuple[float, float]
STEEP = math.tan(math.radians(8.0))


@dataclass(frozen=True)
class Ground:
    """The horizon's height in pixels at the left edge and at the right edge of a picture ``width`` wide, y downwards."""

    left: float
    right: float
    width: float

    def horizon_at(self, x: float) -> float:
        """The horizon's y at x."""
        return self.left + (self.right - self.left) * x / max(self.width, 1.0)

    def share(self, a: Point, b: Point) -> tuple[float, float]:
        """Height of the thing as a share of the camera's height, and its standard deviation.

        ``a`` and ``b`` are foot and top in either order. Raises PhotoError when the foot is not below the horizon.
        """
        foot, top = (a, b) if a[1] >= b[1] else (b, a)
        drop, tall = foot[1] - self.horizon_at(foot[0]), foot[1] - top[1]
        if drop < 2 * PIXEL_SIGMA:
            raise PhotoError("Its foot is not below the horizon: it does not stand on this ground, or the horizon is too low.")
        if tall < PIXEL_SIGMA:
            raise PhotoError("The thread has no height. Stretch it from the foot to the top.")
        ratio = tall / drop
        # Foot, top and horizon are each set to a pixel; the foot enters twice.
        sigma = math.hypot((1 - ratio) / drop, 1 / drop, ratio / drop) * PIXEL_SIGMA
        return ratio, sigma

    @property
    def tilt(self) -> float:
        """Slope of the horizon: how far the camera was turned about its axis."""
        return (self.right - self.left) / max(self.width, 1.0)

    def leans(self, a: Point, b: Point) -> bool:
        """Whether a thread is far from square to the horizon, as nothing that stands is."""
        dx, dy = b[0] - a[0], b[1] - a[1]
        along = abs(dx + dy * self.tilt)
        return along > STEEP * max(abs(dy - dx * self.tilt), 1e-9)
