"""The lateness of a log's pedals behind the speed that they make, seconds; negative for earlier.

What a vehicle gains within a while is what its pedals made of it:

    v(t + h) − v(t) = ∫ (k₁ + k₂ v) b(s + τ_b) + (k₃ + k₄ v + k₅ / v) a(s + τ_a) + k₆ + k₇ v + k₈ v² ds

with b the brake, a the throttle, the power that a vehicle has at a speed, and drag.  Both delays are
found together with the scales.  A vehicle follows its brake within a tenth of a second and its
throttle within two; a pedal that comes after the speed was logged late, and where both lie well
before it the speed was.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.core.numeric.interpolate import integral
from jete.core.numeric.late import UNKNOWN, Lateness, Signals, change_over, every, latenesses_of, summed_over

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.log.lap import Channel, Log

# What is gained within this: longer than a speed's noise matters, shorter than a braking.
REACH_S = 0.6
# Every so often is enough.
EVERY_S = 0.1
# A vehicle that slows by more is braked.
BRAKED_MPS2 = 2.5
# Slower than this the power over the speed has no bound.
SLOWEST_MPS = 3.0
# Logs with samples farther apart show no pedal's edge.
COARSE_S = 0.25
# Twenty seconds of samples at least.
LEAST_SAMPLES = 200
BRAKES = ("brake", "brake_front", "brake_rear")


def lateness_of_pedals(log: Log) -> tuple[Lateness, Lateness]:
    """The lateness of the brake and of the throttle behind the speed; unknown without them."""
    speed, throttle = log.get("speed"), log.get("throttle")
    brakes = [c for n in BRAKES if (c := log.get(n)) is not None]
    if speed is None or throttle is None or not _fine([speed, throttle, *brakes]):
        return UNKNOWN, UNKNOWN
    time, v = speed.time_s, np.maximum(speed.value, SLOWEST_MPS)
    at_s = every(EVERY_S, time[0] + REACH_S, time[-1] - 2.0 * REACH_S)
    gained = change_over(REACH_S, time, v, at_s)
    beside = np.stack([change_over(REACH_S, time, integral(time, v**power), at_s) for power in (0, 1, 2)], axis=1)
    pedals = [_pedal(throttle.time_s, throttle.value, speed, (0, 1, -1))]
    if not brakes:
        # What a brake slowed that nobody logged is left out.
        rolled = gained > -BRAKED_MPS2 * REACH_S
        return UNKNOWN, latenesses_of(gained, at_s, rolled, pedals, beside)[0]
    pressed = brakes[0].value if len(brakes) == 1 else sum(b.at(brakes[0].time_s) for b in brakes)
    pedals.append(_pedal(brakes[0].time_s, np.asarray(pressed), speed, (0, 1)))
    found = latenesses_of(gained, at_s, np.ones(len(at_s), bool), pedals, beside)
    return found[1], found[0]


def _fine(channels: Sequence[Channel]) -> bool:
    """Whether samples are many and near enough to show a pedal's edge."""
    return all(len(c) >= LEAST_SAMPLES and float(np.mean(np.diff(c.time_s))) <= COARSE_S for c in channels)


def _pedal(time_s: FloatArray, value: FloatArray, speed: Channel, powers: Sequence[int]) -> Signals:
    """What a pedal does within a while, times powers of the speed."""
    pace = np.maximum(speed.at(time_s), SLOWEST_MPS)
    return summed_over(REACH_S, time_s, *(value * pace ** float(power) for power in powers))
