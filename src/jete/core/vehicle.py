"""What the vehicle does on full throttle, learnt from the laps themselves."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.pedals import THROTTLE_FULL

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.lap import FloatArray
    from jete.core.passage import Passage
    from jete.core.road import Road


@dataclass(frozen=True)
class Drive:
    """Full throttle: a = power / v − drag v² − rolling (SI, per kg); and the grip shown.

    The grips are what the laps reach: lateral, braking and driving, m/s².
    """

    power_wpkg: float = 180.0
    drag_1pm: float = 0.0008
    rolling_mps2: float = 0.3
    lateral_mps2: float = 10.0
    braking_mps2: float = 9.0
    driving_mps2: float = 4.0

    def fade_1pm(self, speed_mps: FloatArray) -> FloatArray:
        """da/dE, 1/m: how quickly a difference of v²/2 dies out along the road (negative)."""
        v = np.maximum(speed_mps, 5.0)
        return np.asarray(-self.power_wpkg / v**3 - 2.0 * self.drag_1pm)

    def grip_fade_1pm(self, energy: FloatArray, curvature_1pm: FloatArray, along_mps2: float) -> FloatArray:
        """−da/dE, 1/m, where the friction ellipse shares ``along_mps2`` with the bend.

        a = A √(1 − u²) with u = 2 E κ / a_lateral: who is slower in a bend has grip left
        to change speed harder, so a difference dies out within it (positive).
        """
        bend = 2.0 * np.abs(curvature_1pm) / self.lateral_mps2
        used = np.clip(energy * bend, 0.0, 0.9)
        return np.asarray(along_mps2 * used * bend / np.sqrt(1.0 - used**2))


def drive_of(passages: Sequence[Passage], road: Road) -> Drive:
    """Power and drag from the samples on full throttle, grips from the highest tenths."""
    power, drag, rolling = _full_throttle(passages)
    reference = passages[0]
    lateral = np.abs(road.curvature_1pm) * road.speed_mps**2
    a = reference.acceleration_mps2
    return Drive(
        power,
        drag,
        rolling,
        max(float(np.percentile(lateral, 97.0)), 4.0),
        max(float(-np.percentile(a, 1.5)), 3.0),
        max(float(np.percentile(a, 97.0)), 1.5),
    )


def _full_throttle(passages: Sequence[Passage]) -> tuple[float, float, float]:
    """Power, drag and rolling by least squares; a common vehicle where there are few samples."""
    common = (Drive.power_wpkg, Drive.drag_1pm, Drive.rolling_mps2)
    speeds, gains = [], []
    for p in passages:
        full = p.throttle.at(p.motion.time_s) > THROTTLE_FULL
        fast = p.motion.speed_mps > 0.45 * float(p.motion.speed_mps.max())
        speeds.append(p.motion.speed_mps[full & fast])
        gains.append(p.acceleration_mps2[full & fast])
    v, a = np.concatenate(speeds), np.concatenate(gains)
    if len(v) < 100 or float(np.ptp(v)) < 8.0:
        return common
    table = np.stack([1.0 / v, -(v**2)], axis=1)
    power, drag = np.linalg.lstsq(table, a + 0.2, rcond=None)[0]
    if not (20.0 < power < 1500.0 and 0.0 <= drag < 0.005):
        return common
    return float(power), float(drag), 0.2
