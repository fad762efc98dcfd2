"""What is at stake in a corner: what a little more speed, or a later brake, is worth in seconds, and what kind of corner that makes it.

A kilometre an hour more at a corner's exit is kinetic energy that the vehicle carries down the
straight until it brakes again.  Drag and falling force eat it up on the way:

    dδ/ds = δ · da/dE      δ = v δv, a the acceleration, E = v²/2
    time gained = ∫ δ / v³ ds

(a small change of v over ds saves δv ds / v²; Milliken & Milliken 1995, Race Car Vehicle
Dynamics, § 2.3, on v² as the quantity that a force changes over distance.)
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import numpy as np

from jete.core.motion.pace import SLOWEST_MPS

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner
    from jete.core.axis.road.road import Road
    from jete.core.driving.marks import Marks
    from jete.core.driving.passage import Passage
    from jete.core.driving.vehicle import Drive

KMH_MPS = 1.0 / 3.6
STEP_M = 1.0
# Flat out for so long and so far a vehicle is on a straight; less is the way from one bend to the next.
STRAIGHT_S, STRAIGHT_M = 3.0, 150.0

CornerKind = Literal["entry", "exit", "both", "link", "flat"]


@dataclass(frozen=True, kw_only=True)
class Stakes:
    """What a corner is and what it is worth, by one lap.

    Attributes:
        kind: ``exit`` before a straight, ``entry`` behind one, ``both``, ``link`` of a sequence, ``flat``.
        straight_m: flat out after it, up to where the lap slows again, over the line too.
        straight_s: the same in seconds.
        before_m: flat out before it.
        exit_kmh_worth_s: seconds that 1 km/h more at its exit gains to the end of the straight.
        slow_kmh_worth_s: seconds that 1 km/h more at its slow point gains, the straight included; 0 where nobody slows.
        brake_m_worth_s: seconds that braking 1 m later, as hard, gains; 0 where nobody brakes.
    """

    kind: CornerKind
    straight_m: float
    straight_s: float
    before_m: float
    exit_kmh_worth_s: float
    slow_kmh_worth_s: float
    brake_m_worth_s: float


@dataclass(frozen=True, eq=False)
class _Lap:
    """A lap's speed at even places, twice round: a straight goes on over the line."""

    place_m: FloatArray
    speed_mps: FloatArray
    fade_1pm: FloatArray
    length_m: float

    def mean_gain_s(self, from_m: float, to_m: float, energy: FloatArray) -> float:
        """∫ δ/v³ ds for δ (k,) at the places between two."""
        v = self.speed_mps[self.inside(from_m, to_m)]
        return float(np.sum(energy / v**3) * STEP_M)

    def inside(self, from_m: float, to_m: float) -> slice:
        lo, hi = np.searchsorted(self.place_m, [from_m, to_m])
        return slice(int(lo), max(int(hi), int(lo) + 1))

    def speed_at(self, place_m: float) -> float:
        return float(np.interp(place_m, self.place_m, self.speed_mps))

    def faded(self, from_m: float, to_m: float) -> FloatArray:
        """What is left of a difference of v²/2 on the way, share, (k,)."""
        part = self.fade_1pm[self.inside(from_m, to_m)]
        return np.asarray(np.exp(np.concatenate([[0.0], np.cumsum(part[:-1] * STEP_M)])))


def stakes_of(
    passage: Passage, road: Road, drive: Drive, corners: Sequence[Corner], marks: Sequence[Marks]
) -> list[Stakes]:
    """What each corner is worth, by a lap on its own axis.

    Args:
        passage: the reference.
        road: its road.
        drive: what its vehicle does on full throttle.
        corners: in order.
        marks: of the reference, one a corner.
    """
    lap = _lap_of(passage, road, drive)
    slows = [m.slowing_m for m in marks]
    return [_stakes(lap, corners, marks, slows, k) for k in range(len(corners))]


def _lap_of(passage: Passage, road: Road, drive: Drive) -> _Lap:
    once = np.arange(0.0, road.length_m, STEP_M)
    speed = np.maximum(np.interp(once, passage.alignment.place_m, passage.motion.quiet_mps), SLOWEST_MPS)
    place = np.concatenate([once - road.length_m, once, once + road.length_m, once + 2.0 * road.length_m])
    v = np.tile(speed, 4)
    full = np.interp(passage.time_at(once), passage.throttle.time_s, passage.throttle.value) > 0.9
    air = -2.0 * drive.drag_1pm * np.ones_like(v)
    fade = np.where(np.tile(full, 4), drive.fade_1pm(v), air)
    return _Lap(place, v, fade, road.length_m)


