"""Positions of a lap projected on the reference's path: where along it, and how far aside.

The search keeps near the place that the own distance gives, so that a hairpin's other
leg, or a road that passes under, is never caught.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from jete.core.arrays import BoolArray, FloatArray
from jete.core.errors import different_road

if TYPE_CHECKING:
    from jete.core.axis.positions.path import Fixes
    from jete.core.axis.road.road import Road
    from jete.core.numeric.spline import Curve

# More than odometers drift apart in a lap, less than lies between the legs of a hairpin.
SEARCH_M = 40.0
# No road is wider than two of these; farther away it is another road, or a jump.
FAR_ASIDE_M = 30.0
# Newton's steps converge from within half of it.
GRID_M = 4.0
# The second step is right to a millimetre.
STEPS = 2


@dataclass(frozen=True, eq=False)
class Seen:
    """Projected positions: scaled own distance u, shift e = place − u and offset n, (m,); the road's direction there, unit vectors (2, m).

    ``noise_m`` is what each is off by, ``step_m`` what all may be off by alike, on each axis of the map.
    """

    u: FloatArray
    shift: FloatArray
    offset: FloatArray
    direction: FloatArray
    noise_m: float
    step_m: float = 0.0


def project(name: str, fixes: Fixes, road: Road, path: Curve, scale: float) -> Seen:
    """Nearest place on the reference's path within 40 m of where the scaled distance says.

    Args:
        name: of the lap, for messages.
        fixes: positions of the lap.
        road: of the reference.
        path: the reference's, over its own distance.
        scale: own distance of the lap times this is about the reference's.

    Raises:
        InputError: another direction, or more than a fifth of the lap off the road.
    """
    u = fixes.distance_m * scale
    place = _nearest(fixes, u, _coarse(path, road.length_m))
    for _ in range(STEPS):
        foot = _Foot.of(fixes, place, path)
        place = place + foot.ahead_m
    # The last step is of the second order, so the offset at the foot point before it serves.
    aside = foot.aside_m
    _refuse_other_road(name, fixes, foot)
    near = (np.abs(aside) < FAR_ASIDE_M) & (np.abs(foot.ahead_m) < 5.0) & (np.abs(place - u) < SEARCH_M + 5.0)
    near &= _consistent(place - u, aside, fixes.noise_m)
    noise_m = float(np.hypot(fixes.lasting_m, road.lasting_m))
    return Seen(u[near], (place - u)[near], aside[near], foot.along[:, near], noise_m)


def _consistent(shift: FloatArray, aside: FloatArray, noise_m: float) -> BoolArray:
    """Leave out positions that jump away from their neighbours (five times the noise)."""
    good = np.ones(len(shift), dtype=bool)
    for values in (shift, aside):
        windows = np.lib.stride_tricks.sliding_window_view(np.pad(values, 4, mode="edge"), 9)
        middle = np.partition(windows, 4, axis=1)[:, 4]
        good &= np.abs(values - middle) < max(5.0 * noise_m, 1.0) + 0.5
    return good


@lru_cache(maxsize=1)
def _coarse(path: Curve, length: float) -> tuple[FloatArray, FloatArray]:
    """Places every 4 m of a path, (g,), and their positions, (g, 2); kept, since all laps of a comparison ask for them."""
    grid = np.arange(0.0, length + GRID_M, GRID_M)
    return grid, path(grid)


def _nearest(fixes: Fixes, u: FloatArray, coarse: tuple[FloatArray, FloatArray]) -> FloatArray:
    """Coarse search on a grid of 4 m around each guess."""
    grid, points = coarse
    steps = np.arange(-int(SEARCH_M / GRID_M), int(SEARCH_M / GRID_M) + 1)
    index = np.minimum(np.maximum(np.round(u / GRID_M).astype(int)[:, None] + steps, 0), len(grid) - 1)
    x, y = points.T.copy()
    away = (x[index] - fixes.x_m[:, None]) ** 2 + (y[index] - fixes.y_m[:, None]) ** 2
    away += (0.15 * GRID_M * steps) ** 2
    return np.asarray(grid[index[np.arange(len(u)), np.argmin(away, axis=1)]])


@dataclass(frozen=True, eq=False)
class _Foot:
    """Positions against the path at a place each, (m,): offset to the left, step ahead to the foot point.

    ``along`` (2, m) is the path's direction there, a unit vector.
    """

    aside_m: FloatArray
    ahead_m: FloatArray
    along: FloatArray

    @classmethod
    def of(cls, fixes: Fixes, place: FloatArray, path: Curve) -> _Foot:
        """One step of Newton's method from places (m,) near the foot points.

        The foot point of p is where (p − r(s)) · r'(s) = 0 (Nocedal & Wright 2006, Numerical
        Optimization, § 11.1); for a line of curvature κ and an offset n the slope is 1 − κ n.
        """
        at, slope, bent = (values.T for values in path.with_slope_and_bend(place))
        rate = np.maximum(np.hypot(*slope), 1e-3)
        dx, dy = fixes.x_m - at[0], fixes.y_m - at[1]
        ahead = (dx * slope[0] + dy * slope[1]) / rate
        aside = (dy * slope[0] - dx * slope[1]) / rate
        bend = (slope[0] * bent[1] - slope[1] * bent[0]) / rate**3
        return cls(aside, ahead / np.minimum(np.maximum(1.0 - bend * aside, 0.5), 2.0), slope / rate)


def _refuse_other_road(name: str, fixes: Fixes, foot: _Foot) -> None:
    """Refuse another direction or another road.

    Raises:
        InputError: more than a fifth of the lap is off the reference's road.
    """
    heading = np.gradient(fixes.x_m) * foot.along[0] + np.gradient(fixes.y_m) * foot.along[1]
    off = float(np.mean(np.abs(foot.aside_m) > FAR_ASIDE_M))
    if float(np.mean(heading < 0.0)) > 0.6:
        raise different_road(name, "it is driven in the other direction")
    if off > 0.2:
        raise different_road(name, f"{off:.0%} of it is more than {FAR_ASIDE_M:.0f} m from the reference's path")
