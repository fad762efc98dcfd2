"""One corner of a lap as it was driven, on even metres: from before the slowing to the end of the next one."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from jete.core.driving.pedals import BRAKE_ON
from jete.core.driving.windows import windows_of

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.causes.verdict.losses import Held
    from jete.core.driving.marks import Marks

# A sixteenth of a second at 30 m/s: finer steps change a change by less than a millisecond.
STEP_M = 2.0
# So much before the slowing the stretch begins: where an earlier brake point would lie.
BEFORE_M = 70.0
# The approach goes on as it was between so many metres before the slowing: near enough, and not so near that the foot is on its way.
APPROACH_M = (23.0, 3.0)
# The slowing is over where the speed is within this share of its lowest, or so many m/s.
OVER_SHARE, OVER_MPS = 0.01, 0.25
# A speed that is an eighth over the lowest before the pick-up was driven up to.
DRIVES_ON = 1.27
# A foot that comes off the brake while the other picks up has not braked anew.
RELEASED_S = 0.4
# What the foot does between slow point and pick-up is read off so many metres before that.
HOLD_M = 10.0


@dataclass(frozen=True, eq=False, kw_only=True)
class DrivenStretch:
    """A corner with its way in and out; arrays (n,) at ``place_m``, E = v²/2 in m²/s².

    ``onset_m`` is where the lap begins to slow, ``slow_m`` where it is slowest (``least`` its E), ``over_m`` where the slowing is about over,
    ``pickup_m`` and ``full_m`` of the throttle; ``next_m`` is where it slows next and ``next_slow_m`` where that is over, both the end of the
    lap where it does not.  ``window_m`` is the corner's window.
    """

    place_m: FloatArray
    energy: FloatArray
    throttle: FloatArray
    lateral_1pm: FloatArray
    time_s: FloatArray
    marks: Marks
    onset_m: float
    slow_m: float
    least: float
    over_m: float
    pickup_m: float
    next_m: float
    next_slow_m: float
    window_m: tuple[float, float]

    def energy_at(self, place_m: FloatArray | float) -> FloatArray:
        """E as driven, (…); beyond the ends the end values."""
        return np.asarray(np.interp(place_m, self.place_m, self.energy))

    @cached_property
    def since_pickup_s(self) -> FloatArray:
        """Seconds from the pick-up to each place, negative before it, by the speeds of the stretch, (n,)."""
        v = np.sqrt(2.0 * self.energy)
        times = np.concatenate([[0.0], np.cumsum(2.0 * STEP_M / (v[1:] + v[:-1]))])
        k = min(int(np.searchsorted(self.place_m, self.pickup_m, side="right")), len(v) - 1)
        picked, ahead = float(np.sqrt(2.0 * self.energy_at(self.pickup_m))), float(self.place_m[k]) - self.pickup_m
        return np.asarray(times - times[k] + 2.0 * ahead / (picked + v[k]))

    @property
    def drives_between(self) -> bool:
        """Whether the lap drives on between slow point and pick-up and slows again: two bends in one."""
        inside = (self.place_m >= self.slow_m) & (self.place_m <= self.pickup_m)
        return bool(inside.any()) and float(self.energy[inside].max()) > DRIVES_ON * self.least

    def rise(self) -> float:
        """How E rises along the road on the approach, m/s²: as it would have gone on."""
        far, near = (float(self.energy_at(self.onset_m - back)) for back in APPROACH_M)
        return max(near - far, 0.0) / (APPROACH_M[0] - APPROACH_M[1])

    def held_at(self, place_m: FloatArray | float) -> FloatArray:
        """E as driven up to the pick-up, and past it as if the foot had waited on, (…)."""
        past = np.maximum(np.asarray(place_m) - self.pickup_m, 0.0)
        at_pickup = float(self.energy_at(self.pickup_m))
        on = np.maximum(at_pickup + self.hold_rise() * past, 0.25 * at_pickup)
        return np.where(past > 0.0, on, self.energy_at(place_m))

    def hold_rise(self) -> float:
        """How E goes on between slow point and pick-up, m/s², never rising: what a foot that waits longer goes on with."""
        back = min(HOLD_M, max(self.pickup_m - self.over_m, STEP_M))
        here, before = (float(self.energy_at(self.pickup_m - b)) for b in (0.0, back))
        return min((here - before) / back, 0.0)


def stretch_of(held: Held, index: int) -> DrivenStretch | None:
    """The corner of an index (from 0) of a lap on its own axis; None where the lap does not slow, or not pick up, for it."""
    marks = held.marks[index]
    onset, pickup = marks.slowing_m, marks.throttle_on_m
    if onset is None or pickup is None or pickup <= onset + STEP_M:
        return None
    length = held.road.length_m
    pressed = _pressed_from(held, pickup)
    later = [m for m in held.marks[index + 1 :] if m.slowing_m is not None and m.slowing_m > pickup]
    next_m = min(later[0].slowing_m or length, length) if later else length
    next_slow = min(max(later[0].slow_point_m, next_m), length) if later else length
    if pressed is not None and pressed < next_m:
        # A second bend within the corner is braked for by itself.
        next_m = pressed
    half = STEP_M / 2.0
    place = np.arange(max(onset - BEFORE_M, half), min(max(next_slow, next_m), length - half) + half, STEP_M)
    place = place[place <= length - half]
    time = held.passage.time_at(place)
    speed = _speed(held, place)
    energy = 0.5 * speed**2
    slow_m, least = _slowest(place, energy, onset, pickup)
    window = windows_of(held.corners, held.marks, held.marks, length)[index]
    return DrivenStretch(
        place_m=place,
        energy=energy,
        throttle=held.passage.throttle.at(time),
        lateral_1pm=np.abs(held.road.curvature_at(place)),
        time_s=time,
        marks=marks,
        onset_m=onset,
        slow_m=slow_m,
        least=least,
        over_m=_over(place, energy, onset, slow_m, least),
        pickup_m=pickup,
        next_m=next_m,
        next_slow_m=next_slow,
        window_m=(window.start_m, window.end_m),
    )


def _pressed_from(held: Held, pickup: float) -> float | None:
    """Where the brake is pressed the next time after the pick-up, metres; None where it is not."""
    brake = held.passage.brake
    pressed = np.flatnonzero((brake.value > BRAKE_ON) & (brake.time_s > held.passage.time_of(pickup) + RELEASED_S))
    return float(held.passage.place_of(float(brake.time_s[pressed[0]]))) if pressed.size else None


def _speed(held: Held, place: FloatArray) -> FloatArray:
    """The lap's speed, (n,): of the time that each half step takes, so that times and speeds are one."""
    edges = np.concatenate([[place[0] - STEP_M / 2.0], place + STEP_M / 2.0])
    return np.asarray(STEP_M / np.maximum(np.diff(held.passage.time_at(edges)), 1e-3))


def _slowest(place: FloatArray, energy: FloatArray, onset: float, pickup: float) -> tuple[float, float]:
    """Where a lap is slowest between two places, and its E there."""
    inside = np.flatnonzero((place >= onset) & (place <= pickup + STEP_M))
    k = int(inside[int(np.argmin(energy[inside]))])
    return float(place[k]), float(energy[k])


def _over(place: FloatArray, energy: FloatArray, onset: float, slow: float, least: float) -> float:
    """The first place past the onset at which the speed is about its lowest."""
    v = np.sqrt(2.0 * least)
    level = 0.5 * (v + max(OVER_SHARE * v, OVER_MPS)) ** 2
    inside = np.flatnonzero((place >= onset) & (place <= slow) & (energy <= level))
    return float(place[int(inside[0])]) if inside.size else slow
