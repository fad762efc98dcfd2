"""Hybrid laps: speed over a window with some causes from the lap, the rest from the reference.

A hybrid is rebuilt between the marks and stays possible for a point mass.  Slowing is
laid backwards from the place where it ends, so a brake point follows from where the
approach meets it; the drive out is laid forwards from the pick-up.  All factors from one
lap give that lap back.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from jete.core.lap import FloatArray, IntArray
from jete.core.profile import GENTLEST_MPS2, Cells, Profile

if TYPE_CHECKING:
    from collections.abc import Sequence

FACTORS = ("arrival", "brake_point", "braking", "slowest", "coasting", "pickup", "dips", "drive")
LEAST_ENERGY = 2.0
ROLL_M = 2.0
RAMP_S = 0.3


@dataclass(frozen=True, eq=False)
class Hybrids:
    """Times of hybrids over one window."""

    cells: Cells
    sources: tuple[Profile, Profile]

    def times_s(self, choices: FloatArray) -> FloatArray:
        """Time over the window of each hybrid.

        Args:
            choices: (h, 8) of 0 (reference) and 1 (lap), columns as ``FACTORS``.

        Returns:
            Seconds, (h,).
        """
        energy = np.maximum(self.energies(choices.astype(np.intp)), self._floor)
        return np.asarray((self.cells.width_m / np.sqrt(2.0 * energy)).sum(axis=1))

    @cached_property
    def _floor(self) -> FloatArray:
        """E that no hybrid goes below, (m,): half the least of both laps within 30 m."""
        driven = np.minimum(*(s.energy_at(self.cells.middles_m) for s in self.sources))
        reach = int(30.0 / self.cells.width_m)
        windows = np.lib.stride_tricks.sliding_window_view(np.pad(driven, reach, mode="edge"), 2 * reach + 1)
        return np.asarray(np.maximum(0.5 * windows.min(axis=1), LEAST_ENERGY))

    def energies(self, choices: IntArray) -> FloatArray:
        """E of each hybrid at the middles of the cells, (h, m)."""
        arrival, point, braking, slowest, coasting, pickup, dips, drive = choices.T
        d = self.cells.middles_m
        common = np.array(self.common_m)[point]
        tails = np.array([s.slowed_m - c for s, c in zip(self.sources, self.common_m, strict=True)])
        slowed = common + tails[slowest]
        start = np.maximum(self._pick("pickup_m", pickup) + self._forced_m() * (point - pickup), slowed)
        before = self._meet(arrival, coasting, self._slowing[point, coasting, braking], common)
        tail = self._tail(slowest, common)
        hold, held = self._hold(pickup, slowed, start, self._pick("least", slowest))
        after = self._drive(drive, dips, start, held)
        slowing = np.where(d <= common[:, None], before, tail)
        return np.where(d <= slowed[:, None], slowing, np.where(d <= start[:, None], hold, after))

    @cached_property
    def common_m(self) -> tuple[float, float]:
        """Where each lap has slowed to what both reach: the end of the comparable slowing.

        What the slower lap slows beyond belongs to its lowest speed, not to its braking.
        """
        fast = 0 if self.sources[0].least >= self.sources[1].least else 1
        high, low = self.sources[fast], self.sources[1 - fast]
        level = high.least if low.rolls_in else float(high.energy_at(high.slowed_m))
        places = {fast: high.slowed_m, 1 - fast: low.falls_to_m(level)}
        return places[0], places[1]

    def _tail(self, slowest: IntArray, common: FloatArray) -> FloatArray:
        """E from the end of the comparable slowing to the end of the own one, (h, m)."""
        since = self.cells.middles_m - common[:, None]
        out = np.empty_like(since)
        for k, s in enumerate(self.sources):
            rows = slowest == k
            out[rows] = s.energy_at(self.common_m[k] + since[rows])
        return out

    def _forced_m(self) -> float:
        """How much later the lap must pick up only because its slowing ends later, metres.

        That part of a late pick-up is the brake point's, not the throttle's.
        """
        reference, lap = self.sources
        hold = max(min(reference.pickup_m - reference.slowed_m, lap.pickup_m - lap.slowed_m), 0.0)
        return min(max(lap.slowed_m + hold - reference.pickup_m, 0.0), max(lap.pickup_m - reference.pickup_m, 0.0))

    def _pick(self, name: str, choice: IntArray) -> FloatArray:
        return np.asarray(np.array([getattr(s, name) for s in self.sources])[choice])

    @cached_property
    def _slowing(self) -> FloatArray:
        """E of the slowing for every place of its end, coasting and braking, (2, 2, 2, m)."""
        out = np.empty((2, 2, 2, len(self.cells.middles_m)))
        for b, n, k in np.ndindex(2, 2, 2):
            back = self.common_m[b] - self.cells.middles_m
            out[b, n, k] = _slowing_curve(
                back, (self.sources[n], self.common_m[n]), (self.sources[k], self.common_m[k])
            )
        return out

    @cached_property
    def _approaches(self) -> FloatArray:
        """E of both approaches, run on, (2, m)."""
        return np.stack([_approach(s, self.cells.middles_m) for s in self.sources])

    @cached_property
    def _rolls(self) -> tuple[tuple[FloatArray, FloatArray], ...]:
        """The rolls of both between lift and brake point."""
        return tuple(_roll(s) for s in self.sources)

    def _meet(self, arrival: IntArray, coasting: IntArray, slowing: FloatArray, common: FloatArray) -> FloatArray:
        """The lower of approach and slowing, with the roll between lift and brake point."""
        d = self.cells.middles_m
        approach = self._approaches[arrival]
        rolls = self._rolls
        lengths = np.array([r[0][-1] for r in rolls])[coasting]
        losses = np.array([r[1][-1] for r in rolls])[coasting]
        if not np.any(lengths > ROLL_M):
            return np.asarray(np.minimum(approach, slowing))
        met = _crossing(d, approach - losses[:, None], slowing, common)
        since = d - (met - lengths)[:, None]
        lost = np.empty_like(approach)
        for k, (at, loss) in enumerate(rolls):
            rows = coasting == k
            lost[rows] = np.interp(since[rows], at, loss)
        return np.asarray(np.minimum(approach - lost, slowing))

    def _hold(
        self, pickup: IntArray, slowed: FloatArray, start: FloatArray, base: FloatArray
    ) -> tuple[FloatArray, FloatArray]:
        """E between the end of the slowing and the pick-up, and E at the pick-up.

        Another lowest E shifts it; where the source speeds up in between (a second apex),
        the shift dies out as it does in a drive.
        """
        d = self.cells.middles_m
        share = np.clip((d - slowed[:, None]) / np.maximum(start - slowed, 1e-6)[:, None], 0.0, 1.0)
        out = np.empty_like(share)
        end = np.empty(len(pickup))
        for k, s in enumerate(self.sources):
            rows = pickup == k
            places = s.slowed_m + share[rows] * (s.pickup_m - s.slowed_m)
            shift = base[rows] - s.least
            out[rows] = s.energy_at(places) + shift[:, None] * _left_in_hold(s, places)
            end[rows] = float(s.energy_at(s.pickup_m)) + shift * float(_left_in_hold(s, np.array([s.pickup_m]))[0])
        return out, end

    def _drive(self, drive: IntArray, dips: IntArray, start: FloatArray, held: FloatArray) -> FloatArray:
        """E after the pick-up, less what the dips took, (h, m)."""
        d = self.cells.middles_m
        out = np.empty((len(start), len(d)))
        for k, s in enumerate(self.sources):
            rows = drive == k
            out[rows] = _drive_curve(d, s, start[rows][:, None], held[rows][:, None])
        for k, s in enumerate(self.sources):
            rows = dips == k
            out[rows] -= np.interp(d - start[rows][:, None] + s.pickup_m, s.at_m, s.deficit)
        return out


def _left_in_hold(source: Profile, places: FloatArray) -> FloatArray:
    """Share of a shift of E that is left at places of a hold; all of it while the speed is held."""
    inside = (source.at_m >= source.slowed_m) & (source.at_m <= source.pickup_m)
    if not inside.any() or float(source.energy[inside].max()) < 1.25 * source.least:
        return np.ones_like(places)
    begun = float(np.interp(source.slowed_m, source.at_m, source.fade))
    return np.asarray(np.interp(places, source.at_m, source.fade) / begun)


def _drive_curve(d: FloatArray, source: Profile, start: FloatArray, held: FloatArray) -> FloatArray:
    """E of a source's drive from a pick-up at ``start`` (h, 1) with E ``held`` (h, 1), (h, m).

    The source's ramp is laid on from there.  After an earlier pick-up than its own the
    whole drive is; after a later one the drive is that of each place, since a bend that
    opens gives more, and what is missing when the ramp ends fades.
    """
    own = np.interp(source.pickup_m, source.at_m, source.energy)
    since = d - start + source.pickup_m
    begun = np.interp(source.pickup_m, source.at_m, source.fade)
    laid = (
        np.interp(since, source.at_m, source.energy) + (held - own) * np.interp(since, source.at_m, source.fade) / begun
    )
    ramp = RAMP_S * np.sqrt(2.0 * own)
    missing = (
        held
        - own
        + np.interp(source.pickup_m + ramp, source.at_m, source.energy)
        - np.interp(start + ramp, source.at_m, source.energy)
    )
    left = np.interp(d, source.at_m, source.fade) / np.interp(start + ramp, source.at_m, source.fade)
    later = (start > source.pickup_m) & (d > start + ramp)
    return np.where(later, np.interp(d, source.at_m, source.energy) + missing * left, laid)


def _slowing_curve(back: FloatArray, coasting: tuple[Profile, float], braking: tuple[Profile, float]) -> FloatArray:
    """E ``back`` metres before the end of the slowing, (m,): coasting, then braking before it.

    Both sources come with the end of their comparable slowing.  Braking ends as much
    earlier as the coasting is longer than its own, and there is the braking of that
    place.  What E is above or below the brake's own there dies out backwards, as the grip
    that the bend leaves for braking is the same.
    """
    (coast, coast_end), (brake, brake_end) = coasting, braking
    rolled = max(coast_end - coast.released_m, 0.0)
    tail = coast.energy_at(coast_end - np.clip(back, 0.0, rolled))
    released = min(brake.released_m, brake_end)
    end = max(released - max(rolled - (brake_end - released), 0.0), brake.brake_m)
    length = end - brake.brake_m
    at = end - np.clip(back - rolled, 0.0, length)
    lift = float(coast.energy_at(coast_end - rolled)) - float(brake.energy_at(end))
    left = np.interp(at, brake.at_m, brake.fade_back) / float(np.interp(end, brake.at_m, brake.fade_back))
    body = brake.energy_at(at) + lift * left
    beyond = np.maximum(back - rolled - length, 0.0) * max(brake.braking_mps2, coast.braking_mps2, GENTLEST_MPS2)
    return np.where(back <= rolled, tail, body + beyond)


def _approach(source: Profile, d: FloatArray) -> FloatArray:
    """E of the approach, run on past the lift as if it had not come."""
    slope = _approach_slope(source)
    at_lift = float(source.energy_at(source.lift_m))
    return np.where(d <= source.lift_m, source.energy_at(d), at_lift + slope * (d - source.lift_m))


def _approach_slope(source: Profile) -> float:
    """Acceleration just before the lift, m/s², not negative."""
    ends = source.energy_at(np.array([source.lift_m - 18.0, source.lift_m - 3.0]))
    return max(float(ends[1] - ends[0]) / 15.0, 0.0)


def _roll(source: Profile) -> tuple[FloatArray, FloatArray]:
    """Metres since the lift, and what rolling up to the brake point took from E."""
    length = max(source.brake_m - source.lift_m, 0.0)
    at = np.linspace(0.0, max(length, 1e-6), 12)
    if length <= ROLL_M:
        return at * 0.0 + np.arange(12) * 1e-9, np.zeros(12)
    loss = _approach(source, source.lift_m + at) - source.energy_at(source.lift_m + at)
    return at, np.maximum.accumulate(np.maximum(loss - loss[0], 0.0))


def _crossing(d: FloatArray, approach: FloatArray, slowing: FloatArray, slowed: FloatArray) -> FloatArray:
    """Where the approach meets the slowing, (h,), between the middles of the cells."""
    over = (approach >= slowing) & (d <= slowed[:, None])
    any_over = over.any(axis=1)
    k = np.clip(np.argmax(over, axis=1), 1, len(d) - 1)
    rows = np.arange(len(k))
    before = slowing[rows, k - 1] - approach[rows, k - 1]
    after = approach[rows, k] - slowing[rows, k]
    share = np.clip(before / np.maximum(before + after, 1e-9), 0.0, 1.0)
    return np.where(any_over, d[k - 1] + share * (d[k] - d[k - 1]), slowed)


def shapley(hybrids: Hybrids, least_s: float = 5e-4) -> tuple[dict[str, float], float]:
    """Shares of the factors in the time between reference and lap, and the rest, seconds.

    Each factor's share is its mean contribution over all orders in which factors can be
    exchanged (Shapley 1953, "A value for n-person games"), so the shares add up to the
    difference of the two laps exactly.  Factors that change the time by less than
    ``least_s`` on their own, at either end, move together as the rest.
    """
    active = _active(hybrids, least_s)
    players: list[list[int]] = [[i] for i in active]
    idle = [i for i in range(len(FACTORS)) if i not in active]
    if idle:
        players.append(idle)
    sets = _subsets(len(players))
    choices = np.zeros((len(sets), len(FACTORS)))
    for column, members in enumerate(players):
        choices[:, members] = sets[:, [column]]
    shares = _values(hybrids.times_s(choices), len(players))
    named = {FACTORS[i]: shares[k] for k, i in enumerate(active)}
    return named, shares[-1] if idle else 0.0


def _active(hybrids: Hybrids, least_s: float) -> list[int]:
    """Factors that matter alone, put into the reference or taken out of the lap."""
    k = len(FACTORS)
    rows = np.concatenate([np.zeros((1, k)), np.ones((1, k)), np.eye(k), 1.0 - np.eye(k)])
    times = hybrids.times_s(rows)
    alone = np.abs(times[2 : 2 + k] - times[0])
    without = np.abs(times[2 + k :] - times[1])
    return [i for i in range(k) if max(alone[i], without[i]) > least_s]


def _subsets(k: int) -> FloatArray:
    """All subsets of k players, (2^k, k); row r holds the bits of r."""
    return ((np.arange(2**k)[:, None] >> np.arange(k)) & 1).astype(float)


def _values(times: FloatArray, k: int) -> Sequence[float]:
    """Shapley values from the times of all subsets, in the order of :func:`_subsets`."""
    sizes = _subsets(k).sum(axis=1).astype(int)
    index = np.arange(2**k)
    factorial = np.cumprod([1.0, *range(1, k + 1)])
    weights = factorial[sizes] * factorial[np.maximum(k - 1 - sizes, 0)] / factorial[k]
    out = []
    for player in range(k):
        without = index[(index >> player) & 1 == 0]
        gain = times[without | (1 << player)] - times[without]
        out.append(float(np.sum(weights[without] * gain)))
    return out
