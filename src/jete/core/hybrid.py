"""Hybrid laps: speed over a window with some causes from the lap, the rest from the reference.

A hybrid is rebuilt between the marks and stays possible for a point mass.  Slowing is
laid backwards from the place where it ends, so a brake point follows from where the
approach meets it; the drive out is laid forwards from the pick-up.  All factors from one
lap give that lap back.

Each piece of a hybrid hangs on some of the factors only, so the time of all 2⁸ hybrids is
the sum of four small tables: 32 slowings, 4 ends of the slowing, 8 holds, 32 drives; and
all corners of a lap are worked out at once.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from jete.core.cells import Cells
from jete.core.lap import BoolArray, FloatArray, IntArray
from jete.core.profile import GENTLEST_MPS2, Profile

FACTORS = ("arrival", "brake_point", "braking", "slowest", "coasting", "pickup", "dips", "drive")
LEAST_ENERGY = 2.0
FLOOR_REACH_M = 30.0
ROLL_M = 2.0
ROLL_POINTS = 12
RAMP_S = 0.3
HELD_RISE = 1.25


@dataclass(frozen=True, eq=False)
class _Source:
    """One lap's profile with its anchors as arrays over the corners, (c,)."""

    profile: Profile
    lift_m: FloatArray
    brake_m: FloatArray
    released_m: FloatArray
    slowed_m: FloatArray
    pickup_m: FloatArray
    least: FloatArray
    braking_mps2: FloatArray
    rolls_in: FloatArray

    @classmethod
    def of(cls, profile: Profile) -> _Source:
        names = list(cls.__dataclass_fields__)[1:]
        return cls(profile, *(profile.each(n) for n in names))

    @cached_property
    def all(self) -> IntArray:
        """Every corner, (c,)."""
        return np.arange(len(self.least))

    def driven_at(self, places_m: FloatArray, of: IntArray) -> FloatArray:
        """E as driven at places (…, m) of the corners ``of`` (m,)."""
        return self.profile.grid.look_up(self.profile.driven, places_m, of)

    def smooth_at(self, places_m: FloatArray, of: IntArray) -> FloatArray:
        """E without the dips."""
        return self.profile.grid.look_up(self.profile.energy, places_m, of)

    def deficit_at(self, places_m: FloatArray, of: IntArray) -> FloatArray:
        """What the dips took from E."""
        return self.profile.grid.look_up(self.profile.deficit, places_m, of)

    def fade_at(self, places_m: FloatArray, of: IntArray) -> FloatArray:
        """Share of a difference in E that is left, relative within a corner."""
        return self.profile.grid.look_up(self.profile.fade, places_m, of)

    def fade_back_at(self, places_m: FloatArray, of: IntArray) -> FloatArray:
        """The same backwards along the slowing."""
        return self.profile.grid.look_up(self.profile.fade_back, places_m, of)


@dataclass(frozen=True, eq=False)
class _Some:
    """Some of the cells, at least the first two of each corner, m in all.

    ``of`` (m,) the corner of each; ``first`` (c,) the first of each corner; ``floor`` (m,)
    the E that no hybrid goes below.
    """

    d: FloatArray
    of: IntArray
    first: IntArray
    width_m: FloatArray
    floor: FloatArray
    index: IntArray

    def seconds(self, energy: FloatArray, inside: BoolArray) -> FloatArray:
        """Time over the cells that are inside a piece, (…, m) to (…, c)."""
        took = np.where(inside, self.width_m / np.sqrt(2.0 * np.maximum(energy, self.floor)), 0.0)
        return np.add.reduceat(took, self.first, axis=-1)


