"""Names and units of channels at the border."""

from __future__ import annotations

import pytest

from jete.core.log.channels import CHANNELS, Conversion, canonical_name, conversion, known_units


@pytest.mark.parametrize(
    ("spelling", "name"),
    [
        ("speed", "speed"),
        ("GPS_Speed", "gps_speed"),
        ("wheel speed", "wheel_speed"),
        ("Vehicle Speed", "speed"),
        ("vehicle-speed", "speed"),
        ("Brake Pressure", "brake"),
        ("TPS", "throttle"),
        ("lat", "latitude"),
        ("Lon", "longitude"),
        ("elapsed time", "time"),
        ("Elapsed_Time", "time"),
        ("YAW RATE", "yaw_rate"),
        ("Acc Lat", "acc_lat"),
        ("brake front", "brake_front"),
        ("Lean Angle", "lean"),
        ("oil temperature", None),
        ("", None),
    ],
)
def test_spellings_map_to_channels(spelling: str, name: str | None) -> None:
    assert canonical_name(spelling) == name


@pytest.mark.parametrize("name", CHANNELS)
def test_each_channel_is_its_own_spelling(name: str) -> None:
    assert canonical_name(name.upper().replace("_", " ")) == name


@pytest.mark.parametrize(
    ("channel", "unit", "expected"),
    [
        ("speed", "km/h", 1 / 3.6),
        ("speed", "mph", 0.44704),
        ("speed", "kn", 0.514444),
        ("speed", None, 1 / 3.6),
        ("time", "ms", 0.001),
        ("distance", "km", 1000.0),
        ("throttle", "%", 0.01),
        ("throttle", "ratio", 1.0),
        ("brake", "psi", 0.0689476),
        ("brake", "kPa", 0.01),
        ("steering", "rad", 1.0),
        ("acc_lat", "g", 9.80665),
        ("acc_lat", "m/s2", 1.0),
        ("yaw_rate", "deg/s", 0.0174533),
        ("latitude", "deg", 1.0),
    ],
)
def test_factors_to_the_inside_unit(channel: str, unit: str | None, expected: float) -> None:
    assert conversion(channel, unit) == pytest.approx(Conversion(expected), rel=1e-5)


def test_an_unknown_unit_has_no_factor() -> None:
    assert conversion("speed", "furlongs") is None


def test_known_units_can_be_named() -> None:
    assert "km/h" in known_units("speed")


@pytest.mark.parametrize(
    ("unit", "reading", "celsius"), [("°C", 80.0, 80.0), ("°F", 176.0, 80.0), ("F", 32.0, 0.0), ("K", 353.15, 80.0)]
)
def test_temperatures_have_a_zero_of_their_own(unit: str, reading: float, celsius: float) -> None:
    found = conversion("tyre_temperature_front_left", unit)
    assert found is not None
    assert reading * found.factor + found.offset == pytest.approx(celsius)


@pytest.mark.parametrize(
    ("spelling", "name"),
    [
        ("TyreTemp_FL", "tyre_temperature_front_left"),
        ("Tire Temp Rear", "tyre_temperature_rear"),
        ("Tyre Temperature", "tyre_temperature"),
    ],
)
def test_tyres_are_told_apart_by_their_places(spelling: str, name: str) -> None:
    assert canonical_name(spelling) == name


def test_no_spelling_is_of_two_channels() -> None:
    spellings = [s for name, kind in CHANNELS.items() for s in {name.replace("_", ""), *kind.spellings.split()}]
    assert len(spellings) == len(set(spellings))


def test_what_is_mended_by_spikes_says_how_large_they_are() -> None:
    assert [n for n, k in CHANNELS.items() if ("spikes" in k.mends) != (k.spike != (0.0, 0.0))] == []
