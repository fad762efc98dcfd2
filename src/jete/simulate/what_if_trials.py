"""Changes of one corner with known truth: a lap of a stint, and the same lap driven again with the change.

Two simulators of different making answer: the driver who lays a speed profile, and the one with feet.  What came out otherwise than
it was asked (no grip for it, another pick-up) is told as such: it is no truth about the change.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Final, Literal

import numpy as np

from jete.simulate.circuit import draw
from jete.simulate.driver import Fault, LapPlan, Style, Trace, TrueCorner, drive
from jete.simulate.feet import drive_stint_with_feet
from jete.simulate.lines import draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.vehicle import draw_vehicle

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.core.log.lap import Log
    from jete.simulate.circuit import Circuit
    from jete.simulate.vehicle import Vehicle

Simulator = Literal["laid", "feet"]

# The stint: an out lap, laps that are learnt from, the one that is changed, and a piece to run on.
LAPS, JUDGED = 6, 4
# From lap to lap the grip of the day's laps differs by this, one standard deviation.
GRIP_SIGMA = 0.004
# A change came out as asked when its marks moved by what was asked but for this: metres, m/s.
AS_ASKED_M, AS_ASKED_MPS = 0.4, 0.05
# Both drivers reckon their grip by the road's bends: a line that wanders more would show more of it than they use, or less.
LINE_M = 0.3
# An acceleration is taken over so many stations.
SMOOTH = 5


@dataclass(frozen=True, kw_only=True)
class TrueChange:
    """A change and what it did.

    Attributes:
        corner: its number.
        sets: as ``WHAT=DELTA``.
        keeps: what stays.
        entry: whether it is of the way in.
        gap_s: of the lap time; negative is quicker.
        as_asked: whether the marks moved as they were asked to.
    """

    corner: int
    sets: tuple[str, ...]
    keeps: tuple[str, ...]
    entry: bool
    gap_s: float
    as_asked: bool


@dataclass(frozen=True, eq=False, kw_only=True)
class ChangeTrial:
    """A stint's log, the lap of it that is changed, and true changes of it."""

    circuit: Circuit
    vehicle: Vehicle
    log: Log
    lap: int
    changes: tuple[TrueChange, ...]


@dataclass(frozen=True, kw_only=True)
class _Way:
    """How a change is asked for and how a simulator is told: its fault, how the size becomes the fault's, and the range of sizes."""

    what: str
    keep: str
    fault: str
    sizes: tuple[float, float]
    sign: float
    entry: bool
    # Whether the brake point that it took is read off the lap and asked for too.
    read_off: bool = False


_FEET: Final = (
    _Way(what="brake_on_m", keep="braking", fault="late_braking", sizes=(2.0, 7.0), sign=1.0, entry=True),
    _Way(what="brake_on_m", keep="braking", fault="early_braking", sizes=(2.0, 8.0), sign=-1.0, entry=True),
    _Way(what="brake_on_m", keep="slow_point_m", fault="hard_braking", sizes=(2.0, 7.0), sign=1.0, entry=True),
    _Way(what="brake_on_m", keep="slow_point_m", fault="soft_braking", sizes=(2.0, 8.0), sign=-1.0, entry=True),
    _Way(what="min_speed_kmh", keep="braking", fault="more_speed", sizes=(0.8, 3.0), sign=1.0, entry=True),
    _Way(what="min_speed_kmh", keep="braking", fault="overslowing", sizes=(0.8, 4.0), sign=-1.0, entry=True),
    _Way(what="min_speed_kmh", keep="brake_on_m", fault="softer_to_more", sizes=(0.8, 3.0), sign=1.0, entry=True),
    _Way(what="throttle_on_m", keep="feed", fault="early_throttle", sizes=(2.0, 8.0), sign=-1.0, entry=False),
    _Way(what="throttle_on_m", keep="feed", fault="late_throttle", sizes=(2.0, 10.0), sign=1.0, entry=False),
    _Way(what="feed", keep="throttle_on_m", fault="quicker_feed", sizes=(0.15, 0.5), sign=1.0, entry=False),
)
# Who lays a profile feeds at once, and brakes by a share of the grip: what that moves the brake point by is read off.
_LAID: Final = (
    _Way(what="brake_on_m", keep="braking", fault="early_braking", sizes=(2.0, 8.0), sign=-1.0, entry=True),
    _Way(what="brake_on_m", keep="slow_point_m", fault="hard_braking", sizes=(0.03, 0.12), sign=0.0, entry=True),
    _Way(what="brake_on_m", keep="slow_point_m", fault="soft_braking", sizes=(0.04, 0.15), sign=0.0, entry=True),
    _Way(
        what="min_speed_kmh", keep="braking", fault="more_speed", sizes=(0.8, 3.0), sign=1.0, entry=True, read_off=True
    ),
    _Way(
        what="min_speed_kmh",
        keep="braking",
        fault="overslowing",
        sizes=(0.8, 4.0),
        sign=-1.0,
        entry=True,
        read_off=True,
    ),
    _Way(what="throttle_on_m", keep="feed", fault="early_throttle", sizes=(2.0, 8.0), sign=-1.0, entry=False),
    _Way(what="throttle_on_m", keep="feed", fault="late_throttle", sizes=(2.0, 10.0), sign=1.0, entry=False),
)


