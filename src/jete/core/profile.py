r"""One lap's speed over a window, taken apart between its marks.

All speeds are handled as E = v²/2, whose slope along the road is the acceleration:

    E |  approach ...       lift
      |           ''''.__.  brake point
      |                  \\
      |                   \\  braking          .---  drive out
      |                    \\__ coasting    .-'
      |                        '---------'
      |                       end of the   pick-up
      |                       slowing
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from jete.core.lap import FloatArray
from jete.core.marks import REST, Marks
from jete.core.passage import Passage
from jete.core.pedals import DIP, swings
from jete.core.road import Road
from jete.core.vehicle import Drive
from jete.core.windows import Span

CELL_M = 3.5
VALLEY_MPS = 0.3
PAST_M = 60.0
GENTLEST_MPS2 = 2.0
BACK_S = 1.2


@dataclass(frozen=True, eq=False)
class Cells:
    """The cells of a window: edges (m + 1,), middles (m,), and the width, metres."""

    edges_m: FloatArray
    middles_m: FloatArray
    width_m: float

    @classmethod
    def over(cls, window: Span) -> Cells:
        """Even cells of about 3 m."""
        count = max(8, round((window.end_m - window.start_m) / CELL_M))
        edges = np.linspace(window.start_m, window.end_m, count + 1)
        return cls(edges, 0.5 * (edges[1:] + edges[:-1]), float(edges[1] - edges[0]))


@dataclass(frozen=True)
class Dip:
    """The throttle comes off between two places by ``depth`` of its span, and comes back."""

    start_m: float
    end_m: float
    depth: float


@dataclass(frozen=True, eq=False)
class Profile:
    """One lap over a window; E in m²/s² at the middles of the cells and beyond the end.

    ``at_m`` (k,) covers the window and some metres after it (run on there); ``energy``
    (k,) is E without any dip of the throttle in the drive out, ``deficit`` (k,) what the
    dips took; ``least`` is the lowest E, ``rolls_in`` says that the slowing ends on neither pedal;
    ``own_dips`` counts the dips that the other lap does not have.  Places in metres of the axis; ``fade`` (k,) is the share of a difference
    in E at the pick-up that is left further on, ``fade_back`` (k,) the same backwards
    along the slowing.
    """

    at_m: FloatArray
    energy: FloatArray
    deficit: FloatArray
    fade: FloatArray
    fade_back: FloatArray
    least: float
    lift_m: float
    brake_m: float
    released_m: float
    slowed_m: float
    pickup_m: float
    braking_mps2: float
    rolls_in: bool
    own_dips: int = 0

    def energy_at(self, place_m: FloatArray | float) -> FloatArray:
        """E as driven."""
        return np.asarray(np.interp(place_m, self.at_m, self.driven))

    @cached_property
    def driven(self) -> FloatArray:
        """E as driven, (k,)."""
        return self.energy - self.deficit

    def falls_to_m(self, level: float) -> float:
        """The last place before the end of the slowing at which E is still above ``level``."""
        before = np.flatnonzero((self.at_m <= self.slowed_m) & (self.driven > level))
        if before.size == 0 or before[-1] + 1 >= len(self.at_m):
            return self.slowed_m
        k = int(before[-1])
        high, low = self.driven[k : k + 2]
        share = (high - level) / max(high - low, 1e-9)
        return float(min(self.at_m[k] + share * (self.at_m[k + 1] - self.at_m[k]), self.slowed_m))


def profiles_of(
    passages: tuple[Passage, Passage], marks: tuple[Marks, Marks], window: Span, cells: Cells, drive: Drive, road: Road
) -> tuple[Profile, Profile]:
    """Take both laps apart.  The mean E of each cell follows from the exact time it took.

    A dip of the throttle that the other lap has at the same place is the road's, not the
    driver's, and is left in.
    """
    energies = [_energy(p, cells) for p in passages]
    dips = [_dip_places(p, m, window) for p, m in zip(passages, marks, strict=True)]
    out = []
    for k in (0, 1):
        at, energy = energies[k]
        own = [d for d in dips[k] if not any(_same(d, other) for other in dips[1 - k])]
        profile = _marked(passages[k], marks[k], window, at, energy, drive, road)
        slopes = np.stack([np.gradient(e, at) for _, e in (energies[k], energies[1 - k])])
        deficit = _deficit(at, slopes, own, profile.fade)
        out.append(replace(profile, energy=energy + deficit, deficit=deficit, own_dips=len(own)))
    return out[0], out[1]


def _same(dip: Dip, other: Dip) -> bool:
    """Whether the other lap comes off as much within 10 m of the place."""
    near = dip.start_m < other.end_m + 10.0 and other.start_m < dip.end_m + 10.0
    return near and other.depth > 0.5 * dip.depth


def _marked(
    passage: Passage, marks: Marks, window: Span, at: FloatArray, energy: FloatArray, drive: Drive, road: Road
) -> Profile:
    """A profile with its marks in order, without dips."""
    slow = float(np.clip(marks.slow_point_m, window.start_m, window.end_m))
    slowed, least = _slowed(at, energy, slow, window)
    pickup = marks.throttle_on_m if marks.throttle_on_m is not None else slow
    pickup = float(np.clip(pickup, window.start_m, window.end_m))
    coasted = _coasted_to(passage, marks, slowed, pickup)
    rolls_in, slowed = coasted > slowed, min(coasted, pickup)
    brake, lift, released = _before(marks, window, slowed)
    full = marks.full_throttle_m if marks.full_throttle_m is not None else window.end_m
    kappa = road.curvature_at(at)
    fade = _fade(at, energy, kappa, full, drive)
    fade_back = np.exp(np.cumsum(drive.grip_fade_1pm(energy, kappa, drive.braking_mps2)) * (at[1] - at[0]))
    braking = _mean_braking(at, energy, brake, released)
    return Profile(
        at, energy, np.zeros_like(at), fade, fade_back, least, lift, brake, released, slowed, pickup, braking, rolls_in
    )


def _energy(passage: Passage, cells: Cells) -> tuple[FloatArray, FloatArray]:
    """Middles of the cells and E there, with a straight run beyond the window's end."""
    took = np.diff(passage.time_at(cells.edges_m))
    energy = 0.5 * (cells.width_m / np.maximum(took, 1e-4)) ** 2
    reach = min(8, len(energy) - 1)
    slope = float((energy[-1] - energy[-1 - reach]) / (reach * cells.width_m))
    past = np.arange(1, int(PAST_M / cells.width_m) + 1) * cells.width_m
    before = cells.middles_m[0] - past[::-1]
    slope_in = float((energy[reach] - energy[0]) / (reach * cells.width_m))
    at = np.concatenate([before, cells.middles_m, cells.middles_m[-1] + past])
    ends = np.maximum(energy[-1] + slope * past, 1.0), np.maximum(energy[0] - slope_in * past[::-1], 1.0)
    return at, np.concatenate([ends[1], energy, ends[0]])


