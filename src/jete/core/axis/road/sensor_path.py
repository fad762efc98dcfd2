"""The path of a lap by its positions and by how sharply a sensor felt it bend.

Positions tell where long stretches of it lie, a sensor how each of them bends.  A path r of
curvature κ with the unit normal N has r'' = κ N over its own distance; so, where a sensor felt κ, the
third derivative is held to

    r''' = g (κ N)' + w

with g the sensor's scale and w white: its offset is a random walk.  How far that walks is the most
likely of a few, so that a good gyro leads the path between far positions, and a rough sensor, or one
that takes a banked road for a bend, only shapes it within a corner (a strapdown sensor aided by
positions: Titterton & Weston 2004, Strapdown Inertial Navigation Technology, ch. 13; the
likelihood: Wahba 1990, ch. 4).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from jete.core.axis.positions.path import curvature_of, likeliest_path, rough_path, samples_of
from jete.core.axis.road.sensor_lag import sensor_in_time
from jete.core.numeric.banded import BandedLeastSquares
from jete.core.numeric.spline import Curve
from jete.core.numeric.statistics import likeness

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.axis.positions.path import Fixes
    from jete.core.log.lap import Lap
    from jete.core.motion.motion import Motion
    from jete.core.numeric.banded import Rows
    from jete.core.numeric.spline import Samples

# A sensor whose bends go less well with those of the positions is of no use, or these are not.
GOES_WITH_PATH = 0.7
# How far a sensor's offset walks, (1/m)² per m: 1e-10 is 0.3 °/s at 40 m/s within half a minute.
WALKS = (1e-10, 1e-9, 1e-8, 1e-7)
# The scale of a sensor is known to a tenth (roll takes part in an acceleration, a rider's weight in a lean).
SCALE_SIGMA = 0.1


def led_path(lap: Lap, motion: Motion, fixes: Fixes) -> Curve:
    """The path of a lap, x and y over own distance, led by its best sensor where it has one."""
    timed = sensor_in_time(lap, motion, fixes, None)
    return path_of(fixes, motion, None if timed is None else timed.sensor.curvature_1pm)


def path_of(fixes: Fixes, motion: Motion, sensed_1pm: FloatArray | None) -> Curve:
    """X and y over own distance (coefficients (size, 2)).

    Args:
        fixes: positions of the lap.
        motion: of the lap.
        sensed_1pm: curvature by a sensor at the motion's samples, (n,), of either sign; None without one.
    """
    samples = samples_of(fixes, motion)
    if sensed_1pm is None:
        return likeliest_path(samples, motion)
    seen, edges = rough_path(samples, motion), samples.knots.edges()
    felt_1pm = np.interp(edges, motion.distance_m, sensed_1pm)
    alike = likeness(curvature_of(seen, edges), felt_1pm)
    if abs(alike) < GOES_WITH_PATH:
        return likeliest_path(samples, motion)
    felt_1pm *= np.sign(alike)
    led = _Led.by(samples, felt_1pm)
    # Positions with 1 m of noise show the direction of a path to 0.03 rad; the second time it is that of one that was felt.
    rough, _ = led.fit(led.turns_along(seen), WALKS[1])
    turns = led.turns_along(rough)
    return max((led.fit(turns, walk) for walk in WALKS), key=lambda f: f[1])[0]


class _Turns(NamedTuple):
    """(κ N)' at the middles of the cells, (cells, 2), and the right side that they make, (size, 2), for a weight of one."""

    values: FloatArray
    pull: FloatArray


@dataclass(frozen=True, eq=False)
class _Led:
    """Positions, and curvatures that were felt at the edges of the cells, (cells + 1,).

    ``rows`` are those of the third derivative at the middles of the cells, ``held`` their normal equations for a weight of one.
    """

    samples: Samples
    felt_1pm: FloatArray
    rows: Rows
    held: BandedLeastSquares

    @classmethod
    def by(cls, samples: Samples, felt_1pm: FloatArray) -> _Led:
        """The equations of samples, and of curvatures at the edges of their knots' cells."""
        knots = samples.knots
        rows, held = knots.basis(knots.middles(), 3), BandedLeastSquares(knots.size, 4, 2)
        held.add(rows, 1.0)
        return cls(samples, felt_1pm, rows, held)

    def turns_along(self, path: Curve) -> _Turns:
        """The same positions with the directions of a path that is about right."""
        knots = self.samples.knots
        along = path(knots.edges(), 1)
        normal = np.column_stack([-along[:, 1], along[:, 0]]) / np.maximum(np.hypot(*along.T), 1e-3)[:, None]
        values = np.diff(self.felt_1pm[:, None] * normal, axis=0) / knots.step
        return _Turns(values, np.column_stack([self.rows.pulled(knots.size, side) for side in values.T]))

    def fit(self, turns: _Turns, walk: float) -> tuple[Curve, float]:
        """The path where the sensor's offset walks so far, and the logarithm of its likelihood (up to a constant)."""
        samples, knots, weight = self.samples, self.samples.knots, self.samples.knots.step / walk
        system, pull = samples.system.plus(self.held, weight), weight * turns.pull
        plain, by_scale = np.hsplit(system.solve(np.hstack([system.right, pull])), 2)
        precise = weight * float(np.sum(turns.values**2)) - float(np.sum(pull * by_scale)) + SCALE_SIGMA**-2
        scale = (float(np.sum(pull * plain)) + SCALE_SIGMA**-2) / precise
        path = plain + scale * by_scale
        misfit = float(np.sum((samples.rows.times(path) - samples.values) ** 2)) / samples.noise**2
        walked = weight * float(np.sum((self.rows.times(path) - scale * turns.values) ** 2))
        strays = misfit + walked + ((scale - 1.0) / SCALE_SIGMA) ** 2
        free = 2.0 * (system.log_determinant() - knots.cells * np.log(weight)) + np.log(precise)
        return Curve(knots, path), -0.5 * float(strays + free)
