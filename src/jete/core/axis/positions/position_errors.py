"""What the positions of a lap are worth: how far they are off, and for how long the same way.

A position's error need not be its own: a receiver filters (tenths of a second), drifts
(seconds to minutes), and noise that is estimated from neighbours is then far too small.
Where a speed was logged it tells: metres along the path by the positions, less metres by the
speed, is the error along the path, r(t).  Its autocovariance C(l) holds both parts,

    C(0) = white² + drift²,    C(l) ≈ drift² e^(−l/τ),

and what averages away least, the density of the error at long waves, is Δt Σ C(l) over all
lags (Geyer 1992, Statist. Sci. 7:473: summed until it is no longer positive).  White noise of
1 m ten times a second has 0.1 m²s; a drift of 0.8 m over 8 s has 2 · 0.64 · 8 = 10 m²s.
Across the path errors are taken to be alike.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt
from typing import TYPE_CHECKING

import numpy as np

from jete.core.axis.positions.drift import Drift, drift_of
from jete.core.motion.track import JERK_DENSITIES, places_along
from jete.core.numeric.interpolate import integral
from jete.core.numeric.spline import Knots, Samples

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.motion.motion import Motion

# A path over time bends no quicker than this shows.
KNOT_S = 0.25
# No lag is looked at beyond this: a lap shows no more than a few of them.
LONGEST_LAG_S = 15.0
# Of less nothing is told of what lasts.
SHORTEST_S = 12.0
# A covariance of less than this share of C(0) is none: of some hundred fixes it is known no better.
NONE_SHARE = 0.12
# An error that lasts no longer than this was filtered; longer, it drifts.
FILTERED_S = 1.0
# A receiver without corrections is known no better than this on each axis (horizontal error ≤ 3 m in 95 %, the world's mean:
# GPS Standard Positioning Service Performance Standard 2020, 5th ed., table 3.8-3): what of it is not seen, drifts
PLAIN_M = 1.0
# for so long, where no speed shows it.
UNKNOWN_S = 10.0
# The noise that was found is known to a tenth: what is about as rough as a plain receiver hides nothing.
NOISE_KNOWN = 1.1
# A longer wait for the next position than so many usual ones is a hole.
HOLE_STEPS = 1.5
# Shorter waves than this make bends.
BENDS_S = 1.5


@dataclass(frozen=True, kw_only=True)
class PositionErrors:
    """Errors of positions, one standard deviation on each axis.

    ``white_m`` of each position alone; ``drift_m`` within the lap, for about ``drift_s`` the same way, 0 for none
    that is seen, ``wanders_m`` that of the process behind it; ``density_m2s`` at long waves, ``bending_m2s`` at waves short enough to look like bends; ``by_speed`` says that a logged speed told them.
    ``fix_hz`` is the rate of the positions, ``filter_s`` the length of a running mean that the receiver takes.
    """

    white_m: float
    drift_m: float
    drift_s: float
    density_m2s: float
    bending_m2s: float
    by_speed: bool = False
    fix_hz: float = 0.0
    filter_s: float = 0.0
    wanders_m: float = 0.0

    @property
    def level_m(self) -> float:
        """What a plain receiver is off by all along a lap, which one lap does not show, one standard deviation on each axis."""
        return sqrt(max(PLAIN_M**2 - (NOISE_KNOWN * self.white_m) ** 2, 0.0))

    @property
    def unseen_m(self) -> float:
        """What it is off by beyond what was seen of it within a lap; 0 where a speed showed it."""
        return 0.0 if self.by_speed else self.level_m

    @property
    def slow(self) -> tuple[float, float]:
        """The part that stays alike, as seen or as a plain receiver has it: metres on each axis, and for how long, seconds."""
        return (self.wanders_m, self.drift_s) if self.by_speed else (self.unseen_m, UNKNOWN_S)


def drift_between(*worths: PositionErrors) -> tuple[float, float]:
    """How far the positions of laps drift apart, one standard deviation on each axis, metres, and for how long that stays alike, seconds.

    Squares add up, and so do the rates at which they change.
    """
    slow = [w.slow for w in worths if w.slow[0] > 0.0]
    squares = sum(size**2 for size, _ in slow)
    return sqrt(squares), squares / sum(size**2 / lasts for size, lasts in slow) if slow else UNKNOWN_S


def white(noise_m: float, step_s: float) -> PositionErrors:
    """The errors of positions that are taken to be white, where no speed tells."""
    return PositionErrors(
        white_m=noise_m,
        drift_m=0.0,
        drift_s=0.0,
        density_m2s=noise_m**2 * step_s,
        bending_m2s=noise_m**2 * step_s,
        fix_hz=1.0 / step_s,
    )


def position_errors_of(time_s: FloatArray, places_m: FloatArray, noise_m: float, motion: Motion) -> PositionErrors:
    """The worth of positions by the speed of their lap.

    Args:
        time_s: of the positions, (n,), increasing.
        places_m: on a plane, (n, 2).
        noise_m: of one position, from its neighbours.
        motion: of the lap.
    """
    step = step_of(time_s)
    if motion.inferred or len(time_s) * step < SHORTEST_S:
        return white(noise_m, step)
    off, known, direction = _off_along(time_s, places_m, noise_m, motion)
    cov = _autocovariance(off, min(round(LONGEST_LAG_S / step), len(off) // 3))
    count = _lasting(cov)
    alone_m2s = step * max(float(cov[0]), noise_m**2) if count == 0 else 0.0
    drift = drift_of(time_s, off, known, direction, alone_m2s)
    return _of_covariance(cov[: count + 1], drift, step, noise_m)


def step_of(time_s: FloatArray) -> float:
    """The time from one position to the next, by times (n,) that may be rounded and have holes, seconds."""
    steps = np.diff(time_s)
    return float(np.mean(steps[steps < HOLE_STEPS * np.median(steps)]))


def _off_along(
    time_s: FloatArray, places_m: FloatArray, noise_m: float, motion: Motion
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Error of each position along the path, metres, (n,): without what an odometer and a map make of it; that (n, 7); direction of travel (n, 2).

    Degrees that were made of metres by one round figure have another scale to the north than to
    the east, by up to three in a thousand: the same in all laps, and no drift.
    """
    knots = Knots.over(float(time_s[0]), float(time_s[-1]), max(KNOT_S, 1.5 * float(np.median(np.diff(time_s)))))
    curve, _ = Samples.of(time_s, places_m, noise_m, knots).fit(3, JERK_DENSITIES[1])
    dense = np.linspace(time_s[0], time_s[-1], 2 * len(time_s))
    rate = curve(dense, 1)
    along = places_along(time_s, places_m, curve, dense, integral(dense, np.hypot(rate[:, 0], rate[:, 1])))
    velocity = curve(time_s, 1)
    direction = velocity / np.maximum(np.hypot(*velocity.T), 1e-6)[:, None]
    driven = motion.distance_at(time_s)
    known = np.hstack([_stretched(driven, direction), _slipped(driven, time_s)])
    return along - known @ np.linalg.lstsq(known, along, rcond=None)[0], known, direction


