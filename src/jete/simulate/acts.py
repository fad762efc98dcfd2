"""What a driver with feet plans for one corner, and how grip, a person's scatter, and faults change the plan."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import sqrt
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Callable

    import numpy as np

    from jete.simulate.driver import Fault, LapPlan
    from jete.simulate.habits import Habits
    from jete.simulate.vehicle import Vehicle

NEVER_M = 1e9
# One standard deviation, from lap to lap, of brake point, release and pick-up (metres) and of the lowest speed (share).
SHAKEN = (1.2, 0.5, 1.0, 0.004)
# Who lifts for a bend that others take flat does it so far before it.
LIFTS_BEFORE_M = 25.0
# Who runs on past the apex braked this share of it too late, is slower there by this share, and picks up later by so much more.
OVERSHOT_BRAKE, OVERSHOT_SPEED, OVERSHOT_PICKUP = 0.35, 0.85, 1.6


@dataclass(frozen=True)
class Act:
    """What is planned for one corner of a lap; places in metres of the running road."""

    corner: int
    brake_m: float | None
    slowed_m: float
    slow_mps: float
    pickup_m: float
    habits: Habits
    arrives_mps: float = 0.0
    lift_m: float = 0.0
    dip_s: float = 0.0
    drive: float = 1.0
    rolls_from_m: float = NEVER_M
    rolls_to_m: float = NEVER_M
    gear: int = 0
    lifts_s: float = 0.0
    quicker: float = 1.0


def in_lap(act: Act, lap: int, plan: LapPlan, length_m: float) -> Act:
    """An act of lap 1 in another lap, on a road with another grip: less of it asks for less speed and an earlier brake."""
    by, grip = (lap - 1) * length_m, plan.grip
    brake = None if act.brake_m is None else act.slowed_m - (act.slowed_m - act.brake_m) / grip + by
    rolls = act.rolls_from_m + by if act.rolls_from_m < NEVER_M else NEVER_M
    moved = replace(act, slowed_m=act.slowed_m + by, pickup_m=act.pickup_m + by, rolls_from_m=rolls, brake_m=brake)
    return replace(moved, slow_mps=act.slow_mps * sqrt(grip), gear=dict(plan.gears).get(act.corner, 0))


def shaken(act: Act, rng: np.random.Generator) -> Act:
    """An act as a person does it once: a metre here, a metre there."""
    brake, slowed, pickup, speed = rng.normal(0.0, SHAKEN)
    if act.brake_m is None:
        return act
    pickup_m = max(act.pickup_m + pickup, act.slowed_m + slowed + 1.0)
    moved = replace(act, brake_m=act.brake_m + brake, slowed_m=act.slowed_m + slowed, pickup_m=pickup_m)
    return replace(moved, slow_mps=act.slow_mps * (1.0 + speed))


def with_faults(act: Act, faults: tuple[Fault, ...], vehicle: Vehicle) -> Act:
    """An act as the faults of its corner change it."""
    for fault in faults:
        if fault.corner == act.corner and fault.kind == "lifts":
            act = replace(act, lift_m=act.slowed_m - LIFTS_BEFORE_M, lifts_s=fault.size)
        elif fault.corner == act.corner and act.brake_m is not None:
            act = _CHANGES[fault.kind](act, fault.size, vehicle)
    return replace(act, pickup_m=max(act.pickup_m, act.slowed_m + 1.0))


def _moved(act: Act, brake: float, slowed: float) -> Act:
    assert act.brake_m is not None
    return replace(act, brake_m=act.brake_m + brake, slowed_m=act.slowed_m + slowed)


def _rolls(act: Act, like: Act) -> Act:
    """On neither pedal from where an act has slowed to where another has; from there on as ever."""
    return replace(act, rolls_from_m=act.slowed_m, rolls_to_m=NEVER_M if act.habits.rolls else like.slowed_m)


def _slower(act: Act, by_mps: float, vehicle: Vehicle) -> Act:
    """Another speed to be reached, by braking as hard from an earlier or later place."""
    to = act.slow_mps + by_mps
    hard = act.habits.hardest * vehicle.braking_g * 9.81 * 0.8
    longer = 0.5 * (act.slow_mps**2 - to**2) / hard
    return replace(_moved(act, -longer, 0.0), slow_mps=to)


def _coasts(act: Act, seconds: float, vehicle: Vehicle) -> Act:
    """Lifts so long before the brake."""
    assert act.brake_m is not None
    fast = act.arrives_mps
    lost = -float(vehicle.coast_mps2(fast)) * seconds
    later = lost * fast / (act.habits.hardest * vehicle.braking_g * 9.81 * 0.8)
    return replace(act, lift_m=act.brake_m + later - seconds * fast, brake_m=act.brake_m + later)


def _runs_on(act: Act, past_m: float, _: Vehicle) -> Act:
    """Brakes too late to turn in: slow that far past where it should be, a little slower there, and back on the throttle later still."""
    late = _moved(act, OVERSHOT_BRAKE * past_m, past_m)
    return replace(late, slow_mps=OVERSHOT_SPEED * act.slow_mps, pickup_m=act.pickup_m + OVERSHOT_PICKUP * past_m)


_CHANGES: dict[str, Callable[[Act, float, Vehicle], Act]] = {
    "early_braking": lambda a, d, _: _moved(a, -d, -d),
    "early_rolling": lambda a, d, _: _rolls(_moved(a, -d, -d), a),
    "late_braking": lambda a, d, _: _moved(a, d, d),
    "overshot": _runs_on,
    "soft_braking": lambda a, d, _: _moved(a, -d, 0.0),
    "hard_braking": lambda a, d, _: _moved(a, d, 0.0),
    "overslowing": lambda a, kmh, v: _slower(a, -kmh / 3.6, v),
    "more_speed": lambda a, kmh, v: _slower(a, kmh / 3.6, v),
    "softer_to_more": lambda a, kmh, _: replace(a, slow_mps=a.slow_mps + kmh / 3.6),
    "quicker_feed": lambda a, by, _: replace(a, quicker=1.0 + by),
    "coasting": _coasts,
    "late_throttle": lambda a, d, _: replace(a, pickup_m=a.pickup_m + d),
    "waiting_foot": lambda a, d, _: replace(a, pickup_m=a.pickup_m + d, rolls_from_m=min(a.rolls_from_m, a.pickup_m)),
    "early_throttle": lambda a, d, _: replace(a, pickup_m=max(a.pickup_m - d, a.slowed_m + 1.0)),
    "throttle_hesitation": lambda a, s, _: replace(a, dip_s=s),
    "slow_exit": lambda a, share, _: replace(a, drive=1.0 - share),
    "fast_exit": lambda a, share, _: replace(a, drive=1.0 + share),
}
