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
# Two laps that come off for the road do so within this of each other;
NEAR_M = 10.0
# And one is less on the throttle there than the other by less than this share of its dip.
LEAST_OWN = 0.3
STEP_M = 0.5


@dataclass(frozen=True, eq=False)
class Dip:
    """The throttle comes off and comes back: places (m,), metres, and how far on it is there, on its span, (m,)."""

    at_m: FloatArray
    value: FloatArray

    @property
    def start_m(self) -> float:
        """Where it comes off."""
        return float(self.at_m[0])

    @property
    def end_m(self) -> float:
        """Where it has come back."""
        return float(self.at_m[-1])

    @property
    def below(self) -> FloatArray:
        """How far it is below where it came off, (m,)."""
        return np.asarray(np.maximum(self.value[0] - self.value, 0.0))

    def near(self, other: Dip) -> bool:
        """Whether another dip lies within 10 m."""
        return self.start_m < other.end_m + NEAR_M and other.start_m < self.end_m + NEAR_M

    @property
    def area_m(self) -> float:
        """How far it is below times how long that lasts, metres of the whole span."""
        return max(float(np.trapezoid(self.below, self.at_m)), 1e-9)


def own_dips(dips: list[Dip], others: list[Dip], own: Passage, other: Passage) -> list[Dip]:
    """The dips by which a lap is less on the throttle than the other, over the road of these and of the other's near them.

    Two that come off alike a few metres apart are so equally.  Who picks up earlier and must come off a little is still
    further on; who comes off altogether where the limit of grip cuts the other back a little is less.
    """
    found = []
    for dip in dips:
        near = [dip, *(o for o in others if dip.near(o))]
        places = np.arange(min(d.start_m for d in near), max(d.end_m for d in near), STEP_M)
        ours, theirs = (p.throttle.at(p.time_at(places)) for p in (own, other))
        if STEP_M * float(np.sum(theirs - ours)) > LEAST_OWN * dip.area_m:
            found.append(dip)
    return found


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
        inside = slice(i, k + 1)
        out.append(Dip(passage.place_at(throttle.time_s[lo : hi + 1][inside]), part[inside]))
    return out


def deficit_of(
    at: FloatArray, energies: tuple[FloatArray, FloatArray], dips: list[Dip], others: list[Dip], fade: FloatArray
) -> FloatArray:
    """What dips of the throttle took from E, (k,); ``energies`` (k,) of this and the other lap.

    Without the dip the vehicle would have gone on as before and after it, or as the other
    lap does at that place, whichever is more; where the other comes off too, if less (``others``), as that one does.
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
        without = slopes[1] if any(dip.near(o) for o in others) else np.maximum(bridge, slopes[1])
        lost = np.cumsum(np.where(inside, np.maximum(without - slopes[0], 0.0) * step, 0.0))
        after = at >= end
        if after.any():
            lost[after] *= fade[after] / fade[np.argmax(after)]
        deficit += lost
    return deficit
