"""The way out of a changed corner: only what the change changes is integrated, in energy over distance.

    E'(n+1) = E(n+1) + δ(n) + (a'(n) − a(n)) ds

with δ the difference so far, a what the vehicle's model gives for the pedal as it was, and a' for the pedal as it would be at
the new speed: what the model is wrong by cancels, and a change of nothing is exactly nothing.  Two accounts of the pedal are
worked out: by the time since the pick-up, as a foot feeds it, and by the place, where grip had cut it back and the driver's own
use of grip there is the bound.  How hard he pulled says how much each counts, and their difference is a doubt.
"""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from math import inf
from typing import TYPE_CHECKING, Literal

import numpy as np

from jete.core.driving.pedals import THROTTLE_FULL
from jete.core.whatif.driven_stretch import STEP_M
from jete.core.whatif.grip_shown import KEPT_BACK

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.whatif.driven_stretch import DrivenStretch
    from jete.core.whatif.grip_shown import GripShown
    from jete.core.whatif.vehicle_fit import VehicleFit

# A drive out that pulls by the lower of these shares of the hardest that the driver has shown was bound by the foot, by the upper one by grip.
CUT_BACK = (0.75, 1.0)
# A place at which a cut is more likely than not.
MORE_LIKELY = 0.5
# So long a foot needs to ask for all there is.
FOOT_S = 0.15
# Slower than 4 m/s nobody drives out.
LEAST_ENERGY = 8.0

BoundBy = Literal["time", "place"]


@dataclass(frozen=True, kw_only=True)
class WayOut:
    """Where the throttle is picked up, metres, and how many times as quickly it is fed."""

    pickup_m: float
    quicker: float


def replay(
    stretch: DrivenStretch, vehicle: VehicleFit, grip: GripShown, energy_in: FloatArray, way: WayOut, by: BoundBy
) -> FloatArray:
    """E over the whole stretch, (n,), from the changed way in (n,) and the changed drive out, bound by the foot's time or by the place."""
    out = np.where(stretch.place_m <= way.pickup_m, energy_in, stretch.energy)
    first = int(np.searchsorted(stretch.place_m, way.pickup_m, side="right"))
    ends = int(np.searchsorted(stretch.place_m, stretch.next_m, side="right"))
    if first < ends:
        changed_by = energy_in - stretch.held_at(stretch.place_m)
        begins = float(stretch.held_at(way.pickup_m)) + float(np.interp(way.pickup_m, stretch.place_m, changed_by))
        out[first:ends] = _driven_out(stretch, vehicle, grip, (first, ends), begins, way, by)
    return _to_the_next(stretch, out, max(ends, 1))


def _driven_out(
    stretch: DrivenStretch,
    vehicle: VehicleFit,
    grip: GripShown,
    span: tuple[int, int],
    begins: float,
    way: WayOut,
    by: BoundBy,
) -> FloatArray:
    """E from the pick-up to where the lap slows next, step by step."""
    pulls = _pulls(stretch, vehicle, grip)
    hardest = max(grip.driving.share, float(pulls.max()))
    cut = _cut_back(stretch, pulls, hardest)
    pull = (_bounds(stretch, pulls, hardest) if by == "place" else hardest + cut * (pulls - hardest)).tolist()
    asked = np.flatnonzero(cut > MORE_LIKELY)
    asked_s = 0.0 if by == "place" else float(stretch.since_pickup_s[asked[0]]) if asked.size else inf
    feeding = _Feeding.of(stretch, max(asked_s, 0.0))
    own, bends, pedal = stretch.energy.tolist(), stretch.lateral_1pm.tolist(), feeding.own(stretch)
    at, step = max(span[0] - 1, 0), float(stretch.place_m[span[0]]) - way.pickup_m
    before, energy, since = float(stretch.energy_at(way.pickup_m)), begins, 0.0
    out = []
    for n in range(*span):
        v = (2.0 * energy) ** 0.5
        push = _push(vehicle, grip, v, bends[at], feeding.at(since * way.quicker), pull[at])
        same = _push(vehicle, grip, (2.0 * before) ** 0.5, bends[at], pedal[at], pull[at])
        energy = max(own[n] + (energy - before) + (push - same) * step, LEAST_ENERGY)
        since += 2.0 * step / (v + (2.0 * energy) ** 0.5)
        out.append(energy)
        at, before, step = n, own[n], STEP_M
    return np.array(out)


def _push(vehicle: VehicleFit, grip: GripShown, v: float, bend: float, throttle: float, pull: float) -> float:
    """Acceleration by the pedal, as far as the pull of the tyres, ``pull`` of the lateral grip in no bend, lets it."""
    lateral = v * v * bend
    wanted = vehicle.acceleration(v, throttle, lateral)
    most = pull * grip.lateral_mps2(v) * grip.beside(v, lateral) - vehicle.drag_1pm * v * v
    return wanted if wanted <= most else max(most, vehicle.free(v, lateral))


