"""Positions of a lap projected on the reference's path: where along it, and how far aside.

The search keeps near the place that the own distance gives, so that a hairpin's other
leg, or a road that passes under, is never caught.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.errors import different_road

if TYPE_CHECKING:
    from jete.core.lap import BoolArray, FloatArray
    from jete.core.path import Fixes
    from jete.core.road import Road
    from jete.core.spline import Curve

SEARCH_M = 40.0
FAR_ASIDE_M = 30.0
GRID_M = 4.0


@dataclass(frozen=True, eq=False)
class Seen:
    """Projected positions: scaled own distance u, shift e = place − u and offset n, (m,)."""

    u: FloatArray
    shift: FloatArray
    offset: FloatArray
    noise_m: float


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
    place = _nearest(fixes, u, path, road.length_m)
    for _ in range(2):
        aside, along, bend = _beside(fixes, place, path)
        place = place + along / np.clip(1.0 - bend * aside, 0.5, 2.0)
    aside, along, _ = _beside(fixes, place, path)
    _refuse_other_road(name, fixes, place, aside, path)
    near = (np.abs(aside) < FAR_ASIDE_M) & (np.abs(along) < 5.0) & (np.abs(place - u) < SEARCH_M + 5.0)
    near &= _consistent(place - u, aside, fixes.noise_m)
    return Seen(u[near], (place - u)[near], aside[near], float(np.hypot(fixes.noise_m, road.noise_m)))


def _consistent(shift: FloatArray, aside: FloatArray, noise_m: float) -> BoolArray:
    """Leave out positions that jump away from their neighbours (five times the noise)."""
    good = np.ones(len(shift), dtype=bool)
    for values in (shift, aside):
        windows = np.lib.stride_tricks.sliding_window_view(np.pad(values, 4, mode="edge"), 9)
        good &= np.abs(values - np.median(windows, axis=1)) < max(5.0 * noise_m, 1.0) + 0.5
    return good


def _nearest(fixes: Fixes, u: FloatArray, path: Curve, length: float) -> FloatArray:
    """Coarse search on a grid of 4 m around each guess."""
    grid = np.arange(0.0, length + GRID_M, GRID_M)
    points = path(grid)
    steps = np.arange(-int(SEARCH_M / GRID_M), int(SEARCH_M / GRID_M) + 1)
    index = np.clip(np.round(u / GRID_M).astype(int)[:, None] + steps, 0, len(grid) - 1)
    away = (points[index, 0] - fixes.x_m[:, None]) ** 2 + (points[index, 1] - fixes.y_m[:, None]) ** 2
    away += (0.15 * GRID_M * steps) ** 2
    return np.asarray(grid[index[np.arange(len(u)), np.argmin(away, axis=1)]])


def _beside(fixes: Fixes, place: FloatArray, path: Curve) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Offset to the left, distance ahead of the foot point, and curvature there, (m,) each."""
    at, d1, d2 = path.with_slope_and_bend(place)
    rate = np.maximum(np.hypot(d1[:, 0], d1[:, 1]), 1e-3)
    dx, dy = fixes.x_m - at[:, 0], fixes.y_m - at[:, 1]
    along = (dx * d1[:, 0] + dy * d1[:, 1]) / rate
    aside = (dy * d1[:, 0] - dx * d1[:, 1]) / rate
    bend = (d1[:, 0] * d2[:, 1] - d1[:, 1] * d2[:, 0]) / rate**3
    return aside, along, bend


def _refuse_other_road(name: str, fixes: Fixes, place: FloatArray, aside: FloatArray, path: Curve) -> None:
    """Refuse another direction or another road.

    Raises:
        InputError: more than a fifth of the lap is off the reference's road.
    """
    d1 = path(place, 1)
    heading = np.gradient(fixes.x_m) * d1[:, 0] + np.gradient(fixes.y_m) * d1[:, 1]
    off = float(np.mean(np.abs(aside) > FAR_ASIDE_M))
    if float(np.mean(heading < 0.0)) > 0.6:
        raise different_road(name, "it is driven in the other direction")
    if off > 0.2:
        raise different_road(name, f"{off:.0%} of it is more than {FAR_ASIDE_M:.0f} m from the reference's path")
