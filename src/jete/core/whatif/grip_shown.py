"""The grip that a driver has shown: a rounded box by speed, from the last laps of a run.

    (a_long / β A)ᵖ + (a_lat / A)ᵖ = 1        A = y₀ + y₁ v²

with β and p one pair for the brake and one for the drive, and what air adds with v² read off the lateral peaks.  p = 2 is the
friction ellipse (Milliken & Milliken 1995, ch. 9); a driver who uses nine tenths of the bend and still all of the brake has shown
a squarer one.  Accelerations are the tyres': drag is taken out.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

if TYPE_CHECKING:
    from jete.core.arrays import BoolArray, FloatArray
    from jete.core.whatif.vehicle_fit import DrivenSamples, VehicleFit

# Higher ones are bumps, kerbs and a sensor's noise: of the samples at the limit so many lie within.
WITHIN = 0.975
# Peaks are read off in so many groups by speed, of at least so many samples that bend by so much of the most.
GROUPS, FEWEST, BENDS = 8, 40, 0.75
# A road's bend is known to some per cent at each metre: of the samples in a group so many lie within the grip.
IN_GROUP = 0.8
# What air adds is less: twice the grip at 60 m/s.
MOST_AIR = 1.0 / 3600.0
# In a bend that takes more of the grip, what is left beside it is the difference of two large numbers.
BESIDE = 0.75
# A driver who never drives out hard shows this at least; of the lateral grip.
LEAST_SHARE, MOST_SHARE = 0.15, 1.6
# How square the box may be, and from what share of both on a sample tells of it.
ROUND, SQUARE, BOTH = 1.6, 8.0, 0.3
# The hull of fewer laps is known to no better than this share of it.
LEAST_SIGMA = 0.01
# What a bend leaves of a pull is told by the friction ellipse with this share of the lateral grip shown: drivers keep some back.
KEPT_BACK = 0.92


class Pull(NamedTuple):
    """The brake, or the drive: its grip as a share of the lateral one, and the power of the box."""

    share: float
    power: float


@dataclass(frozen=True, kw_only=True)
class GripShown:
    """The box: y₀ (m/s²) and y₁ (1/m), brake and drive, and one standard deviation as a share of all of it."""

    level_mps2: float
    air_1pm: float
    braking: Pull
    driving: Pull
    sigma: float

    def lateral_mps2(self, v: float) -> float:
        """Lateral grip at a speed."""
        return self.level_mps2 + self.air_1pm * v * v

    def whole_mps2(self, speed_mps: FloatArray) -> FloatArray:
        """The same at speeds (n,), (n,)."""
        return self.level_mps2 + self.air_1pm * speed_mps**2

    def used(self, speed_mps: FloatArray, along_mps2: FloatArray, lateral_mps2: FloatArray) -> FloatArray:
        """Share of the grip that is used, (n,); ``along_mps2`` are the tyres', braking negative."""
        whole = self.whole_mps2(speed_mps)
        bend = np.abs(lateral_mps2) / whole
        brake, drive = (
            ((np.abs(along_mps2) / (p.share * whole)) ** p.power + bend**p.power) ** (1.0 / p.power)
            for p in (self.braking, self.driving)
        )
        return np.where(along_mps2 < 0.0, brake, drive)

    def beside(self, v: float, lateral_mps2: float) -> float:
        """What a bend leaves of a pull, as a share of it."""
        bend = KEPT_BACK * lateral_mps2 / self.lateral_mps2(v)
        return float(max(1.0 - bend * bend, 0.04) ** 0.5)


def grip_shown(samples: DrivenSamples, vehicle: VehicleFit) -> GripShown:
    """The grip of the laps that samples come from."""
    v, lateral = samples.speed_mps, np.abs(samples.lateral_mps2)
    level, air = _lateral(v, lateral)
    whole = level + air * v**2
    along = vehicle.tyres_mps2(samples.acceleration_mps2, v, lateral) / whole
    brakes, drives = samples.braked & (along < -0.2), ~samples.braked & (along > 0.1)
    alone = [_share(-along, lateral / whole, brakes & (samples.lap == lap)) for lap in np.unique(samples.lap)]
    sigma = float(np.std(alone) / max(float(np.mean(alone)), 1e-3) / max(len(alone), 1) ** 0.5)
    return GripShown(
        level_mps2=level,
        air_1pm=air,
        braking=_pull(-along, lateral / whole, brakes),
        driving=_pull(along, lateral / whole, drives),
        sigma=max(sigma, LEAST_SIGMA),
    )


def _lateral(v: FloatArray, lateral: FloatArray) -> tuple[float, float]:
    """Lateral grip at rest, and what air adds, from the peaks by speed."""
    bends = lateral > BENDS * float(np.quantile(lateral, WITHIN))
    order = np.argsort(v[bends])
    groups = np.array_split(order, max(1, min(GROUPS, len(order) // FEWEST)))
    square = np.array([float(np.mean(v[bends][g] ** 2)) for g in groups])
    peaks = np.array([float(np.quantile(lateral[bends][g], IN_GROUP)) for g in groups])
    middle = float(np.median(peaks))
    if len(groups) < 3 or float(np.ptp(square)) < 200.0:
        return middle, 0.0
    air, level = (float(x) for x in np.polyfit(square, peaks, 1))
    if air <= 0.0 or level <= 0.0:
        return middle, 0.0
    if air > MOST_AIR * level:
        level = float(np.median(peaks / (1.0 + MOST_AIR * square)))
        air = MOST_AIR * level
    return level, air


def _pull(along: FloatArray, lateral: FloatArray, used: BoolArray) -> Pull:
    """Share and power of the box, by accelerations as shares of the lateral grip, (n,) each."""
    share = _share(along, lateral, used)
    x, y = along[used] / share, lateral[used]
    both = (x > BOTH) & (y > BOTH)
    if np.count_nonzero(both) < FEWEST:
        return Pull(share, 2.0)
    low, high = ROUND, SQUARE
    for _ in range(12):
        power = 0.5 * (low + high)
        over = float(np.quantile(x[both] ** power + y[both] ** power, WITHIN)) > 1.0
        low, high = (power, high) if over else (low, power)
    return Pull(share, 0.5 * (low + high))


def _share(along: FloatArray, lateral: FloatArray, used: BoolArray) -> float:
    """The share β within which nearly all samples lie, by what each leaves beside its bend."""
    used = used & (lateral < BESIDE)
    if np.count_nonzero(used) < FEWEST:
        return LEAST_SHARE
    left = np.sqrt(1.0 - lateral[used] ** 2)
    return min(max(float(np.quantile(along[used] / left, WITHIN)), LEAST_SHARE), MOST_SHARE)
