"""Stretches of a log that say nothing of driving: time that is missing or told twice, a stop, a speed or a brake that stands still.

They are found by holding channels against each other, told, and left alone: laps with one are no bests, and corners
with one have no causes.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.core.log.lap import Log, Torn
from jete.core.log.plausible import DEGREE_M
from jete.core.numeric.even import even_times
from jete.core.numeric.statistics import true_runs

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import BoolArray, FloatArray
    from jete.core.log.lap import Channel, LapSpan

# Of fewer steps nothing is told.
FEWEST = 10
# A dropout of less is bridged; who drives for longer than this without a sample may have done anything.
MISSING_S, MISSING_STEPS = 2.0, 8.0
# A clock that is set back by fewer steps only has rows out of order.
SET_BACK_STEPS = 5.0
# Two speeds over so long a piece, by the speed and by positions, and how far they part where one of them is wrong.
PIECE_S, PART_MPS, PART_SHARE = 3.0, 6.0, 0.25
# The one that is wrong stands still; a map that is drawn out to one side does not.
STANDS_STILL_MPS = 1.0
# A speed that stays the same to the last digit for so long, while the vehicle is pushed about by so much, is stuck.
STUCK_S, PUSHED_MPS2 = 6.0, 1.0
# A vehicle that slows by so much for so long is braked, and a pedal that shows less than this of its span is not seen.
BRAKED_MPS2, BRAKED_S, UNSEEN = 6.0, 0.6, 0.04
# Where most brakings show none, the channel is none of this vehicle's.
MOST_UNSEEN = 0.5
# Slower for so long it stands.
STANDS_MPS, STANDS_S = 1.0, 4.0
# Around a braking that is not seen.
AROUND_S = 2.0
# Slower than this nothing is driven.
MOVING_MPS = 5.0


def torn_clock(logged_s: FloatArray, clock_s: FloatArray) -> tuple[Torn, ...]:
    """Where a clock was set back, or seconds are missing.

    Args:
        logged_s: time stamps of the rows that are kept, as logged, (n,), seconds.
        clock_s: the same as they go on, (n,), rising.

    >>> torn_clock(np.array([0.0, 1.0, 2.0, 20.0, 21.0]), np.array([0.0, 1.0, 2.0, 20.0, 21.0]))[0].what
    '18.0 s are missing'
    """
    if len(clock_s) < 3:
        return ()
    steps, logged = np.diff(clock_s), np.diff(logged_s)
    usual = float(np.median(steps))
    back = np.flatnonzero(logged < -SET_BACK_STEPS * usual)
    wide = np.flatnonzero(steps > max(MISSING_S, MISSING_STEPS * usual))
    found = [Torn(*_around(clock_s, k), f"the clock was set back by {-logged[k]:.1f} s") for k in back.tolist()]
    found += [Torn(*_around(clock_s, k), f"{steps[k]:.1f} s are missing") for k in wide.tolist()]
    return tuple(sorted(found, key=lambda t: t.start_s))


def _around(clock_s: FloatArray, k: int) -> tuple[float, float]:
    return float(clock_s[k]), float(clock_s[k + 1])


def torn_channels(log: Log) -> tuple[Torn, ...]:
    """Where a vehicle stands, a speed contradicts positions or accelerations, or a brake shows nothing while it is braked."""
    speed = log.get("speed")
    if speed is None or len(speed) < 50:
        return ()
    found = (_stands(speed), _against_positions(log, speed), _stuck(log, speed), _unseen_brakes(log, speed))
    return tuple(t for each in found for t in each)


def torn_in(log: Log, span: LapSpan) -> tuple[Torn, ...]:
    """The stretches that reach into a lap."""
    return tuple(t for t in log.torn if t.reaches_into(span.start_s, span.end_s))


def _stands(speed: Channel) -> list[Torn]:
    """Where the vehicle stands: in its pit, or beside the road."""
    ends = _long(speed.value < STANDS_MPS, speed.time_s, STANDS_S)
    spans = [(float(speed.time_s[a]), float(speed.time_s[b])) for a, b in ends]
    return [Torn(a, b, f"it stands for {b - a:.0f} s") for a, b in spans]


def _against_positions(log: Log, speed: Channel) -> list[Torn]:
    """Pieces of three seconds over which positions were carried otherwise than the speed says."""
    path = _path_m(log)
    if path is None:
        return []
    time_s, x, y = path
    grid = even_times(time_s, 1.0)
    if len(grid) < FEWEST or float(np.median(np.diff(time_s))) > PIECE_S / 2.0:
        return []
    # Means of a second's places: noise of a metre ten times a second makes a path of its own.
    cell = np.floor(time_s - time_s[0]).astype(int)
    count = np.maximum(np.bincount(cell), 1)
    seen = np.bincount(cell) > 0
    t, x, y = ((np.bincount(cell, values) / count)[seen] for values in (time_s, x, y))
    along = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(x), np.diff(y)))])
    by_path = np.interp(grid + PIECE_S, t, along) - np.interp(grid, t, along)
    travelled = np.concatenate([[0.0], np.cumsum(np.diff(speed.time_s) * 0.5 * (speed.value[1:] + speed.value[:-1]))])
    by_speed = np.interp(grid + PIECE_S, speed.time_s, travelled) - np.interp(grid, speed.time_s, travelled)
    moving = by_path > MOVING_MPS * PIECE_S
    scale = float(np.median(by_path[moving] / np.maximum(by_speed[moving], 1.0))) if moving.any() else 1.0
    apart = np.abs(by_path - scale * by_speed) / PIECE_S
    wrong = apart > np.maximum(PART_MPS, PART_SHARE * by_path / PIECE_S)
    wrong &= (grid > t[0]) & (grid + PIECE_S < t[-1])
    return [
        Torn(float(grid[a]), float(grid[b] + PIECE_S), "speed and positions contradict each other")
        for a, b in _long(wrong, grid, PIECE_S)
        if float(np.std(speed.between(float(grid[a]) + 1.0, float(grid[b]) + PIECE_S - 1.0).value)) < STANDS_STILL_MPS
    ]


def _path_m(log: Log) -> tuple[FloatArray, FloatArray, FloatArray] | None:
    """Times, and places in metres, (n,) each; None without positions."""
    for names, metres in ((("x", "y"), (1.0, 1.0)), (("longitude", "latitude"), None)):
        a, b = (log.get(n) for n in names)
        if a is None or b is None or len(a) < 50:
            continue
        if metres is None:
            north = DEGREE_M
            return a.time_s, a.value * north * float(np.cos(np.radians(b.value[0]))), b.value * north
        return a.time_s, a.value, b.value
    return None


def _stuck(log: Log, speed: Channel) -> list[Torn]:
    """Where the speed stays the same to the last digit while the vehicle is pushed about."""
    push = log.get("acc_long")
    if push is None:
        return []
    same = np.diff(speed.value) == 0.0
    first, last = true_runs(same)
    ends = speed.time_s[first], speed.time_s[np.minimum(last + 1, len(speed) - 1)]
    out = []
    for a, b in zip(*(e.tolist() for e in ends), strict=True):
        timed = push.between(a, b).value
        if b - a >= STUCK_S and speed.at(np.array([a]))[0] > MOVING_MPS and float(np.std(timed)) > PUSHED_MPS2:
            out.append(Torn(a, b, f"the speed is stuck for {b - a:.0f} s"))
    return out


def _unseen_brakes(log: Log, speed: Channel) -> list[Torn]:
    """Where a vehicle is braked and its pedal shows nothing, though it does elsewhere."""
    pedals = [c for n in ("brake", "brake_front", "brake_rear") if (c := log.get(n)) is not None and len(c) > 50]
    if not pedals:
        return []
    clock = even_times(speed.time_s, 0.1)
    if len(clock) < FEWEST:
        return []
    v = speed.at(clock)
    slows = np.concatenate([[0.0] * 2, (v[:-4] - v[4:]) / 0.4, [0.0] * 2])
    braked = [(a, b) for a, b in _long((slows > BRAKED_MPS2) & (v > MOVING_MPS), clock, BRAKED_S)]
    if len(braked) < 3:
        return []
    pressed = np.zeros(len(clock))
    for pedal in pedals:
        low, high = np.percentile(pedal.value, [5.0, 99.5])
        pressed = np.maximum(pressed, (pedal.at(clock) - low) / max(float(high - low), 1e-9))
    unseen = [(a, b) for a, b in braked if float(pressed[max(a - 5, 0) : b + 6].max()) < UNSEEN]
    if len(unseen) > MOST_UNSEEN * len(braked):
        return []
    return [
        Torn(float(clock[a]) - AROUND_S, float(clock[b]) + AROUND_S, "the brake shows nothing while it slows")
        for a, b in unseen
    ]


def _long(mask: BoolArray, clock_s: FloatArray, least_s: float) -> Sequence[tuple[int, int]]:
    """Runs of a mask (n,) that last so long: first and last sample."""
    first, last = true_runs(mask)
    return [
        (a, b) for a, b in zip(first.tolist(), last.tolist(), strict=True) if clock_s[b] - clock_s[a] >= least_s - 1e-9
    ]
