"""What is wrong with samples, and the mend; everything mended is reported.

Columns come in as they were read (NaN where a cell was empty); channels go out with
their own time stamps.  Pedal offsets and spans are not touched here: the marks read
pedals on their own span (:mod:`jete.core.driving.pedals`).
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

import numpy as np

from jete.core.arrays import BoolArray, FloatArray, IntArray
from jete.core.log.channels import CHANNELS, MAX_ACCELERATION_MPS2, Mend
from jete.core.log.lap import Channel, Repair

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

# A gap is so many usual steps,
GAP_STEPS = 8.0
# And at least this, which a kerb's dropout is not.
GAP_S = 0.6
# A value that stands still for longer, while the vehicle moves, is stuck.
FROZEN_S = 1.0
# Slower than this a vehicle may stand, and a speed that stays the same says nothing.
STANDING_MPS = 2.0
# A slow sensor repeats each value for up to so many rows (1 Hz in a log of 50).
HELD_ROWS = 50
# A value that comes 30 times a second in a log of 100 Hz is repeated for 3, 3 and 4 rows.
OFF_RHYTHM_ROWS = 0.75
# A spike is this much beyond what acceleration allows.
JUMP_MPS = 3.0
# A drop that lasts longer is a speed, not a spike.
LONGEST_DROP_S = 2.0
# In so long a pedal comes to rest once.
REST_BLOCK_S = 8.0
# A resting level that wanders by less than this share of the travel is left alone.
DRIFT_SHARE = 0.03
# Where so many rows have the stamp of the one before, stamps were rounded.
SHARED_STAMPS = 0.2
# Fewer rows than this show no rhythm.
FEWEST_ROWS = 40
PAIRS = (("x", "y"), ("latitude", "longitude"))


def mend_clock(time_s: FloatArray) -> tuple[FloatArray, BoolArray, list[Repair]]:
    """A strictly increasing clock from the logged one.

    Args:
        time_s: logged time stamps, (n,), seconds, NaN where empty.

    Returns:
        The clock (n,), which rows to keep (n,), and what was mended.  Rows that share stamps that are too coarse
        for them are spread evenly; else rows with the time
        of an earlier row are dropped; where the clock falls back by more than a few steps
        (a restart, or time that counts within the lap) the rest is set to go on.

    >>> mend_clock(np.array([0.0, 0.1, 0.1, 0.2]))[1].tolist()
    [True, True, False, True]
    """
    keep = np.isfinite(time_s)
    repairs = [Repair("time", "rows without a time dropped", int((~keep).sum()))] if not keep.all() else []
    clock = np.where(keep, time_s, 0.0)
    even = spread_evenly(clock[keep])
    if even is not None:
        clock[keep] = even
        repairs.append(Repair("time", "stamps too coarse for the rows, spread evenly", int(keep.sum())))
        return clock, keep, repairs
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


def spread_evenly(clock: FloatArray) -> FloatArray | None:
    """The times of rows (n,) that came evenly but whose stamps were rounded to more than a row takes; None for any others.

    Twenty rows a second with stamps of tenths, or of whole seconds:

    >>> spread_evenly(np.floor(np.arange(60) / 20.0))[18:22].round(2).tolist()
    [0.9, 0.95, 1.0, 1.05]
    """
    steps = np.diff(clock)
    if len(clock) < FEWEST_ROWS or steps.min() < 0.0 or float(np.mean(steps == 0.0)) < SHARED_STAMPS:
        return None
    coarse = float(steps[steps > 0.0].min(initial=np.inf))
    if not np.isfinite(coarse):
        return None
    # Where rows are missing, they come evenly on either side.
    parts = np.split(np.arange(len(clock)), np.flatnonzero(steps > 2.5 * coarse) + 1)
    even = np.concatenate([_on_a_line(part, clock[part]) for part in parts])
    return even if float(np.abs(even - clock).max()) <= coarse and float(np.diff(even).min()) > 0.0 else None


def _on_a_line(rows: IntArray, clock: FloatArray) -> FloatArray:
    """Times (n,) as a straight line over their rows through those at which the stamp changes."""
    changes = np.flatnonzero(np.diff(clock) > 0.0) + 1
    if len(changes) < 2:
        return clock
    slope, start = np.polyfit(changes, clock[changes], 1)
    return np.asarray(start + slope * (rows - rows[0]))


def _go_on(clock: FloatArray, step: float) -> tuple[FloatArray, int]:
    """Undo falls of the clock by more than five steps; returns the clock and their number."""
    fall = np.concatenate([[0.0], np.diff(clock)])
    jump = fall < -5.0 * step
    return clock + np.cumsum(np.where(jump, step - fall, 0.0)), int(jump.sum())


def channels_from(
    columns: Mapping[str, FloatArray], units: Mapping[str, str], clock: FloatArray
) -> tuple[dict[str, Channel], list[Repair]]:
    """Channels with their own stamps: empty cells, spikes, held and frozen values taken out.

    Args:
        columns: canonical or extra name to values (n,) in inside units.
        units: name to the unit as logged.
        clock: strictly increasing time of the rows, (n,), seconds.
    """
    channels: dict[str, Channel] = {}
    repairs: list[Repair] = gaps(clock)
    fresh, frozen = fresh_positions(columns, clock)
    repairs += frozen
    for name, values in columns.items():
        good = fresh[name] if name in fresh else np.isfinite(values)
        if good.all():
            # The same arrays, not copies of them: a log of hours is large.
            channel = Channel(name, units.get(name, ""), clock, values)
        else:
            channel = Channel(name, units.get(name, ""), clock[good], values[good])
        for mend in CHANNELS[name].mends if name in CHANNELS else ():
            channel, found = _MENDS[mend](channel)
            repairs += found
        if len(channel):
            channels[name] = channel
    return _in_pairs(channels), repairs


def _in_pairs(channels: dict[str, Channel]) -> dict[str, Channel]:
    """The channels with both halves of a position at the same times, or neither of them."""
    out = dict(channels)
    for a, b in PAIRS:
        one, other = out.pop(a, None), out.pop(b, None)
        if one is None or other is None:
            continue
        times, i, j = np.intersect1d(one.time_s, other.time_s, assume_unique=True, return_indices=True)
        if len(times) == 0:
            continue
        whole = len(times) == len(one) == len(other)
        out[a] = one if whole else Channel(a, one.unit, times, one.value[i])
        out[b] = other if whole else Channel(b, other.unit, times, other.value[j])
    return {name: out[name] for name in channels if name in out}


def gaps(clock: FloatArray) -> list[Repair]:
    """Report seconds that are missing from the clock (n,)."""
    if len(clock) < 3:
        return []
    steps = np.diff(clock)
    wide = steps > max(GAP_S, GAP_STEPS * float(np.median(steps)))
    if not wide.any():
        return []
    return [Repair("time", f"{steps[wide].sum():.1f} s missing, bridged", int(wide.sum()))]


def fresh_positions(columns: Mapping[str, FloatArray], clock: FloatArray) -> tuple[dict[str, BoolArray], list[Repair]]:
    """Rows at which a position is new (both cells there, no repeat of the one before), and what froze.

    A slow receiver repeats each position for some rows, which is no fault; one that repeats
    it for longer than a second while the vehicle moves is told.
    """
    masks: dict[str, BoolArray] = {}
    repairs: list[Repair] = []
    for a, b in PAIRS:
        if a in columns and b in columns:
            good = np.isfinite(columns[a]) & np.isfinite(columns[b])
            at = np.flatnonzero(good)
            moved = (np.diff(columns[a][at]) != 0.0) | (np.diff(columns[b][at]) != 0.0)
            good[at[1:][~moved]] = False
            masks[a] = masks[b] = good
            repairs += _frozen(clock[good], clock[at], columns.get("speed"), clock)
    return masks, repairs


def _frozen(new_s: FloatArray, logged_s: FloatArray, speed: FloatArray | None, clock: FloatArray) -> list[Repair]:
    """Tell of positions that stood still for over a second: ``new_s`` those that are new, ``logged_s`` all."""
    if len(new_s) < 2:
        return []
    waits = np.diff(new_s)
    long = waits > max(FROZEN_S, 5.0 * float(np.median(waits)))
    starts, ends = new_s[:-1][long], new_s[1:][long]
    held = [int(np.count_nonzero((logged_s > a) & (logged_s < b))) for a, b in zip(starts, ends, strict=True)]
    known = np.isfinite(speed) if speed is not None else np.zeros(1, dtype=bool)
    if speed is not None and known.any():
        v = np.interp(0.5 * (starts + ends), clock[known], speed[known])
        held = [h if s > STANDING_MPS else 0 for h, s in zip(held, v, strict=True)]
    count = int(sum(held))
    return [Repair("position", "frozen values left out", count)] if count else []


def _without_holds(channel: Channel) -> tuple[Channel, list[Repair]]:
    """Keep the first of values that are repeated until the next one comes, at an even slower rate.

    Only where nearly all changes come in one rhythm of two to fifty rows: a steady speed that
    happens to repeat has none.
    """
    changes = np.flatnonzero(np.diff(channel.value) != 0.0) + 1
    if len(changes) < 20 or len(changes) > 0.6 * len(channel):
        return channel, []
    waits = np.diff(changes)
    usual = np.abs(waits - np.median(waits)) <= 1.0
    rhythm = float(np.mean(waits[usual])) if usual.any() else 1.0
    even = np.abs(waits / rhythm - np.round(waits / rhythm)) * rhythm <= OFF_RHYTHM_ROWS
    if not 2.0 <= rhythm <= HELD_ROWS or float(np.mean(even)) < 0.9:
        return channel, []
    at = _told_at(np.concatenate([[0], changes, [len(channel)]]), rhythm)
    kept = Channel(channel.name, channel.unit, channel.time_s[at], channel.value[at])
    return kept, [
        Repair(channel.name, f"each value repeated for {rhythm:.2g} rows, the first kept", len(channel) - len(at))
    ]


def _told_at(changes: IntArray, rhythm: float) -> IntArray:
    """The rows at which values were told that come in a rhythm: where they change, and evenly where the next was the same.

    A throttle that is held for a second was told to be there all along.

    >>> _told_at(np.array([0, 10, 15, 30]), 5).tolist()
    [0, 5, 10, 15, 20, 25]
    """
    waits = np.diff(changes)
    times = np.maximum(np.round(waits / rhythm).astype(np.intp), 1)
    which = np.repeat(np.arange(len(waits)), times)
    k = np.arange(len(which)) - np.repeat(np.cumsum(times) - times, times)
    return np.asarray(changes[which] + np.round(k * waits[which] / times[which]).astype(np.intp))


def _without_drops(channel: Channel) -> tuple[Channel, list[Repair]]:
    """Leave out pieces of up to two seconds into and out of which the speed jumps as no vehicle can."""
    v, t = channel.value, channel.time_s
    if len(v) < 9:
        return channel, []
    jumps = np.flatnonzero(np.abs(np.diff(v)) > JUMP_MPS + MAX_ACCELERATION_MPS2 * np.diff(t))
    bad = np.zeros(len(v), dtype=bool)
    k = 0
    while k < len(jumps):
        begin = jumps[k]
        back = next((j for j in jumps[k + 1 :] if t[j] - t[begin] < LONGEST_DROP_S and _goes_back(v, begin, j)), None)
        if back is not None:
            bad[begin + 1 : back + 1] = True
            k = int(np.searchsorted(jumps, back, side="right"))
        else:
            k += 1
    if not bad.any():
        return channel, []
    kept = Channel(channel.name, channel.unit, t[~bad], v[~bad])
    return kept, [Repair(channel.name, "drop-outs left out", int(bad.sum()))]


def _goes_back(v: FloatArray, begin: int, end: int) -> bool:
    """Whether the value after a drop-out is again near the one before it."""
    return bool(abs(v[end + 1] - v[begin]) < 0.5 * abs(v[begin + 1] - v[begin]))


def _without_drift(channel: Channel) -> tuple[Channel, list[Repair]]:
    """Take out a resting level that wanders: the low fifth of every eight seconds."""
    t, v = channel.time_s, channel.value
    low, high = np.percentile(v, [1.0, 99.0]) if len(v) else (0.0, 0.0)
    span = float(high - low)
    if len(v) < 200 or t[-1] - t[0] < 3.0 * REST_BLOCK_S or span <= 0.0:
        return channel, []
    blocks = np.floor((t - t[0]) / REST_BLOCK_S).astype(int)
    edges = np.flatnonzero(np.diff(blocks, prepend=-1))
    level = np.array([np.partition(part, len(part) // 5)[len(part) // 5] for part in np.split(v, edges[1:])])
    beside = np.pad(level, 1, mode="edge")
    level = np.minimum(level, np.minimum(beside[:-2], beside[2:]) + 0.02 * span)
    middle = np.array([part.mean() for part in np.split(t, edges[1:])])
    if float(np.ptp(level)) < DRIFT_SHARE * span:
        return channel, []
    drift = np.interp(t, middle, level) - float(level.min())
    told = Repair(channel.name, f"resting level wanders by {np.ptp(level) / span:.0%} of its span, taken out", len(v))
    return Channel(channel.name, channel.unit, t, v - drift), [told]


def _told_span(channel: Channel) -> tuple[Channel, list[Repair]]:
    """Tell of a throttle that does not rest at 0 or does not reach 100 %; it is read on its own span."""
    if len(channel) < 20 or float(np.ptp(channel.value)) <= 0.0:
        return channel, []
    low, high = np.percentile(channel.value, [1.0, 99.0])
    if -0.03 < low < 0.03 and high > 0.97:
        return channel, []
    return channel, [Repair(channel.name, f"goes from {low:.0%} to {high:.0%}, read on its own span", len(channel))]


def _without_spikes(channel: Channel) -> tuple[Channel, list[Repair]]:
    """Take out excursions of one to three samples that no vehicle can do.

    A robust local test: the distance from the median of seven neighbours, against what
    the quantity can change in that time and against the local scatter.
    """
    if len(channel) < 9:
        return channel, []
    limit, per_second = CHANNELS[channel.name].spike
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


_MENDS: Final[dict[Mend, Callable[[Channel], tuple[Channel, list[Repair]]]]] = {
    "spikes": _without_spikes, "drops": _without_drops, "holds": _without_holds, "drift": _without_drift, "span": _told_span,
}  # fmt: skip
