"""What is seen from the seat, or from behind the vehicle: points of the road through a pinhole camera.

x to the right, y forward, z up in the camera's frame; the picture lies at distance f = ½ width / tan(½ angle of view)
(Hartley & Zisserman 2004, Multiple View Geometry, § 6.1).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import atan2, cos, radians, sin, tan
from typing import TYPE_CHECKING, Literal

import numpy as np

from jete.core.circuit.landmarks import LandmarkKind

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.circuit.drawn import Drawn
    from jete.core.circuit.landmarks import RoadBook

# Nearer points are beside or behind the eye.
NEAREST_M = 0.8
# Where nobody said how wide the road is.
HALF_WIDTH_M = 5.0
STEP_M = 2.0
# Nearer than this the road is drawn in finer steps, so that it reaches the lower edge of the picture.
NEAR_M = 22.0
# A kerb is seldom longer; where one end is noted it is so long.
LONGEST_KERB_M, KERB_M = 150.0, 22.0
# So much of a wall is seen from where it begins.
WALL_M = 60.0
# A driver looks along the tangent of so much road.
TANGENT_M = 6.0


# A head turns no farther.
MOST_TURN_RAD = radians(50.0)


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
    near = np.arange(0.0, NEAR_M, 0.25 * STEP_M)
    place = from_m + np.concatenate([near, np.arange(NEAR_M, reach_m, STEP_M)])
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


@dataclass(frozen=True)
class Strip:
    """What goes along an edge of the road: from where to where (``end_m`` may lie beyond the line), on which side."""

    kind: Literal["kerb", "wall"]
    side: str
    start_m: float
    end_m: float


def strips_of(book: RoadBook, length_m: float) -> list[Strip]:
    """Kerbs between where they begin and end, and walls, from what people noted.

    A kerb of which only one end is noted is as long as most; a wall that is a landmark begins there.

    Args:
        book: on the axis.
        length_m: of the axis.
    """
    begins = [m for m in book.landmarks if m.kind is LandmarkKind.KERB_BEGINS]
    ends = [m for m in book.landmarks if m.kind is LandmarkKind.KERB_ENDS]
    strips, closed = [], set()
    for mark in begins:
        after = [(e, (e.circuit_m - mark.circuit_m) % length_m) for e in ends if e.side == mark.side]
        near = min(after, key=lambda a: a[1], default=None)
        whole = near is not None and near[1] < LONGEST_KERB_M
        long = near[1] if near is not None and whole else KERB_M
        closed |= {near[0].id} if near is not None and whole else set()
        strips.append(Strip("kerb", mark.side, mark.circuit_m, mark.circuit_m + long))
    strips += [Strip("kerb", e.side, e.circuit_m - KERB_M, e.circuit_m) for e in ends if e.id not in closed]
    walls = [(m.side, m.circuit_m, m.circuit_m + WALL_M) for m in book.landmarks if m.kind is LandmarkKind.WALL]
    walls += [(h.side, h.start_m, h.end_m) for h in book.hazards if "wall" in h.text.casefold()]
    return strips + [Strip("wall", *w) for w in walls]


def eye_on(
    drawn: Drawn, line: FloatArray, place_m: float, above_m: float, behind_m: float = 0.0, look_m: float = 0.0
) -> Eye:
    """The eye of somebody on a line at a place.

    Args:
        drawn: lines from above.
        line: that is driven, (n, 2).
        place_m: where.
        above_m: height of the eye.
        behind_m: of a camera that follows the vehicle.
        look_m: the eye turns to where the line is so far ahead, no farther than a head turns; 0: along the vehicle.
    """
    length = float(drawn.place_m[-1])

    def at(place: float) -> tuple[float, float]:
        return drawn.point(place % length, line)

    (x0, y0), (x1, y1) = at(place_m), at(place_m + TANGENT_M)
    heading = atan2(y1 - y0, x1 - x0)
    turned = 0.0
    if look_m > TANGENT_M:
        xl, yl = at(place_m + look_m)
        away = atan2(yl - y0, xl - x0) - heading
        turned = min(max(atan2(sin(away), cos(away)), -MOST_TURN_RAD), MOST_TURN_RAD)
    return Eye(x0 - behind_m * cos(heading), y0 - behind_m * sin(heading), above_m, heading + turned)
