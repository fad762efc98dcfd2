"""How channels are shown: title, unit and decimals, and which of them make a sensible set for a vehicle."""

from __future__ import annotations

from dataclasses import dataclass
from math import degrees
from typing import TYPE_CHECKING

from jete.core.log.channels import CHANNELS as LOGGED
from jete.core.log.channels import GRAVITY_MPS2

if TYPE_CHECKING:
    from collections.abc import Iterable

    from jete.core.log.lap import Lap


@dataclass(frozen=True)
class Shown:
    """One channel: its title, how many of the shown unit are one inside unit, that unit, decimals, share of the height.

    ``short`` is its title where there is little room.
    """

    title: str
    factor: float = 1.0
    unit: str = ""
    digits: int = 1
    weight: float = 0.9
    short: str = ""


DEGREE = degrees(1.0)
CHANNELS = {
    "gap": Shown("running gap", unit="s", digits=3, weight=1.1),
    "speed": Shown("speed", weight=2.2),
    "wheel_speed": Shown("wheel speed", weight=1.4),
    "gps_speed": Shown("receiver speed", weight=1.4),
    "brake": Shown("brake", weight=1.0),
    "brake_front": Shown("front brake", weight=1.0),
    "brake_rear": Shown("rear brake", weight=0.8),
    "throttle": Shown("throttle", 100.0, "%", 0, 1.0),
    "steering": Shown("steering", DEGREE, "deg", 0),
    "lean": Shown("lean", DEGREE, "deg", 0, 1.0),
    "gear": Shown("gear", digits=0, weight=0.7),
    "rpm": Shown("rpm", digits=0),
    "acc_long": Shown("acceleration, along", 1.0 / GRAVITY_MPS2, "g", 2, short="along"),
    "acc_lat": Shown("acceleration, sideways", 1.0 / GRAVITY_MPS2, "g", 2, short="sideways"),
    "acc_vert": Shown("acceleration, upwards", 1.0 / GRAVITY_MPS2, "g", 2, short="upwards"),
    "yaw_rate": Shown("yaw rate", DEGREE, "deg/s", 0),
    "altitude": Shown("altitude", unit="m", digits=0),
    **{
        n: Shown(f"tyre{n.removeprefix('tyre_temperature').replace('_', ' ')}, temperature", unit="°C", digits=0)
        for n in LOGGED
        if n.startswith("tyre_temperature")
    },
}
SETS = {
    "car": ("gap", "speed", "brake", "throttle", "steering", "gear"),
    "motorcycle": ("gap", "speed", "brake_front", "brake_rear", "brake", "throttle", "lean", "gear"),
}
# What a lap consists of besides what the vehicle did.
NOT_DRIVEN = {"time", "lap", "lap_time", "beacon", "distance", "x", "y", "latitude", "longitude"}
# Shown whether it was logged or follows from the speed.
ALWAYS = ("gap", "speed", "brake", "throttle")


def shown(name: str) -> Shown:
    """How a channel is shown; one that nobody knows by its own name."""
    return CHANNELS.get(name, Shown(name.replace("_", " "), digits=1))


def offered(laps: Iterable[Lap]) -> tuple[str, ...]:
    """The panels that laps can fill: what is always there, then every channel that one of them has, the known ones first."""
    logged = {n for lap in laps for n in lap.log.channels} - NOT_DRIVEN
    known = [n for n in CHANNELS if n in ALWAYS or n in logged]
    return (*known, *sorted(logged - set(known)))


def sensible(kind: str, laps: Iterable[Lap]) -> tuple[str, ...]:
    """The panels for a kind of vehicle, as far as something was logged for them; both brakes instead of their sum."""
    there = offered(laps)
    names = [n for n in SETS[kind] if n in there]
    if "brake_front" in names:
        names.remove("brake")
    return tuple(names)
