"""A quasi-steady driver with known faults: speed over the road, then pedals from forces.

For each bend the driver has a plan (slow point, pick-up, brake curve, drive).  Speed is
the lower of the drive out of the last bend and the brake curve into the next one; a
short box average in time gives the pedals their ramps.  Everything that the tests call
truth (marks, costs) is read off this noise-free trace.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import sqrt

import numpy as np
from numpy.typing import NDArray

from jete.core.causes.kinds import Kind
from jete.simulate.circuit import Circuit
from jete.simulate.vehicle import Vehicle

FloatArray = NDArray[np.float64]

# What comes of something else: a carried speed of the corner before, where a slowing was over of brake, foot or line.
COMES_OF_IT = (
    Kind.CARRIED_SPEED,
    Kind.SLOWED_EARLY,
    Kind.SLOWED_LATE,
    Kind.OVERSHOT,
    Kind.SLOW_STRAIGHT,
    Kind.FAST_STRAIGHT,
)
# All that this driver can do wrong.
FAULT_KINDS: tuple[Kind, ...] = tuple(kind for kind in Kind if kind not in COMES_OF_IT)
RATE_HZ = 200.0


@dataclass(frozen=True)
class Fault:
    """One deviation from the plan at a corner (by number).

    ``size`` in the unit of the kind: metres (braking point, pick-up), share of the
    deceleration or of the drive, km/h (minimum speed), seconds (coasting, length of a dip).
    """

    kind: str
    corner: int
    size: float


@dataclass(frozen=True)
class Style:
    """How the driver drives when nothing goes wrong."""

    corner_share: float = 0.92
    brake_share: float = 0.90
    drive_share: float = 0.95
    hold_s: float = 0.5
    coast_s: float = 0.12
    ramp_s: float = 0.20


@dataclass(frozen=True)
class LapPlan:
    """Faults of one lap and its grip against the nominal (1.0).

    ``gears``: corner and the gear that is held there, by choice.  ``load``: mass beyond the
    nominal, share of it (fuel).
    """

    faults: tuple[Fault, ...] = ()
    grip: float = 1.0
    gears: tuple[tuple[int, int], ...] = ()
    load: float = 0.0


@dataclass(frozen=True)
class TrueCorner:
    """What the driver did at one corner of one lap; stations in metres of road."""

    lap: int
    corner: int
    brake_on_m: float | None
    slow_point_m: float
    min_speed_mps: float
    throttle_on_m: float
    flat: bool


@dataclass(frozen=True, eq=False)
class Trace:
    """A noise-free stint at 200 Hz; ``station_m`` runs on over all laps, shape (n,).

    ``gear`` where the driver chose it, else None: then the speed tells.
    """

    circuit: Circuit
    vehicle: Vehicle
    time_s: FloatArray
    station_m: FloatArray
    speed_mps: FloatArray
    acceleration_mps2: FloatArray
    throttle: FloatArray
    brake_mps2: FloatArray
    corners: tuple[TrueCorner, ...]
    gear: FloatArray | None = None

    def crossing_s(self, lap: float) -> float:
        """Time at which lap ``lap`` (0-based, or a part of one) begins."""
        return float(np.interp(lap * self.circuit.length_m, self.station_m, self.time_s))

    def lap_time_s(self, lap: int) -> float:
        """Time of one lap."""
        return self.crossing_s(lap + 1) - self.crossing_s(lap)

    def time_at_s(self, lap: int, station_m: FloatArray) -> FloatArray:
        """Time since the start of the lap at stations of that lap."""
        at = station_m + lap * self.circuit.length_m
        return np.interp(at, self.station_m, self.time_s) - self.crossing_s(lap)


@dataclass
class _Node:
    """One bend of one lap in running metres, with the plan for it."""

    lap: int
    corner: int
    slow: int
    speed: float
    pickup: int
    first: bool
    last: bool
    faults: dict[str, float]
    brake: FloatArray | None = None
    flat: bool = False


class _Road:
    """The unrolled road: curvature and corner speed on the station grid of all laps."""

    def __init__(self, circuit: Circuit, vehicle: Vehicle, laps: list[LapPlan]) -> None:
        self.circuit, self.vehicle, self.laps = circuit, vehicle, laps
        self.n = len(circuit.station_m)
        self.step = circuit.length_m / self.n
        self.kappa = np.tile(np.abs(circuit.curvature_1pm), len(laps))
        self.grip = np.repeat([p.grip for p in laps], self.n)


def drive(circuit: Circuit, vehicle: Vehicle, laps: list[LapPlan], style: Style | None = None) -> Trace:
    """Drive the laps one after the other from a rolling start and return the true trace."""
    style = style or Style()
    road = _Road(circuit, vehicle, laps)
    nodes = _plan(road, style)
    _limit_backwards(road, style, nodes)
    speed, efficiency = _profile(road, style, nodes)
    return _trace(road, style, nodes, speed, efficiency)


def _plan(road: _Road, style: Style) -> list[_Node]:
    """One node for each local maximum of curvature that asks for less than top speed."""
    kappa = np.abs(road.circuit.curvature_1pm)
    limit = road.vehicle.corner_speed_mps(kappa, style.corner_share)
    nodes = []
    for lap, plan in enumerate(road.laps):
        for corner in road.circuit.corners:
            peaks = _peaks(kappa, road, corner.start_m, corner.end_m)
            for k, peak in enumerate(peaks):
                faults = {f.kind: f.size for f in plan.faults if f.corner == corner.number}
                speed = float(limit[peak]) * sqrt(plan.grip)
                node = _Node(lap, corner.number, peak + lap * road.n, speed, 0, k == 0, k == len(peaks) - 1, faults)
                nodes.append(_apply_plan_faults(node, road, style))
    return nodes


def _peaks(kappa: FloatArray, road: _Road, start_m: float, end_m: float) -> list[int]:
    """Grid places in the middle of each plateau of curvature inside a corner."""
    lo, hi = int(start_m / road.step), int(end_m / road.step) + 1
    part = kappa[lo:hi]
    rising = np.diff(part) > 1e-9
    falling = np.diff(part) < -1e-9
    peaks, top = [], None
    for i in range(len(part) - 1):
        if rising[i]:
            top = i + 1
        elif falling[i] and top is not None:
            peaks.append(lo + (top + i) // 2)
            top = None
    return peaks or [(lo + hi) // 2]


def _apply_plan_faults(node: _Node, road: _Road, style: Style) -> _Node:
    """Speed, slow point and pick-up as the faults of the corner change them."""
    faults = node.faults
    if node.first:
        node.speed -= faults.get("overslowing", 0.0) / 3.6
        node.speed += faults.get("more_speed", 0.0) / 3.6
        node.slow += round(faults.get("late_braking", 0.0) / road.step)
    opens = node.lap * road.n + _opens(road, node)
    node.pickup = max(node.slow + round(style.hold_s * node.speed / road.step), opens)
    if node.last:
        node.pickup += round((faults.get("late_throttle", 0.0) - faults.get("early_throttle", 0.0)) / road.step)
    node.pickup = max(node.pickup, node.slow)
    return node


def _opens(road: _Road, node: _Node) -> int:
    """Grid place of the lap at which the bend begins to open: there the grip to drive comes back."""
    kappa = np.abs(road.circuit.curvature_1pm)
    at = node.slow - node.lap * road.n
    end = at
    while end + 1 < road.n and kappa[end + 1] >= 0.98 * kappa[at]:
        end += 1
    return end


def _limit_backwards(road: _Road, style: Style, nodes: list[_Node]) -> None:
    """Brake curves from the last node to the first; a node too fast for the next one is slowed."""
    for k in range(len(nodes) - 1, -1, -1):
        node = nodes[k]
        if k + 1 < len(nodes):
            node.speed = min(node.speed, _brake_at(nodes[k + 1], node.pickup))
        reach = node.slow - nodes[k - 1].slow if k else node.slow
        node.brake = _brake_curve(road, style, node, reach + 60)


def _brake_at(node: _Node, index: int) -> float:
    """Speed of the node's brake curve at a grid place before it."""
    assert node.brake is not None
    back = node.slow - index
    return float(node.brake[min(max(back, 0), len(node.brake) - 1)])


