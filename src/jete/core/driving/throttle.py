"""What the throttle did for one corner: the lift, the pick-up, the way to full, the dips."""

from __future__ import annotations

import itertools
from statistics import median
from typing import TYPE_CHECKING

import numpy as np

from jete.core.driving.pedals import DIP, THROTTLE_FULL, Pedal, Spell, rise_begins, swings
from jete.core.numeric.interpolate import linear

if TYPE_CHECKING:
    from jete.core.arrays import IntArray
    from jete.core.driving.passage import Passage
    from jete.core.driving.slow import Zone

# Full for less is a blip.
FULL_HOLD_S = 0.4
# Half a km/h: a leg of the throttle that gains less does not drive on.
DRIVEN_MPS = 0.15
# Less throttle than this only balances the vehicle, and leaves nothing to lift from.
LIFTED_FROM = 0.3
# A shorter rest is a gear shift or a sample.
IDLE_S = 0.05
# A level is read over so long before the end of an idle run, and what a rise starts from over the last of it.
LEVEL_S = 0.2
# See LEVEL_S: a balancing throttle creeps, so its last bit is what a rise starts from.
BASE_S = 0.12


def lift(passage: Passage, zone: Zone, brake_on_s: float | None) -> float | None:
    """Where the throttle last leaves full before the brake point or the slow point; the most it was given, where it never was full."""
    throttle = passage.throttle
    until = brake_on_s + 0.1 if brake_on_s is not None else zone.slow_s
    t = throttle.time_s
    lo, hi = t.searchsorted([zone.previous_s - 0.2, until])
    full = (throttle.value[lo:hi] > THROTTLE_FULL).nonzero()[0]
    if full.size == 0:
        return None if brake_on_s is None else _lift_from_less(throttle, int(lo), int(hi))
    if lo + full[-1] >= len(t) - 2:
        return None
    below = int(lo + full[-1]) + 1
    fall = 1.0 - throttle.value[lo : int(t.searchsorted(zone.slow_s)) + 2]
    if brake_on_s is None and fall[below - lo :].max(initial=0.0) < DIP:
        return None
    return rise_begins(t[lo:], 1.0 - throttle.value[lo : below + 60], below - int(lo), 0.0, throttle.noise)


def _lift_from_less(throttle: Pedal, lo: int, hi: int) -> float | None:
    """Where a throttle that was never full begins its last fall among samples ``lo`` to ``hi``.

    On a short straight the foot is still feeding when it must come off.
    """
    part = throttle.value[lo:hi]
    if len(part) < 3:
        return None
    (first, top), (_, end) = swings(part, throttle.least_dip)[-2:]
    if first == 0 or top < LIFTED_FROM or end > top - throttle.least_dip:
        return None
    inside = first + int((part[first:] < top - 0.6 * throttle.least_dip).argmax())
    value = throttle.value[lo : hi + 2]
    return rise_begins(throttle.time_s[lo:], 1.0 - value, inside, 1.0 - top, throttle.noise)


def drive_from(passage: Passage, zone: Zone, chain: list[Spell], lift_s: float | None) -> float:
    """The time from which the pick-up is looked for: the last brake's peak, or the lift."""
    if chain:
        return float(passage.brake.time_s[chain[-1].peak])
    if lift_s is not None:
        return lift_s
    return min(zone.slow_s, zone.start_s)


def drive(passage: Passage, zone: Zone, from_s: float) -> tuple[float | None, float | None]:
    """Pick-up and full throttle, times; None where the throttle is never off, or never full."""
    t = passage.throttle.time_s
    lo, hi, end = (int(k) for k in t.searchsorted([from_s, zone.next_s, max(zone.end_s, zone.slow_s)]))
    eased = (passage.throttle.value[lo : max(end, lo + 1)] < THROTTLE_FULL - DIP).nonzero()[0]
    if hi - lo < 3 or eased.size == 0:
        return None, None
    off, last = lo + int(eased[0]), min(hi, len(t) - 1)
    again = _full_again(passage, off, last)
    pick_s, start = _first_drive(passage, lo, last, again)
    if pick_s is None and again < hi:
        pick_s, start = _from_less(passage, off, again)
    return pick_s, None if pick_s is None else _full(passage, start, hi, zone.end_s)


def _full_again(passage: Passage, lo: int, hi: int) -> int:
    """The first sample from ``lo`` on from which the throttle stays full; ``hi`` where it does not.

    A foot that comes off after that does so for the next corner.
    """
    runs = _runs_in(passage.full_runs, lo, hi, FULL_HOLD_S / passage.throttle.step_s)
    return runs[0][0] if runs else hi


