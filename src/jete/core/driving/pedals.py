"""Pedals on their own span, and the edges of what they do.

A pedal's resting level and full travel are its own, not 0 and 100.  An edge is where a
rise *begins*, traced back to the level it rises from, between samples.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np

from jete.core.arrays import BoolArray, FloatArray
from jete.core.log.lap import Channel, Lap
from jete.core.log.once import once_a_lap
from jete.core.motion.brakes import brake_channel
from jete.core.motion.motion import INFERRED_REACH_S, Motion, acceleration_mps2, smooth_box
from jete.core.numeric.interpolate import slopes
from jete.core.numeric.statistics import robust_sigma, true_runs

# A brake touched by less is a foot that rests on it.
BRAKE_ON = 0.08
# Nearer to its end stop than this no foot keeps a pedal.
THROTTLE_FULL = 0.95
# A shorter press is a kerb.
MIN_EVENT_S = 0.12
# The contract's tenth of the span.
DIP = 0.10
# An acceleration shows a lesser one also over a bump.
INFERRED_DIP = 0.25
# What a sensor shows at rest besides its noise.
REST = 0.035
# Drag of a common car, 1/m: cW A ρ / 2 m (0.35 × 1.9 × 1.2 / 2 / 1000 kg = 0.0004, twice that with wings),
DRAG_1PM = 0.0008
# And its rolling and engine braking, m/s². Only pedals that were not logged hang on both.
COASTING_MPS2 = 0.9
# A foot presses within 0.1 to 0.3 s; later it squeezes on.
ATTACK_WITHIN_S = 0.4
# Fewer tell no habit.
FEWEST_PRESSES = 4
# Lighter brushes are not pressed, but laid on.
HARD = 0.25
USUAL_ATTACK_S, USUAL_PRESSES = 0.15, 2.0
# A press has arrived at nine tenths of where it is held.
HELD = 0.9


@dataclass(frozen=True, eq=False, kw_only=True)
class Pedal:
    """One pedal over a lap: times (n,), value on its own span 0..1 (n,).

    ``rest`` and ``full`` are in the logged unit; ``noise`` is on the span; ``inferred``
    says that there is no such channel and the pedal follows from the acceleration.
    """

    time_s: FloatArray
    value: FloatArray
    rest: float
    full: float
    noise: float
    unit: str
    inferred: bool = False

    @cached_property
    def step_s(self) -> float:
        """Median time between samples."""
        return float(np.median(np.diff(self.time_s)))

    @cached_property
    def attack_s(self) -> float | None:
        """Time in which the pedal goes from rest to where it is held, as a rule; None with fewer than 4 presses.

        A single press at 10 Hz shows it as on or off.  But the longer pressing takes, the more
        presses are caught on their way: where 8 of 20 show one sample between 8 % (touched) and
        90 % (held), that way takes 0.4 samples, and all of it 0.05 s.  Presses of the usual time
        are counted with them, so that a few odd ones decide nothing.
        """
        presses = [self.press_from(k) for k in true_runs(self.value > BRAKE_ON)[0].tolist() if k]
        hard = [v for v in presses if v.max() > HARD]
        if len(hard) < FEWEST_PRESSES:
            return None
        on_their_way = sum(int((v >= HELD * v.max()).argmax()) for v in hard)
        shown = sum(HELD - BRAKE_ON / float(v.max()) for v in hard)
        return (self.step_s * on_their_way + USUAL_PRESSES * USUAL_ATTACK_S) / (shown + USUAL_PRESSES)

    def press_from(self, k: int) -> FloatArray:
        """Values from a sample on, as long as a press may take to where it is held, (m,)."""
        return self.value[k : k + max(round(ATTACK_WITHIN_S / self.step_s), 1) + 1]

    @property
    def untouched(self) -> float:
        """Below this the pedal is not touched."""
        return max(REST, 4.0 * self.noise)

    def at_rest(self) -> BoolArray:
        """Samples at which the pedal is not touched, (n,)."""
        return np.asarray(self.value < self.untouched)

    @property
    def least_dip(self) -> float:
        """How far it must come off for a dip to be one; an inferred pedal is not as sure."""
        return INFERRED_DIP if self.inferred else DIP

    def logged(self, value: float) -> float:
        """A value on the span in the logged unit above rest."""
        return value * (self.full - self.rest)

    def at(self, time_s: FloatArray | float) -> FloatArray:
        """Where the pedal is at times (m,), on its span, (m,); beyond the ends the end values."""
        return np.asarray(np.interp(time_s, self.time_s, self.value))


@once_a_lap
def throttle_of(lap: Lap, motion: Motion) -> Pedal:
    """The throttle on its span; from the acceleration where none was logged."""
    channel = lap.get("throttle")
    if channel is None or len(channel) < 20 or float(np.ptp(channel.value)) <= 0.0:
        return _inferred(motion, sign=1.0)
    ordered = np.sort(channel.value)
    low, high = _at_share(ordered, 0.005), _at_share(ordered, 0.98)
    rest = _level(ordered, low, 0.15 * (high - low))
    full = _level(ordered, high, 0.04 * (high - low))
    return _pedal(channel, ordered, rest, full)


@once_a_lap
def brake_of(lap: Lap, motion: Motion) -> Pedal:
    """The brake on its span (front and rear added where there are two circuits)."""
    channel = brake_channel(lap)
    if channel is None or len(channel) < 20 or float(np.ptp(channel.value)) <= 0.0:
        return _inferred(motion, sign=-1.0)
    ordered = np.sort(channel.value)
    low, high = _at_share(ordered, 0.2), _at_share(ordered, 0.995)
    rest = _level(ordered, low, 0.05 * max(high - low, 1e-9))
    return _pedal(channel, ordered, rest, high)


def _at_share(ordered: FloatArray, share: float) -> float:
    """The value below which a share of the ordered values (n,) lies, between two of them."""
    place = share * (len(ordered) - 1)
    k = min(int(place), len(ordered) - 2)
    return float(ordered[k] + (place - k) * (ordered[k + 1] - ordered[k]))


def _level(ordered: FloatArray, near: float, reach: float) -> float:
    """Median of the ordered values within ``reach`` of a level."""
    a, b = ordered.searchsorted(near - reach), ordered.searchsorted(near + reach, side="right")
    return _at_share(ordered[a:b], 0.5) if b - a > 1 else near


def _pedal(channel: Channel, ordered: FloatArray, rest: float, full: float) -> Pedal:
    span = max(full - rest, 1e-9)
    a, b = ordered.searchsorted([rest - 0.05 * span, rest + 0.05 * span])
    idle = (ordered[a:b] - rest) / span
    noise = robust_sigma(idle - _at_share(idle, 0.5)) if len(idle) > 1 else 0.0
    return Pedal(
        time_s=channel.time_s, value=(channel.value - rest) / span, rest=rest, full=full, noise=noise, unit=channel.unit
    )


def _inferred(motion: Motion, sign: float) -> Pedal:
    """A pedal from acceleration beyond drag and engine braking, labelled as inferred."""
    a = acceleration_mps2(motion, INFERRED_REACH_S)
    coast = -COASTING_MPS2 - DRAG_1PM * motion.speed_mps**2
    if sign < 0.0:
        push = np.maximum(coast - 0.6 - a, 0.0)
        full = max(float(np.percentile(push, 99.0)), 1.0)
        return Pedal(
            time_s=motion.time_s, value=push / full, rest=0.0, full=full, noise=0.02, unit="m/s2", inferred=True
        )
    drive = np.maximum(a - coast, 0.0)
    envelope = np.maximum(_full_drive(motion, drive), 0.8)
    value = np.clip(drive / envelope, 0.0, 1.0)
    return Pedal(
        time_s=motion.time_s,
        value=np.where(value > 0.9, 1.0, value),
        rest=0.0,
        full=1.0,
        noise=0.03,
        unit="ratio",
        inferred=True,
    )


def _full_drive(motion: Motion, drive: FloatArray) -> FloatArray:
    """What the drive reaches at each speed: the 85th percentile by speed, smoothed."""
    bins = np.linspace(0.0, float(motion.speed_mps.max()) + 0.1, 13)
    which = np.digitize(motion.speed_mps, bins)
    driving = drive > 0.8
    tops = [
        float(np.percentile(drive[(which == k) & driving], 85.0)) if np.any((which == k) & driving) else np.nan
        for k in range(1, 13)
    ]
    known = np.flatnonzero(np.isfinite(tops))
    if known.size == 0:
        return np.full_like(drive, 1.0)
    centres = 0.5 * (bins[1:] + bins[:-1])
    return np.asarray(np.interp(motion.speed_mps, centres[known], np.asarray(tops)[known]))


def free_spells(pedal: Pedal, level: float, end_s: float) -> tuple[FloatArray, FloatArray]:
    """Times between which a pedal is below a level, from and to, (k,) both; crossings between samples.

    What is below at the first sample is so from 0, at the last up to ``end_s``.
    """
    t, v = pedal.time_s, pedal.value
    first, last = true_runs(v < level)
    before, after = np.maximum(first - 1, 0), np.minimum(last + 1, len(t) - 1)
    with np.errstate(invalid="ignore"):
        from_s = t[first] - (t[first] - t[before]) * (level - v[first]) / (v[before] - v[first])
        to_s = t[last] + (t[after] - t[last]) * (level - v[last]) / (v[after] - v[last])
    return np.where(before == first, 0.0, from_s), np.where(after == last, end_s, to_s)


class Spell(NamedTuple):
    """A range of samples, first and last, in which a pedal is pressed, and the one with its peak."""

    first: int
    last: int
    peak: int


def spells(pedal: Pedal, on: float, off: float, shortest_s: float = MIN_EVENT_S) -> list[Spell]:
    """Spells in which a pedal is above ``on``, kept until below ``off``."""
    out = []
    for first, last in zip(*(edge.tolist() for edge in true_runs(pedal.value > off)), strict=True):
        peak = first + int(pedal.value[first : last + 1].argmax())
        if pedal.value[peak] > on and pedal.time_s[last] - pedal.time_s[first] >= shortest_s - 1e-9:
            out.append(Spell(first, last, peak))
    return out


def brake_spells(brake: Pedal) -> list[Spell]:
    """Spells of braking: above ``BRAKE_ON``, kept until near rest."""
    return spells(brake, BRAKE_ON, max(0.03, 4 * brake.noise))


def rise_begins(time: FloatArray, value: FloatArray, inside: int, level: float, noise: float) -> float:
    """Time at which a rise begins: the first samples above ``level`` run back to it.

    Args:
        time: (n,) or longer, seconds.
        value: (n,), rising at index ``inside``.
        inside: an index on the rising edge, clearly above ``level``.
        level: what the value rises from.
        noise: standard deviation of the value at rest.

    Returns:
        A time no earlier than two samples before the first that is clearly above the level.

    >>> t = np.arange(6) * 0.1
    >>> round(rise_begins(t, np.array([0, 0, 0, 0.5, 1.5, 2.5]), 4, 0.0, 0.0), 3)
    0.25
    """
    bar = level + max(3.0 * noise, 0.012)
    below = (value[:inside] <= bar).nonzero()[0]
    if below.size == 0:
        return float(time[0])
    k = int(below[-1]) + 1
    slope = _edge_slope(time, value, k, inside)
    begin = time[k] - (value[k] - level) / slope if slope > 0.0 else time[k]
    return float(min(max(begin, time[max(k - 2, 0)]), time[k]))


def press_begins(pedal: Pedal, k: int, attack_s: float) -> float:
    """Time at which a quick press begins whose first sample clearly above rest is ``k``, by how long presses take.

    A sample on the way tells it; where there is none, it lies as likely anywhere between the
    last sample at rest and the attack's time before the first one that is held.
    """
    t, v = pedal.time_s, pedal.value
    held = float(pedal.press_from(k).max())
    if v[k] < HELD * held:
        return float(max(t[k] - attack_s * v[k] / held, t[k - 1]))
    return float(0.5 * (t[k - 1] + max(t[k] - attack_s, t[k - 1])))


def _edge_slope(time: FloatArray, value: FloatArray, k: int, inside: int) -> float:
    """Slope of the edge just above the level, over at least two samples and 0.05 s; 0 where it begins with the last of them."""
    last = min(len(time), len(value)) - 1
    end = min(k + 1, last)
    while end < min(inside, last) and time[end] - time[k] < 0.05:
        end += 1
    return float((value[end] - value[k]) / max(time[end] - time[k], 1e-6))


def swings(value: FloatArray, size: float) -> list[tuple[int, float]]:
    """Turning points of a series, where it turns back by at least ``size``: (index, value).

    The first and the last sample are among them.
    """
    ends = (0, float(value[0])), (len(value) - 1, float(value[-1]))
    turns, low, high, direction = [], ends[0], ends[0], 0
    for now in _extremes(value):
        high = now if now[1] > high[1] else high
        low = now if now[1] < low[1] else low
        if direction >= 0 and high[1] - now[1] >= size:
            turns.append(high)
            direction, low, high = -1, now, now
        elif direction <= 0 and now[1] - low[1] >= size:
            turns.append(low)
            direction, low, high = 1, now, now
    return [ends[0], *(t for t in turns if t[0] > 0), ends[1]]


def _extremes(value: FloatArray) -> list[tuple[int, float]]:
    """Where a series (n,) begins to run the other way, and its last sample: (index, value); nothing turns in between."""
    change = np.diff(value)
    changes = change.nonzero()[0]
    turned = (np.diff(change[changes] > 0.0)).nonzero()[0]
    index = np.concatenate([changes[turned] + 1, [len(value) - 1]])
    return list(zip(index.tolist(), value[index].tolist(), strict=True))


def slope_per_s(pedal: Pedal, reach_s: float = 0.2) -> FloatArray:
    """Rate of a pedal, 1/s, over about ``reach_s``, (n,)."""
    step = pedal.step_s
    width = 2 * max(0, round(0.5 * reach_s / step)) + 1
    return slopes(smooth_box(pedal.value, width), pedal.time_s)
