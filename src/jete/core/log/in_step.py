"""A log whose channels tell of one moment at one time.

What one clock stamps was not measured at one moment: a receiver works a position out, a bus is asked
now and then.  A brake point is then told metres from where it was.  What is late, and by how much, is told by
channels that go with each other, and set right where it is beyond doubt:

    acceleration ──> speed <── positions, which are never early
    brake, throttle ──> speed, where nothing else tells of it, or the pedals where they follow it
    speed ──> positions
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from jete.core.log.lag import REACH_S, lateness_of_positions, lateness_of_speed
from jete.core.log.lap import Repair
from jete.core.log.pedal_lag import BRAKES, lateness_of_pedals
from jete.core.log.plane import origin_of
from jete.core.numeric.late import UNKNOWN, Lateness, change_over, lateness_of, summed_over

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.log.lap import Channel, Log

# A lag is taken out only where it is beyond doubt: a wrong one moves every place.
SURE_SIGMAS = 4.0
# Less moves no place by half a metre.
LEAST_S = 0.01
# A speed that is no later is so by its own running mean.
LEAST_SPEED_S = 0.05
# A vehicle that trails its brake, or spins its wheels, looks like a pedal that is late by up to 0.09 s; and two logs of one
# device must not lie on either side of the bound, since a brake point of one alone would be moved.
LEAST_PEDAL_S = 0.15
# A vehicle takes so long to follow its brake, and no longer than this its brake and its throttle.
FOLLOWS_S, FOLLOWS_AT_MOST_S = 0.05, 0.15


def in_step(log: Log) -> Log:
    """The log with a speed, pedals and positions that come late moved back in time, where that is sure; told as repairs."""
    speed, positions, pedals = log.get("speed"), lateness_of_positions(log), lateness_of_pedals(log)
    late = UNKNOWN if speed is None else _lateness_of_speed(log, speed, positions, pedals)
    if speed is not None and _late(late, LEAST_SPEED_S):
        log = _moved(log, _going_with(log, speed), late.seconds, "speed")
        positions, pedals = lateness_of_positions(log), lateness_of_pedals(log)
    return _positions_in_time(_pedals_in_time(log, *pedals), positions)


def _late(late: Lateness, least_s: float) -> bool:
    return late.seconds > 0.0 and late.sure(least_s, SURE_SIGMAS)


def _lateness_of_speed(log: Log, speed: Channel, positions: Lateness, pedals: Sequence[Lateness]) -> Lateness:
    """The lateness of a speed against the acceleration, the positions or both pedals: by the first that shows one."""
    acceleration = log.get("acc_long")
    # An acceleration knows better than pedals.
    by_pedals = _behind_pedals(pedals) if acceleration is None else UNKNOWN
    evidence = (lateness_of_speed(speed, acceleration), _turned(positions), by_pedals)
    return next((late for late in evidence if _late(late, LEAST_SPEED_S)), UNKNOWN)


def _turned(late: Lateness) -> Lateness:
    """How much later the other of both is."""
    return Lateness(-late.seconds, late.sigma_s)


def _behind_pedals(pedals: Sequence[Lateness]) -> Lateness:
    """Only where both pedals say so."""
    ahead = [_turned(p) for p in pedals]
    if not all(_late(p, FOLLOWS_AT_MOST_S) for p in ahead):
        return UNKNOWN
    return Lateness(ahead[0].seconds - FOLLOWS_S, ahead[0].sigma_s)


def _going_with(log: Log, speed: Channel) -> list[str]:
    """The speed, and a distance that was counted from it: one that is no earlier."""
    distance = log.get("distance")
    if distance is None:
        return ["speed"]
    driven = summed_over(REACH_S, speed.time_s, speed.value)
    covered = change_over(REACH_S, distance.time_s, distance.value, distance.time_s)
    early_s = lateness_of(covered, distance.time_s, covered > 0.0, driven).seconds
    return ["speed"] if early_s > LEAST_SPEED_S else ["speed", "distance"]


def _pedals_in_time(log: Log, brake: Lateness, throttle: Lateness) -> Log:
    """The log with the pedals moved back that come later than the speed that they make."""
    for names, late in ((BRAKES, brake), (("throttle",), throttle)):
        if _late(late, LEAST_PEDAL_S):
            log = _moved(log, [n for n in names if log.get(n) is not None], late.seconds, names[0])
    return log


def _positions_in_time(log: Log, late: Lateness) -> Log:
    """The log with its positions moved back by what they are later than the speed."""
    if not _late(late, LEAST_S):
        return log
    origin = origin_of(log)
    names = ("x", "y") if origin is not None and origin.latitude_deg is None else ("latitude", "longitude")
    return replace(_moved(log, names, late.seconds, "position"), positions=replace(log.positions, lag_s=late.seconds))


def _moved(log: Log, names: Sequence[str], late_s: float, told: str) -> Log:
    """The log with channels moved back in time."""
    moved = {n: replace(log.channels[n], time_s=log.channels[n].time_s - late_s) for n in names}
    repair = Repair(told, f"{late_s:.2f} s late, moved back", len(moved[names[0]]))
    return replace(log, channels={**log.channels, **moved}, repairs=(*log.repairs, repair))
