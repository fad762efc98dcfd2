"""What is wrong with samples, and the mend; everything mended is reported.

Columns come in as they were read (NaN where a cell was empty); channels go out with
their own time stamps.  Pedal offsets and spans are not touched here: the marks read
pedals on their own span (:mod:`jete.core.pedals`).
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.core.channels import QUANTITIES
from jete.core.lap import BoolArray, Channel, FloatArray, Repair

if TYPE_CHECKING:
    from collections.abc import Mapping

MAX_ACCELERATION_MPS2 = 80.0
GAP_STEPS = 8.0
GAP_S = 0.6


def mend_clock(time_s: FloatArray) -> tuple[FloatArray, BoolArray, list[Repair]]:
    """A strictly increasing clock from the logged one.

    Args:
        time_s: logged time stamps, (n,), seconds, NaN where empty.

    Returns:
        The clock (n,), which rows to keep (n,), and what was mended.  Rows with the time
        of an earlier row are dropped; where the clock falls back by more than a few steps
        (a restart, or time that counts within the lap) the rest is set to go on.

    >>> mend_clock(np.array([0.0, 0.1, 0.1, 0.2]))[1].tolist()
    [True, True, False, True]
    """
    keep = np.isfinite(time_s)
    repairs = [Repair("time", "rows without a time dropped", int((~keep).sum()))] if not keep.all() else []
    clock = np.where(keep, time_s, 0.0)
    steps = np.diff(clock[keep])
    if steps.size == 0 or steps.min() > 0.0:
        return clock, keep, repairs
    step = float(np.median(steps[steps > 0.0])) if np.any(steps > 0.0) else 1.0
    clock[keep], jumps = _go_on(clock[keep], step)
    kept = np.flatnonzero(keep)
    highest = np.maximum.accumulate(clock[kept])
    stale = np.concatenate([[False], clock[kept][1:] <= highest[:-1]])
    keep[kept[stale]] = False
    if jumps:
        repairs.append(Repair("time", "clock set back, later samples moved on", jumps))
    if stale.any():
        repairs.append(Repair("time", "rows with an earlier or equal time dropped", int(stale.sum())))
    return clock, keep, repairs


def _go_on(clock: FloatArray, step: float) -> tuple[FloatArray, int]:
    """Undo falls of the clock by more than five steps; returns the clock and their number."""
    fall = np.concatenate([[0.0], np.diff(clock)])
    jump = fall < -5.0 * step
    return clock + np.cumsum(np.where(jump, step - fall, 0.0)), int(jump.sum())


def channels_from(
    columns: Mapping[str, FloatArray], units: Mapping[str, str], clock: FloatArray
) -> tuple[dict[str, Channel], list[Repair]]:
    """Channels with their own stamps: empty cells, spikes and held positions taken out.

    Args:
        columns: canonical or extra name to values (n,) in inside units.
        units: name to the unit as logged.
        clock: strictly increasing time of the rows, (n,), seconds.
    """
    channels: dict[str, Channel] = {}
    repairs: list[Repair] = gaps(clock)
    positions = _paired(columns)
    for name, values in columns.items():
        good = positions.get(name, np.isfinite(values))
        repairs += _infinite(name, values)
        channel = Channel(name, units.get(name, ""), clock[good], values[good])
        channel, found = _without_spikes(channel)
        repairs += found
        if len(channel):
            channels[name] = channel
    return channels, repairs


def gaps(clock: FloatArray) -> list[Repair]:
    """Report seconds that are missing from the clock."""
    if len(clock) < 3:
        return []
    steps = np.diff(clock)
    wide = steps > max(GAP_S, GAP_STEPS * float(np.median(steps)))
    if not wide.any():
        return []
    return [Repair("time", f"{steps[wide].sum():.1f} s missing, bridged", int(wide.sum()))]


def _infinite(name: str, values: FloatArray) -> list[Repair]:
    count = int(np.isinf(values).sum())
    return [Repair(name, "infinite values left out", count)] if count else []


def _paired(columns: Mapping[str, FloatArray]) -> dict[str, BoolArray]:
    """Rows at which a position is new: both cells there, and not a repeat of the one before."""
    masks: dict[str, BoolArray] = {}
    for a, b in (("x", "y"), ("latitude", "longitude")):
        if a in columns and b in columns:
            good = np.isfinite(columns[a]) & np.isfinite(columns[b])
            at = np.flatnonzero(good)
            moved = (np.diff(columns[a][at]) != 0.0) | (np.diff(columns[b][at]) != 0.0)
            good[at[1:][~moved]] = False
            masks[a] = masks[b] = good
    return masks


def _without_spikes(channel: Channel) -> tuple[Channel, list[Repair]]:
    """Take out excursions of one to three samples that no vehicle can do.

    A robust local test: the distance from the median of seven neighbours, against what
    the quantity can change in that time and against the local scatter.
    """
    if len(channel) < 9 or channel.name not in _SPIKE_LIMIT:
        return channel, []
    limit, per_second = _SPIKE_LIMIT[channel.name]
    step = float(np.median(np.diff(channel.time_s)))
    far = _far_from_neighbours(channel.value, limit + per_second * 4.0 * step)
    if not far.any():
        return channel, []
    ok = ~far
    what = "spikes left out"
    kept = Channel(channel.name, channel.unit, channel.time_s[ok], channel.value[ok])
    return kept, [Repair(channel.name, what, int(far.sum()))]


def _far_from_neighbours(values: FloatArray, limit: float) -> BoolArray:
    """Samples further than ``limit`` from the median of the seven around them, (n,).

    Only looked at where two neighbours within reach differ by a third of the limit: from
    the median to the sample it is three steps at the most.
    """
    far = np.zeros(len(values), dtype=bool)
    jumps = np.flatnonzero(np.abs(np.diff(values)) > limit / 3.0)
    if jumps.size == 0:
        return far
    near = np.unique(np.clip(jumps[:, None] + np.arange(-3, 5), 0, len(values) - 1))
    windows = np.lib.stride_tricks.sliding_window_view(np.pad(values, 3, mode="edge"), 7)[near]
    far[near] = np.abs(values[near] - np.median(windows, axis=1)) > limit
    return far


# Level beyond the local median that is noise, and the fastest true change per second.
_SPIKE_LIMIT = {
    "speed": (2.0, MAX_ACCELERATION_MPS2),
    "acc_long": (30.0, 200.0),
    "acc_lat": (30.0, 200.0),
    "yaw_rate": (2.0, 12.0),
    "x": (15.0, 120.0),
    "y": (15.0, 120.0),
    "latitude": (15.0 / 111e3, 120.0 / 111e3),
    "longitude": (20.0 / 111e3, 200.0 / 111e3),
}
assert _SPIKE_LIMIT.keys() <= QUANTITIES.keys()