def _stretched(driven_m: FloatArray, direction: FloatArray) -> FloatArray:
    """What metres driven (n,) are on a map of any scale to the east, to the north and between, (n, 4), by directions (n, 2).

    A metre of direction (x, y) is 1 + a x² + b y² + c x y metres of such a map; x² + y² = 1.
    """
    x, y = direction.T
    shares = np.stack([np.ones_like(x), x * x, x * y], axis=1)
    steps = np.diff(driven_m)[:, None] * 0.5 * (shares[1:] + shares[:-1])
    return np.column_stack([np.ones_like(driven_m), np.vstack([np.zeros(3), np.cumsum(steps, axis=0)])])


def _slipped(driven_m: FloatArray, time_s: FloatArray) -> FloatArray:
    """What an odometer is off by whose speed lags, and whose wheels slip with the force under braking and under power, (n, 3).

    A lag of τ is τ v behind; a slip of k at each m/s² is k ∫ a ds = k v²/2 metres.
    """
    v = np.gradient(driven_m, time_s)
    steps = np.diff(0.5 * v**2)
    forces = np.cumsum(np.stack([np.maximum(steps, 0.0), np.minimum(steps, 0.0)], axis=1), axis=0)
    return np.column_stack([v, np.vstack([np.zeros(2), forces])])


def _autocovariance(values: FloatArray, lags: int) -> FloatArray:
    """C(0) … C(lags) of values (n,), (lags + 1,), by the transform (Wiener & Khinchin)."""
    centred = values - values.mean()
    spectrum = np.abs(np.fft.rfft(centred, 2 * len(values))) ** 2
    return np.asarray(np.fft.irfft(spectrum)[: lags + 1] / np.arange(len(values), len(values) - lags - 1, -1))


def _lasting(cov: FloatArray) -> int:
    """The number of lags that an autocovariance lasts, 0 for that of white noise."""
    lasts = cov[1:] > NONE_SHARE * cov[0]
    return int(np.argmin(lasts)) if not lasts.all() else len(lasts)


def _of_covariance(cov: FloatArray, drift: Drift, step_s: float, noise_m: float) -> PositionErrors:
    """The errors that an autocovariance, as far as it lasts, and a drift describe."""
    later, hz, drifts = cov[1:], 1.0 / step_s, drift.likely >= 0.5
    count = len(later)
    if not drifts and count == 0:
        noise = max(noise_m, float(cov[0]) ** 0.5)
        return PositionErrors(
            white_m=noise,
            drift_m=0.0,
            drift_s=0.0,
            density_m2s=drift.density_m2s,
            bending_m2s=noise**2 * step_s,
            by_speed=True,
            fix_hz=hz,
        )
    if not drifts:
        reach_s = min((count + 1) * step_s, FILTERED_S)
        filtered = step_s * float(cov[0] + 2.0 * later[: max(round(FILTERED_S / step_s), 1)].sum())
        return PositionErrors(
            white_m=float(cov[0]) ** 0.5,
            drift_m=0.0,
            drift_s=0.0,
            density_m2s=drift.density_m2s,
            bending_m2s=filtered,
            by_speed=True,
            fix_hz=hz,
            filter_s=reach_s,
        )
    alone = max(float(cov[0] - later.max(initial=0.0)), noise_m**2)
    short = later[: max(round(BENDS_S / step_s), 1)]
    # What lasts longer than a bend does not look like one; but a drift is rough, and what it moves by meanwhile does.
    level = float(short[-1]) if count > 0 else 0.0
    bending = step_s * (alone + 2.0 * float(np.maximum(short - level, 0.0).sum()))
    return PositionErrors(
        white_m=alone**0.5,
        drift_m=drift.within_m,
        drift_s=drift.lasts_s,
        density_m2s=drift.density_m2s,
        bending_m2s=bending,
        by_speed=True,
        fix_hz=hz,
        wanders_m=drift.size_m,
    )
