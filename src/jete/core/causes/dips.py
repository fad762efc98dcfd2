"""Dips of the throttle in the drive out: where they are, and what they took."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.driving.pedals import swings

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.driving.marks import Marks
    from jete.core.driving.passage import Passage
    from jete.core.driving.windows import Span

# A throttle that comes back later than this was lifted for something else.
BACK_S = 1.2


@dataclass(frozen=True)
class Dip:
    """The throttle comes off between two places by ``depth`` of its span, and comes back."""

    start_m: float
    end_m: float
    depth: float


def same_dip(dip: Dip, other: Dip) -> bool:
    """Whether the other lap comes off as much within 10 m of the place."""
    near = dip.start_m < other.end_m + 10.0 and other.start_m < dip.end_m + 10.0
    return near and other.depth > 0.5 * dip.depth


def dips_of(passage: Passage, marks: Marks, window: Span) -> list[Dip]:
    """Dips, from where the throttle comes off to where it has come back as far as it does."""
    if marks.throttle_on_m is None or marks.throttle_dips == 0:
        return []
    throttle = passage.throttle
    end = marks.full_throttle_m if marks.full_throttle_m is not None else window.end_m
    times = passage.time_at(np.array([marks.throttle_on_m, min(end + 15.0, float(passage.alignment.place_m[-1]))]))
    lo, hi = np.searchsorted(throttle.time_s, times)
    part = throttle.value[lo : hi + 1]
    if len(part) < 3:
        return []
    turns = swings(part, throttle.least_dip)
    step = throttle.step_s
    out = []
    for (i, top), (j, low) in itertools.pairwise(turns):
        if top - low < throttle.least_dip or j >= len(part) - 1:
            continue
        again = part[j : j + int(BACK_S / step) + 2]
        k = j + int(np.argmax(again >= 0.97 * again.max()))
        start, back = (passage.place_of(throttle.time_s[lo + n]) for n in (i, k))
        out.append(Dip(start, back, top - low))
    return out


def deficit_of(
    at: FloatArray, energies: tuple[FloatArray, FloatArray], dips: list[Dip], fade: FloatArray
) -> FloatArray:
    """What dips of the throttle took from E, (k,); ``energies`` (k,) of this and the other lap.

    Without the dip the vehicle would have gone on as before and after it, or as the other
    lap does at that place, whichever is more.
    """
    step = float(at[1] - at[0])
    slopes = [np.gradient(e, at) for e in energies]
    deficit = np.zeros_like(at)
    for dip in dips:
        start, end = dip.start_m, dip.end_m
        inside = (at > start) & (at < end)
        if not inside.any():
            continue
        bridge = np.interp(at, [start, end], np.interp([start - 2.0, end + 2.0], at, slopes[0]))
        lost = np.cumsum(np.where(inside, np.maximum(np.maximum(bridge, slopes[1]) - slopes[0], 0.0) * step, 0.0))
        after = at >= end
        if after.any():
            lost[after] *= fade[after] / fade[np.argmax(after)]
        deficit += lost
    return deficit
