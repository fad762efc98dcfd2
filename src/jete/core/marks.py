"""The marks of one lap at each corner: brake point to full throttle.

Events are found on native samples with hysteresis and a least duration, then placed
between samples.  Places are on the reference's axis.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.corners import Corner
from jete.core.lap import BoolArray, FloatArray
from jete.core.passage import Passage
from jete.core.pedals import BRAKE_ON, DIP, THROTTLE_FULL, Pedal, rise_begins, spells, swings

if TYPE_CHECKING:
    from collections.abc import Sequence

FLAT_VALLEY_MPS = 0.14
FULL_HOLD_S = 0.4
BALANCE_MPS2 = 0.6
BALANCE_RATE = 0.4
REST = 0.035
IDLE_S = 0.05
BEFORE_SLOW_M = 15.0
SAME_APEX_M = 25.0
AS_SLOW_MPS = 0.5


@dataclass(frozen=True)
class Marks:
    """What one lap did at one corner; None where there is no such mark.

    ``brake_peak`` in ``brake_unit`` above rest; ``coast_s`` on neither pedal from the
    lift to the pick-up; ``throttle_dips`` between the pick-up and full throttle.
    """

    brake_on_m: float | None
    brake_peak: float | None
    brake_unit: str | None
    brake_off_m: float | None
    lift_m: float | None
    turn_in_m: float | None
    slow_point_m: float
    min_speed_kmh: float
    throttle_on_m: float | None
    full_throttle_m: float | None
    exit_speed_kmh: float
    coast_s: float
    throttle_dips: int
    gear: int | None

    @property
    def slowing_m(self) -> float | None:
        """The first of lift and brake point: where the corner begins for this lap."""
        known = [m for m in (self.lift_m, self.brake_on_m) if m is not None]
        return min(known) if known else None

    @property
    def onset_m(self) -> float | None:
        """The brake point, or the lift where there is none."""
        return self.brake_on_m if self.brake_on_m is not None else self.lift_m


@dataclass(frozen=True)
class _Zone:
    """Where to look for a corner's marks: times of the lap, and the slow point."""

    corner: Corner
    previous_s: float
    slow_s: float
    next_s: float


def marks_of(passage: Passage, corners: Sequence[Corner], like: Sequence[Marks] | None = None) -> list[Marks]:
    """Marks of a lap at all corners, in order.

    Args:
        passage: the lap on the reference's axis.
        corners: of the road.
        like: the reference's marks: where a corner has two apexes that are as slow within
            0.5 m/s, the slow point is the one at the apex where the reference has it.
    """
    slow = [_slow_time(passage, corners, i) for i in range(len(corners))]
    if like is not None:
        slow = [_as_slow_near(passage, t, m.slow_point_m) for t, m in zip(slow, like, strict=True)]
    end = float(passage.motion.time_s[-1])
    brakes = spells(passage.brake, BRAKE_ON, max(0.03, 4 * passage.brake.noise))
    out = []
    for i, corner in enumerate(corners):
        zone = _Zone(corner, slow[i - 1] if i else 0.0, slow[i], slow[i + 1] if i + 1 < len(corners) else end)
        out.append(_marks(passage, zone, brakes))
    return out


def _slow_time(passage: Passage, corners: Sequence[Corner], i: int) -> float:
    """Time of the slowest sample of a corner."""
    corner = corners[i]
    lo = corner.start_m - BEFORE_SLOW_M
    hi = corner.end_m + 0.25 * (corner.end_m - corner.start_m)
    if i:
        lo = max(lo, 0.5 * (corners[i - 1].end_m + corner.start_m), corners[i - 1].apex_m + 2.0)
    if i + 1 < len(corners):
        hi = min(hi, 0.5 * (corner.end_m + corners[i + 1].start_m))
    return _slowest(passage, lo, hi, corner.apex_m)


