"""Channels by their canonical names, the units they come in, and the spellings they have.

Inside the program every channel is in one unit (``Quantity.inside``, SI with pedals as
ratios and pressures in bar); conversion happens here, at the border, and nowhere else.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from math import pi
from typing import Final, Literal, NamedTuple


class Conversion(NamedTuple):
    """The inside value is the logged one times ``factor`` plus ``offset``."""

    factor: float
    offset: float = 0.0


UNCHANGED: Final = Conversion(1.0)


@dataclass(frozen=True)
class Quantity:
    """Units a channel may come in: factor to the inside unit, and what is added then; the first is assumed."""

    inside: str
    units: dict[str, float] = field(hash=False)
    offsets: dict[str, float] = field(default_factory=dict, hash=False)

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
# 8 g: no vehicle on wheels changes its speed faster.
MAX_ACCELERATION_MPS2: Final = 80.0
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

_FREEZING_F: Final = -32.0 / 1.8
TEMPERATURE: Final = Quantity(
    "°C",
    {
        "°c": 1.0,
        "c": 1.0,
        "degc": 1.0,
        "celsius": 1.0,
        "°f": 1.0 / 1.8,
        "f": 1.0 / 1.8,
        "degf": 1.0 / 1.8,
        "fahrenheit": 1.0 / 1.8,
        "k": 1.0,
    },
    {"°f": _FREEZING_F, "f": _FREEZING_F, "degf": _FREEZING_F, "fahrenheit": _FREEZING_F, "k": -273.15},
)

BRAKE_RATIO_UNITS: Final = frozenset({"%", "ratio", "pct"})

Mend = Literal["spikes", "drops", "holds", "drift", "span"]


@dataclass(frozen=True)
class ChannelKind:
    """One canonical channel.

    Attributes:
        quantity: what it is measured in.
        largest: no vehicle and no circuit has a larger size of it, in the inside unit.
        mends: what is looked for and mended in it, in this order (:mod:`jete.core.log.repair`).
        spike: level beyond the local median that is noise, and the fastest true change per second, inside units.
        spellings: other names that loggers have for it, as :func:`_plain` writes them, with blanks between.
    """

    quantity: Quantity
    largest: float
    mends: tuple[Mend, ...] = ()
    spike: tuple[float, float] = (0.0, 0.0)
    spellings: str = ""


def _tyre(place: str, *short: str) -> ChannelKind:
    """The temperature of one tyre: loggers call it by place or by its letters."""
    words = ("tyretemp", "tiretemp", "tiretemperature", "tyretemperature", "reifentemp")
    return ChannelKind(TEMPERATURE, 500.0, spellings=" ".join(f"{w}{p}" for w in words for p in (place, *short)))


CHANNELS: Final[dict[str, ChannelKind]] = {
    # seconds since 1970 are 1.8e9; in milliseconds that were taken for seconds 1.8e12
    "time": ChannelKind(
        TIME, 1e11,
        spellings="elapsedtime timestamp t sessiontime logtime zeit seconds runtime timesincestart elapsed timeofday utc "
        "utctime gpstime timestamps times timems datetime",
    ),
    "lap": ChannelKind(
        COUNT, 1e6,
        spellings="lapnum laprunning lapcounter currentlap lapid lapnumber lapno lapnr lapcount laps lapindex runde",
    ),
    "lap_time": ChannelKind(
        TIME, 1e6,
        spellings="laptime timeoflap lapclock runninglaptime currentlaptime timeinlap timethislap rundenzeit lapelapsed",
    ),
    "beacon": ChannelKind(
        COUNT, 1e9,
        spellings="beacons beaconcount lapbeacon lapmarker beaconmarker lapmark beaconpulse",
    ),
    "distance": ChannelKind(
        LENGTH, 1e8,
        spellings="dist lapdistance lapdist odometer totaldistance travelled distanz",
    ),
    "speed": ChannelKind(
        SPEED, 200.0, mends=("spikes", "drops", "holds"), spike=(2.0, MAX_ACCELERATION_MPS2),
        spellings="vehiclespeed groundspeed velocity v carspeed bikespeed geschwindigkeit",
    ),
    "wheel_speed": ChannelKind(
        SPEED, 400.0, mends=("spikes", "holds"), spike=(2.0, MAX_ACCELERATION_MPS2),
        spellings="speedwheel wheelspeedavg wheelspd drivenspeed radgeschwindigkeit",
    ),
    "gps_speed": ChannelKind(
        SPEED, 200.0, mends=("spikes", "drops", "holds"), spike=(2.0, MAX_ACCELERATION_MPS2),
        spellings="speedgps speedoverground sog gpsvelocity gnssspeed",
    ),
    "throttle": ChannelKind(
        PEDAL, 1e3, mends=("holds", "span"),
        spellings="tps throttleposition throttlepos accelerator acceleratorpedal pedalposition app throttlepedal gas "
        "gaspedal throttlepct grip twistgrip aps",
    ),
    "brake": ChannelKind(
        BRAKE, 1e4, mends=("holds", "drift"),
        spellings="brakepressure brakepos brakeposition brakepedal brakepress braking brakes brakepedalposition brakepct "
        "bremse bremsdruck",
    ),
    "brake_front": ChannelKind(
        BRAKE, 1e4, mends=("holds", "drift"),
        spellings="frontbrake brakepressurefront frontbrakepressure brakef brakefrontpressure brakepressfront "
        "frontbrakepress",
    ),
    "brake_rear": ChannelKind(
        BRAKE, 1e4, mends=("holds", "drift"),
        spellings="rearbrake brakepressurerear rearbrakepressure braker brakerearpressure brakepressrear rearbrakepress",
    ),
    "steering": ChannelKind(
        ANGLE, 100.0, mends=("holds",),
        spellings="steeringangle steer steerangle steeringwheelangle steeringwheel steeringposition steeringpos handlebar "
        "handlebarangle lenkwinkel",
    ),
    "gear": ChannelKind(
        COUNT, 100.0,
        spellings="gearposition gearpos selectedgear currentgear gearnumber gang",
    ),
    "rpm": ChannelKind(
        TURNS, 1e5, mends=("holds",),
        spellings="enginespeed enginerpm revs motorrpm enginerevs drehzahl",
    ),
    "latitude": ChannelKind(
        DEGREES, 90.0, mends=("spikes",), spike=(15.0 / 111e3, 120.0 / 111e3),
        spellings="lat gpslatitude gpslat positionlat latitudegps",
    ),
    "longitude": ChannelKind(
        DEGREES, 360.0, mends=("spikes",), spike=(20.0 / 111e3, 200.0 / 111e3),
        spellings="lon long lng gpslongitude gpslon gpslong positionlon longitudegps",
    ),
    "x": ChannelKind(
        LENGTH, 1e8, mends=("spikes",), spike=(15.0, 120.0),
        spellings="posx positionx xpos xposition localx east easting gpsx",
    ),
    "y": ChannelKind(
        LENGTH, 1e8, mends=("spikes",), spike=(15.0, 120.0),
        spellings="posy positiony ypos yposition localy north northing gpsy",
    ),
    "acc_long": ChannelKind(
        ACCELERATION, 1e3, mends=("holds", "spikes"), spike=(30.0, 200.0),
        spellings="longacc longitudinalacceleration acclongitudinal longaccel accelerationlongitudinal glong longg accx ax "
        "longitudinalg longitudinalacc accelx gx accellong",
    ),
    "acc_lat": ChannelKind(
        ACCELERATION, 1e3, mends=("holds", "spikes"), spike=(30.0, 200.0),
        spellings="latacc lateralacceleration acclateral lataccel accelerationlateral glat latg accy ay lateralg lateralacc "
        "accely gy accellat",
    ),
    "yaw_rate": ChannelKind(
        YAW_RATE, 100.0, mends=("holds", "spikes"), spike=(2.0, 12.0),
        spellings="yaw yawvelocity gyroz rotationz yawspeed gierrate ratez psidot",
    ),
    "lean": ChannelKind(
        ANGLE, 10.0, mends=("holds",),
        spellings="leanangle roll rollangle bankangle banking schraeglage",
    ),
    "altitude": ChannelKind(
        LENGTH, 1e5,
        spellings="alt height elevation gpsaltitude gpsalt hoehe",
    ),
    "acc_vert": ChannelKind(
        ACCELERATION, 1e4,
        spellings="verticalacceleration vertacc accvertical vertaccel gvert accz az accelz gz",
    ),
    "tyre_temperature": _tyre(""),
    "tyre_temperature_front": _tyre("front", "f"),
    "tyre_temperature_rear": _tyre("rear", "r"),
    "tyre_temperature_front_left": _tyre("frontleft", "fl", "lf"),
    "tyre_temperature_front_right": _tyre("frontright", "fr", "rf"),
    "tyre_temperature_rear_left": _tyre("rearleft", "rl", "lr"),
    "tyre_temperature_rear_right": _tyre("rearright", "rr"),
}  # fmt: skip


def _plain(text: str) -> str:
    """Lower case without blanks, underscores, dashes and dots: what spellings compare by."""
    return "".join(c for c in text.casefold() if c.isalnum())


_BY_SPELLING: Final[dict[str, str]] = {
    _plain(spelling): name for name, kind in CHANNELS.items() for spelling in (name, *kind.spellings.split())
}


def canonical_name(spelling: str) -> str | None:
    """The canonical channel for a column's name, or None where it is not known.

    >>> canonical_name("GPS_Speed"), canonical_name("Brake Pressure"), canonical_name("oil")
    ('gps_speed', 'brake', None)
    """
    return _BY_SPELLING.get(_plain(spelling))


def conversion(channel: str, unit: str | None) -> Conversion | None:
    """How values in ``unit`` become values in the inside unit of a canonical channel; None if the unit is unknown.

    >>> conversion("speed", "mph"), conversion("time", None), conversion("speed", "furlongs")
    (Conversion(factor=0.44704, offset=0.0), Conversion(factor=1.0, offset=0.0), None)
    """
    quantity = CHANNELS[channel].quantity
    plain = unit.strip().casefold().replace(" ", "") if unit and unit.strip() else quantity.default
    found = quantity.units.get(plain)
    return None if found is None else Conversion(found, quantity.offsets.get(plain, 0.0))


def known_units(channel: str) -> str:
    """The units understood for a channel, for messages."""
    return ", ".join(u for u in CHANNELS[channel].quantity.units if u) or "none"
