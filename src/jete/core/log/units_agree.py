"""Units and signs held against each other and against what vehicles do: mended with a word where the data are clear.

A speed in miles an hour that was read as km/h moves less than its positions; a clock in milliseconds makes hours of
minutes; a brake that rests at full and falls when the vehicle slows is told the wrong way round.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

import numpy as np

from jete.core.arrays import BoolArray, FloatArray
from jete.core.log.lap import Repair
from jete.core.log.plausible import DEGREE_M
from jete.core.numeric.even import even_times

if TYPE_CHECKING:
    from collections.abc import Collection, Mapping

# What positions cover for each metre by a speed that was taken for another unit, and what it was.
_SPEED_RATIOS: Final = {
    1.609344: "mph, not km/h",
    1.852: "knots, not km/h",
    3.6: "m/s, not km/h",
    1.0 / 3.6: "km/h, not m/s",
    0.44704: "mph, not m/s",
    0.514444: "knots, not m/s",
}
# Odometers and tyres are off by less.
RATIO_WITHIN = 0.03
# By so much no tyre, odometer or noise of positions is off.
UNLIKE = 1.3
MILLI = 1000.0
# Over hours a vehicle that is driven changes its speed by more than this at some time, m/s².
LEAST_PUSH_MPS2, MOST_PUSH_MPS2 = 0.05, 60.0
# Rows of a log do not lie farther apart than this.
FARTHEST_ROWS_S = 3.0
FEWEST_ROWS = 100
PIECE_S = 1.5
MOVING_MPS = 5.0
# A pedal rests for most of the time at its low end; by so much of its span it lies high where it is upside down.
HIGH, LOW = 0.7, 0.3
SLOWS_MPS2, DRIVES_MPS2 = 2.5, 0.5
_PEDALS: Final = ("brake", "brake_front", "brake_rear", "throttle")


def with_agreeing_units(columns: Mapping[str, FloatArray]) -> tuple[dict[str, FloatArray], list[Repair]]:
    """The columns with a clock, a speed and pedals that go together, and what was done.

    Args:
        columns: channel to values in inside units, (n,) each, NaN where empty; with a rising ``time``.
    """
    out, told = dict(columns), list[Repair]()
    for mend in (_clock, _speeds, _pedals):
        changed, repairs = mend(out)
        out.update(changed)
        told += repairs
    return out, told


def unclear_units(columns: Mapping[str, FloatArray], unsaid: Collection[str]) -> tuple[str, str] | None:
    """A channel whose unit nobody said and the data do not tell, and why; None where all is clear.

    Args:
        columns: as :func:`with_agreeing_units` left them.
        unsaid: channels whose unit was not given.
    """
    time = columns["time"]
    steps = np.diff(time[np.isfinite(time)])
    steps = steps[steps > 0.0]
    if "time" in unsaid and len(steps) >= FEWEST_ROWS and (step := float(np.median(steps))) > FARTHEST_ROWS_S:
        return "time", f"taken as seconds, its rows lie {step:.3g} s apart, farther than a lap can be told from"
    ratio = _covered_ratio(columns) if "speed" in unsaid else None
    if ratio is not None and not 1.0 / UNLIKE < ratio < UNLIKE:
        return "speed", f"the positions cover {ratio:.2f} m for each metre by it, which goes with no unit of speed"
    return None


def _clock(columns: Mapping[str, FloatArray]) -> tuple[dict[str, FloatArray], list[Repair]]:
    """Seconds, where milliseconds were taken for them."""
    time = columns["time"]
    steps = np.diff(time[np.isfinite(time)])
    steps = steps[steps > 0.0]
    if len(steps) < FEWEST_ROWS or float(np.median(steps)) < FARTHEST_ROWS_S:
        return {}, []
    ratio = _covered_ratio(columns)
    by_path = ratio is not None and 1.0 / (5.0 * MILLI) < ratio < 5.0 / MILLI
    if not (by_path if ratio is not None else _too_slow(columns)):
        return {}, []
    return {"time": time / MILLI}, [Repair("time", "in milliseconds, not seconds", len(time))]


def _too_slow(columns: Mapping[str, FloatArray]) -> bool:
    """Whether a speed changes so slowly that the clock must run too fast, and as vehicles do by a thousandth of it."""
    speed, time = columns.get("speed"), columns["time"]
    if speed is None:
        return False
    known = np.isfinite(speed) & np.isfinite(time)
    push = np.abs(np.diff(speed[known])) / np.maximum(np.diff(time[known]), 1e-9)
    hardest = float(np.quantile(push, 0.99)) if len(push) else 0.0
    return hardest < LEAST_PUSH_MPS2 < hardest * MILLI < MOST_PUSH_MPS2


def _speeds(columns: Mapping[str, FloatArray]) -> tuple[dict[str, FloatArray], list[Repair]]:
    """A speed in the unit that positions say."""
    ratio = _covered_ratio(columns)
    unit = next((r for r in _SPEED_RATIOS if ratio is not None and abs(ratio / r - 1.0) < RATIO_WITHIN), None)
    if unit is None:
        return {}, []
    speed = columns["speed"]
    return {"speed": speed * unit}, [Repair("speed", f"in {_SPEED_RATIOS[unit]}, by the positions", len(speed))]


def _covered_ratio(columns: Mapping[str, FloatArray]) -> float | None:
    """Metres by positions for each metre by the speed, in the median over pieces of some seconds; None where one is missing."""
    speed, time = columns.get("speed"), columns["time"]
    pair = next((p for p in (("x", "y"), ("longitude", "latitude")) if set(p) <= columns.keys()), None)
    if speed is None or pair is None:
        return None
    known = np.isfinite(speed) & np.isfinite(time) & np.isfinite(columns[pair[0]]) & np.isfinite(columns[pair[1]])
    at = np.flatnonzero(known)
    if len(at) < FEWEST_ROWS:
        return None
    # Pieces of a hundred or more: white noise of the positions makes a path of close points too long.
    step_s = float(np.median(np.diff(time[at])))
    ends = at[:: max(len(at) // 300, round(PIECE_S / step_s) if step_s > 0.0 else 1, 1)]
    a, b = (columns[n][ends] for n in pair)
    if pair[0] == "longitude":
        a, b = a * DEGREE_M * np.cos(np.radians(b)), b * DEGREE_M
    covered = np.hypot(np.diff(a), np.diff(b))
    t, v = time[at], speed[at]
    travelled = np.concatenate([[0.0], np.cumsum(np.diff(t) * 0.5 * (v[1:] + v[:-1]))])
    told = np.diff(np.interp(time[ends], t, travelled))
    clear = (covered > 20.0) & (told > 0.0)
    # A chord is shorter than its road, so the straightest pieces tell.
    return float(np.quantile(covered[clear] / told[clear], 0.7)) if clear.sum() >= 20 else None


def _pedals(columns: Mapping[str, FloatArray]) -> tuple[dict[str, FloatArray], list[Repair]]:
    """Pedals the right way round: a brake slows, a throttle drives."""
    speed, time = columns.get("speed"), columns["time"]
    if speed is None or len(speed) < FEWEST_ROWS:
        return {}, []
    known = np.flatnonzero(np.isfinite(speed) & np.isfinite(time))
    if len(known) < FEWEST_ROWS:
        return {}, []
    clock = even_times(time[known], 0.1)
    if not len(clock):
        return {}, []
    v = np.interp(clock, time[known], speed[known])
    push = np.concatenate([[0.0] * 2, (v[4:] - v[:-4]) / 0.4, [0.0] * 2]) if len(v) > 8 else np.zeros(len(v))
    out, told = dict[str, FloatArray](), list[Repair]()
    for name in (n for n in _PEDALS if n in columns):
        values = columns[name]
        fine = np.flatnonzero(np.isfinite(values))
        if len(fine) < FEWEST_ROWS:
            continue
        low, high = np.percentile(values[fine], [1.0, 99.0])
        share = (np.interp(clock, time[fine], values[fine]) - low) / max(float(high - low), 1e-9)
        if high > low and _upside_down(name, share, push, v > MOVING_MPS):
            out[name] = low + high - values
            told.append(Repair(name, "upside down by what the vehicle does, turned round", len(values)))
    return out, told


def _upside_down(name: str, share: FloatArray, push: FloatArray, moving: BoolArray) -> bool:
    """Whether a pedal's high end goes with what its low end should: share of its span, and acceleration, (n,) both."""
    top, bottom = moving & (share > HIGH), moving & (share < LOW)
    if min(int(top.sum()), int(bottom.sum())) < 20:
        return False
    high, low = float(np.mean(push[top])), float(np.mean(push[bottom]))
    if name == "throttle":
        return high < -DRIVES_MPS2 and low > DRIVES_MPS2
    return low < -SLOWS_MPS2 and high > -DRIVES_MPS2
