"""Whether two laps were driven on one circuit in one layout: by their paths, else by their bends and length.

A circuit is known by its path: no piece of one lap of more than 60 m lies more than 15 m
beside the other, so that another layout's chicane makes another layout.  Laps without
positions on one plane are told by length and by how alike their bends run over distance.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.axis.road.sensor_curvature import sensor_curvature
from jete.core.log.lap import Lap
from jete.core.log.plane import origin_of, positions
from jete.core.motion.motion import motion_of
from jete.core.numeric.statistics import likeness, longest_run

if TYPE_CHECKING:
    from jete.core.motion.motion import Motion

# A road's width: farther aside is another road,
BESIDE_M = 15.0
# And so long a piece of it another layout, not a run-off or a jump.
PIECE_M = 60.0
# Finer than either, and a lap has about a thousand points.
GRID_M = 5.0
# Rows at once: distances of all pairs would take 8 MB a thousand points.
CHUNK = 512
# Own lengths of laps of one circuit differ by less: lines, and odometers that are a percent off.
LENGTH_SHARE = 0.03
ALIKE_BENDS, ALIKE_SPEEDS = 0.7, 0.8


def same_circuit(known: Lap, lap: Lap, *, whole: bool = True) -> bool:
    """Whether a lap is of the circuit and layout that another one is known to be of.

    Args:
        known: a complete lap of the circuit.
        lap: another lap; its direction is not looked at.
        whole: whether it is complete; a piece only has to lie on the other's path.
    """
    paths = _paths(known, lap)
    if paths is not None:
        a, b = paths
        if _lies_on(b, a) and (not whole or _lies_on(a, b)):
            return True
        if "latitude" in known.log.channels:
            return False
    return whole and _alike(known, lap)


def _paths(known: Lap, lap: Lap) -> tuple[FloatArray, FloatArray] | None:
    """Both paths on one plane at even steps, (n, 2) and (m, 2); None where one of them has none there."""
    origin = origin_of(known.log)
    found = [positions(x, origin) for x in (known, lap)]
    paths = [_even(x, p[0].value, p[1].value) for x, p in zip((known, lap), found, strict=True) if p is not None]
    if len(paths) < 2 or any(p is None for p in paths):
        return None
    return paths[0], paths[1]  # type: ignore[return-value]


def _even(lap: Lap, x: FloatArray, y: FloatArray) -> FloatArray | None:
    """A path within its lap at steps of about 5 m, (n, 2); None for a few positions."""
    time = next(c.time_s for c in (lap.get("x"), lap.get("latitude")) if c is not None)
    inside = (time >= 0.0) & (time <= lap.span.time_s)
    if np.count_nonzero(inside) < 20:
        return None
    x, y = x[inside], y[inside]
    along = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(x), np.diff(y)))])
    grid = np.linspace(0.0, along[-1], max(int(along[-1] / GRID_M), 2))
    return np.stack([np.interp(grid, along, x), np.interp(grid, along, y)], axis=1)


def _lies_on(path: FloatArray, road: FloatArray) -> bool:
    """Whether no piece of a path of over 60 m lies more than 15 m beside a road; (n, 2) and (m, 2)."""
    return longest_run(_distance_m(path, road) > BESIDE_M) * GRID_M <= PIECE_M


def _distance_m(path: FloatArray, road: FloatArray) -> FloatArray:
    """Distance of each point of a path to the nearest piece of a road, (n,)."""
    start, step = road[:-1], np.diff(road, axis=0)
    length2 = np.maximum(np.sum(step**2, axis=1), 1e-9)
    out = np.empty(len(path))
    for k in range(0, len(path), CHUNK):
        to = path[k : k + CHUNK, None, :] - start[None, :, :]
        share = np.clip(np.sum(to * step, axis=2) / length2, 0.0, 1.0)
        off = to - share[:, :, None] * step
        out[k : k + CHUNK] = np.sqrt(np.min(np.sum(off**2, axis=2), axis=1))
    return out


def _alike(known: Lap, lap: Lap) -> bool:
    """Whether length, bends and speeds over distance go together."""
    a, b = motion_of(known), motion_of(lap)
    if abs(b.length_m / a.length_m - 1.0) > LENGTH_SHARE:
        return False
    bends = [sensor_curvature(x, m) for x, m in ((known, a), (lap, b))]
    grid = np.arange(0.0, 1.0, GRID_M / a.length_m)
    if bends[0] is not None and bends[1] is not None:
        return likeness(_over(a, bends[0].curvature_1pm, grid), _over(b, bends[1].curvature_1pm, grid)) > ALIKE_BENDS
    return likeness(_over(a, a.speed_mps, grid), _over(b, b.speed_mps, grid)) > ALIKE_SPEEDS


def _over(motion: Motion, values: FloatArray, share: FloatArray) -> FloatArray:
    """Values (n,) of a lap at shares of its length, (m,)."""
    return np.interp(share * motion.length_m, motion.distance_m, values)
