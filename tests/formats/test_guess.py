"""Columns whose names say nothing are told by how their values behave."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.formats.columns import Columns
from jete.formats.guess import Guess, guess
from jete.formats.reader import read_log
from jete.formats.writer import columns_of_log
from jete.simulate.logger import LoggerSettings
from jete.simulate.trials import draw_trial
from known_laps import DEMO_PAIR


def nameless(columns: Columns, names: tuple[str, ...], factors: dict[str, float] | None = None) -> dict[str, Guess]:
    """What columns are guessed to be once their names and units are gone."""
    held = dict(zip(columns.names, columns.values, strict=True))
    values = tuple((factors or {}).get(n, 1.0) * held[n] for n in names)  # type: ignore[operator]
    bare = Columns("x", tuple(f"k{i}" for i in range(len(names))), (None,) * len(names), values)
    return dict(zip(names, guess(bare), strict=True))


@pytest.fixture(scope="module", params=[41, 42, 43])
def logged(request: pytest.FixtureRequest) -> Columns:
    return columns_of_log(draw_trial(request.param, replace(LoggerSettings(), rate_hz=50.0)).lap)


@pytest.mark.parametrize(("unit", "factor"), [("km/h", 1.0), ("m/s", 1 / 3.6), ("mph", 0.621371)])
def test_a_speed_is_what_the_path_is_driven_at(logged: Columns, unit: str, factor: float) -> None:
    found = nameless(logged, ("time", "x", "y", "throttle", "speed", "rpm"), {"speed": factor})
    assert [found[n].channel for n in ("x", "y", "speed")] == ["x", "y", "speed"]
    assert found["speed"].unit == unit
    assert "path" in found["speed"].why


def test_a_speed_without_a_path_follows_the_engine(logged: Columns) -> None:
    found = nameless(logged, ("time", "rpm", "steering", "speed"))
    assert (found["speed"].channel, found["speed"].unit) == ("speed", "km/h")
    assert "rpm" in found["speed"].why


def test_pedals_and_gears_are_told(logged: Columns) -> None:
    found = nameless(logged, ("time", "speed", "throttle", "brake", "gear", "rpm"))
    assert [found[n].channel for n in ("throttle", "brake", "gear", "rpm")] == ["throttle", "brake", "gear", "rpm"]
    assert found["brake"].unit == "bar"
    assert found["throttle"].unit == "%"


def test_positions_in_degrees_are_a_path() -> None:
    found = nameless(columns_of_log(read_log(DEMO_PAIR[0])), ("time", "latitude", "longitude", "speed"))
    assert [g.channel for g in found.values()] == ["time", "latitude", "longitude", "speed"]


def test_noise_is_no_channel() -> None:
    rng = np.random.default_rng(3)
    values = (np.arange(4000) * 0.02, rng.normal(size=4000), 20.0 + 0.1 * rng.normal(size=4000))
    found = guess(Columns("x", ("a", "b", "c"), (None,) * 3, values))
    assert [g.channel for g in found] == ["time", "", ""]
