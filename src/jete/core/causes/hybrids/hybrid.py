"""Hybrid laps: speed over a window with piece causes from the lap, the rest from the reference.

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

from jete.core.arrays import BoolArray, FloatArray, IntArray
from jete.core.causes.hybrids.forced import OWN_PICKUP_M, forced_m
from jete.core.causes.hybrids.slowing import Roll, approach, crossing, slowing_curve
from jete.core.causes.hybrids.source import Piece, Source, left_in_hold
from jete.core.causes.hybrids.stretches import Stretches
from jete.core.causes.kinds import Factor
from jete.core.causes.profiles.cells import Cells
from jete.core.causes.profiles.profile import Profile

FACTORS = tuple(Factor)
# What each part of a window hangs on, in the order of the factors.
SLOWING = (Factor.ARRIVAL, Factor.BRAKE_POINT, Factor.BRAKING, Factor.SLOWEST, Factor.COASTING)
HELD = (Factor.BRAKE_POINT, Factor.SLOWEST, Factor.PICKUP)
DRIVEN = (*HELD, Factor.DIPS, Factor.DRIVE)
# That of 2 m/s: a hybrid never stands still.
LEAST_ENERGY = 2.0
# A slowing is about over at a speed 4 % above its lowest: what a vehicle that is held there loses later says
# nothing of when.
ABOUT_SLOWED = 1.04**2
# A hybrid is never slower than half the lowest E of both laps within this.
FLOOR_REACH_M = 30.0
# A foot feeds the throttle for about so long; until then the drive is of the lap that picks up.
RAMP_S = 0.3
# Longer than this a throttle is not fed but limited by grip.
LONGEST_FEED_S = 1.5
# Of the longer feeding the foot decides so much, grip the rest: 1 and 0.5 found as many waiting feet, 0 fewer.
FEED_SHARE = 0.5


@dataclass(frozen=True, eq=False)
class Hybrids:
    """Times of the hybrids of two laps over all windows.

    Arrays below have one axis of two (0 the reference, 1 the lap) for each factor they
    hang on, in the order given, and as their last the cells (n,) or the corners (c,).
    """

    stretches: Stretches
    profiles: tuple[Profile, Profile]

    @property
    def cells(self) -> Cells:
        """The cells of the windows."""
        return self.stretches.cells

    def times_s(self) -> FloatArray:
        """Time of every hybrid on each stretch of each window, seconds, (2,) * 8 + (c, S) with axes as ``FACTORS``."""
        return (
            _spread(self._before_s(), SLOWING)
            + _spread(self._tail_s(), HELD[:2])
            + _spread(self._as_forced(self._hold_s()), HELD)
            + _spread(self._as_forced(self._drive_s()), DRIVEN)
        )

    def _seconds(self, piece: Piece, energy: FloatArray, inside: BoolArray) -> FloatArray:
        """Time over the cells that are inside a piece on each stretch: E (…, m), m²/s², to (…, c, S)."""
        took = np.where(inside, piece.width_m / np.sqrt(2.0 * np.maximum(energy, piece.floor)), 0.0)
        return self.stretches.sum_up(took, piece.index)

    @cached_property
    def _sources(self) -> tuple[Source, Source]:
        return Source.of(self.profiles[0]), Source.of(self.profiles[1])

    @cached_property
    def _rolls(self) -> tuple[Roll, Roll]:
        return Roll.of(self._sources[0]), Roll.of(self._sources[1])

    @cached_property
    def rolled_off(self) -> FloatArray:
        """What rolling before the brake took from E of the reference and of the lap, m²/s², (2, c)."""
        return np.array([r.loss[:, -1] for r in self._rolls])

    @cached_property
    def brake_shift_m(self) -> FloatArray:
        """How much earlier (−) or later the lap's whole slowing lies, metres, (c,).

        Who slows to a lower speed reaches what the other slows to earlier, or ends later; that
        part is the lowest speed's.  So it is the lesser of the shifts of the comparable
        slowing and of its end, and none where they differ in sign.
        """
        shift = self._comparable_shift_m
        end = self._about_slowed_m[1] - self._about_slowed_m[0]
        return np.where(shift * end > 0.0, np.sign(shift) * np.minimum(np.abs(shift), np.abs(end)), 0.0)

    @cached_property
    def down_shift_m(self) -> FloatArray:
        """How much earlier (−) or later the lap is down to the lowest speed that both reach, metres, (c,).

        Read where the slowing to it ends; or, where a long valley makes that a chance, where both are about there.
        """
        reference, lap = self._sources
        ends = [s.driven_at(s.slowed_m, s.all) for s in (reference, lap)]
        level = np.maximum(*ends)
        reached = [
            np.where(end >= level, s.slowed_m, s.profile.falls_to_m(level))
            for s, end in zip((reference, lap), ends, strict=True)
        ]
        shift, about = reached[1] - reached[0], self._comparable_shift_m
        return np.where(shift * about > 0.0, shift, about)

    @cached_property
    def _comparable_shift_m(self) -> FloatArray:
        """How much earlier (−) or later the lap's slowing lies, as far as both slow alike, metres, (c,)."""
        comparable = self._comparable_m()
        return np.asarray(comparable[1] - comparable[0])

    def shift_made_m(self, lost: FloatArray) -> FloatArray:
        """How much earlier (−) or later the lap's slowing is over because it came to the brake with E less by ``lost``, metres, (c,).

        Read off the slowing of the lap that came faster: where it is as much above its end.
        """
        reference, lap = (
            s.profile.falls_to_m(self._about * s.least + np.abs(lost)) - end
            for s, end in zip(self._sources, self._about_slowed_m, strict=True)
        )
        return np.asarray(np.where(lost > 0.0, reference, -lap))

    @cached_property
    def _about_slowed_m(self) -> FloatArray:
        """Where the slowing of each lap is about over, metres, (2, c)."""
        return np.array([s.profile.falls_to_m(self._about * s.least) for s in self._sources])

    @cached_property
    def _about(self) -> FloatArray:
        """The share of its lowest E at which a slowing is about over, (c,); at all of it where a lap rolls in and slows to the end."""
        return np.where(np.maximum(*(s.rolls_in for s in self._sources)) > 0.0, 1.0, ABOUT_SLOWED)

    def _comparable_m(self) -> FloatArray:
        """Where each lap has slowed to what both reach, (2, c)."""
        out = np.array([s.slowed_m for s in self._sources])
        for k, (low, high) in enumerate((self._sources, self._sources[::-1])):
            ended = np.where(low.rolls_in, high.least, high.driven_at(high.slowed_m, high.all))
            level = np.maximum(ended, self._about * high.least)
            slower = low.least < high.least if k == 0 else low.least <= high.least
            slowed = low.profile.falls_to_m(self._about * low.least)
            out[k] = np.where(slower, low.profile.falls_to_m(level), slowed)
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
        moved = self._forced_m * (np.arange(2.0)[:, None] - np.arange(2.0))[..., None]
        return np.maximum((pickup + moved)[:, None], self._slowed[:, :, None])

    def _as_forced(self, table: FloatArray) -> FloatArray:
        """A table by brake point, slowest, pick-up, …, with a pick-up that is later only for later braking counted as braking.

        Who brakes 10 m later and slows as hard is slow 10 m later, and can only then pick up:
        those 10 m are no late throttle.  A pick-up 13 m later has 3 m of its own, and stays.
        """
        reference, lap = self._sources
        forced = self._forced_m
        all_of_it = (forced > 0.0) & (lap.pickup_m - reference.pickup_m - forced < OWN_PICKUP_M)
        out = table.copy()
        for k in (0, 1):
            out[k, :, 1 - k][..., all_of_it, :] = table[k, :, k][..., all_of_it, :]
        return out

    @cached_property
    def _forced_m(self) -> FloatArray:
        return forced_m(*self._sources)

    def _cells_from(self, low_m: FloatArray, high_m: FloatArray) -> Piece:
        """The cells between two places of each corner, (c,) both."""
        d, of = self.cells.middles_m, self.cells.of
        wanted = (d >= low_m[of]) & (d <= high_m[of])
        wanted[self.cells.first] = wanted[self.cells.first + 1] = True
        index = np.flatnonzero(wanted)
        first = np.searchsorted(index, self.cells.first)
        width = self.cells.width_m[of[index]]
        return Piece(d[index], of[index], first, width, self._floor[index], index)

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
        piece = self._cells_from(np.full_like(self.cells.width_m, -np.inf), self._both_slow_m.max(axis=0))
        inside = piece.d <= self._both_slow_m[:, piece.of]
        return self._seconds(piece, self._meet(piece), inside[:, None, None, None])

    def _meet(self, piece: Piece) -> FloatArray:
        """The lower of approach and slowing, with the roll between lift and brake point."""
        driven = self._driven[:, piece.index]
        runs_on = np.array([approach(s, piece, e) for s, e in zip(self._sources, driven, strict=True)])
        runs_on = runs_on[:, None, None, None, None]
        slowing = self._slowing(piece)
        rolls = self._rolls
        if not any(r.length_m.any() for r in rolls):
            return np.asarray(np.minimum(runs_on, slowing))
        met = crossing(piece, runs_on - self.rolled_off[:, piece.of], slowing, self._both_slow_m[:, None, None, None])
        lower = np.empty((2, *slowing.shape))
        for c, roll in enumerate(rolls):
            since = piece.d - (met[..., c, :] - roll.length_m)[..., piece.of]
            rolled = runs_on[..., 0, :] - roll.lost_at(since, piece.of)
            lower[..., c, :] = np.minimum(rolled, slowing[..., c, :])
        return lower

    def _slowing(self, piece: Piece) -> FloatArray:
        """E of the slowing by brake point, braking, slowest and coasting, (2, 2, 2, 2, m)."""
        out = np.empty((2, 2, 2, 2, len(piece.of)))
        back = self._both_slow_m[:, piece.of] - piece.d
        ends = zip(self._sources, self._both_slow_m, strict=True)
        reached = np.array([s.driven_at(end, s.all) for s, end in ends])
        for b, c in np.ndindex(2, 2):
            coasting, braking = ((self._sources[i], self._both_slow_m[i]) for i in (c, b))
            out[:, b, :, c] = slowing_curve(back[:, None], piece.of, coasting, braking, reached - reached[c])
        return out

    def _tail_s(self) -> FloatArray:
        """Time from where both have slowed to the end of the own slowing: brake point, slowest."""
        piece = self._cells_from(self._both_slow_m.min(axis=0), self._slowed.max(axis=(0, 1)))
        moved = self._own_shift_m[:, piece.of]
        energy = np.stack(
            [
                s.driven_at(piece.d - moved + own[piece.of], piece.of)
                for s, own in zip(self._sources, self._own_shift_m, strict=True)
            ],
            axis=1,
        )
        inside = (piece.d > self._both_slow_m[:, None, piece.of]) & (piece.d <= self._slowed[..., piece.of])
        return self._seconds(piece, energy, inside)

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
        piece = self._cells_from(self._slowed.min(axis=(0, 1)), self._start.max(axis=(0, 1, 2)))
        of, slowed = piece.of, self._slowed
        energy = np.empty((2, 2, 2, len(of)))
        for k, s in enumerate(self._sources):
            length = np.maximum(self._start[:, :, k] - slowed, 1e-6)
            share = np.clip((piece.d - slowed[..., of]) / length[..., of], 0.0, 1.0)
            places = s.slowed_m[of] + share * (s.pickup_m - s.slowed_m)[of]
            energy[:, :, k] = s.driven_at(places, of) + self._shifts[k][:, of] * left_in_hold(s, places, of)
        return self._seconds(piece, energy, (piece.d > slowed[:, :, None, of]) & (piece.d <= self._start[..., of]))

    def _drive_s(self) -> FloatArray:
        """Time after the pick-up: brake point, slowest, pick-up, dips and drive."""
        start = self._start
        piece = self._cells_from(start.min(axis=(0, 1, 2)), np.full_like(self.cells.width_m, np.inf))
        since = piece.d - start[..., piece.of]
        driven = self._driven_on(piece, since)
        dips = np.stack([s.deficit_at(since + s.pickup_m[piece.of], piece.of) for s in self._sources], axis=-2)
        energy = driven[..., None, :, :] - dips[..., :, None, :]
        return self._seconds(piece, energy, (since > 0.0)[..., None, None, :])

    def _driven_on(self, piece: Piece, since: FloatArray) -> FloatArray:
        """E after the pick-up without dips: brake point, slowest, pick-up and drive, (2, 2, 2, 2, m).

        Until both laps have fed the throttle the foot decides: it goes on as the lap that gives the
        drive does so many metres after its own pick-up.  From there on the road decides: as that
        lap does at the same place, since a bend that opens gives more grip.  What E is above or
        below dies out.
        """
        start, corners = self._start, self._sources[0].all
        both = self._both_drive_m()
        out = np.empty((2, 2, 2, 2, len(piece.d)))
        first = self._picked_up(since, piece.of)
        reached = self._picked_up(both - start, corners)
        for q, s in enumerate(self._sources):
            missing = (reached - s.smooth_at(both, corners)) / s.fade_at(both, corners)
            later = s.smooth_at(piece.d, piece.of) + missing[..., piece.of] * s.fade_at(piece.d, piece.of)
            out[:, :, :, q] = np.where(piece.d > both[..., piece.of], later, first)
        return out

    def _both_drive_m(self) -> FloatArray:
        """The place from which both laps have fed the throttle, metres, by brake point, slowest and pick-up, (2, 2, 2, c)."""
        paces = [np.sqrt(2.0 * s.smooth_at(s.pickup_m, s.all)) for s in self._sources]
        ramps = [
            np.clip(FEED_SHARE * (s.fed_m - s.pickup_m), RAMP_S * v, LONGEST_FEED_S * v)
            for s, v in zip(self._sources, paces, strict=True)
        ]
        ramp = np.maximum(*ramps)
        last = np.maximum(*(s.pickup_m for s in self._sources)) + ramp
        return np.asarray(np.maximum(last, self._start + ramp))

    def _picked_up(self, since: FloatArray, of: IntArray) -> FloatArray:
        """E ``since`` (2, 2, 2, m) metres after the pick-up as its lap drives, shifted with the lowest E."""
        out = np.empty_like(since)
        for k, s in enumerate(self._sources):
            place = since[:, :, k] + s.pickup_m[of]
            shift = self._shifts[k] * left_in_hold(s, s.pickup_m, s.all) / s.fade_at(s.pickup_m, s.all)
            out[:, :, k] = s.smooth_at(place, of) + shift[:, of] * s.fade_at(place, of)
        return out


def _spread(table: FloatArray, factors: tuple[Factor, ...]) -> FloatArray:
    """A table over some of the factors, corners and stretches, laid out to add to one over all factors."""
    return table.reshape([2 if factor in factors else 1 for factor in FACTORS] + [*table.shape[-2:]])


def _steps_to(reach: int) -> list[int]:
    """Steps that add up to a reach; each leaves no hole between what the ones before it cover."""
    steps: list[int] = []
    while sum(steps) < reach:
        steps.append(min(2 * sum(steps) + 1, reach - sum(steps)))
    return steps
