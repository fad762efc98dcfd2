"""What is seen from the seat, or from behind the vehicle: points of the road through a pinhole camera.

x to the right, y forward, z up in the camera's frame; the picture lies at distance f = ½ width / tan(½ angle of view)
(Hartley & Zisserman 2004, Multiple View Geometry, § 6.1).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import atan2, cos, radians, sin, tan
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.circuit.drawn import Drawn

# Nearer points are beside or behind the eye.
NEAREST_M = 0.8
# Where nobody said how wide the road is.
HALF_WIDTH_M = 5.0
STEP_M = 2.0
# A driver looks along the tangent of so much road.
TANGENT_M = 6.0


@dataclass(frozen=True)
class Eye:
    """Where the camera is, metres; where it looks (mathematical, rad); how far it is tipped down; its angle of view."""

    x_m: float
    y_m: float
    z_m: float
    heading_rad: float
    down_rad: float = 0.05
    view_rad: float = radians(62.0)


@dataclass(frozen=True)
class Camera:
    """An eye and a picture of ``width`` × ``height`` pixels."""

    eye: Eye
    width: float
    height: float

    @property
    def focal_px(self) -> float:
        """Distance of the picture, pixels."""
        return 0.5 * self.width / tan(0.5 * self.eye.view_rad)

    @property
    def horizon_px(self) -> float:
        """Row of the horizon."""
        return 0.42 * self.height - self.focal_px * tan(self.eye.down_rad)

    def seen(self, xyz_m: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Columns, rows and distances of points (n, 3); NaN for those that are not in front."""
        eye = self.eye
        dx, dy, dz = xyz_m[:, 0] - eye.x_m, xyz_m[:, 1] - eye.y_m, xyz_m[:, 2] - eye.z_m
        c, s = cos(eye.heading_rad), sin(eye.heading_rad)
        ahead, right = c * dx + s * dy, s * dx - c * dy
        cd, sd = cos(eye.down_rad), sin(eye.down_rad)
        forward, up = cd * ahead - sd * dz, sd * ahead + cd * dz
        with np.errstate(divide="ignore", invalid="ignore"):
            far = np.where(forward > NEAREST_M, forward, np.nan)
            return 0.5 * self.width + self.focal_px * right / far, 0.42 * self.height - self.focal_px * up / far, far


@dataclass(frozen=True, eq=False)
class RoadAhead:
    """The road's edges and middle from a place on, (n, 3) each, and the places (n,); it goes on over the line."""

    place_m: FloatArray
    left_m: FloatArray
    right_m: FloatArray
    middle_m: FloatArray


def road_ahead(
    drawn: Drawn, from_m: float, reach_m: float, height: tuple[FloatArray, FloatArray] | None = None
) -> RoadAhead:
    """The road from a place on.

    Args:
        drawn: lines from above.
        from_m: where it begins.
        reach_m: how far it is seen.
        height: places (m,) and heights (m,) of the road; None for a level one.
    """
    length = float(drawn.place_m[-1])
    place = np.arange(from_m, from_m + reach_m, STEP_M)
    at = np.mod(place, length)
    middle, left, right = (_along(drawn, xy, at) for xy in _edges(drawn))
    z = np.zeros_like(at) if height is None else np.interp(at, *height)
    return RoadAhead(place, *(np.column_stack([xy, z]) for xy in (left, right, middle)))


def _edges(drawn: Drawn) -> tuple[FloatArray, FloatArray, FloatArray]:
    """The middle and the edges of the road; beside the reference's line where nobody knows them."""
    if drawn.edges_m is not None:
        left, right = drawn.edges_m
        return 0.5 * (left + right), left, right
    step = np.gradient(drawn.reference_xy_m, axis=0)
    step = step / np.maximum(np.hypot(step[:, 0], step[:, 1]), 1e-9)[:, None]
    aside = HALF_WIDTH_M * np.stack([-step[:, 1], step[:, 0]], axis=1)
    return drawn.reference_xy_m, drawn.reference_xy_m + aside, drawn.reference_xy_m - aside


def _along(drawn: Drawn, xy: FloatArray, at: FloatArray) -> FloatArray:
    return np.stack([np.interp(at, drawn.place_m, xy[:, k]) for k in (0, 1)], axis=1)


def eye_on(drawn: Drawn, line: FloatArray, place_m: float, above_m: float, behind_m: float = 0.0) -> Eye:
    """The eye of somebody on a line at a place; ``behind_m`` for a camera that follows the vehicle."""
    length = float(drawn.place_m[-1])

    def at(place: float) -> tuple[float, float]:
        return drawn.point(place % length, line)

    (x0, y0), (x1, y1) = at(place_m), at(place_m + TANGENT_M)
    heading = atan2(y1 - y0, x1 - x0)
    return Eye(x0 - behind_m * cos(heading), y0 - behind_m * sin(heading), above_m, heading)
