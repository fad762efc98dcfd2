"""The path of a lap as a smooth curve over its own distance."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.axis.positions.position_errors import PositionErrors, position_errors_of
from jete.core.log.lap import Lap
from jete.core.log.once import once_a_lap
from jete.core.log.plane import Origin, positions
from jete.core.motion.motion import Motion
from jete.core.motion.pace import SLOWEST_MPS
from jete.core.numeric.spline import Curve, Knots, Samples, noise_of

# No receiver is surer.
LEAST_NOISE_M = 0.02
# Half the shortest piece of road in which a path bends otherwise; finer costs time only.
KNOT_M = 4.0
# Lateral jerk² times its duration, m²/s⁵: a path's third derivative is held to this.
LATERAL_JERK_DENSITIES = (15.0, 60.0, 240.0)


@dataclass(frozen=True, eq=False, kw_only=True)
class Fixes:
    """Positions of one lap at native samples, (n,): time, own distance, x, y; and what they are worth.

    ``noise_m`` is what each is off by as far as bends go, ``lasting_m`` as far as the level of a
    place goes: noise of this much, if it were white, would average away no better.
    """

    time_s: FloatArray
    distance_m: FloatArray
    x_m: FloatArray
    y_m: FloatArray
    noise_m: float
    lasting_m: float
    errors: PositionErrors

    @property
    def places_m(self) -> FloatArray:
        """Positions, (n, 2)."""
        return np.stack([self.x_m, self.y_m], axis=1)


@once_a_lap
def fixes_of(lap: Lap, motion: Motion, origin: Origin | None) -> Fixes | None:
    """Positions on the plane of ``origin`` within the lap; None with fewer than 20."""
    path = positions(lap, origin)
    if path is None:
        return None
    t = path[0].time_s
    keep = (t >= 0.0) & (t <= lap.span.time_s)
    if keep.sum() < 20:
        return None
    x, y = path[0].value[keep], path[1].value[keep]
    noise = max(float(np.hypot(noise_of(x), noise_of(y)) / np.sqrt(2.0)), LEAST_NOISE_M)
    errors = position_errors_of(t[keep], np.stack([x, y], axis=1), noise, motion)
    bending, lasting = (float(np.sqrt(r * errors.fix_hz)) for r in (errors.bending_m2s, errors.density_m2s))
    return Fixes(
        time_s=t[keep],
        distance_m=motion.distance_at(t[keep]),
        x_m=x,
        y_m=y,
        noise_m=max(bending, LEAST_NOISE_M),
        lasting_m=max(lasting, LEAST_NOISE_M),
        errors=errors,
    )


def samples_of(fixes: Fixes, motion: Motion) -> Samples:
    """Positions of a lap as samples of its path over its own distance."""
    knots = Knots.over(0.0, motion.length_m, KNOT_M)
    return Samples.of(fixes.distance_m, fixes.places_m, fixes.noise_m, knots)


def likeliest_path(samples: Samples, motion: Motion) -> Curve:
    """The path through samples whose level of jerk is the most likely of three."""
    most = _sharpest(samples.knots, motion)
    return samples.likeliest(3, (jerk * most for jerk in LATERAL_JERK_DENSITIES))


def rough_path(samples: Samples, motion: Motion) -> Curve:
    """The path through samples with the middle level of jerk: about right, in a third of the time."""
    return samples.fit(3, LATERAL_JERK_DENSITIES[1] * _sharpest(samples.knots, motion))[0]


def _sharpest(knots: Knots, motion: Motion) -> FloatArray:
    """What the third derivative of a path may do in each cell, (cells,), for a lateral jerk of one.

    As a vehicle's speed allows (x''' ≈ jerk / v³ along the path), so that a slow hairpin may
    bend quickly and a fast straight may not.
    """
    v = np.maximum(np.interp(knots.middles(), motion.distance_m, motion.speed_mps), SLOWEST_MPS)
    return np.asarray(v**-5)


def curvature_of(path: Curve, at: FloatArray) -> FloatArray:
    """Signed curvature, 1/m, left positive, at places (m,)."""
    _, d1, d2 = path.with_slope_and_bend(at)
    cross = d1[:, 0] * d2[:, 1] - d1[:, 1] * d2[:, 0]
    return np.asarray(cross / np.maximum(np.hypot(d1[:, 0], d1[:, 1]), 1e-3) ** 3)