def _from_less(passage: Passage, lo: int, again: int) -> tuple[float | None, int]:
    """Where a foot that only eased, and neither rested nor held a level, begins its last rise to full throttle, and a sample of that.

    From its least, or from where the vehicle begins to gain speed by it.
    """
    throttle = passage.throttle
    value = throttle.value[lo : again + 1]
    waits = np.flatnonzero(~passage.gains[lo : again + 1])
    until = int(waits[-1]) if waits.size else int(value.argmin())
    near = max(until - round(BASE_S / throttle.step_s), 0)
    begin = near + int(value[near : until + 1].argmin())
    if throttle.inferred or until == 0 or value[-1] - value[begin] < DIP:
        return None, again
    inside = begin + int((value[begin:] > value[begin] + 0.6 * DIP).argmax())
    return rise_begins(throttle.time_s[lo:], value, inside, float(value[begin]), throttle.noise), lo + inside


def _runs_in(runs: tuple[IntArray, IntArray], lo: int, hi: int, least: float) -> list[tuple[int, int]]:
    """Runs cut to samples ``lo`` to ``hi`` that are left with at least so many samples."""
    a, b = int(runs[1].searchsorted(lo)), int(runs[0].searchsorted(hi, side="right"))
    cut = zip(np.maximum(runs[0][a:b], lo).tolist(), np.minimum(runs[1][a:b], hi).tolist(), strict=True)
    return [(first, last) for first, last in cut if last - first + 1 >= least - 1e-6]


def _first_drive(passage: Passage, lo: int, hi: int, again: int) -> tuple[float | None, int]:
    """The end of the first idle run before sample ``again`` after which the vehicle is driven on, and a sample of the rise."""
    throttle = passage.throttle
    t, value = throttle.time_s, throttle.value
    runs = _runs_in(passage.idle_runs, lo, hi, IDLE_S / throttle.step_s)
    level_samples, base_samples = (max(1, round(reach_s / throttle.step_s)) for reach_s in (LEVEL_S, BASE_S))
    stops = [*(first for first, _ in runs[1:]), hi]
    for (a, b), stop in zip(runs, stops[: len(runs)], strict=True):
        if a >= again:
            break
        leg = value[b : stop + 1]
        level, top = float(value[max(a, b - level_samples) : b + 1].mean()), float(leg.max())
        if top < level + DIP or (top < 0.8 and passage.gained_mps(t[b], t[stop]) < DRIVEN_MPS):
            continue
        inside = b + int((leg > level + 0.6 * DIP).argmax())
        near = value[max(a, b - base_samples) : max(b, a + 1)]
        base = median(near.tolist()) if len(near) else level
        # A foot that comes off the balancing throttle before it drives on begins its rise down there.
        lowest = float(value[b : inside + 1].min())
        base = lowest if lowest < base - 0.6 * DIP else base
        return rise_begins(t[lo:], value[lo:], inside - lo, base, throttle.noise), inside
    return None, hi


def _full(passage: Passage, lo: int, hi: int, corner_end_s: float) -> float | None:
    """Full throttle to stay: the first that holds for a while and past the corner's end."""
    t, value = passage.throttle.time_s, passage.throttle.value
    runs = _runs_in(passage.full_runs, lo, min(hi, len(t) - 1), FULL_HOLD_S / passage.throttle.step_s)
    k = next((a for a, b in runs if t[b] >= corner_end_s), None)
    if k is None or k == 0 or value[k] == value[k - 1]:
        return None if k is None else float(t[k])
    share = (THROTTLE_FULL - value[k - 1]) / (value[k] - value[k - 1])
    return float(t[k - 1] + min(max(share, 0.0), 1.0) * (t[k] - t[k - 1]))


def dips(throttle: Pedal, pick_s: float | None, full_s: float | None) -> int:
    """How often the throttle comes off clearly between pick-up and full."""
    if pick_s is None:
        return 0
    least = throttle.least_dip
    end = full_s if full_s is not None else pick_s + 3.0
    lo, hi = throttle.time_s.searchsorted([pick_s, end])
    part = throttle.value[lo : hi + 1]
    if len(part) < 3 or float((np.maximum.accumulate(part) - part).max()) < least:
        return 0
    turns = swings(part, least)
    return sum(1 for p, q in itertools.pairwise(turns) if p[1] - q[1] >= least and q[0] < len(part) - 1)


def coasting_s(passage: Passage, start_s: float | None, end_s: float | None) -> float:
    """Seconds on neither pedal between two times of the lap."""
    if start_s is None or end_s is None or end_s <= start_s:
        return 0.0
    return linear(end_s, *passage.rolled_s) - linear(start_s, *passage.rolled_s)