@dataclass(frozen=True, eq=False)
class Hybrids:
    """Times of the hybrids of two laps over all windows.

    Arrays below have one axis of two (0 the reference, 1 the lap) for each factor they
    hang on, in the order given, and as their last the cells (n,) or the corners (c,).
    """

    cells: Cells
    profiles: tuple[Profile, Profile]

    def times_s(self) -> FloatArray:
        """Time over each window of every hybrid, seconds, (2,) * 8 + (c,) with axes as ``FACTORS``."""
        a, p, b, s, c, k, x, d = range(8)
        return (
            _spread(self._before_s(), (a, p, b, s, c))
            + _spread(self._tail_s(), (p, s))
            + _spread(self._hold_s(), (p, s, k))
            + _spread(self._drive_s(), (p, s, k, x, d))
        )

    @cached_property
    def _sources(self) -> tuple[_Source, _Source]:
        return _Source.of(self.profiles[0]), _Source.of(self.profiles[1])

    @cached_property
    def brake_shift_m(self) -> FloatArray:
        """How much earlier (−) or later the lap's whole slowing lies, metres, (c,).

        Who slows to a lower speed reaches what the other slows to earlier, or ends later; that
        part is the lowest speed's.  So it is the lesser of the shifts of the comparable
        slowing and of its end, and none where they differ in sign.
        """
        comparable = self._comparable_m()
        shift = comparable[1] - comparable[0]
        end = self._sources[1].slowed_m - self._sources[0].slowed_m
        return np.where(shift * end > 0.0, np.sign(shift) * np.minimum(np.abs(shift), np.abs(end)), 0.0)

    def _comparable_m(self) -> FloatArray:
        """Where each lap has slowed to what both reach, (2, c)."""
        out = np.array([s.slowed_m for s in self._sources])
        for k, (low, high) in enumerate((self._sources, self._sources[::-1])):
            level = np.where(low.rolls_in, high.least, high.driven_at(high.slowed_m, high.all))
            slower = low.least < high.least if k == 0 else low.least <= high.least
            out[k] = np.where(slower, low.profile.falls_to_m(level), low.slowed_m)
        return out

    @cached_property
    def _own_shift_m(self) -> FloatArray:
        """Shift of each source's own slowing against the reference's, (2, c)."""
        return np.stack([np.zeros_like(self.brake_shift_m), self.brake_shift_m])

    @cached_property
    def _both_slow_m(self) -> FloatArray:
        """Up to where both laps slow, by source on its own slowing, (2, c).

        Up to there the slowing of both is compared place by place; beyond it, to the end of
        the own one, it is the lowest speed's.
        """
        ends = np.array([s.slowed_m for s in self._sources]) - self._own_shift_m
        return np.asarray(ends.min(axis=0) + self._own_shift_m)

    @cached_property
    def _slowed(self) -> FloatArray:
        """End of the slowing by brake point and slowest, (2, 2, c)."""
        ends = np.array([s.slowed_m for s in self._sources]) - self._own_shift_m
        return np.asarray(ends + self._own_shift_m[:, None])

    @cached_property
    def _start(self) -> FloatArray:
        """Start of the drive by brake point, slowest and pick-up, (2, 2, 2, c)."""
        pickup = np.array([s.pickup_m for s in self._sources])
        moved = self._forced_m() * (np.arange(2.0)[:, None] - np.arange(2.0))[..., None]
        return np.maximum((pickup + moved)[:, None], self._slowed[:, :, None])

    def _forced_m(self) -> FloatArray:
        """How much later the lap must pick up only because its slowing ends later, metres, (c,).

        That part of a late pick-up is the brake point's, not the throttle's.
        """
        reference, lap = self._sources
        holds = np.minimum(reference.pickup_m - reference.slowed_m, lap.pickup_m - lap.slowed_m)
        needed = lap.slowed_m + np.maximum(holds, 0.0) - reference.pickup_m
        return np.minimum(np.maximum(needed, 0.0), np.maximum(lap.pickup_m - reference.pickup_m, 0.0))

    def _cells_from(self, low_m: FloatArray, high_m: FloatArray) -> _Some:
        """The cells between two places of each corner, (c,) both."""
        d, of = self.cells.middles_m, self.cells.of
        wanted = (d >= low_m[of]) & (d <= high_m[of])
        wanted[self.cells.first] = wanted[self.cells.first + 1] = True
        index = np.flatnonzero(wanted)
        first = np.searchsorted(index, self.cells.first)
        width = self.cells.width_m[of[index]]
        return _Some(d[index], of[index], first, width, self._floor[index], index)

    @cached_property
    def _floor(self) -> FloatArray:
        """E that no hybrid goes below, (n,): half the least of both laps within about 30 m."""
        lowest = np.minimum(*self._driven)
        for reach in _steps_to(int(FLOOR_REACH_M / float(self.cells.width_m.mean()))):
            lower = lowest.copy()
            lower[reach:] = np.minimum(lower[reach:], lowest[:-reach])
            lower[:-reach] = np.minimum(lower[:-reach], lowest[reach:])
            lowest = lower
        return np.asarray(np.maximum(0.5 * lowest, LEAST_ENERGY))

    @cached_property
    def _driven(self) -> FloatArray:
        """E of both laps as driven, (2, n)."""
        return np.array([s.driven_at(self.cells.middles_m, self.cells.of) for s in self._sources])

    def _before_s(self) -> FloatArray:
        """Time as long as both slow: arrival, brake point, braking, slowest, coasting."""
        some = self._cells_from(np.full_like(self.cells.width_m, -np.inf), self._both_slow_m.max(axis=0))
        inside = some.d <= self._both_slow_m[:, some.of]
        return some.seconds(self._meet(some), inside[:, None, None, None])

    def _meet(self, some: _Some) -> FloatArray:
        """The lower of approach and slowing, with the roll between lift and brake point."""
        driven = self._driven[:, some.index]
        approach = np.array([_approach(s, some, e) for s, e in zip(self._sources, driven, strict=True)])
        approach = approach[:, None, None, None, None]
        slowing = self._slowing(some)
        rolls = [_Roll.of(s) for s in self._sources]
        if not any(r.length_m.any() for r in rolls):
            return np.asarray(np.minimum(approach, slowing))
        losses = np.array([r.loss[:, -1] for r in rolls])
        met = _crossing(some, approach - losses[:, some.of], slowing, self._both_slow_m[:, None, None, None])
        lower = np.empty((2, *slowing.shape))
        for c, roll in enumerate(rolls):
            since = some.d - (met[..., c, :] - roll.length_m)[..., some.of]
            rolled = approach[..., 0, :] - roll.lost_at(since, some.of)
            lower[..., c, :] = np.minimum(rolled, slowing[..., c, :])
        return lower

    def _slowing(self, some: _Some) -> FloatArray:
        """E of the slowing by brake point, braking, slowest and coasting, (2, 2, 2, 2, m)."""
        out = np.empty((2, 2, 2, 2, len(some.of)))
        back = self._both_slow_m[:, some.of] - some.d
        ends = zip(self._sources, self._both_slow_m, strict=True)
        reached = np.array([s.driven_at(end, s.all) for s, end in ends])
        for b, c in np.ndindex(2, 2):
            coasting, braking = ((self._sources[i], self._both_slow_m[i]) for i in (c, b))
            out[:, b, :, c] = _slowing_curve(back[:, None], some.of, coasting, braking, reached - reached[c])
        return out

    def _tail_s(self) -> FloatArray:
        """Time from where both have slowed to the end of the own slowing: brake point, slowest."""
        some = self._cells_from(self._both_slow_m.min(axis=0), self._slowed.max(axis=(0, 1)))
        moved = self._own_shift_m[:, some.of]
        energy = np.stack(
            [
                s.driven_at(some.d - moved + own[some.of], some.of)
                for s, own in zip(self._sources, self._own_shift_m, strict=True)
            ],
            axis=1,
        )
        inside = (some.d > self._both_slow_m[:, None, some.of]) & (some.d <= self._slowed[..., some.of])
        return some.seconds(energy, inside)

    @cached_property
    def _shifts(self) -> FloatArray:
        """What the lowest E of either lap is above that of the source, (2 sources, 2 slowest, c)."""
        least = np.array([s.least for s in self._sources])
        return np.asarray(least - least[:, None])

    def _hold_s(self) -> FloatArray:
        """Time from the end of the slowing to the pick-up: brake point, slowest, pick-up.

        Another lowest E shifts it; where the source speeds up in between (a second apex),
        the shift dies out as it does in a drive.
        """
        some = self._cells_from(self._slowed.min(axis=(0, 1)), self._start.max(axis=(0, 1, 2)))
        of, slowed = some.of, self._slowed
        energy = np.empty((2, 2, 2, len(of)))
        for k, s in enumerate(self._sources):
            length = np.maximum(self._start[:, :, k] - slowed, 1e-6)
            share = np.clip((some.d - slowed[..., of]) / length[..., of], 0.0, 1.0)
            places = s.slowed_m[of] + share * (s.pickup_m - s.slowed_m)[of]
            energy[:, :, k] = s.driven_at(places, of) + self._shifts[k][:, of] * _left_in_hold(s, places, of)
        return some.seconds(energy, (some.d > slowed[:, :, None, of]) & (some.d <= self._start[..., of]))

    def _held(self) -> FloatArray:
        """E at the pick-up by slowest and pick-up, (2, 2, c)."""
        out = [
            s.driven_at(s.pickup_m, s.all) + shift * _left_in_hold(s, s.pickup_m, s.all)
            for s, shift in zip(self._sources, self._shifts, strict=True)
        ]
        return np.stack(out, axis=1)

    def _drive_s(self) -> FloatArray:
        """Time after the pick-up: brake point, slowest, pick-up, dips and drive."""
        start, held = self._start, self._held()
        some = self._cells_from(start.min(axis=(0, 1, 2)), np.full_like(self.cells.width_m, np.inf))
        drive = np.stack([_drive_curve(s, some, start, held) for s in self._sources], axis=-2)
        since = some.d - start[..., some.of]
        dips = np.stack([s.deficit_at(since + s.pickup_m[some.of], some.of) for s in self._sources], axis=-2)
        driven = drive[..., None, :, :] - dips[..., :, None, :]
        return some.seconds(driven, (since > 0.0)[..., None, None, :])


