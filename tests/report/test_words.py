from __future__ import annotations

import pytest

from jete.app.units import Units, plain, signed
from jete.core.findings import Finding, sentence
from jete.report.words import difference, lap_time, not_logged


@pytest.mark.parametrize(
    ("seconds", "text"),
    [(-0.2144, "−0.214"), (0.05, "+0.050"), (0.0, "+0.000"), (-0.0001, "+0.000"), (12.3456, "+12.346")],
)
def test_differences_have_a_sign_three_decimals_and_a_true_minus(seconds: float, text: str) -> None:
    assert difference(seconds) == text


@pytest.mark.parametrize(
    ("seconds", "text"),
    [(92.3144, "1:32.314"), (59.9996, "1:00.000"), (0.5, "0:00.500"), (3600.0, "60:00.000")],
)
def test_lap_times(seconds: float, text: str) -> None:
    assert lap_time(seconds) == text


def test_numbers_with_and_without_sign() -> None:
    assert signed(-1.26, 1) == "−1.3"
    assert signed(0.04, 1) == "+0.0"
    assert plain(-3.0, 0) == "−3"
    assert plain(-0.2, 0) == "0"


def finding(kind: str, measure: float, unit: str) -> Finding:
    return Finding(kind, 0.1, 0.0, measure, unit, sentence(kind, measure), 1.0)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("length", "speed", "kind", "measure", "unit", "text"),
    [
        ("m", "km/h", "early_braking", -9.0, "m", "Braked 9 m before the reference."),
        ("ft", "km/h", "early_braking", -10.0, "m", "Braked 33 ft before the reference."),
        ("yd", "km/h", "late_throttle", 10.0, "m", "Picked up the throttle 11 yd later."),
        ("m", "mph", "overslowing", -10.0, "km/h", "Slowed 6.2 mph more than the reference."),
        ("ft", "mph", "coasting", 0.5, "s", "On neither pedal 0.50 s longer."),
    ],
)
def test_findings_speak_in_the_chosen_units(
    length: str, speed: str, kind: str, measure: float, unit: str, text: str
) -> None:
    assert Units(speed, length, "bar").finding_text(finding(kind, measure, unit)) == text


def test_pressures_are_converted_and_shares_are_not() -> None:
    units = Units("km/h", "m", "psi")
    assert units.pressure_of(10.0, "bar") == (pytest.approx(145.04, abs=0.01), "psi")
    assert units.pressure_of(50.0, "%") == (50.0, "%")


@pytest.mark.parametrize(
    ("names", "says"),
    [
        ([], ""),
        (["speed"], "Speed was not logged and follows from the positions."),
        (["brake"], "Brake was not logged and follows from the speed: within a corner causes are less sure."),
    ],
)
def test_what_was_not_logged_is_said(names: list[str], says: str) -> None:
    assert not_logged(names) == says


def test_all_that_was_not_logged_is_joined() -> None:
    assert not_logged(["speed", "throttle", "brake"]).startswith("Speed, throttle and brake were not logged and follow")
