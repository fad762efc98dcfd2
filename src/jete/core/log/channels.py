"""Channels by their canonical names, the units they come in, and the spellings they have.

Inside the program every channel is in one unit (``Quantity.inside``, SI with pedals as
ratios and pressures in bar); conversion happens here, at the border, and nowhere else.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from math import pi
from typing import Final


@dataclass(frozen=True)
class Quantity:
    """Units a channel may come in: factor to the inside unit; the first is assumed."""

    inside: str
    units: dict[str, float] = field(hash=False)

    @property
    def default(self) -> str:
        """The unit that is assumed where none is given."""
        return next(iter(self.units))


TIME: Final = Quantity("s", {"s": 1.0, "sec": 1.0, "ms": 1e-3, "us": 1e-6, "min": 60.0})
COUNT: Final = Quantity("", {"": 1.0, "-": 1.0, "–": 1.0, "#": 1.0, "count": 1.0})
LENGTH: Final = Quantity("m", {"m": 1.0, "km": 1000.0, "ft": 0.3048, "mi": 1609.344, "cm": 0.01, "mm": 0.001})
SPEED: Final = Quantity(
    "m/s",
    {
        "km/h": 1 / 3.6,
        "kmh": 1 / 3.6,
        "kph": 1 / 3.6,
        "m/s": 1.0,
        "mps": 1.0,
        "mph": 0.44704,
        "kn": 1852 / 3600,
        "kt": 1852 / 3600,
        "knots": 1852 / 3600,
    },
)
# Standard gravity, m/s² (CGPM 1901).
GRAVITY_MPS2: Final = 9.80665
PEDAL: Final = Quantity("ratio", {"%": 0.01, "pct": 0.01, "percent": 0.01, "ratio": 1.0, "-": 1.0})
BRAKE: Final = Quantity(
    "bar",
    {"bar": 1.0, "%": 1.0, "psi": 0.0689475729, "kpa": 0.01, "mpa": 10.0, "ratio": 100.0, "pct": 1.0},
)
ANGLE: Final = Quantity("rad", {"deg": pi / 180, "°": pi / 180, "degrees": pi / 180, "rad": 1.0})
DEGREES: Final = Quantity("deg", {"deg": 1.0, "°": 1.0, "degrees": 1.0, "rad": 180 / pi})
TURNS: Final = Quantity("1/min", {"1/min": 1.0, "rpm": 1.0, "min-1": 1.0, "u/min": 1.0})
ACCELERATION: Final = Quantity(
    "m/s2", {"g": GRAVITY_MPS2, "m/s2": 1.0, "m/s^2": 1.0, "m/s²": 1.0, "m/s/s": 1.0, "mps2": 1.0}
)
YAW_RATE: Final = Quantity("rad/s", {"deg/s": pi / 180, "°/s": pi / 180, "dps": pi / 180, "rad/s": 1.0})

BRAKE_RATIO_UNITS: Final = frozenset({"%", "ratio", "pct"})

QUANTITIES: Final[dict[str, Quantity]] = {
    "time": TIME,
    "lap": COUNT,
    "lap_time": TIME,
    "beacon": COUNT,
    "distance": LENGTH,
    "speed": SPEED,
    "wheel_speed": SPEED,
    "gps_speed": SPEED,
    "throttle": PEDAL,
    "brake": BRAKE,
    "brake_front": BRAKE,
    "brake_rear": BRAKE,
    "steering": ANGLE,
    "gear": COUNT,
    "rpm": TURNS,
    "latitude": DEGREES,
    "longitude": DEGREES,
    "x": LENGTH,
    "y": LENGTH,
    "acc_long": ACCELERATION,
    "acc_lat": ACCELERATION,
    "yaw_rate": YAW_RATE,
    "lean": ANGLE,
    "altitude": LENGTH,
    "acc_vert": ACCELERATION,
}

_SPELLINGS: Final[dict[str, tuple[str, ...]]] = {
    "time": (
        "elapsedtime", "timestamp", "t", "sessiontime", "logtime", "zeit", "seconds", "runtime", "timesincestart",
        "elapsed", "timeofday", "utc", "utctime", "gpstime", "timestamps", "times", "timems", "datetime",
    ),
    "lap_time": (
        "laptime", "timeoflap", "lapclock", "runninglaptime", "currentlaptime", "timeinlap", "timethislap",
        "rundenzeit", "lapelapsed",
    ),
    "beacon": ("beacons", "beaconcount", "lapbeacon", "lapmarker", "beaconmarker", "lapmark", "beaconpulse"),
    "lap": ("lapnum", "laprunning", "lapcounter", "currentlap", "lapid", "lapnumber", "lapno", "lapnr", "lapcount", "laps", "lapindex", "runde"),
    "distance": ("dist", "lapdistance", "lapdist", "odometer", "totaldistance", "travelled", "distanz"),
    "speed": (
        "vehiclespeed", "groundspeed", "velocity", "v", "carspeed", "bikespeed", "geschwindigkeit",
    ),
    "wheel_speed": ("speedwheel", "wheelspeedavg", "wheelspd", "drivenspeed", "radgeschwindigkeit"),
    "gps_speed": ("speedgps", "speedoverground", "sog", "gpsvelocity", "gnssspeed"),
    "throttle": (
        "tps", "throttleposition", "throttlepos", "accelerator", "acceleratorpedal", "pedalposition", "app",
        "throttlepedal", "gas", "gaspedal", "throttlepct", "grip", "twistgrip", "aps",
    ),
    "brake": (
        "brakepressure", "brakepos", "brakeposition", "brakepedal", "brakepress", "braking", "brakes",
        "brakepedalposition", "brakepct", "bremse", "bremsdruck",
    ),
    "brake_front": (
        "frontbrake", "brakepressurefront", "frontbrakepressure", "brakef", "brakefrontpressure",
        "brakepressfront", "frontbrakepress",
    ),
    "brake_rear": (
        "rearbrake", "brakepressurerear", "rearbrakepressure", "braker", "brakerearpressure",
        "brakepressrear", "rearbrakepress",
    ),
    "steering": (
        "steeringangle", "steer", "steerangle", "steeringwheelangle", "steeringwheel", "steeringposition",
        "steeringpos", "handlebar", "handlebarangle", "lenkwinkel",
    ),
    "gear": ("gearposition", "gearpos", "selectedgear", "currentgear", "gearnumber", "gang"),
    "rpm": ("enginespeed", "enginerpm", "revs", "motorrpm", "enginerevs", "drehzahl"),
    "latitude": ("lat", "gpslatitude", "gpslat", "positionlat", "latitudegps"),
    "longitude": ("lon", "long", "lng", "gpslongitude", "gpslon", "gpslong", "positionlon", "longitudegps"),
    "x": ("posx", "positionx", "xpos", "xposition", "localx", "east", "easting", "gpsx"),
    "y": ("posy", "positiony", "ypos", "yposition", "localy", "north", "northing", "gpsy"),
    "acc_long": (
        "longacc", "longitudinalacceleration", "acclongitudinal", "longaccel", "accelerationlongitudinal", "glong", "longg",
        "accx", "ax", "longitudinalg", "longitudinalacc", "accelx", "gx", "accellong",
    ),
    "acc_lat": (
        "latacc", "lateralacceleration", "acclateral", "lataccel", "accelerationlateral", "glat", "latg", "accy", "ay",
        "lateralg", "lateralacc", "accely", "gy", "accellat",
    ),
    "yaw_rate": ("yaw", "yawvelocity", "gyroz", "rotationz", "yawspeed", "gierrate", "ratez", "psidot"),
    "altitude": ("alt", "height", "elevation", "gpsaltitude", "gpsalt", "hoehe"),
    "acc_vert": ("verticalacceleration", "vertacc", "accvertical", "vertaccel", "gvert", "accz", "az", "accelz", "gz"),
    "lean": ("leanangle", "roll", "rollangle", "bankangle", "banking", "schraeglage"),
}  # fmt: skip


def _plain(text: str) -> str:
    """Lower case without blanks, underscores, dashes and dots: what spellings compare by."""
    return "".join(c for c in text.casefold() if c.isalnum())


_BY_SPELLING: Final[dict[str, str]] = {
    _plain(spelling): name for name in QUANTITIES for spelling in (name, *_SPELLINGS.get(name, ()))
}


def canonical_name(spelling: str) -> str | None:
    """The canonical channel for a column's name, or None where it is not known.

    >>> canonical_name("GPS_Speed"), canonical_name("Brake Pressure"), canonical_name("oil")
    ('gps_speed', 'brake', None)
    """
    return _BY_SPELLING.get(_plain(spelling))


def factor(channel: str, unit: str | None) -> float | None:
    """Factor from ``unit`` to the inside unit of a canonical channel; None if unknown.

    >>> factor("speed", "mph"), factor("time", None), factor("speed", "furlongs")
    (0.44704, 1.0, None)
    """
    quantity = QUANTITIES[channel]
    if unit is None or not unit.strip():
        return quantity.units[quantity.default]
    plain = unit.strip().casefold().replace(" ", "")
    return quantity.units.get(plain)


def known_units(channel: str) -> str:
    """The units understood for a channel, for messages."""
    return ", ".join(u for u in QUANTITIES[channel].units if u) or "none"