def _slowed(at: FloatArray, energy: FloatArray, slow_m: float, window: Span) -> tuple[float, float]:
    """Where the speed comes within 0.3 m/s of its least, and the least E."""
    near = np.flatnonzero((at >= slow_m - 15.0) & (at <= slow_m + 15.0) & (at <= window.end_m))
    k = int(near[np.argmin(energy[near])]) if near.size else int(np.argmin(np.abs(at - slow_m)))
    least = float(energy[k])
    v = np.sqrt(2.0 * energy)
    bar = v[k] + max(VALLEY_MPS, 0.015 * v[k])
    while k > 0 and v[k - 1] < bar and at[k - 1] > window.start_m:
        k -= 1
    if k == 0 or v[k - 1] <= v[k]:
        return float(at[k]), least
    return float(at[k] - (bar - v[k]) / (v[k - 1] - v[k]) * (at[k] - at[k - 1])), least


def _coasted_to(passage: Passage, marks: Marks, slowed: float, pickup: float) -> float:
    """Rolling on neither pedal right after the brake is slowing too: to where it ends."""
    if marks.brake_off_m is None or marks.brake_off_m >= pickup:
        return slowed
    places = np.arange(marks.brake_off_m + 0.5, pickup, 0.5)
    times = passage.time_at(places)
    fed = passage.throttle.at(times) > max(REST, 4 * passage.throttle.noise)
    end = float(places[int(np.argmax(fed))]) if fed.any() else pickup
    return max(slowed, end) if end > marks.brake_off_m + 2.0 else slowed


def _before(marks: Marks, window: Span, slowed: float) -> tuple[float, float, float]:
    """Brake point, lift and release, in order and inside the window; missing ones collapse."""
    onset = marks.onset_m if marks.onset_m is not None else slowed
    brake = float(np.clip(onset, window.start_m, slowed))
    lift = marks.lift_m if marks.lift_m is not None and marks.brake_on_m is not None else brake
    lift = float(np.clip(lift, window.start_m, brake))
    released = marks.brake_off_m if marks.brake_off_m is not None else slowed
    return brake, lift, float(np.clip(released, brake, slowed))


def _mean_braking(at: FloatArray, energy: FloatArray, brake: float, released: float) -> float:
    """Mean deceleration between brake point and release, m/s²."""
    if released - brake < CELL_M:
        return GENTLEST_MPS2
    ends = np.interp([brake, released], at, energy)
    return float(max((ends[0] - ends[1]) / (released - brake), GENTLEST_MPS2))


def _fade(at: FloatArray, energy: FloatArray, kappa: FloatArray, full: float, drive: Drive) -> FloatArray:
    """What is left along the road of a difference in E: grip before full throttle, power after."""
    power = drive.fade_1pm(np.sqrt(2.0 * energy))
    grip = -drive.grip_fade_1pm(energy, kappa, drive.driving_mps2)
    step = np.diff(at, prepend=at[0])
    return np.exp(np.cumsum(np.where(at > full, power, grip) * step))


def _deficit(at: FloatArray, slopes: FloatArray, dips: list[Dip], fade: FloatArray) -> FloatArray:
    """What dips of the throttle took from E, (k,); ``slopes`` (2, k) of this and the other lap.

    Without the dip the vehicle would have gone on as before and after it, or as the other
    lap does at that place, whichever is more.
    """
    step = float(at[1] - at[0])
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


def _dip_places(passage: Passage, marks: Marks, window: Span) -> list[Dip]:
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
    turns = swings(part, DIP)
    step = throttle.step_s
    out = []
    for (i, top), (j, low) in itertools.pairwise(turns):
        if top - low < DIP or j >= len(part) - 1:
            continue
        again = part[j : j + int(BACK_S / step) + 2]
        k = j + int(np.argmax(again >= 0.97 * again.max()))
        start, back = (float(passage.place_at(throttle.time_s[lo + n])) for n in (i, k))
        out.append(Dip(start, back, top - low))
    return out