def _brake_curve(road: _Road, style: Style, node: _Node, reach: int) -> FloatArray:
    """Speed at 0, 1, 2 … steps before the slow point, integrated backwards in v².

    Early and late braking are the same curve some metres earlier or later; after early
    braking the speed is held from its end.
    """
    faults = node.faults if node.first else {}
    share = style.brake_share * (1.0 - faults.get("soft_braking", 0.0) + faults.get("hard_braking", 0.0))
    early = round(faults.get("early_braking", 0.0) / road.step)
    origin = node.slow - round(faults.get("late_braking", 0.0) / road.step)
    coast = round((style.coast_s + faults.get("coasting", 0.0)) * node.speed / road.step)
    out = np.empty(max(reach, 2) + 1)
    v = node.speed
    for back in range(len(out)):
        out[back] = v
        v = _brake_step(road, origin - back, v, share, coasting=back < coast)
    return np.concatenate([np.full(early, node.speed), out])[: len(out)]


def _brake_step(road: _Road, index: int, v: float, share: float, *, coasting: bool) -> float:
    """One step backwards: the friction ellipse leaves what the bend does not use."""
    vehicle = road.vehicle
    i = max(index, 0) % len(road.kappa)
    normal = vehicle.normal_mps2(v) * float(road.grip[i])
    used = v * v * float(road.kappa[i]) / (vehicle.lateral_g * normal)
    slowing = -float(vehicle.coast_mps2(v))
    if not coasting:
        slowing = max(share * vehicle.braking_g * normal * sqrt(max(0.0, 1.0 - used * used)), 0.4 * slowing)
    if used > 1.0:
        return v
    return min(sqrt(v * v + 2.0 * slowing * road.step), 110.0)


