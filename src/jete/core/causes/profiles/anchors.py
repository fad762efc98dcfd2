"""Where a lap's speed is taken apart at every corner: its marks in order, inside the window.

All corners are worked out at once on the tables of :mod:`jete.core.causes.profiles.cells`.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import BoolArray, FloatArray, IntArray
    from jete.core.causes.profiles.cells import TableGrid
    from jete.core.driving.marks import Marks
    from jete.core.driving.passage import Passage
    from jete.core.driving.windows import Span

# The lowest speed lies so near the slow point, which is the middle of a valley.
NEAR_SLOW_M = 15.0
# The slowing ends where the speed comes within this of its lowest,
VALLEY_MPS = 0.3
# Or within this share of it,
VALLEY_SHARE = 0.015
# Or within so many standard deviations of a speed that was not logged. Less moves the end into noise.
VALLEY_SIGMAS = 2.0
# A cell's length: a shorter braking has no deceleration of its own.
SHORTEST_BRAKING_M = 3.5
# What braking is at least, where there is too little of it to measure.
GENTLEST_MPS2 = 2.0
# No vehicle brakes harder; a place that is off by metres right behind the line may look like it.
HARDEST_MPS2 = 60.0
# Build-up and release are left out of the mean deceleration: it is taken between these shares of the fall of E.
BRAKING_SHARES = (0.95, 0.3)
# A foot that feeds has arrived at this share of the most it gives.
ABOUT_MOST = 0.95
# Shorter than this, the foot only changes over.
ROLLS_ON_M = 2.0
# More than any E, m²/s²: that of 450 m/s.
BEYOND = 1e5


@dataclass(frozen=True, kw_only=True)
class Anchors:
    """Where one lap does what at one corner, in order along the axis, metres.

    ``fed_m`` is where the throttle is full, or about the most it is given; ``least`` the lowest E; ``braking_mps2`` the mean deceleration from brake point to
    release; ``rolls_in`` says that the slowing ends on neither pedal, ``rolled_s`` is how long neither pedal is touched
    from the brake's release to the pick-up, ``rolled_first_s`` to the earlier of both laps' pick-ups; ``logged_mps`` is the lowest speed as logged before
    the foot only waits, on the reference's odometer; ``rolls_below`` says that after the slowing it rolls on to less than
    the other lap's lowest speed; ``own_dips`` counts the dips of the throttle that the other lap does not have.
    """

    lift_m: float
    brake_m: float
    released_m: float
    slowed_m: float
    pickup_m: float
    fed_m: float
    least: float
    braking_mps2: float
    rolls_in: bool
    rolled_s: float = 0.0
    rolled_first_s: float = 0.0
    logged_mps: float = 0.0
    rolls_below: bool = False
    own_dips: int = 0


def anchors_of(
    passage: Passage,
    marks: Sequence[Marks],
    waits_m: FloatArray,
    windows: Sequence[Span],
    grid: TableGrid,
    energy: FloatArray,
) -> tuple[Anchors, ...]:
    """The anchors of all corners (c); marks that are missing collapse.

    Args:
        passage: the lap on the reference's axis.
        marks: of the lap, (c).
        waits_m: from where on its foot only waits, (c,): by then the slowing has ended.
        windows: of the pair, (c).
        grid: of the tables.
        energy: E on it, (k,).
    """
    start, end = np.array([[w.start_m, w.end_m] for w in windows]).T
    until = np.maximum(np.minimum(waits_m, end), start)
    slow = np.minimum(np.maximum([m.slow_point_m for m in marks], start), until)
    level_mps = max(VALLEY_MPS, VALLEY_SIGMAS * passage.motion.sigmas.speed_mps)
    slowed, least, logged = _slowed(grid, energy, passage.speed_at_scale(grid.at_m), level_mps, (start, slow, until))
    pickup = [m.throttle_on_m if m.throttle_on_m is not None else s for m, s in zip(marks, slow.tolist(), strict=True)]
    pickup_m = np.minimum(np.maximum(pickup, start), end)
    off = np.array([np.inf if m.brake_off_m is None else m.brake_off_m for m in marks])
    coasted = _coasted_to(passage, off, slowed, pickup_m)
    rolled = _rolled_s(passage, off, np.array([pickup_m, np.minimum(pickup_m, until)]))
    ended = np.minimum(np.minimum(coasted, pickup_m), np.maximum(until, slowed))
    before = [_before(m, w, e) for m, w, e in zip(marks, windows, ended.tolist(), strict=True)]
    brake, _, released = np.array(before).T
    braking = _mean_braking(grid, energy, brake, released)
    full = [
        m.full_throttle_m if m.full_throttle_m is not None else _most_m(passage, *ends)
        for m, ends in zip(marks, zip(pickup_m.tolist(), end.tolist(), strict=True), strict=True)
    ]
    fed = np.minimum(np.maximum(full, pickup_m), end)
    columns = {
        "slowed_m": ended, "pickup_m": pickup_m, "fed_m": fed, "least": least, "braking_mps2": braking,
        "rolls_in": coasted > slowed, "rolled_s": rolled[0], "rolled_first_s": rolled[1], "logged_mps": logged,
    }  # fmt: skip
    rows = zip(*(c.tolist() for c in columns.values()), strict=True)
    return tuple(
        Anchors(lift_m=lift, brake_m=at, released_m=release, **dict(zip(columns, row, strict=True)))
        for (at, lift, release), row in zip(before, rows, strict=True)
    )


def _slowed(
    grid: TableGrid,
    energy: FloatArray,
    logged_mps: FloatArray,
    level_mps: float,
    places_m: tuple[FloatArray, FloatArray, FloatArray],
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Where the speed comes within a level of its least, the least E, and the least speed as logged, (c,) each.

    ``places_m`` are where each window begins, where the lap is slow, and where what is slowed has ended.
    """
    of, at, index, (start_m, slow_m, end_m) = grid.of, grid.at_m, np.arange(len(grid.of)), places_m
    near = (np.abs(at - slow_m[of]) <= NEAR_SLOW_M) & (at <= end_m[of])
    least, logged = (np.minimum.reduceat(np.where(near, values, np.inf), grid.first) for values in (energy, logged_mps))
    lowest = _first(grid, near & (energy <= least[of]))
    v = np.sqrt(2.0 * energy)
    level = np.maximum(level_mps, VALLEY_SHARE * v[lowest])
    bar = v[lowest] + level
    # Who lifts on the way out of another corner came from less.
    left = (v >= bar[of]) | (v < (v[lowest] - level)[of])
    out = (index < lowest[of]) & (left | (at <= start_m[of]))
    k = np.maximum(np.maximum.reduceat(np.where(out, index, -1), grid.first) + 1, grid.first)
    before = np.maximum(k - 1, grid.first)
    share = (bar - v[k]) / np.maximum(v[before] - v[k], 1e-9)
    return at[k] - np.where(v[before] > v[k], np.minimum(share, 1.0) * (at[k] - at[before]), 0.0), least, logged