def _stakes(
    lap: _Lap, corners: Sequence[Corner], marks: Sequence[Marks], slows: Sequence[float | None], k: int
) -> Stakes:
    corner, mark = corners[k], marks[k]
    begins, ends = _flat_from(corner, mark, slows[k]), _next_slowing(slows, k, lap.length_m)
    before = _flat_before(corners, marks, slows, k, lap.length_m)
    here = mark.slowing_m if mark.slowing_m is not None else corner.start_m
    straight_s = _seconds(lap, begins, ends)
    kind = _kind(slows[k] is None, _is_straight(lap, before, here), _is_straight(lap, begins, ends))
    return Stakes(
        kind=kind, straight_m=max(ends - begins, 0.0), straight_s=straight_s, before_m=max(here - before, 0.0),
        exit_kmh_worth_s=_exit_worth_s(lap, corner.end_m, ends), slow_kmh_worth_s=_slow_worth_s(lap, mark, ends), brake_m_worth_s=_brake_worth_s(lap, mark),
    )  # fmt: skip


def _kind(flat: bool, before: bool, after: bool) -> CornerKind:  # noqa: FBT001 - three yes or no of one corner
    if flat:
        return "flat"
    if before and after:
        return "both"
    return "exit" if after else "entry" if before else "link"


def _flat_from(corner: Corner, mark: Marks, slowing_m: float | None) -> float:
    """Where the lap is flat out after a corner."""
    if slowing_m is None:
        return corner.start_m
    return mark.full_throttle_m if mark.full_throttle_m is not None else corner.end_m


def _next_slowing(slows: Sequence[float | None], k: int, length_m: float) -> float:
    """Where the lap slows next, over the line where need be."""
    for step in range(1, len(slows) + 1):
        at = slows[(k + step) % len(slows)]
        if at is not None:
            return at + length_m * ((k + step) // len(slows))
    return length_m


def _flat_before(
    corners: Sequence[Corner], marks: Sequence[Marks], slows: Sequence[float | None], k: int, length_m: float
) -> float:
    """Where the lap went flat out on its way to a corner."""
    for step in range(1, len(slows) + 1):
        j = (k - step) % len(slows)
        if slows[j] is not None:
            return _flat_from(corners[j], marks[j], slows[j]) - (length_m if k - step < 0 else 0.0)
    return 0.0


def _is_straight(lap: _Lap, from_m: float, to_m: float) -> bool:
    return to_m - from_m >= STRAIGHT_M and _seconds(lap, from_m, to_m) >= STRAIGHT_S


def _seconds(lap: _Lap, from_m: float, to_m: float) -> float:
    if to_m <= from_m:
        return 0.0
    return float(np.sum(STEP_M / lap.speed_mps[lap.inside(from_m, to_m)]))


def _exit_worth_s(lap: _Lap, from_m: float, to_m: float) -> float:
    if to_m <= from_m:
        return 0.0
    energy = lap.speed_at(from_m) * KMH_MPS * lap.faded(from_m, to_m)
    return lap.mean_gain_s(from_m, to_m, energy)


def _slow_worth_s(lap: _Lap, mark: Marks, to_m: float) -> float:
    """Braked as hard and as long, but less: the energy that is not braked away is there from the brake point on."""
    begin = mark.slowing_m
    if begin is None:
        return 0.0
    energy = lap.speed_at(mark.slow_point_m) * KMH_MPS
    share = (lap.place_m[lap.inside(begin, mark.slow_point_m)] - begin) / max(mark.slow_point_m - begin, STEP_M)
    braking = lap.mean_gain_s(begin, mark.slow_point_m, energy * np.clip(share, 0.0, 1.0))
    after = lap.mean_gain_s(mark.slow_point_m, to_m, energy * lap.faded(mark.slow_point_m, to_m))
    return braking + after


def _brake_worth_s(lap: _Lap, mark: Marks) -> float:
    """The braking a metre later: a metre more at the speed before it, a metre less at that after it."""
    if mark.brake_on_m is None or mark.brake_off_m is None:
        return 0.0
    return max(1.0 / lap.speed_at(mark.brake_off_m) - 1.0 / lap.speed_at(mark.brake_on_m), 0.0)
