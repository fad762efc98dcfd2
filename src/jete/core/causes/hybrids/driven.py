"""How two laps drove the same windows, by their logged speeds and pedals."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.causes.hybrids.hybrid import Hybrids
    from jete.core.driving.marks import Marks
    from jete.core.driving.passage import Passage
    from jete.core.driving.windows import Span

DRIVE_SHARES = np.arange(1.0, 13.0) / 12.0
# In a shorter drive out two speeds do not part.
SHORTEST_DRIVE_M = 5.0
# A foot needs so long from one pedal to the other.
CHANGE_S = 0.12
# Speeds at the ends of a window are read a little inside it.
END_M = 2.0


@dataclass(frozen=True, kw_only=True)
class Driven:
    """How the reference and the lap drove one window.

    Speeds at its beginning and its end (m/s), before either brakes where that is earlier than the
    beginning, and where the first of them begins to slow; the largest difference of them after the pick-up, the seconds on
    neither pedal before it, the lap's speed where the reference is slowest (m/s), and what rolling before the brake took from E = v²/2 (m²/s²); how much earlier (−) or later the
    lap's slowing was over by its roll, and by its arrival (m).
    """

    arrival_mps: tuple[float, float]
    leaving_mps: tuple[float, float]
    before_mps: tuple[float, float]
    slowing_mps: tuple[float, float]
    drive_kmh: float
    coast_s: tuple[float, float]
    rolled_off: tuple[float, float]
    shift_made_m: tuple[float, float]
    at_slow_mps: float


def driven_of(
    passages: tuple[Passage, Passage],
    marks: tuple[Sequence[Marks], Sequence[Marks]],
    windows: Sequence[Span],
    hybrids: Hybrids,
) -> list[Driven]:
    """How the reference and the lap drove each window, (c)."""
    starts, ends = np.array([[w.start_m, w.end_m] for w in windows]).T
    brakes = np.array([np.inf if m is None else m for m in _earlier(marks, "brake_on_m")])
    slows = np.array([-np.inf if m is None else m for m in _earlier(marks, "slowing_m")])
    places = np.array(
        [starts + END_M, ends - END_M, np.minimum(starts, brakes) + END_M, np.maximum(starts + END_M, slows - END_M)]
    )
    speeds = np.array([p.speed_at_scale(places) for p in passages])
    at_slow = passages[1].speed_at_scale(np.array([m.slow_point_m for m in marks[0]])).tolist()
    pickups = np.maximum(*(p.each("pickup_m") for p in hybrids.profiles))
    drives = _drives_kmh(passages, pickups, ends)
    # What a foot does between the two pick-ups is the pick-up's.
    limits = _earlier(marks, "throttle_on_m")
    rolled = [_coasts_s(p, m, limits) for p, m in zip(passages, marks, strict=True)]
    arrival, leaving, before, slowing = (map(tuple, pairs) for pairs in speeds.transpose(1, 2, 0).tolist())
    coasts, lost = zip(*rolled, strict=True), zip(*hybrids.rolled_off.tolist(), strict=True)
    less = (hybrids.rolled_off[1] - hybrids.rolled_off[0], 0.5 * (speeds[0, 3] ** 2 - speeds[1, 3] ** 2))
    made = zip(*(hybrids.shift_made_m(each).tolist() for each in less), strict=True)
    columns = {
        "arrival_mps": arrival, "leaving_mps": leaving, "before_mps": before, "slowing_mps": slowing, "drive_kmh": drives,
        "coast_s": coasts, "rolled_off": lost, "shift_made_m": made, "at_slow_mps": at_slow,
    }  # fmt: skip
    return [Driven(**dict(zip(columns, each, strict=True))) for each in zip(*columns.values(), strict=True)]


def _earlier(marks: tuple[Sequence[Marks], Sequence[Marks]], name: str) -> list[float | None]:
    """The earlier place of a mark of both laps at each corner, (c,); None where neither has it."""
    pairs = (tuple(getattr(m, name) for m in pair) for pair in zip(*marks, strict=True))
    return [min((m for m in pair if m is not None), default=None) for pair in pairs]


def _drives_kmh(passages: tuple[Passage, Passage], pickup_m: FloatArray, end_m: FloatArray) -> list[float]:
    """Largest difference of the speeds in each drive out, of the sign that it has on the whole, km/h, (c,)."""
    stretch = (end_m - pickup_m)[:, None]
    places = pickup_m[:, None] + stretch * DRIVE_SHARES
    reference, lap = (p.speed_at_scale(places) for p in passages)
    away = 3.6 * (lap - reference)
    side = np.sign(away.mean(axis=1, keepdims=True))
    most = side * np.maximum((away * side).max(axis=1, keepdims=True), 0.0)
    drives: list[float] = np.where(stretch < SHORTEST_DRIVE_M, 0.0, most)[:, 0].tolist()
    return drives


def _coasts_s(passage: Passage, marks: Sequence[Marks], limits_m: Sequence[float | None]) -> list[float]:
    """Seconds on neither pedal in each corner up to a limit, the slow point where there is none, (c,).

    From the lift to the brake a foot may take its time to leave the throttle: what is beyond a change of pedals counts.
    """
    known = [
        (own.slowing_m, own.onset_m, own.slow_point_m if limit is None else limit)
        for own, limit in zip(marks, limits_m, strict=True)
    ]
    spans = np.array(
        [(0.0,) * 3 if start is None or on is None else (start, on, max(on, end)) for start, on, end in known]
    )
    at_s = passage.time_at(spans)
    rolled = np.interp(at_s, *passage.rolled_s)
    before = np.maximum(rolled[:, 1] - rolled[:, 0], at_s[:, 1] - at_s[:, 0] - CHANGE_S)
    seconds: list[float] = np.maximum(before + rolled[:, 2] - rolled[:, 1], 0.0).tolist()
    return seconds