def _most_m(passage: Passage, pickup_m: float, end_m: float) -> float:
    """Where a throttle that is never full is given about the most of it, between the pick-up and the window's end."""
    throttle = passage.throttle
    lo, hi = throttle.time_s.searchsorted(passage.time_at(np.array([pickup_m, end_m])))
    part = throttle.value[lo:hi]
    if len(part) == 0:
        return pickup_m
    return passage.place_of(throttle.time_s[lo + int((part >= ABOUT_MOST * part.max()).argmax())])


def _first(grid: TableGrid, mask: BoolArray) -> IntArray:
    """The first entry of each corner's table that a mask (k,) holds for, the number of entries where none, (c,)."""
    return np.asarray(np.minimum.reduceat(np.where(mask, np.arange(len(mask)), len(mask)), grid.first))


def _coasted_to(passage: Passage, off: FloatArray, slowed_m: FloatArray, pickup_m: FloatArray) -> FloatArray:
    """Rolling on neither pedal right after the brake is slowing too: to where it ends, (c,); ``off`` is the release, ∞ for none."""
    known = off < pickup_m
    from_s = passage.time_at(np.where(known, off, 0.0))
    rolls_to = passage.place_at(passage.off_throttle_until(from_s))
    end = np.minimum(rolls_to, pickup_m)
    return np.where(known & (end > off + ROLLS_ON_M), np.maximum(slowed_m, end), slowed_m)


