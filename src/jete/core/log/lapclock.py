"""Columns that tell laps apart in their own way: beacons, and clocks that count within the lap.

They become a ``lap`` channel and a ``time`` that runs on, so that nothing else has to know.
"""

from __future__ import annotations

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.log.lap import Repair

# No lap is shorter; a clock that falls by less has jittered.
SHORTEST_LAP_S = 5.0
# A lap clock runs with the log's for at least this share of its rows.
COUNTS_UP_SHARE = 0.8


def lap_of_beacon(beacon: FloatArray) -> FloatArray | None:
    """Lap numbers from a beacon column (n,), which counts passings or pulses at each; None if neither.

    >>> lap_of_beacon(np.array([0.0, 0, 1, 0, 0, 1, 1, 0])).tolist()
    [0.0, 0.0, 1.0, 1.0, 1.0, 2.0, 2.0, 2.0]
    """
    known = np.isfinite(beacon)
    if known.sum() < 2 or float(np.ptp(beacon[known])) == 0.0:
        return None
    held = _held(beacon, known)
    steps = np.diff(held)
    if np.all(steps >= 0.0) and np.all(np.abs(held - np.round(held)) < 1e-6):
        return held
    rest, top = float(np.median(held)), float(held.max())
    pulses = held > 0.5 * (rest + top)
    rises = np.concatenate([[False], pulses[1:] & ~pulses[:-1]])
    return np.cumsum(rises).astype(float)


def _held(values: FloatArray, known: FloatArray) -> FloatArray:
    """Empty cells take the value before them (the first known at the beginning)."""
    at = np.maximum.accumulate(np.where(known, np.arange(len(values)), -1))
    return np.asarray(values[np.maximum(at, int(np.argmax(known)))])


def lap_resets(lap_time_s: FloatArray, time_s: FloatArray) -> FloatArray | None:
    """Lap numbers from a clock that starts anew with each lap, (n,); None where it is no such clock.

    A column that holds the last lap's time all through a lap is none.
    """
    known = np.isfinite(lap_time_s)
    if known.sum() < 10:
        return None
    held = np.interp(np.arange(len(lap_time_s)), np.flatnonzero(known), lap_time_s[known])
    rate = np.diff(lap_time_s[known]) / np.maximum(np.diff(time_s[known]), 1e-6)
    if float(np.mean(np.abs(rate - 1.0) < 0.2)) < COUNTS_UP_SHARE:
        return None
    falls = np.concatenate([[False], np.diff(held) < -SHORTEST_LAP_S])
    return np.cumsum(falls).astype(float) if falls.any() else None


def starts_anew(clock_s: FloatArray) -> bool:
    """Whether a clock (n,) falls back to its beginning, as one does that counts within the lap."""
    inner = clock_s[np.isfinite(clock_s)]
    steps = np.diff(inner)
    falls = np.flatnonzero(steps < -SHORTEST_LAP_S)
    if falls.size == 0 or not np.any(steps > 0.0):
        return False
    step = float(np.median(steps[steps > 0.0]))
    return bool(np.all((inner[falls + 1] >= 0.0) & (inner[falls + 1] <= 1.5 * step)))


def time_from_lap_clock(lap_time_s: FloatArray) -> tuple[FloatArray, list[Repair]]:
    """A time that runs on from a clock that starts anew with each lap, (n,), and what was done.

    Loggers sample at an even rate whatever the line does, so a new lap's first sample is
    one step after the last of the lap before; its own lap time says where the line was.
    """
    known = np.isfinite(lap_time_s)
    clock = lap_time_s.copy()
    inner = clock[known]
    steps = np.diff(inner)
    falls = steps < -SHORTEST_LAP_S
    if not falls.any():
        return clock, []
    step = float(np.median(steps[steps > 0.0]))
    moved = np.where(falls, step - steps, 0.0)
    clock[known] = inner + np.concatenate([[0.0], np.cumsum(moved)])
    return clock, [Repair("time", "the clock starts anew with each lap, carried on", int(falls.sum()))]
