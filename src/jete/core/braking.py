"""What the brake did for one corner: its spells, where it begins, where it is let go."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.core.pedals import THROTTLE_FULL, Pedal, Spell, rise_begins

if TYPE_CHECKING:
    from jete.core.passage import Passage
    from jete.core.slow import Zone


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


def with_later(passage: Passage, zone: Zone, chain: list[Spell], brakes: list[Spell]) -> list[Spell]:
    """The chain, and brake spells between the slow point and the corner's end (a second apex)."""
    t, end = passage.brake.time_s, min(zone.end_s, zone.next_s)
    return chain + [s for s in brakes if zone.slow_s < t[s.first] and t[s.last] < end]


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
    clearly = brake.value[a : chain[0].last + 1] > min(0.3, 0.6 * float(brake.value[chain[0].peak]))
    on = rise_begins(brake.time_s, brake.value, a + int(np.argmax(clearly)), 0.0, brake.noise)
    off = float(brake.time_s[b])
    if b + 1 < len(brake.time_s):
        drop = brake.value[b] - brake.value[b + 1]
        off += float(brake.value[b] / drop * (brake.time_s[b + 1] - off)) if drop > brake.value[b] else 0.0
    return on, off, float(brake.value[a : b + 1].max())