def draw_change_trial(
    seed: int, simulator: Simulator, settings: LoggerSettings | None = None, count: int = 8, level: float = 0.9
) -> ChangeTrial:
    """Draw a stint and changes of one of its laps; ``level`` is the share of the grip that the driver uses."""
    rng = np.random.default_rng([seed, 557])
    circuit, vehicle = draw(seed + 200_000), draw_vehicle(seed + 200_000)
    driven = _driver(simulator, circuit, vehicle, seed, level)
    own = driven(())
    ways = _FEET if simulator == "feet" else _LAID
    found = (_changed(own, driven, *drawn) for drawn in _draw(own, rng, ways, count))
    changes = tuple(change for change in found if change is not None)
    log = record(
        own,
        draw_line(circuit, 1000 * seed + 1, LINE_M),
        settings or LoggerSettings(),
        seed,
        (1, JUDGED + 1),
        "stint.csv",
    )
    return ChangeTrial(circuit=circuit, vehicle=vehicle, log=log, lap=JUDGED, changes=changes)


def _driver(
    simulator: Simulator, circuit: Circuit, vehicle: Vehicle, seed: int, level: float
) -> Callable[[tuple[Fault, ...]], Trace]:
    """Drives the stint with faults in the judged lap."""
    grips = 1.0 + GRIP_SIGMA * np.random.default_rng([seed, 31]).standard_normal(LAPS)

    def plans(faults: tuple[Fault, ...]) -> list[LapPlan]:
        return [LapPlan(faults if lap == JUDGED else (), float(grips[lap])) for lap in range(LAPS)]

    if simulator == "laid":
        style = Style(corner_share=level * 1.01, brake_share=level * 0.96, drive_share=level * 1.03)
        return lambda faults: drive(circuit, vehicle, plans(faults), style)
    return lambda faults: drive_stint_with_feet(circuit, vehicle, seed, plans(faults), level, 1)


def _draw(own: Trace, rng: np.random.Generator, ways: tuple[_Way, ...], count: int) -> list[tuple[int, _Way, float]]:
    """Corners that are braked for, ways and sizes."""
    braked = [c.corner for c in own.corners if c.lap == JUDGED and c.brake_on_m is not None and not c.flat]
    out = []
    for _ in range(count if braked else 0):
        way = ways[int(rng.integers(len(ways)))]
        out.append((int(rng.choice(braked)), way, float(rng.uniform(*way.sizes))))
    return out


def _changed(
    own: Trace, driven: Callable[[tuple[Fault, ...]], Trace], corner: int, way: _Way, size: float
) -> TrueChange | None:
    """The lap driven again; None where it does not brake there any more, and nothing could be asked for."""
    other = driven((Fault(way.fault, corner, size),))
    before, after = (_corner(t, corner) for t in (own, other))
    if after.brake_on_m is None:
        return None
    moved = _moved(before, after)
    delta = way.sign * size if way.sign else moved[0]
    sets, keeps = [f"{way.what}={delta:+.4f}"], [way.keep]
    if way.read_off:
        sets.append(f"brake_on_m={moved[0]:+.4f}")
        keeps = ["brake_on_m", "slow_point_m"]
    # Another slow point may ask for another pick-up: that is asked for too.
    if way.what != "throttle_on_m" and abs(moved[2]) > AS_ASKED_M:
        sets.append(f"throttle_on_m={moved[2]:+.4f}")
        keeps.append("feed")
    return TrueChange(
        corner=corner,
        sets=tuple(sets),
        keeps=tuple(keeps),
        entry=way.entry,
        gap_s=other.lap_time_s(JUDGED) - own.lap_time_s(JUDGED),
        as_asked=_as_asked(way, delta, moved),
    )


def _corner(trace: Trace, number: int) -> TrueCorner:
    return next(c for c in trace.corners if c.lap == JUDGED and c.corner == number)


def _moved(before: TrueCorner, after: TrueCorner) -> tuple[float, float, float]:
    """How far brake point (m), lowest speed (m/s) and pick-up (m) moved."""
    brake = (after.brake_on_m or 0.0) - (before.brake_on_m or 0.0)
    return brake, after.min_speed_mps - before.min_speed_mps, after.throttle_on_m - before.throttle_on_m


def _as_asked(way: _Way, delta: float, moved: tuple[float, float, float]) -> bool:
    speed = delta / 3.6 if way.what == "min_speed_kmh" else 0.0
    if abs(moved[1] - speed) > AS_ASKED_MPS:
        return False
    if way.what == "throttle_on_m":
        return abs(moved[2] - delta) <= AS_ASKED_M
    if way.what == "brake_on_m":
        return abs(moved[0] - delta) <= AS_ASKED_M and 0.5 <= abs(delta) <= 10.0
    return way.what == "min_speed_kmh" or abs(moved[2]) <= AS_ASKED_M


def true_use(trial: ChangeTrial, station_m: np.ndarray, speed_mps: np.ndarray) -> np.ndarray:
    """The share of the true grip that a curve of speeds (n,) at stations (n,) of the road uses, (n,).

    Where it is driven on, only what the bend takes: both drivers drive out at the limit of traction, which the vehicle sets and not they.
    """
    vehicle, circuit = trial.vehicle, trial.circuit
    bend = np.interp(station_m, circuit.station_m, np.abs(circuit.curvature_1pm))
    along = np.gradient(0.5 * speed_mps**2, station_m)
    smooth = np.convolve(along, np.ones(SMOOTH) / SMOOTH, mode="same") + vehicle.drag_1pm * speed_mps**2
    normal = 9.81 + vehicle.downforce_1pm * speed_mps**2
    pull = np.where(smooth < 0.0, vehicle.braking_g, np.inf) * normal
    return np.asarray(np.hypot(smooth / pull, bend * speed_mps**2 / (vehicle.lateral_g * normal)))