def _as_slow_near(passage: Passage, slow_s: float, place_m: float) -> float:
    """The slowest sample within 25 m of a place, where it is as slow as the one found; else that one."""
    place, speed = passage.alignment.place_m, passage.motion.speed_mps
    a, b = np.searchsorted(place, [place_m - SAME_APEX_M, place_m + SAME_APEX_M])
    if b <= a:
        return slow_s
    k = int(a) + int(np.argmin(speed[a:b]))
    lowest = float(np.interp(slow_s, passage.motion.time_s, speed))
    far = abs(float(passage.place_at(slow_s)) - place_m) > SAME_APEX_M
    valley = a + 1 < k < b - 2
    return float(passage.motion.time_s[k]) if far and valley and speed[k] < lowest + AS_SLOW_MPS else slow_s


def _slowest(passage: Passage, lo: float, hi: float, apex: float) -> float:
    """Time of the least speed between two places; not where it only falls into, or rises out of, another corner."""
    place, speed = passage.alignment.place_m, passage.motion.speed_mps
    a, middle = int(np.searchsorted(place, lo)), int(np.searchsorted(place, apex))
    b = min(max(int(np.searchsorted(place, hi)), a + 2), len(place))
    middle = min(max(middle, a + 1), b - 1)
    reach = max(3, (b - a) // 12)
    k = a + int(np.argmin(speed[a:b]))
    if k >= b - reach:
        k = a + int(np.argmin(speed[a : middle + int(np.argmax(speed[middle:b])) + 1]))
    if k <= a + reach:
        start = a + int(np.argmax(speed[a : middle + 1]))
        k = start + int(np.argmin(speed[start : middle + int(np.argmax(speed[middle:b])) + 1]))
    return float(passage.motion.time_s[min(k, len(place) - 1)])


def _marks(passage: Passage, zone: _Zone, brakes: list[tuple[int, int]]) -> Marks:
    """All marks of one corner."""
    chain = _brake_chain(passage, zone, brakes)
    brake_on_s, brake_off_s, peak = _brake_marks(passage.brake, chain)
    lift_s = _lift(passage, zone, brake_on_s)
    drive_from = _drive_from(passage, zone, _with_later(passage, zone, chain, brakes), lift_s)
    pick_s, full_s = _drive(passage, zone, drive_from)
    slow_m, v_min = slow_point(passage, zone.slow_s)
    reach = 0.25 * (zone.corner.end_m - zone.corner.start_m)
    slow_m = float(np.clip(slow_m, zone.corner.start_m - BEFORE_SLOW_M, zone.corner.end_m + reach))
    return Marks(
        brake_on_m=_place(passage, brake_on_s),
        brake_peak=passage.brake.logged(peak) if peak is not None else None,
        brake_unit=passage.brake.unit if peak is not None else None,
        brake_off_m=_place(passage, brake_off_s),
        lift_m=_place(passage, lift_s),
        turn_in_m=_turn_in(passage, zone),
        slow_point_m=slow_m,
        min_speed_kmh=v_min * 3.6,
        throttle_on_m=_place(passage, pick_s),
        full_throttle_m=_place(passage, full_s),
        exit_speed_kmh=float(passage.speed_at(zone.corner.end_m)) * 3.6,
        coast_s=coasting_s(passage, lift_s if lift_s is not None else brake_on_s, pick_s),
        throttle_dips=_dips(passage.throttle, pick_s, full_s),
        gear=_gear(passage, zone.slow_s),
    )


def _place(passage: Passage, time_s: float | None) -> float | None:
    return None if time_s is None else float(passage.place_at(time_s))


def _brake_chain(passage: Passage, zone: _Zone, brakes: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Brake spells of one corner: before its slow point, with no full throttle in between."""
    t = passage.brake.time_s
    chain: list[tuple[int, int]] = []
    for a, b in reversed(brakes):
        middle = t[a + int(np.argmax(passage.brake.value[a : b + 1]))]
        if middle > zone.slow_s + 0.3 or t[a] > zone.slow_s:
            continue
        if middle < zone.previous_s + 0.05:
            break
        if chain and _full_between(passage.throttle, float(t[b]), float(t[chain[0][0]])):
            break
        if not chain and _full_between(passage.throttle, float(t[b]), zone.slow_s):
            break
        chain.insert(0, (a, b))
    return chain


def _with_later(
    passage: Passage, zone: _Zone, chain: list[tuple[int, int]], brakes: list[tuple[int, int]]
) -> list[tuple[int, int]]:
    """The chain, and brake spells between the slow point and the corner's end (a second apex)."""
    t, end = passage.brake.time_s, float(passage.time_at(zone.corner.end_m))
    return chain + [(a, b) for a, b in brakes if zone.slow_s < t[a] and t[b] < min(end, zone.next_s)]


def _full_between(throttle: Pedal, start_s: float, end_s: float) -> bool:
    """Whether the throttle is full for a while between two times."""
    if end_s - start_s < 0.3:
        return False
    inside = (throttle.time_s > start_s) & (throttle.time_s < end_s)
    full = inside & (throttle.value > THROTTLE_FULL)
    return bool(full.sum() * throttle.step_s > 0.25)


def _brake_marks(brake: Pedal, chain: list[tuple[int, int]]) -> tuple[float | None, float | None, float | None]:
    """Brake on (start of the rise), brake off, and the peak on the span."""
    if not chain:
        return None, None, None
    a, b = chain[0][0], chain[-1][1]
    first = brake.value[chain[0][0] : chain[0][1] + 1]
    inside = a + int(np.argmax(first > min(0.3, 0.6 * float(first.max()))))
    on = rise_begins(brake.time_s, brake.value, max(inside, a), 0.0, brake.noise)
    off = float(brake.time_s[b])
    if b + 1 < len(brake.time_s):
        drop = brake.value[b] - brake.value[b + 1]
        off += float(brake.value[b] / drop * (brake.time_s[b + 1] - off)) if drop > brake.value[b] else 0.0
    return on, off, float(brake.value[a : b + 1].max())


def _lift(passage: Passage, zone: _Zone, brake_on_s: float | None) -> float | None:
    """Where the throttle last leaves full before the brake point or the slow point."""
    throttle = passage.throttle
    until = brake_on_s + 0.1 if brake_on_s is not None else zone.slow_s
    window = np.flatnonzero((throttle.time_s >= zone.previous_s - 0.2) & (throttle.time_s <= until))
    full = window[throttle.value[window] > THROTTLE_FULL]
    if full.size == 0 or full[-1] >= len(throttle.time_s) - 2:
        return None
    last = int(full[-1])
    below = min(last + 1, len(throttle.time_s) - 1)
    fall = 1.0 - throttle.value
    if (
        brake_on_s is None
        and fall[below : int(np.searchsorted(throttle.time_s, zone.slow_s)) + 2].max(initial=0.0) < DIP
    ):
        return None
    return rise_begins(throttle.time_s, fall, below, 0.0, throttle.noise)


def _drive_from(passage: Passage, zone: _Zone, chain: list[tuple[int, int]], lift_s: float | None) -> float:
    """From when the pick-up is looked for: the last brake's peak, or the lift."""
    brake = passage.brake
    if chain:
        a, b = chain[-1]
        return float(brake.time_s[a + int(np.argmax(brake.value[a : b + 1]))])
    if lift_s is not None:
        return lift_s
    return min(zone.slow_s, float(passage.time_at(zone.corner.start_m)))


def _drive(passage: Passage, zone: _Zone, from_s: float) -> tuple[float | None, float | None]:
    """Pick-up and full throttle, times; None where the throttle is never off, or never full."""
    throttle = passage.throttle
    t = throttle.time_s
    part = slice(int(np.searchsorted(t, from_s)), int(np.searchsorted(t, zone.next_s)) + 1)
    if part.stop - part.start < 4:
        return None, None
    idle = _idle(passage, part)
    runs = _true_runs(idle, t[part], IDLE_S, throttle.step_s)
    pick_s, start = _first_drive(passage, part, runs)
    if pick_s is None or start is None:
        return pick_s, None
    return pick_s, _full(throttle, slice(start, part.stop), float(passage.time_at(zone.corner.end_m)))


def _idle(passage: Passage, part: slice) -> BoolArray:
    """Samples with the throttle at rest, or holding a level that only balances the vehicle."""
    throttle = passage.throttle
    t, value = throttle.time_s[part], throttle.value[part]
    a = np.interp(t, passage.motion.time_s, passage.balance_mps2)
    steady = np.abs(passage.feed_per_s[part]) < BALANCE_RATE
    balancing = steady & (np.abs(a) < BALANCE_MPS2) & (value < 0.75)
    rest: BoolArray = value < max(REST, 4 * throttle.noise)
    return rest | balancing


def _true_runs(mask: BoolArray, time: FloatArray, shortest_s: float, step: float) -> list[tuple[int, int]]:
    """Ranges [first, last] of True of at least a duration, each sample counted as one step."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], mask.astype(np.int8), [0]])))
    pairs = [(int(a), int(b) - 1) for a, b in zip(edges[0::2], edges[1::2], strict=True)]
    return [(a, b) for a, b in pairs if time[b] - time[a] + step >= shortest_s - 1e-9]


def _first_drive(passage: Passage, part: slice, runs: list[tuple[int, int]]) -> tuple[float | None, int | None]:
    """The end of the first idle run after which the vehicle is driven on."""
    throttle = passage.throttle
    t, value = throttle.time_s[part], throttle.value[part]
    v = np.interp(t, passage.motion.time_s, passage.motion.speed_mps)
    for k, (a, b) in enumerate(runs):
        stop = runs[k + 1][0] if k + 1 < len(runs) else len(t) - 1
        level = float(value[max(a, b - 20) : b + 1].mean())
        leg = value[b : stop + 1]
        gained = float(v[stop] - v[b])
        if leg.max(initial=0.0) < level + DIP or (gained < 0.25 and leg.max() < 0.8):
            continue
        inside = b + int(np.argmax(leg > level + 0.6 * DIP))
        base = _level_before(value, a, b, level)
        return rise_begins(t, value, inside, base, throttle.noise), part.start + inside
    return None, None


def _level_before(value: FloatArray, a: int, b: int, level: float) -> float:
    """The level a rise starts from: the median of the last idle samples."""
    near = value[max(a, b - 12) : max(b - 1, a + 1)]
    return float(np.median(near)) if len(near) else level


def _full(throttle: Pedal, part: slice, corner_end_s: float) -> float | None:
    """Full throttle to stay: the first that holds for a while and past the corner's end."""
    t, value = throttle.time_s, throttle.value
    runs = _true_runs(value[part] > THROTTLE_FULL, t[part], FULL_HOLD_S, throttle.step_s)
    staying = [a for a, b in runs if t[part.start + b] >= corner_end_s]
    if not staying:
        return None
    k = part.start + staying[0]
    if k == 0 or value[k] == value[k - 1]:
        return float(t[k])
    share = (THROTTLE_FULL - value[k - 1]) / (value[k] - value[k - 1])
    return float(t[k - 1] + np.clip(share, 0.0, 1.0) * (t[k] - t[k - 1]))


def _dips(throttle: Pedal, pick_s: float | None, full_s: float | None) -> int:
    """How often the throttle comes off by a tenth of its span between pick-up and full."""
    if pick_s is None:
        return 0
    end = full_s if full_s is not None else pick_s + 3.0
    part = throttle.value[
        int(np.searchsorted(throttle.time_s, pick_s)) : int(np.searchsorted(throttle.time_s, end)) + 1
    ]
    if len(part) < 3:
        return 0
    turns = swings(part, DIP)
    return sum(1 for p, q in itertools.pairwise(turns) if p[1] - q[1] >= DIP and q[0] < len(part) - 1)


def slow_point(passage: Passage, slow_s: float) -> tuple[float, float]:
    """Place of the centre of the valley, and the lowest speed as logged, m/s.

    The valley is where speed is within 0.5 km/h (or twice its noise) of its least, so a
    flat valley gives its middle whatever the noise.
    """
    t, v = passage.motion.time_s, passage.motion.speed_mps
    k = int(np.searchsorted(t, slow_s))
    near = slice(max(0, k - 600), min(len(t), k + 600))
    tt, vv = t[near], v[near]
    inside = np.abs(tt - slow_s) <= 0.35
    lowest = _lowest(tt[inside] - slow_s, vv[inside])
    low = vv < max(lowest, float(v[min(k, len(v) - 1)])) + FLAT_VALLEY_MPS
    centre = min(k, len(v) - 1) - near.start
    a = centre - int(np.argmin(low[centre::-1])) if not low[: centre + 1].all() else 0
    b = centre + int(np.argmin(low[centre:])) if not low[centre:].all() else len(low) - 1
    return float(0.5 * (passage.place_at(tt[a]) + passage.place_at(tt[b]))), lowest


def _lowest(t: FloatArray, v: FloatArray) -> float:
    """Minimum of a parabola through the samples around the slowest, so that noise does not bias it."""
    if len(t) < 5:
        return float(v.min())
    c2, c1, c0 = np.polyfit(t, v, 2)
    if c2 <= 0.0 or abs(c1 / (2 * c2)) > float(np.abs(t).max()):
        return float(v.min())
    fitted = float(c0 - c1**2 / (4 * c2))
    scatter = float(np.std(v - np.polyval([c2, c1, c0], t)))
    return fitted if abs(fitted - float(v.min())) < 3.0 * scatter + 0.05 else float(v.min())


def _turn_in(passage: Passage, zone: _Zone) -> float | None:
    """Where the steering (else the corner's own start) begins to build up to the bend."""
    centred = passage.centred_steering
    if centred is None:
        return zone.corner.start_m
    t, whole = centred
    lo, hi = passage.time_at(np.array([zone.corner.start_m - 60.0, zone.corner.apex_m]))
    part = slice(int(np.searchsorted(t, max(float(lo), zone.previous_s))), int(np.searchsorted(t, float(hi))) + 1)
    angle = whole[part]
    if len(angle) < 4:
        return zone.corner.start_m
    top = angle[int(np.argmax(np.abs(angle)))]
    built = angle * np.sign(top) / max(abs(float(top)), 1e-9)
    return float(passage.place_at(_build_up(t[part], built)))


def _build_up(time: FloatArray, built: FloatArray) -> float:
    """Start of the last rise to half of the peak, run back along the edge."""
    half = int(np.argmax(built > 0.5))
    k = half
    while k > 0 and built[k - 1] > 0.15:
        k -= 1
    slope = (built[half] - built[k]) / max(float(time[half] - time[k]), 1e-6)
    begin = time[k] - built[k] / slope if slope > 0.0 else time[k]
    return float(np.clip(begin, time[0], time[half]))


def coasting_s(passage: Passage, start_s: float | None, end_s: float | None) -> float:
    """Seconds on neither pedal between two times of the lap."""
    if start_s is None or end_s is None or end_s <= start_s:
        return 0.0
    clock = np.arange(start_s, end_s, 0.005)
    off = (passage.throttle.at(clock) < max(REST, 4 * passage.throttle.noise)) & (
        passage.brake.at(clock) < max(0.03, 4 * passage.brake.noise)
    )
    return float(off.sum() * 0.005)


def _gear(passage: Passage, slow_s: float) -> int | None:
    gear = passage.lap.get("gear")
    if gear is None or len(gear) == 0:
        return None
    at = min(int(np.searchsorted(gear.time_s, slow_s)), len(gear) - 1)
    return round(float(gear.value[at]))


def is_flat(passage: Passage, corner: Corner) -> bool:
    """Whether a lap takes a bend flat: no brake, and the throttle full or still on its way there."""
    t = passage.motion.time_s
    lo, hi = float(passage.time_at(corner.start_m - 20.0)), float(passage.time_at(corner.end_m))
    throttle, brake = passage.throttle, passage.brake
    clock = np.linspace(max(lo, 0.0), min(hi, float(t[-1])), 80)
    if float(brake.at(clock).max()) > BRAKE_ON:
        return False
    if throttle.inferred:
        return bool(np.interp(clock, t, passage.acceleration_mps2).min() > -0.6)
    fed = throttle.at(clock)
    came_off = float((np.maximum.accumulate(fed) - fed).max())
    return bool(came_off < DIP and fed[-1] > THROTTLE_FULL and fed[0] > 0.5)