def _spread(table: FloatArray, axes: tuple[int, ...]) -> FloatArray:
    """A table over some of the factors and the corners, laid out to add to one over all factors."""
    return table.reshape([2 if factor in axes else 1 for factor in range(len(FACTORS))] + [table.shape[-1]])


def _steps_to(reach: int) -> list[int]:
    """Steps that add up to a reach; each leaves no hole between what the ones before it cover."""
    steps: list[int] = []
    while sum(steps) < reach:
        steps.append(min(2 * sum(steps) + 1, reach - sum(steps)))
    return steps


def _left_in_hold(source: _Source, places: FloatArray, of: IntArray) -> FloatArray:
    """Share of a shift of E that is left at places of a hold; all of it while the speed is held."""
    grid, energy = source.profile.grid, source.profile.energy
    inside = (grid.at_m >= source.slowed_m[grid.of]) & (grid.at_m <= source.pickup_m[grid.of])
    top = np.maximum.reduceat(np.where(inside, energy, 0.0), grid.first)
    fades = top >= HELD_RISE * source.least
    begun = source.fade_at(source.slowed_m, source.all)
    return np.where(fades[of], source.fade_at(places, of) / begun[of], 1.0)


def _approach(source: _Source, some: _Some, driven: FloatArray) -> FloatArray:
    """E of the approach, (m,), run on past the lift as if it had not come."""
    of = some.of
    before, near, at_lift = source.driven_at(source.lift_m + np.array([[-18.0], [-3.0], [0.0]]), source.all)
    slope = np.maximum(near - before, 0.0) / 15.0
    past = some.d - source.lift_m[of]
    return np.where(past <= 0.0, driven, at_lift[of] + slope[of] * past)


