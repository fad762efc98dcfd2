"""The lateness of a log's positions behind its speed, and of its speed behind an acceleration, seconds.

A receiver works out a position and sends it on; by then the vehicle is further.  What the
positions say was covered between two of them is compared with what the speed says:

    |p(t + h) − p(t)| = D(t + h − τ) − D(t − τ) ≈ D(t + h) − D(t) − τ (v(t + h) − v(t))

with D the integral of the speed, times a scale for the odometer.  τ and the scale are
found by least squares; a chord is shorter than its arc alike before and after an apex, so
bends do not bias τ.  A speed is compared with what an accelerometer felt.
"""

from __future__ import annotations

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.log.lap import Channel, Log
from jete.core.log.plane import origin_of, positions
from jete.core.numeric.interpolate import integral
from jete.core.numeric.late import UNKNOWN, Lateness, change_over, every, lateness_of, latenesses_of, summed_over

# Chords over a second: longer than noise matters, shorter than a bend.
REACH_S = 1.0
# A speed is looked at so often.
EVERY_S = 0.1
# A lag that is larger is looked for again from where it was found.
SMALL_S, STEPS = 0.15, 4
# 20 s at 10 Hz.
LEAST_SAMPLES = 200
# Chords in a row share their ends with turned signs, so their noise partly cancels.
OVERLAP = 0.5


def lateness_of_speed(speed: Channel, acceleration: Channel | None) -> Lateness:
    """How much later a speed is than an acceleration along the road, by what it gains within a second."""
    if acceleration is None or min(len(speed), len(acceleration)) < LEAST_SAMPLES:
        return UNKNOWN
    timed = summed_over(REACH_S, acceleration.time_s, acceleration.value)
    at_s = every(EVERY_S, speed.time_s[0], speed.time_s[-1] - REACH_S)
    late = lateness_of(change_over(REACH_S, speed.time_s, speed.value, at_s), at_s, np.ones(len(at_s), bool), timed)
    return Lateness(-late.seconds, late.sigma_s)


def lateness_of_positions(log: Log) -> Lateness:
    """How much later the positions of a log are than its speed; unknown without either."""
    path, speed = positions(log, origin_of(log)), log.get("speed")
    if path is None or speed is None:
        return UNKNOWN
    places, lag = np.stack([c.value for c in path], axis=1), Lateness(0.0, 0.0)
    for _ in range(STEPS):
        more = lag_of(path[0].time_s - lag.seconds, places, speed)
        lag = Lateness(lag.seconds + more.seconds, more.sigma_s)
        # To first order only a small lag is right at once.
        if abs(more.seconds) < SMALL_S:
            break
    return lag


def lag_of(time_s: FloatArray, places_m: FloatArray, speed: Channel) -> Lateness:
    """Lag of positions behind a speed; unknown where too little moves.

    Args:
        time_s: of the positions, (n,).
        places_m: positions on a plane, (n, 2).
        speed: as logged, m/s.
    """
    reach = max(1, round(REACH_S / max(float(np.median(np.diff(time_s))), 1e-3))) if len(time_s) > 1 else 1
    if len(time_s) < LEAST_SAMPLES + reach:
        return UNKNOWN
    chord, span = np.hypot(*(places_m[reach:] - places_m[:-reach]).T), time_s[reach:] - time_s[:-reach]
    curves = integral(speed.time_s, speed.value), speed.value

    def timed(at_s: FloatArray) -> tuple[FloatArray, FloatArray]:
        covered, gained = (np.interp(at_s + span, speed.time_s, c) - np.interp(at_s, speed.time_s, c) for c in curves)
        return covered[:, None], gained[:, None]

    late = latenesses_of(chord, time_s[:-reach], span < 1.5 * REACH_S, [timed], np.empty((len(chord), 0)))[0]
    return Lateness(-late.seconds, late.sigma_s)