def _profile(road: _Road, style: Style, nodes: list[_Node]) -> tuple[FloatArray, FloatArray]:
    """Speed over the unrolled road, and the share of the drive that reaches the ground."""
    total = len(road.kappa)
    speed, efficiency = np.empty(total), np.ones(total)
    active: list[_Node | None] = [None]
    v, i, k = 0.75 * nodes[0].speed + 25.0, 0, 0
    out: _Node | None = None
    while i < total:
        target = nodes[k] if k < len(nodes) else None
        bound = _brake_at(target, i) if target is not None else 1e9
        if target is not None and i >= target.slow:
            target.flat = v < target.speed - 0.3 or (target.speed >= 94.0)
            if not target.flat:
                out = target
                v = min(v, target.speed)
            k += 1
            active[0] = out
            continue
        speed[i] = v = min(v, bound)
        efficiency[i] = _efficiency(out, i, road) if out else 1.0
        v = _drive_step(road, style, out, i, v)
        i += 1
    return speed, efficiency


def _efficiency(node: _Node, index: int, road: _Road) -> float:
    """Share of the drive on the ground after a node: slow and fast exits over 140 m."""
    if not node.last or index < node.pickup or (index - node.pickup) * road.step > 140.0:
        return 1.0
    return 1.0 - node.faults.get("slow_exit", 0.0) + node.faults.get("fast_exit", 0.0)


def _drive_step(road: _Road, style: Style, node: _Node | None, i: int, v: float) -> float:
    """One step forwards: hold until the pick-up, then what power and grip allow."""
    if node is not None and i < node.pickup:
        return v
    vehicle = road.vehicle
    normal = vehicle.normal_mps2(v) * float(road.grip[i])
    used = v * v * float(road.kappa[i]) / (vehicle.lateral_g * normal)
    coast = float(vehicle.coast_mps2(v))
    traction = style.drive_share * vehicle.traction_g * normal * sqrt(max(0.0, 1.0 - used * used))
    gain = min(traction, float(vehicle.full_mps2(np.array([v]))[0]))
    if node is not None:
        gain = coast + (gain - coast) * _efficiency(node, i, road) if gain > 0 else gain
        if _in_dip(node, i, v, road):
            gain = coast
    return sqrt(max(v * v + 2.0 * gain * road.step, 4.0))


def _in_dip(node: _Node, index: int, v: float, road: _Road) -> bool:
    """Whether the throttle is off in a hesitation: 0.45 s after the pick-up, ``size`` long."""
    size = node.faults.get("throttle_hesitation", 0.0) if node.last else 0.0
    if size <= 0.0:
        return False
    since = (index - node.pickup) * road.step / max(v, 5.0)
    return 0.45 <= since < 0.45 + size