def _crossing(some: _Some, approach: FloatArray, slowing: FloatArray, common_m: FloatArray) -> FloatArray:
    """Where the approach meets the slowing, between the middles of the cells, (…, m) to (…, c)."""
    m = len(some.d)
    over = slowing - approach
    hit = np.where((over <= 0.0) & (some.d <= common_m[..., some.of]), np.arange(m), m)
    k = np.minimum.reduceat(hit, some.first, axis=-1)
    inside = np.clip(k, some.first + 1, np.append(some.first[1:], m) - 1)
    before = np.take_along_axis(over, inside - 1, axis=-1)
    after = -np.take_along_axis(over, inside, axis=-1)
    share = np.clip(before / np.maximum(before + after, 1e-9), 0.0, 1.0)
    return np.where(k < m, some.d[inside - 1] + share * some.width_m[inside], common_m)


def _drive_curve(source: _Source, some: _Some, start: FloatArray, held: FloatArray) -> FloatArray:
    """E of a source's drive from every ``start`` (2, 2, 2, c) with E ``held`` (2, 2, c), (2, 2, 2, m).

    The source's ramp is laid on from there.  After an earlier pick-up than its own the
    whole drive is; after a later one the drive is that of each place, since a bend that
    opens gives more, and what is missing when the ramp ends fades.
    """
    d, of, corners = some.d, some.of, source.all
    own = source.smooth_at(source.pickup_m, corners)
    ramp = RAMP_S * np.sqrt(2.0 * own)
    since = d - (start - source.pickup_m)[..., of]
    share = (held - own) / source.fade_at(source.pickup_m, corners)
    laid = source.smooth_at(since, of) + share[..., of] * source.fade_at(since, of)
    reached = source.smooth_at(source.pickup_m + ramp, corners) - source.smooth_at(start + ramp, corners)
    missing = (held - own + reached) / source.fade_at(start + ramp, corners)
    later = (start > source.pickup_m)[..., of] & (d > (start + ramp)[..., of])
    each_place = source.smooth_at(d, of) + missing[..., of] * source.fade_at(d, of)
    return np.where(later, each_place, laid)


