"""What the vehicle does on full throttle, learnt from the laps themselves."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.driving.pedals import THROTTLE_FULL

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.axis.road.road import Road
    from jete.core.driving.passage import Passage


# Full throttle in a bend shares the grip with it: only what bends less than this tells of the power.
STRAIGHT_MPS2 = 3.0
# Its samples are looked at in so many groups by speed, of at least so many each.
SPEED_BINS, LEAST_IN_BIN = 12, 8
# What gains less than this share of what the power would give is limited by something else.
SPINS_SHARE = 0.93


@dataclass(frozen=True, kw_only=True)
class Drive:
    """Full throttle: a = power / v − drag v² − rolling (SI, per kg); and the grip shown.

    The grips are what the laps reach: lateral, braking and driving, m/s².  Below ``spins_mps``
    the tyres, or the gearing, are the limit, not the power.
    """

    power_wpkg: float = 180.0
    drag_1pm: float = 0.0008
    rolling_mps2: float = 0.3
    lateral_mps2: float = 10.0
    braking_mps2: float = 9.0
    driving_mps2: float = 4.0
    spins_mps: float = 0.0

    def fade_1pm(self, speed_mps: FloatArray) -> FloatArray:
        """da/dE, 1/m: how quickly a difference of v²/2 dies out along the road (negative).

        Where the power is not the limit, who is slower gains no more than who is faster: only the drag is left.
        """
        v = np.maximum(speed_mps, 5.0)
        return np.asarray(-self.power_wpkg / v**3 * (v >= self.spins_mps) - 2.0 * self.drag_1pm)

    def grip_fade_1pm(self, energy: FloatArray, curvature_1pm: FloatArray) -> FloatArray:
        """−da/dE per unit of a, 1/m ÷ m/s², where the friction ellipse shares the grip with the bend.

        a = A √(1 − u²) with u = 2 E κ / a_lateral: who is slower in a bend has grip left
        to change speed harder, so a difference dies out within it (positive).
        """
        bend = 2.0 * np.abs(curvature_1pm) / self.lateral_mps2
        used = np.minimum(energy * bend, 0.9)
        return np.asarray(used * bend / np.sqrt(1.0 - used**2))


def drive_of(reference: Passage, road: Road) -> Drive:
    """Power and drag from the samples on full throttle, grips from the highest tenths.

    From the reference alone, so that what a lap is told does not hang on which other laps
    are compared with it.
    """
    full = _FullThrottle.of(reference, road)
    power, drag, rolling = full.fitted()
    lateral = np.abs(road.curvature_1pm) * road.speed_mps**2
    low, high = np.percentile(reference.acceleration_mps2, [1.5, 97.0])
    grip = max(float(np.percentile(lateral, 97.0)), 4.0)
    spins_mps = full.spins_mps(power, drag, rolling)
    return Drive(
        power_wpkg=power,
        drag_1pm=drag,
        rolling_mps2=rolling,
        lateral_mps2=grip,
        braking_mps2=max(float(-low), 3.0),
        driving_mps2=max(float(high), 1.5),
        spins_mps=spins_mps,
    )


@dataclass(frozen=True, eq=False)
class _FullThrottle:
    """The samples of a lap on full throttle on about straight road: speed and acceleration, (n,); ``top_mps`` of the lap."""

    speed_mps: FloatArray
    acceleration_mps2: FloatArray
    top_mps: float

    @classmethod
    def of(cls, passage: Passage, road: Road) -> _FullThrottle:
        speed = passage.motion.speed_mps
        used = passage.throttle.at(passage.motion.time_s) > THROTTLE_FULL
        bends = np.abs(road.curvature_at(passage.alignment.place_m[: len(speed)])) * speed**2
        straight = used & (bends < STRAIGHT_MPS2)
        return cls(speed[straight], passage.acceleration_mps2[straight], float(speed.max()))

    def fitted(self) -> tuple[float, float, float]:
        """Power, drag and rolling by least squares; a common vehicle where there are few samples."""
        common = (Drive.power_wpkg, Drive.drag_1pm, Drive.rolling_mps2)
        quick = self.speed_mps > 0.45 * self.top_mps
        v, a = self.speed_mps[quick], self.acceleration_mps2[quick]
        if len(v) < 100 or float(np.ptp(v)) < 8.0:
            return common
        table = np.stack([1.0 / v, -(v**2)], axis=1)
        power, drag = np.linalg.solve(table.T @ table, table.T @ (a + 0.2))
        if not (20.0 < power < 1500.0 and 0.0 <= drag < 0.005):
            return common
        return float(power), float(drag), 0.2

    def spins_mps(self, power: float, drag: float, rolling: float) -> float:
        """Up to which speed, from the lowest seen, it gains clearly less than the power would give; 0 for none."""
        order = np.argsort(self.speed_mps)
        v, a = self.speed_mps[order], self.acceleration_mps2[order]
        share = a / np.maximum(power / np.maximum(v, 1.0) - drag * v**2 - rolling, 0.1)
        limited, bins = 0.0, min(SPEED_BINS, len(v) // LEAST_IN_BIN)
        for part in np.array_split(np.arange(len(v)), bins) if bins else []:
            if float(np.median(share[part])) > SPINS_SHARE:
                break
            limited = float(v[part[-1]])
        return limited