def share_cut_back(stretch: DrivenStretch, vehicle: VehicleFit, grip: GripShown) -> float:
    """How surely the drive out was cut back by grip and not by the foot, 0 to 1: by how hard it pulls where the throttle is not full."""
    pull = _pulls(stretch, vehicle, grip)
    inside = (stretch.place_m > stretch.pickup_m) & (stretch.place_m < stretch.next_m)
    inside &= stretch.throttle < THROTTLE_FULL
    if not inside.any():
        return 0.0
    share = float(np.quantile(pull[inside], 0.7)) / grip.driving.share
    return min(max((share - CUT_BACK[0]) / (CUT_BACK[1] - CUT_BACK[0]), 0.0), 1.0)


def _pulls(stretch: DrivenStretch, vehicle: VehicleFit, grip: GripShown) -> FloatArray:
    """What the tyres pull at each place, (n,), as a share of the lateral grip in no bend."""
    v = np.sqrt(2.0 * stretch.energy)
    lateral = stretch.lateral_1pm * v**2
    tyres = vehicle.tyres_mps2(np.gradient(stretch.energy, STEP_M), v, lateral)
    whole = grip.whole_mps2(v)
    left = np.sqrt(np.maximum(1.0 - (KEPT_BACK * lateral / whole) ** 2, 0.04))
    return np.asarray(tyres / (whole * left))


def _cut_back(stretch: DrivenStretch, pulls: FloatArray, hardest: float) -> FloatArray:
    """How surely grip cut the drive back at each place, 0 to 1, (n,)."""
    fed = (stretch.since_pickup_s >= 0.0) & (stretch.throttle < THROTTLE_FULL) & (stretch.place_m < stretch.next_m)
    low, high = CUT_BACK
    return np.where(fed, np.clip((pulls / hardest - low) / (high - low), 0.0, 1.0), 0.0)


def _bounds(stretch: DrivenStretch, pulls: FloatArray, hardest: float) -> FloatArray:
    """What the drive pulls at each place at the most, (n,): the lap's own where it was on the throttle and not full, else the hardest."""
    fed = stretch.since_pickup_s >= FOOT_S
    bound = fed & (stretch.throttle < THROTTLE_FULL)
    if not bound.any():
        return np.full(len(pulls), hardest)
    # While the foot was still on its way there, and before, no less was there than once it had arrived.
    before = max(float(pulls[int(np.argmax(fed))]), 0.05)
    return np.where(bound, np.maximum(pulls, 0.05), np.where(fed, hardest, before))


@dataclass(frozen=True, eq=False)
class _Feeding:
    """How the throttle was fed: times since the pick-up, the most it had been given by then, and what it was before."""

    times_s: list[float]
    most: list[float]

    @classmethod
    def of(cls, stretch: DrivenStretch, asked_s: float) -> _Feeding:
        first = int(np.searchsorted(stretch.place_m, stretch.pickup_m, side="right"))
        ends = int(np.searchsorted(stretch.place_m, stretch.next_m, side="right"))
        since = stretch.since_pickup_s[first:ends]
        at_pickup = float(np.interp(stretch.pickup_m, stretch.place_m, stretch.throttle))
        most = np.maximum.accumulate(np.concatenate([[at_pickup], stretch.throttle[first:ends]]))
        times = np.concatenate([[0.0], since])
        # What grip cuts back the foot has asked for: from then on, within a moment, for all that it ever gave.
        most = np.maximum(most, np.clip((times - asked_s) / FOOT_S, 0.0, 1.0) * most[-1])
        return cls(times.tolist(), most.tolist())

    def at(self, since_s: float) -> float:
        """The pedal so long after the pick-up."""
        k = bisect_right(self.times_s, since_s)
        if k >= len(self.times_s):
            return self.most[-1]
        before, after = self.times_s[k - 1], self.times_s[k]
        return self.most[k - 1] + (since_s - before) / max(after - before, 1e-6) * (self.most[k] - self.most[k - 1])

    def own(self, stretch: DrivenStretch) -> list[float]:
        """The pedal of the lap itself at each place, (n,): as fed, since a dip stays where it is whatever else is changed."""
        since = stretch.since_pickup_s
        pedal: list[float] = np.where(since < 0.0, stretch.throttle, np.interp(since, self.times_s, self.most)).tolist()
        # The step that the pick-up lies in is driven from there.
        k = max(int(np.searchsorted(stretch.place_m, stretch.pickup_m, side="right")) - 1, 0)
        pedal[k] = self.most[0]
        return pedal


def _to_the_next(stretch: DrivenStretch, energy: FloatArray, ends: int) -> FloatArray:
    """What is left at the next slowing is taken away by it: the own curve scaled to the same lowest speed."""
    last = ends - 1
    change = energy[last] - stretch.energy[last]
    low = float(stretch.energy_at(stretch.next_slow_m))
    top = max(float(stretch.energy[last]) - low, 1.0)
    share = np.clip((stretch.energy[ends:] - low) / top, 0.0, 1.0)
    return np.concatenate([energy[:ends], stretch.energy[ends:] + change * share])