def _rolled_s(passage: Passage, off: FloatArray, until_m: FloatArray) -> FloatArray:
    """Seconds on neither pedal from the brake's release (c,), ∞ for none, to places (k, c), (k, c)."""
    ends = passage.time_at(np.array([np.minimum(off, until_m), until_m]))
    return np.asarray(np.diff(np.interp(ends, *passage.rolled_s), axis=0)[0])


def _before(marks: Marks, window: Span, slowed: float) -> tuple[float, float, float]:
    """Brake point, lift and release, in order and inside the window; missing ones collapse."""
    onset = marks.onset_m if marks.onset_m is not None else slowed
    brake = min(max(onset, window.start_m), slowed)
    lift = marks.lift_m if marks.lift_m is not None and marks.brake_on_m is not None else brake
    lift = min(max(lift, window.start_m), brake)
    released = marks.brake_off_m if marks.brake_off_m is not None else slowed
    return brake, lift, min(max(released, brake), slowed)


def _mean_braking(grid: TableGrid, energy: FloatArray, brake_m: FloatArray, released_m: FloatArray) -> FloatArray:
    """Mean deceleration of the braking, m/s², (c,): without its build-up and its release, which have shapes of their own.

    Over the part in which E falls from 0.95 to 0.3 of what it falls by from brake point to release.
    """
    of = grid.of
    part = (grid.at_m >= brake_m[of]) & (grid.at_m <= released_m[of])
    first, last = grid.look_up(energy, np.array([brake_m, released_m]), np.arange(len(brake_m)))
    # Tables lie one below the other, so that the running least begins anew with each.
    below = 2.0 * BEYOND * of
    falling = np.minimum.accumulate(np.where(part, energy, BEYOND) - below) + below
    shares = np.array(BRAKING_SHARES)[:, None]
    levels = last + shares * (first - last)
    far, near = (_falls_to(grid, part, falling, level) for level in levels)
    braking = np.clip((levels[0] - levels[1]) / np.maximum(near - far, 1.0), GENTLEST_MPS2, HARDEST_MPS2)
    enough = (released_m - brake_m >= SHORTEST_BRAKING_M) & (np.add.reduceat(part, grid.first, dtype=int) >= 3)
    return np.where(enough & (last < first), braking, GENTLEST_MPS2)


def _falls_to(grid: TableGrid, part: BoolArray, falling: FloatArray, level: FloatArray) -> FloatArray:
    """Where a falling E (k,) reaches a level (c,) in a part of each table, between entries, (c,); else at an end of it."""
    reached = _first(grid, part & (falling <= level[grid.of]))
    begin = _first(grid, part)
    last = begin + np.add.reduceat(part, grid.first, dtype=int) - 1
    k = np.minimum(np.maximum(reached, 1), len(part) - 1)
    share = (falling[k - 1] - level) / np.maximum(falling[k - 1] - falling[k], 1e-9)
    between = grid.at_m[k - 1] + share * (grid.at_m[k] - grid.at_m[k - 1])
    ends = grid.at_m[np.clip(np.array([begin, last]), 0, len(part) - 1)]
    return np.asarray(np.where(reached >= len(part), ends[1], np.where(reached == begin, ends[0], between)))