def _trace(road: _Road, style: Style, nodes: list[_Node], speed: FloatArray, efficiency: FloatArray) -> Trace:
    """From speed over station to time: box average, pedals, and the true marks."""
    step = road.step
    dt = step / (0.5 * (speed[1:] + speed[:-1]))
    t_station = np.concatenate([[0.0], np.cumsum(dt)])
    time = np.arange(0.0, t_station[-1], 1.0 / RATE_HZ)
    v = _box(np.interp(time, t_station, speed), max(1, round(style.ramp_s * RATE_HZ)))
    place = np.concatenate([[0.0], np.cumsum(0.5 * (v[1:] + v[:-1]) / RATE_HZ)])
    a = np.gradient(v, time)
    throttle, brake = _pedals(road.vehicle, v, a, np.interp(time, t_station, efficiency))
    trace = Trace(road.circuit, road.vehicle, time, place, v, a, throttle, brake, ())
    marks = tuple(_truth(trace, style, t_station, step, n, nodes) for n in nodes if n.last)
    return replace(trace, corners=marks)


def _box(values: FloatArray, width: int) -> FloatArray:
    """Running mean over an odd number of samples; the ends run on in a straight line."""
    half = width // 2
    lead = values[0] + (values[1] - values[0]) * np.arange(-half, 0)
    tail = values[-1] + (values[-1] - values[-2]) * np.arange(1, half + 1)
    padded = np.concatenate([lead, values, tail])
    return np.convolve(padded, np.ones(2 * half + 1) / (2 * half + 1), mode="valid")


def _pedals(vehicle: Vehicle, v: FloatArray, a: FloatArray, efficiency: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Throttle 0..1 and brake (m/s² of braking beyond coasting) that make this motion."""
    coast = np.asarray(vehicle.coast_mps2(v))
    full = np.asarray(vehicle.full_mps2(v))
    throttle = (a - coast) / np.maximum((full - coast) * efficiency, 0.3)
    throttle = np.clip(throttle * 1.03, 0.0, 1.0)
    throttle[throttle > 0.985] = 1.0
    throttle[a < coast + 0.05] = 0.0
    brake = np.where(a < coast - 0.05, coast - a, 0.0)
    return throttle, brake


def _truth(
    trace: Trace, style: Style, t_station: FloatArray, step: float, node: _Node, nodes: list[_Node]
) -> TrueCorner:
    """Marks of one corner, from the dense trace around its nodes."""
    same = [n for n in nodes if n.lap == node.lap and n.corner == node.corner]
    slowest = min(same, key=lambda n: n.speed)
    base = node.lap * trace.circuit.length_m
    lo, hi = np.searchsorted(trace.station_m, [(slowest.slow - 25) * step, (slowest.slow + 25) * step])
    at = lo + int(np.argmin(trace.speed_mps[lo:hi])) if hi > lo else lo
    before = max((n.slow for n in nodes if n.slow < same[0].slow), default=0)
    t_pick = float(t_station[min(node.pickup, len(t_station) - 1)]) - 0.5 * style.ramp_s
    return TrueCorner(
        lap=node.lap,
        corner=node.corner,
        brake_on_m=_brake_on(trace, same[0].slow * step, before * step, base),
        slow_point_m=_valley(trace, at) - base,
        min_speed_mps=float(trace.speed_mps[at]),
        throttle_on_m=float(np.interp(t_pick, trace.time_s, trace.station_m)) - base,
        flat=slowest.flat,
    )


def _valley(trace: Trace, at: int) -> float:
    """Station of the centre of the valley: where speed is within 0.5 km/h of its least."""
    near = slice(max(0, at - 400), at + 400)
    low = trace.speed_mps[near] < trace.speed_mps[at] + 0.14
    centre = at - near.start
    left = centre - int(np.argmin(low[centre::-1])) if not low[: centre + 1].all() else 0
    right = centre + int(np.argmin(low[centre:])) if not low[centre:].all() else len(low) - 1
    return float(0.5 * (trace.station_m[near][left] + trace.station_m[near][right]))


def _brake_on(trace: Trace, slow_m: float, before_m: float, base: float) -> float | None:
    """Station at which braking for a slow point begins: since full throttle, or the slow point before."""
    end = int(np.searchsorted(trace.station_m, slow_m))
    full = np.flatnonzero(trace.throttle[:end] > 0.99)
    start = max(int(full[-1]) if full.size else 0, int(np.searchsorted(trace.station_m, before_m)))
    on = np.flatnonzero(trace.brake_mps2[start:end] > 0.0)
    if on.size == 0 or trace.brake_mps2[start:end].max() < 1.0:
        return None
    return float(trace.station_m[start + on[0]]) - base