def _slowing_curve(
    back: FloatArray,
    of: IntArray,
    coasting: tuple[_Source, FloatArray],
    braking: tuple[_Source, FloatArray],
    raised: FloatArray,
) -> FloatArray:
    """E ``back`` (2, 1, m) metres before where both have slowed: coasting, then braking before it.

    Both sources come with that place on their own slowing, (c,).

    The last metres, in which either lap is off the brake, are of the coasting source, be it
    with its brake on or off; the braking before them is of the other, at that place.  What E
    is above a source's own there (``raised`` (2, c), by slowest), or where the two meet,
    dies out backwards, since the bend leaves more grip for braking to who is slower in it.
    """
    (coast, coast_end), (brake, brake_end) = coasting, braking
    rolled = np.maximum(np.maximum(coast_end - coast.released_m, brake_end - brake.released_m), 0.0)
    rolled = np.minimum(rolled, np.minimum(coast_end - coast.brake_m, brake_end - brake.brake_m))
    rolled = np.maximum(rolled, 0.0)
    place = coast_end[of] - np.clip(back, 0.0, rolled[of])
    base = coast.fade_back_at(coast_end, coast.all)
    tail = coast.driven_at(place, of) + raised[:, of] * (coast.fade_back_at(place, of) / base[of])
    end = brake_end - rolled
    length = np.maximum(end - brake.brake_m, 0.0)
    at = end[of] - np.clip(back - rolled[of], 0.0, length[of])
    met = coast_end - rolled
    there = coast.driven_at(met, coast.all) + raised * (coast.fade_back_at(met, coast.all) / base)
    share = (there - brake.driven_at(end, brake.all)) / brake.fade_back_at(end, brake.all)
    body = brake.driven_at(at, of) + share[:, of] * brake.fade_back_at(at, of)
    steep = np.maximum(np.maximum(brake.braking_mps2, coast.braking_mps2), GENTLEST_MPS2)
    beyond = np.maximum(back - (rolled + length)[of], 0.0) * steep[of]
    return np.where(back <= rolled[of], tail, body + beyond)


@dataclass(frozen=True, eq=False)
class _Roll:
    """The rolls of one lap between lift and brake point: lengths (c,), and what they took from E.

    ``loss`` (c, 12) over even shares of the length, never falling; short rolls are none.
    """

    length_m: FloatArray
    loss: FloatArray

    @classmethod
    def of(cls, source: _Source) -> _Roll:
        length = source.brake_m - source.lift_m
        length = np.where(length > ROLL_M, length, 0.0)
        shares = np.linspace(0.0, 1.0, ROLL_POINTS)[:, None]
        rolled = source.driven_at(source.lift_m + shares * length, source.all)
        before, near = source.driven_at(source.lift_m + np.array([[-18.0], [-3.0]]), source.all)
        approach = rolled[0] + np.maximum(near - before, 0.0) / 15.0 * shares * length
        return cls(length, np.maximum.accumulate(np.maximum(approach - rolled, 0.0), axis=0).T)

    def lost_at(self, since_m: FloatArray, of: IntArray) -> FloatArray:
        """What is lost ``since_m`` (…, n) metres after the lift of the corners ``of`` (n,)."""
        share = np.clip(since_m / np.maximum(self.length_m, 1e-6)[of], 0.0, 1.0)
        places = np.arange(len(self.length_m))[:, None] * 2.0 + np.linspace(0.0, 1.0, ROLL_POINTS)
        return np.interp(share + 2.0 * of, places.ravel(), self.loss.ravel())
