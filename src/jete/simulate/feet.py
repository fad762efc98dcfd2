"""A driver with feet: pedals first, speed from them.

The driver of :mod:`jete.simulate.driver` lays a speed profile and reads the pedals off it.
This one presses pedals metre by metre and the vehicle does what physics leaves it: the
brake is what the distance to the turn still asks for, more at first and less at the end,
built up by the foot and limited by grip; after the release the foot rests or balances;
the throttle is a step and then fed, cut back at the limit of traction.  Faults change
what is planned (places and speeds to be reached), so their traces have no set shape.

    lift   brake point          release     pick-up        full
      |------|=====================|. . . . . .|''''--------|
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from math import exp, sqrt
from typing import TYPE_CHECKING

import numpy as np

from jete.simulate.acts import NEVER_M, Act, in_lap, shaken, with_faults
from jete.simulate.circuit import Circuit, RoadCorner
from jete.simulate.driver import Fault, LapPlan, Trace, TrueCorner
from jete.simulate.habits import draw_habits
from jete.simulate.vehicle import Vehicle

if TYPE_CHECKING:
    from collections.abc import Sequence

RATE_HZ = 200.0
# A trace begins and ends so far from the lap that counts, in laps.
LEAD, END = 0.55, 2.55
# Slower than this no corner is taken.
SLOWEST_MPS = 9.0
# A bend that asks for no more slowing than this is taken flat.
FLAT_MPS = 1.5


@dataclass(frozen=True)
class Wind:
    """A steady wind: how fast, and the direction that it blows to (mathematical, radians)."""

    speed_mps: float = 0.0
    towards_rad: float = 0.0


STILL = Wind()


def drive_with_feet(
    circuit: Circuit, vehicle: Vehicle, seed: int, faults: tuple[Fault, ...] = (), level: float = 0.9
) -> Trace:
    """A lap (number 1 of the trace) with faults, and what comes before and after it without any.

    Args:
        circuit: the road.
        vehicle: that is driven.
        seed: of the driver's habits.
        faults: of lap 1, in the units of :class:`jete.simulate.driver.Fault`; soft and hard braking in metres of an
            earlier or later brake point from which the vehicle is as slow at the same place.
        level: share of the grip that the driver uses.
    """
    acts = _nominal(circuit, vehicle, seed, level)
    faulty = [with_faults(a, faults, vehicle) if _lap_of(a, circuit) == 1 else a for a in acts]
    march = _March(circuit, vehicle, faulty, (LEAD, END))
    march.run()
    return march.trace()


def drive_stint_with_feet(
    circuit: Circuit, vehicle: Vehicle, seed: int, laps: Sequence[LapPlan], level: float, day: int, wind: Wind = STILL
) -> Trace:
    """Laps one after the other: grips and faults of each, and what no two laps of a person have alike.

    Args:
        circuit: the road.
        vehicle: that is driven.
        seed: of the driver's habits.
        laps: in order; the first and the last are driven in part.
        level: share of the grip that the driver uses.
        day: seed of what differs from lap to lap.
        wind: of the day.
    """
    rng = np.random.default_rng([seed, day])
    count = len(circuit.corners)
    nominal = _nominal(circuit, vehicle, seed, level)[count : 2 * count]
    acts = [
        shaken(with_faults(in_lap(act, lap, plan, circuit.length_m), plan.faults, vehicle), rng)
        for lap, plan in enumerate(laps)
        for act in nominal
    ]
    march = _March(circuit, vehicle, acts, (LEAD, len(laps) - 0.7), laps, wind)
    march.run()
    return march.trace()


@lru_cache(maxsize=4)
def _nominal(circuit: Circuit, vehicle: Vehicle, seed: int, level: float) -> list[Act]:
    """The acts without faults.  People brake by what they see, so the places where they braked stay."""
    plain = _plans(circuit, vehicle, seed, level)
    first = _March(circuit, vehicle, plain, (LEAD, END))
    first.run()
    return [
        replace(a, brake_m=first.braked[k][0], arrives_mps=first.braked[k][1]) if k in first.braked else a
        for k, a in enumerate(plain)
    ]


def _lap_of(act: Act, circuit: Circuit) -> int:
    return int(act.slowed_m // circuit.length_m)


def _plans(circuit: Circuit, vehicle: Vehicle, seed: int, level: float) -> list[Act]:
    """The acts of three laps in order, without the places of the brakes."""
    kappa = np.abs(circuit.curvature_1pm)
    step = circuit.length_m / len(kappa)
    acts = []
    for lap in range(3):
        for corner in circuit.corners:
            habits = draw_habits(seed, corner.number, level)
            turned, low, high = _tightest(kappa, corner, step)
            speed = float(
                vehicle.corner_speed_mps(
                    np.array([kappa[int(low / step) : int(high / step) + 1].max()]), habits.apex_share
                )[0]
            )
            speed = max(speed, SLOWEST_MPS)
            slowed = turned + habits.early * (low - turned)
            pickup = max(slowed + habits.holds_s * speed, low + 0.6 * (high - low))
            base = lap * circuit.length_m
            rolls_from = base + slowed if habits.rolls else NEVER_M
            acts.append(Act(corner.number, None, base + slowed, speed, base + pickup, habits, rolls_from_m=rolls_from))
    return acts


def _tightest(kappa: np.ndarray, corner: RoadCorner, step: float) -> tuple[float, float, float]:
    """Where a corner first bends by half of its tightest, and from where to where by nine tenths."""
    first = int(corner.start_m / step)
    part = kappa[first : int(corner.end_m / step) + 1]
    tight = np.flatnonzero(part >= 0.9 * part.max())
    turned = int(np.argmax(part >= 0.5 * part.max()))
    return (first + turned) * step, (first + int(tight[0])) * step, (first + int(tight[-1])) * step


class _March:
    """The vehicle, metre by metre."""

    def __init__(
        self,
        circuit: Circuit,
        vehicle: Vehicle,
        acts: list[Act],
        ends: tuple[float, float],
        plans: Sequence[LapPlan] = (),
        wind: Wind = STILL,
    ) -> None:
        self.circuit, self.vehicle, self.acts, self.plans = circuit, vehicle, acts, plans
        self.grip, self.load = 1.0, 0.0
        self.falls: list[float] = (-9.81 * circuit.slope).tolist()
        self.blows: list[float] = (-wind.speed_mps * np.cos(circuit.heading_rad - wind.towards_rad)).tolist()
        self.step = circuit.length_m / len(circuit.station_m)
        self.kappa: list[float] = np.abs(circuit.curvature_1pm).tolist()
        self.first = int(ends[0] * len(self.kappa))
        count = int(ends[1] * len(self.kappa)) - self.first
        self.speed, self.push = np.empty(count), np.empty(count)
        self.throttle, self.brake, self.gear = np.zeros(count), np.zeros(count), np.zeros(count)
        self.braked: dict[int, tuple[float, float]] = {}
        self.tremble: list[float] = (
            np.random.default_rng(acts[0].corner * 7919 + len(acts)).normal(0.0, 1.0, len(self.kappa)).tolist()
        )

    def run(self) -> None:
        """Drive from the lead to the tail."""
        at = self.first * self.step
        k = next(i for i, a in enumerate(self.acts) if a.slowed_m > at + 30.0)
        v, foot, last = 0.8 * self.acts[k].slow_mps + 12.0, _Foot(), self.acts[k - 1] if k else None
        for i in range(len(self.speed)):
            s = at + i * self.step
            if self.plans:
                plan = self.plans[min(int(s / self.circuit.length_m), len(self.plans) - 1)]
                self.grip, self.load = plan.grip, plan.load
            while k < len(self.acts) and s >= self.acts[k].pickup_m and not foot.braking:
                if foot.slowed:
                    last, foot.since_s, foot.slowed = self.acts[k], 0.0, False
                k += 1
            act = self.acts[k] if k < len(self.acts) else None
            a = self._press(foot, i, s, v, k, act, last)
            self.speed[i], self.push[i] = v, a
            nxt = sqrt(max(v * v + 2.0 * a * self.step, 16.0))
            foot.since_s += 2.0 * self.step / (v + nxt)
            v = nxt

    def _press(self, foot: _Foot, i: int, s: float, v: float, k: int, act: Act | None, last: Act | None) -> float:
        """Acceleration of one metre; notes the pedals and the gear."""
        used = self._used(s, v)
        held = act.gear if act is not None and (foot.braking or foot.slowed) else last.gear if last is not None else 0
        self.gear[i] = max(float(self.vehicle.gear(np.array([v]))[0]), held)
        if act is not None and not foot.slowed and self._slows(foot, s, v, k, act, used):
            return self._braked(foot, i, s, v, act, used)
        if act is not None and foot.slowed:
            return self._held(i, s, v, act)
        if act is not None and act.brake_m is None and act.lift_m <= s < act.lift_m + act.lifts_s * v:
            return self._coast(s, v)
        return self._driven(foot, i, s, v, used, last)

    def _air(self, s: float, v: float) -> float:
        """What slope and wind add to the acceleration, m/s²."""
        at = int(s / self.step) % len(self.kappa)
        wind = self.blows[at]
        return self.falls[at] - self.vehicle.drag_1pm * wind * (2.0 * v + wind)

    def _coast(self, s: float, v: float) -> float:
        """Acceleration on neither pedal, m/s²."""
        return float(self.vehicle.coast_mps2(v)) / (1.0 + self.load) + self._air(s, v)

    def _full(self, s: float, v: float, gear: int) -> float:
        """Acceleration on full throttle, m/s², in a gear that is held by choice (0 for none)."""
        whole = float(self.vehicle.full_mps2(np.array([v]))[0])
        lacks = 0.0
        if gear > self.vehicle.gear(np.array([v]))[0]:
            lacks = (1.0 - self.vehicle.pull(v, gear)) * self.vehicle.power_wpkg / max(v, 1.0)
        return (whole - lacks) / (1.0 + self.load) + self._air(s, v)

    def _used(self, s: float, v: float) -> float:
        kappa = self.kappa[int(s / self.step) % len(self.kappa)]
        return min(v * v * kappa / (self.grip * self.vehicle.lateral_g * self.vehicle.normal_mps2(v)), 0.98)

    def _grip(self, v: float, used: float, g: float) -> float:
        return self.grip * g * self.vehicle.normal_mps2(v) * sqrt(max(1.0 - used * used, 0.04))

    def _slows(self, foot: _Foot, s: float, v: float, k: int, act: Act, used: float) -> bool:
        """Whether the driver slows here: at his place, or where the road asks for it the first time."""
        if foot.braking or (act.lift_m and act.brake_m is not None and s >= act.lift_m):
            foot.braking = True
            return True
        left = act.slowed_m - s
        asked = (v * v - act.slow_mps**2) / (2.0 * max(left, 1.0))
        if act.brake_m is None:
            limit = (
                act.habits.hardest
                * self.vehicle.braking_g
                * self.vehicle.normal_mps2(v)
                * sqrt(max(1.0 - used**2, 0.1))
            )
            starts = v > act.slow_mps + FLAT_MPS and asked * (1.0 + 0.5 * act.habits.bleed) >= 0.82 * limit
            if starts:
                self.braked[k] = s, v
        else:
            starts = s >= act.brake_m and v > act.slow_mps
        foot.braking = starts
        foot.since_brake_s = 0.0
        return starts

    def _braked(self, foot: _Foot, i: int, s: float, v: float, act: Act, used: float) -> float:
        """Braking as the distance that is left asks for, as the foot and the grip let it; else rolling."""
        vehicle, habits = self.vehicle, act.habits
        coast = self._coast(s, v)
        if act.lift_m and act.brake_m is not None and s < act.brake_m:
            return coast
        left = act.slowed_m - s
        if v <= act.slow_mps or (left <= 0.0 and v <= act.slow_mps + 0.3):
            foot.slowed, foot.braking = True, False
            return self._held(i, s, v, act)
        begun = act.brake_m if act.brake_m is not None else s
        whole = max(act.slowed_m - begun, 10.0)
        x = min(max((s - begun) / whole, 0.0), 1.0)
        asked = (v * v - act.slow_mps**2) / (2.0 * max(left, 2.0 * self.step))
        shape = 1.0 + habits.bleed * (0.5 - x) if left > habits.second_m else 1.0
        built = 1.0 - exp(-3.0 * foot.since_brake_s / habits.build_s)
        tremble = 1.0 + habits.hunting * self.tremble[i % len(self.tremble)]
        limit = self._grip(v, used, vehicle.braking_g) * min(habits.hardest * 1.1, 0.99)
        wanted = min(max(asked * shape, -coast) * built * tremble, limit)
        foot.since_brake_s += self.step / v
        a = min(-wanted, coast)
        self.brake[i] = max(coast - a, 0.0)
        return a

    def _held(self, i: int, s: float, v: float, act: Act) -> float:
        """Between release and pick-up: on neither pedal, or balancing."""
        coast = self._coast(s, v)
        if act.rolls_from_m <= s < act.rolls_to_m:
            return coast
        full = self._full(s, v, act.gear)
        a = 0.25 * act.habits.hunting * self.tremble[i % len(self.tremble)] * 4.0
        self.throttle[i] = min(max((a - coast) / (full - coast), 0.0), 1.0)
        return a

    def _driven(self, foot: _Foot, i: int, s: float, v: float, used: float, last: Act | None) -> float:
        """The throttle: a step, then fed; cut back at the limit of traction."""
        vehicle = self.vehicle
        coast, full = self._coast(s, v), self._full(s, v, last.gear if last is not None else 0)
        fed, drive, hunting = 1.0, 1.0, 0.0
        if last is not None:
            h = last.habits
            since = max(foot.since_s, 0.0) * last.quicker
            fed = min(since / 0.12, 1.0) * (
                h.step + (1.0 - h.step) * min(max(since - 0.12, 0.0) / h.feed_s, 1.0) ** h.feed
            )
            if last.dip_s and 0.5 <= since < 0.5 + last.dip_s:
                fed *= 0.15
            drive, hunting = (last.drive if since < 4.0 else 1.0), h.hunting
        limit = self._grip(v, used, vehicle.traction_g) * (
            1.0 + hunting * self.tremble[i % len(self.tremble)] - hunting
        )
        a = min(coast + fed * drive * (full - coast), max(limit, coast))
        self.throttle[i] = min(max((a - coast) / max(drive * (full - coast), 0.3), 0.0), 1.0)
        return a

    def trace(self) -> Trace:
        """The march over time at 200 Hz."""
        stations = (self.first + np.arange(len(self.speed))) * self.step
        t = np.concatenate([[0.0], np.cumsum(2.0 * self.step / (self.speed[1:] + self.speed[:-1]))])
        time = np.arange(0.0, t[-1], 1.0 / RATE_HZ)
        station, v, a = (np.interp(time, t, x) for x in (stations, self.speed, self.push))
        brake, throttle = (_soft(np.interp(time, t, x)) for x in (self.brake, self.throttle))
        gear = self.gear[np.minimum(np.searchsorted(t, time), len(t) - 1)]
        return Trace(
            self.circuit,
            self.vehicle,
            time,
            station,
            v,
            a,
            np.clip(throttle, 0.0, 1.0),
            brake,
            tuple(self._truth()),
            gear,
        )

    def _truth(self) -> list[TrueCorner]:
        out = []
        for a in self.acts:
            lap = _lap_of(a, self.circuit)
            base = lap * self.circuit.length_m
            lo, hi = (int(m / self.step) - self.first for m in (a.slowed_m - 20.0, a.pickup_m + 5.0))
            if lap < 1 or hi > len(self.speed):
                continue
            at = lo + int(np.argmin(self.speed[lo:hi]))
            out.append(
                TrueCorner(lap, a.corner, None if a.brake_m is None else a.brake_m - base, (at + self.first) * self.step - base,
                           float(self.speed[at]), a.pickup_m - base, a.brake_m is None)
            )  # fmt: skip
        return out


def _soft(values: np.ndarray) -> np.ndarray:
    """A foot and a sensor have mass: a running mean over 0.05 s."""
    width = round(0.05 * RATE_HZ) | 1
    return np.convolve(np.pad(values, width // 2, mode="edge"), np.ones(width) / width, mode="valid")


@dataclass
class _Foot:
    """What the feet are at."""

    braking: bool = False
    slowed: bool = False
    since_brake_s: float = 0.0
    since_s: float = 9.0
