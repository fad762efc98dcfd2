"""What a vehicle does at each speed and pedal, learnt from all laps of a run.

    a = −c v² − k a_lat² − e + u · min(P / v + e, most)

with the throttle u on its span, power P and drag c from full throttle, e what rolling and engine take on no pedal, k what a
bend takes (tyres at a slip angle), and ``most`` what the throttle gives below the speed at which power is the limit
(Milliken & Milliken 1995, Race Car Vehicle Dynamics, ch. 3 and 9; per kg, SI).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.driving.pedals import THROTTLE_FULL
from jete.core.numeric.statistics import robust_sigma

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import BoolArray, FloatArray
    from jete.core.causes.verdict.losses import Held

# Straighter than this a bend takes nothing that could be seen.
STRAIGHT_MPS2 = 3.0
# Fewer samples, or fewer different speeds, tell no power from drag.
FEWEST, LEAST_RANGE_MPS = 100, 8.0
# What is farther off than so many standard deviations is a gear change, a slope, a slide.
FAR_SIGMAS = 3.0
# Rolling on full throttle can't be told from power and drag; taken, m/s².
ROLLING_MPS2 = 0.2
# On no pedal where no sample shows it, m/s²: rolling 0.15 and engine braking 0.7 of a common car.
COASTING_MPS2 = 0.85
# A throttle between these tells what it gives where power is not the limit,
PART = (0.15, 0.9)
# Of which power would give so many times as much.
LIMITED = 1.25
SLOWEST_MPS = 5.0
# A fit outside these is no vehicle's: W/kg, 1/m.
POWERS, DRAGS = (20.0, 1500.0), (0.0, 0.005)


@dataclass(frozen=True, eq=False, kw_only=True)
class DrivenSamples:
    """Samples of a run, (n,) each: speed, acceleration, lateral acceleration (m/s², left positive), throttle and brake on their spans, the lap's index."""

    speed_mps: FloatArray
    acceleration_mps2: FloatArray
    lateral_mps2: FloatArray
    throttle: FloatArray
    braked: BoolArray
    lap: FloatArray


@dataclass(frozen=True, kw_only=True)
class VehicleFit:
    """The vehicle's numbers as in the head of this file; ``sure`` is false where power or drag could not be told."""

    power_wpkg: float
    drag_1pm: float
    coasting_mps2: float
    cornering_spm: float
    most_mps2: float
    sure: bool

    def free(self, v: float, lateral_mps2: float) -> float:
        """Acceleration on no pedal, m/s² (negative)."""
        return -self.drag_1pm * v * v - self.cornering_spm * lateral_mps2 * lateral_mps2 - self.coasting_mps2

    def given(self, v: float) -> float:
        """What the whole throttle adds to that, m/s²."""
        return min(self.power_wpkg / max(v, SLOWEST_MPS) + self.coasting_mps2, self.most_mps2)

    def tyres_mps2(self, along_mps2: FloatArray, speed_mps: FloatArray, lateral_mps2: FloatArray) -> FloatArray:
        """What of accelerations along the road the tyres give, (n,): drag and what a bend takes are theirs to make good."""
        return along_mps2 + self.drag_1pm * speed_mps**2 + self.cornering_spm * lateral_mps2**2

    def acceleration(self, v: float, throttle: float, lateral_mps2: float) -> float:
        """Acceleration with the throttle at a share of its span, m/s²."""
        return self.free(v, lateral_mps2) + throttle * self.given(v)


def samples_of(laps: Sequence[Held]) -> DrivenSamples:
    """The samples of laps, each on its own road."""
    return DrivenSamples(
        speed_mps=np.concatenate([h.passage.motion.speed_mps for h in laps]),
        acceleration_mps2=np.concatenate([h.passage.acceleration_mps2 for h in laps]),
        lateral_mps2=np.concatenate([
            h.road.curvature_at(h.passage.motion.distance_m) * h.passage.motion.speed_mps**2 for h in laps
        ]),
        throttle=np.concatenate([h.passage.throttle.at(h.passage.motion.time_s) for h in laps]),
        braked=np.concatenate([
            h.passage.brake.at(h.passage.motion.time_s) > h.passage.brake.untouched for h in laps
        ]),
        lap=np.concatenate([np.full(len(h.passage.motion.time_s), float(k)) for k, h in enumerate(laps)]),
    )  # fmt: skip


def vehicle_of(samples: DrivenSamples) -> VehicleFit:
    """The vehicle by robust least squares: power and drag, then what no pedal, a bend and a part of the throttle do."""
    v, a = np.maximum(samples.speed_mps, SLOWEST_MPS), samples.acceleration_mps2
    full = (samples.throttle > THROTTLE_FULL) & ~samples.braked
    straight = np.abs(samples.lateral_mps2) < STRAIGHT_MPS2
    power, drag, sure = _power(v[full & straight], a[full & straight])
    free = (samples.throttle < PART[0] / 3.0) & ~samples.braked & straight
    coasting = float(np.median(-(a + drag * v**2)[free])) if np.count_nonzero(free) >= FEWEST else COASTING_MPS2
    coasting = min(max(coasting, ROLLING_MPS2), 4.0)
    bends = full & ~straight
    cornering = _cornering(power / v - drag * v**2 - ROLLING_MPS2 - a, samples.lateral_mps2, bends)
    by_power = power / v + coasting
    part = (samples.throttle > PART[0]) & (samples.throttle < PART[1]) & ~samples.braked
    gives = (a + drag * v**2 + coasting + cornering * samples.lateral_mps2**2) / np.maximum(samples.throttle, PART[0])
    limited = part & (by_power > LIMITED * np.median(gives[part])) if part.any() else part
    most = float(np.median(gives[limited])) if np.count_nonzero(limited) >= FEWEST else float("inf")
    return VehicleFit(
        power_wpkg=power, drag_1pm=drag, coasting_mps2=coasting, cornering_spm=cornering, most_mps2=most, sure=sure
    )


def _power(v: FloatArray, a: FloatArray) -> tuple[float, float, bool]:
    """Power and drag of samples on full throttle on straights (n,), and whether they could be told."""
    fast = v > 0.45 * v.max() if v.size else np.zeros(0, bool)
    v, a = v[fast], a[fast]
    if len(v) < FEWEST or float(np.ptp(v)) < LEAST_RANGE_MPS:
        return 180.0, 0.0008, False
    table = np.stack([1.0 / v, -(v**2)], axis=1)
    use = np.ones(len(v), bool)
    for _ in range(3):
        (power, drag), *_ = np.linalg.lstsq(table[use], a[use] + ROLLING_MPS2, rcond=None)
        rest = a + ROLLING_MPS2 - table @ np.array([power, drag])
        use = np.abs(rest) <= FAR_SIGMAS * max(robust_sigma(rest[use]), 1e-3)
    told = POWERS[0] < power < POWERS[1] and DRAGS[0] <= drag < DRAGS[1]
    return (float(power), float(drag), True) if told else (180.0, 0.0008, False)


def _cornering(missing: FloatArray, lateral_mps2: FloatArray, used: BoolArray) -> float:
    """What a bend takes from full throttle, over its lateral acceleration², s²/m; 0 where too little shows it."""
    square = lateral_mps2[used] ** 2
    if len(square) < FEWEST:
        return 0.0
    # The median of slopes through zero: a slide or a gear change pulls no line.
    return float(min(max(np.median(missing[used] / square), 0.0), 0.02))
