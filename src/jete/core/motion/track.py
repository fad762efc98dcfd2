"""Speed and distance from positions alone, with what the pedals tell of them.

The position of a receiver is noisy, so its speed has to be smoothed, and a plain smoother
rounds off just what matters: where the brake bites.  Three steps keep it:

1. a smooth path through the positions over time;
2. the place of each position along that path, which has the noise of the position;
3. place over time as a sum of a smooth curve and of the double integrals of what the brake
   and the throttle do, each times a constant that is found along (a partially linear
   model; Speckman 1988, J. R. Statist. Soc. B 50:413).  A pedal explains what is sharp, so
   the rest may be held smooth; how smooth is found by the marginal likelihood.

Without pedals the third step has the smooth curve alone.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from jete.core.log.plane import origin_of, positions
from jete.core.motion.brakes import brake_channel
from jete.core.numeric.interpolate import integral
from jete.core.numeric.spline import Curve, Knots, Samples, likeliest, noise_of

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.log.lap import Log

# What the third derivative of position may do in a vehicle: jerk² times its duration.
JERK_DENSITIES = (20.0, 80.0, 320.0)
# The same along the path, and where pedals explain what is sharp.
ALONG_DENSITIES = (0.2, 0.6, 2.0, 8.0, 40.0, 200.0)
# What pedals do is not quite a constant times their travel (gears, grip, slope): no speed is surer than this leaves it.
SUREST_DENSITY = 1.2
# No receiver is surer.
LEAST_NOISE_M = 0.02
# Slower than this grip and not power limits the drive, so the throttle's push grows no further.
GRIPS_BELOW_MPS = 8.0


class Sigmas(NamedTuple):
    """Standard deviations of what was smoothed, 0 where it was logged: an acceleration, a speed, a place."""

    acceleration_mps2: float = 0.0
    speed_mps: float = 0.0
    place_m: float = 0.0


@dataclass(frozen=True, eq=False)
class Track:
    """Time, speed and metres travelled along the path, each (n,), and their standard deviations."""

    time_s: FloatArray
    speed_mps: FloatArray
    travelled_m: FloatArray
    sigmas: Sigmas


def smoother_sigmas(noise_m: float, step_s: float, density: float) -> Sigmas:
    """Standard deviations of a smoothed curve, its slope and its bend, away from its ends.

    Noise of spectral density r = noise² step on a curve whose third derivative has the
    density q: the smoother passes 1 / (1 + (ω / ω0)⁶), ω0⁶ = q / r, and leaves r times that
    (Wiener), so the variances are r ω0 / 3, r ω0³ / 6 and r ω0⁵ / 3.

    >>> [round(s, 3) for s in smoother_sigmas(1.0, 0.1, 10.0)]
    [1.244, 0.408, 0.268]
    """
    r = noise_m**2 * step_s
    bend = (density / r) ** (1.0 / 6.0)
    return Sigmas(*(float(v**0.5) for v in (r * bend**5 / 3.0, r * bend**3 / 6.0, r * bend / 3.0)))


def path_motion(log: Log) -> Track:
    """Speed and metres travelled from positions alone.

    Raises:
        ValueError: a log without positions.
    """
    path = positions(log, origin_of(log))
    if path is None:
        message = "a log without position, speed or distance has no motion"
        raise ValueError(message)
    time = path[0].time_s
    places = np.stack([c.value for c in path], axis=1)
    noise = max(LEAST_NOISE_M, float(np.hypot(noise_of(path[0].value), noise_of(path[1].value))) / 2.0**0.5)
    knots = Knots.over(float(time[0]), float(time[-1]), max(0.15, 1.5 * float(np.median(np.diff(time)))))
    curve = likeliest(time, places, noise, knots, derivative=3, roughnesses=JERK_DENSITIES)
    dense = np.linspace(time[0], time[-1], 2 * len(time))
    rate = curve(dense, 1)
    rough_speed = np.hypot(rate[:, 0], rate[:, 1])
    along = places_along(time, places, curve, dense, integral(dense, rough_speed))
    causes = _pushes(log, dense, rough_speed)
    speed, density = _speed(time, along, noise, knots, dense, causes)
    sigmas = smoother_sigmas(noise, float(np.median(np.diff(time))), max(density, SUREST_DENSITY))
    return Track(dense, speed, integral(dense, speed), sigmas)


def places_along(
    time: FloatArray, places: FloatArray, curve: Curve, dense: FloatArray, travelled: FloatArray
) -> FloatArray:
    """Metres along the path of each position, (n,): of the path at its time, and what it is off by along it."""
    rate = curve(time, 1)
    ahead = rate / np.maximum(np.hypot(rate[:, 0], rate[:, 1]), 0.1)[:, None]
    return np.asarray(np.interp(time, dense, travelled) + np.sum((places - curve(time)) * ahead, axis=1))


def _pushes(log: Log, time: FloatArray, speed: FloatArray) -> list[tuple[FloatArray, FloatArray]]:
    """What each pedal would do to the speed and to the place but for a constant, (n,) both.

    A brake slows by its pressure; a throttle drives by its share of the power, so by power
    over speed.
    """
    brake, throttle = brake_channel(log), log.get("throttle")
    forces = [brake.at(time)] if brake is not None else []
    if throttle is not None:
        forces.append(throttle.at(time) / np.maximum(speed, GRIPS_BELOW_MPS))
    # Centred, for the sake of the sums; what that takes away is a smooth curve's.
    gained = [_centred(integral(time, _centred(f))) for f in forces if float(np.ptp(f)) > 0.0]
    return [(g, integral(time, g)) for g in gained]


def _centred(values: FloatArray) -> FloatArray:
    return values - float(values.mean())


def _speed(
    time: FloatArray,
    along: FloatArray,
    noise: float,
    knots: Knots,
    dense: FloatArray,
    causes: list[tuple[FloatArray, FloatArray]],
) -> tuple[FloatArray, float]:
    """The likeliest speed at ``dense`` (n,) from places along the path at ``time``, and the density of the jerk."""
    moved = (
        np.stack([np.interp(time, dense, place) for _, place in causes], axis=1) if causes else np.empty((len(time), 0))
    )
    both = Samples.of(time, np.column_stack([along, moved]), noise, knots)
    fits = []
    for roughness in ALONG_DENSITIES:
        smooth, _ = both.fit(3, roughness)
        rest = both.values - smooth(time)
        found = np.linalg.lstsq(moved.T @ rest[:, 1:], moved.T @ rest[:, 0], rcond=None)[0]
        curve, score = Samples.of(time, along - moved @ found, noise, knots).fit(3, roughness)
        fits.append((score, curve, found, roughness))
    _, curve, found, density = max(fits, key=lambda f: f[0])
    speed = curve(dense, 1) + sum(b * gained for b, (gained, _) in zip(found, causes, strict=True))
    return np.maximum(speed, 0.0), density
