"""What the brake did for one corner: its spells, where it begins, where it is let go."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.core.driving.pedals import BRAKE_ON, THROTTLE_FULL, Pedal, Spell, press_begins, rise_begins

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.driving.passage import Passage
    from jete.core.driving.slow import Zone

# An edge that so many samples see is traced along them.
SEEN_SAMPLES = 4.0
STEP_S = 0.01
# A foot on the pedal that slows nothing yet.
FELT = 0.1
# The press is built where it reaches this share of what it is for the most part,
BUILT = 0.9
# which is what it is above for a third of its time.
MOSTLY = 2.0 / 3.0
# A brake that is pressed for less than this share of the corner's own press is brushed.
BRUSH_SHARE = 0.3
# A press that begins within this of the other lap's is for the same piece of road, one that begins farther before it for another.
SAME_PRESS_M, OTHER_PRESS_M = 30.0, 80.0


def chain_of(passage: Passage, zone: Zone, brakes: list[Spell]) -> list[Spell]:
    """Brake spells of one corner: before its slow point, with no full throttle in between."""
    t = passage.brake.time_s
    chain: list[Spell] = []
    for spell in reversed(brakes):
        if t[spell.peak] > zone.slow_s + 0.3 or t[spell.first] > zone.slow_s:
            continue
        next_s = float(t[chain[0].first]) if chain else zone.slow_s
        if t[spell.peak] < zone.previous_s + 0.05 or _full_between(passage.throttle, float(t[spell.last]), next_s):
            break
        chain.insert(0, spell)
    return chain


def begun_like(passage: Passage, chain: list[Spell], like_m: float | None) -> list[Spell]:
    """The chain without presses long before the other lap's brake point, where a later one begins there.

    Between two presses in one bend one lap is on full throttle, the other almost: both are held to the same press.
    """
    if like_m is None or len(chain) < 2:
        return chain
    begins = passage.place_at(passage.brake.time_s[[s.first for s in chain]])
    near = np.abs(begins - like_m) < SAME_PRESS_M
    return chain[int(near.argmax()) :] if near.any() and like_m - begins[0] > OTHER_PRESS_M else chain


def with_later(passage: Passage, zone: Zone, chain: list[Spell], brakes: list[Spell]) -> list[Spell]:
    """The chain, and brake spells between the slow point and the corner's end (a second apex).

    Who brushes the brake after full throttle has driven on before; the other lap may only lift there.
    """
    t, value, end = passage.brake.time_s, passage.brake.value, min(zone.end_s, zone.next_s)
    later = [s for s in brakes if zone.slow_s < t[s.first] and t[s.last] < end]
    starts = [zone.slow_s, *(float(t[s.last]) for s in later)]
    most = max((float(value[s.peak]) for s in chain), default=0.0)
    return chain + [
        s
        for s, start in zip(later, starts, strict=False)
        if value[s.peak] > BRUSH_SHARE * most or not _full_between(passage.throttle, start, float(t[s.first]))
    ]


def _full_between(throttle: Pedal, start_s: float, end_s: float) -> bool:
    """Whether the throttle is full for a while between two times."""
    if end_s - start_s < 0.3:
        return False
    lo, hi = throttle.time_s.searchsorted([start_s, end_s])
    full = np.count_nonzero(throttle.value[lo:hi] > THROTTLE_FULL)
    return bool(full * throttle.step_s > 0.25)


def brake_marks(brake: Pedal, chain: list[Spell]) -> tuple[float | None, float | None, float | None]:
    """Brake on (start of the rise), brake off, and the peak on the span."""
    if not chain:
        return None, None, None
    a, b = chain[0].first, chain[-1].last
    on = _pressed(brake, chain[0])
    off = float(brake.time_s[b])
    if b + 1 < len(brake.time_s):
        drop = brake.value[b] - brake.value[b + 1]
        off += float(brake.value[b] / drop * (brake.time_s[b + 1] - off)) if drop > brake.value[b] else 0.0
    return on, off, float(brake.value[a : b + 1].max())


def build_s(brake: Pedal, on_s: float, off_s: float) -> tuple[float, float] | None:
    """Seconds from the brake point until the first press is built, and the most of that press on the span; None for too short a one.

    Built is nine tenths of what the press is for the most part: one that goes on rising to its end was built before.
    """
    share = _first_press(brake.at(np.arange(on_s, off_s, STEP_S)))
    if share.size < 3:
        return None
    built = BUILT * float(np.quantile(share, MOSTLY))
    return float(np.argmax(share >= built)) * STEP_S, float(share.max())


def _first_press(share: FloatArray) -> FloatArray:
    """The first of several presses, (k,): up to where it has fallen to half of its own peak."""
    top = np.maximum.accumulate(share)
    fallen = np.flatnonzero((top > FELT) & (share < 0.5 * top))
    return share[: int(fallen[0])] if fallen.size else share


def _pressed(brake: Pedal, spell: Spell) -> float:
    """When a press begins: back along its samples, or by how long presses take where it is over within a few."""
    value = brake.value[spell.first : spell.last + 1]
    attack_s = brake.attack_s
    if attack_s is not None and attack_s < SEEN_SAMPLES * brake.step_s:
        k = spell.first + int((value > BRAKE_ON).argmax())
        if k > 0:
            return press_begins(brake, k, attack_s)
    clearly = value > min(0.3, 0.6 * float(brake.value[spell.peak]))
    return rise_begins(brake.time_s, brake.value, spell.first + int(clearly.argmax()), 0.0, brake.noise)
