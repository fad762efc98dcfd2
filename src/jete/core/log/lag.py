"""By how much the positions of a log come later than its speed, and the positions set right.

A receiver works out a position and sends it on; by then the vehicle is further.  What the
positions say was covered between two of them is compared with what the speed says:

    |p(t + h) − p(t)| = D(t + h − τ) − D(t − τ) ≈ D(t + h) − D(t) − τ (v(t + h) − v(t))

with D the integral of the speed, times a scale for the odometer.  τ and the scale are
found by least squares; a chord is shorter than its arc alike before and after an apex, so
bends do not bias τ.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.log.lap import Channel, Log, Repair
from jete.core.log.plane import origin_of, positions
from jete.core.numeric.interpolate import integral
from jete.core.numeric.robust import robust_sigma

# Chords over a second: longer than noise matters, shorter than a bend.
REACH_S = 1.0
# Receivers lag by 0.05 to 0.3 s; more is a mistake elsewhere.
LONGEST_S = 0.5
# Less moves no place by half a metre.
LEAST_S = 0.01
# A lag is taken out only where it is beyond doubt: a wrong one moves every place.
SURE_SIGMAS = 4.0
# 20 s at 10 Hz.
LEAST_SAMPLES = 200
# Chords in a row share their ends with turned signs, so their noise partly cancels.
OVERLAP = 0.5


def without_lag(log: Log) -> Log:
    """The log with its positions moved back in time by their lag, where one is sure; told as a repair."""
    origin = origin_of(log)
    path, speed = positions(log, origin), log.get("speed")
    if origin is None or path is None or speed is None:
        return log
    places = np.stack([c.value for c in path], axis=1)
    lag, sigma = lag_of(path[0].time_s, places, speed)
    if not max(LEAST_S, SURE_SIGMAS * sigma) < lag < LONGEST_S:
        return log
    names = ("x", "y") if origin.latitude_deg is None else ("latitude", "longitude")
    moved = {n: replace(log.channels[n], time_s=log.channels[n].time_s - lag) for n in names}
    told = Repair("position", f"{lag:.2f} s later than the speed, moved back", len(path[0]))
    made = replace(log.positions, lag_s=lag)
    return replace(log, channels={**log.channels, **moved}, repairs=(*log.repairs, told), positions=made)


def lag_of(time_s: FloatArray, places_m: FloatArray, speed: Channel) -> tuple[float, float]:
    """Lag of positions behind a speed, and its standard deviation, seconds; (0, ∞) where too little moves.

    Args:
        time_s: of the positions, (n,).
        places_m: positions on a plane, (n, 2).
        speed: as logged, m/s.
    """
    reach = max(1, round(REACH_S / max(float(np.median(np.diff(time_s))), 1e-3))) if len(time_s) > 1 else 1
    if len(time_s) < LEAST_SAMPLES + reach:
        return 0.0, float("inf")
    travelled = integral(speed.time_s, speed.value)
    along, v = (np.interp(time_s, speed.time_s, values) for values in (travelled, speed.value))
    chord = np.hypot(*(places_m[reach:] - places_m[:-reach]).T)
    covered, gained = along[reach:] - along[:-reach], v[reach:] - v[:-reach]
    span = time_s[reach:] - time_s[:-reach]
    usual = span < 1.5 * REACH_S
    lag, sigma = 0.0, float("inf")
    for _ in range(2):
        if np.count_nonzero(usual) < LEAST_SAMPLES:
            return 0.0, float("inf")
        rows = np.stack([covered[usual], -gained[usual]], axis=1)
        (scale, pull), *_ = np.linalg.lstsq(rows, chord[usual], rcond=None)
        rest = chord - covered * scale + gained * pull
        spread = robust_sigma(rest[usual] - np.median(rest[usual]))
        lag = float(pull / max(scale, 0.1))
        sigma = spread * float(np.sqrt(OVERLAP / max(float(np.sum(gained[usual] ** 2)), 1e-9)))
        usual &= np.abs(rest) < 4.0 * max(spread, 0.05)
    return lag, sigma
