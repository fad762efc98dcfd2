"""Positions that come later than the speed: found, and moved back."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from jete.core.log.in_step import in_step
from jete.core.log.lag import lag_of
from jete.core.log.lap import Channel, Log
from jete.simulate.logger import LoggerSettings
from jete.simulate.trials import Trial, draw_trial


@cache
def drawn(seed: int) -> Trial:
    return draw_trial(seed, faults=0)


@cache
def logged(lag_s: float) -> Log:
    return drawn(61).logged(LoggerSettings(position_lag_s=lag_s)).reference


@pytest.mark.parametrize("true", [0.1, 0.2, 0.3, 0.7, 1.0])
def test_positions_that_come_late_are_moved_back_and_told(true: float) -> None:
    mended = in_step(logged(true))
    moved = logged(true).channels["x"].time_s - mended.channels["x"].time_s
    assert moved == pytest.approx(np.full(len(moved), true), abs=0.03)
    assert "s late, moved back" in mended.repairs[-1].what


def test_positions_in_time_are_left_alone() -> None:
    assert in_step(logged(0.0)) is logged(0.0)


@pytest.mark.long
def test_the_stated_doubt_is_that_of_the_lag() -> None:
    errors = []
    for seed in range(61, 67):
        log = draw_trial(seed, LoggerSettings(position_lag_s=0.15), faults=0).lap
        places = np.stack([log.channels[n].value for n in ("x", "y")], axis=1)
        lag, sigma = lag_of(log.channels["x"].time_s, places, log.channels["speed"])
        errors.append((lag - 0.15) / sigma)
    assert 0.2 < np.sqrt(np.mean(np.square(errors))) < 2.5


def test_degrees_are_as_good_as_metres() -> None:
    log = logged(0.2)
    north = 52.0 + log.channels["y"].value / 111_194.93
    east = 7.0 + log.channels["x"].value / 111_194.93 / np.cos(np.radians(52.0))
    time = log.channels["x"].time_s
    channels = {k: c for k, c in log.channels.items() if k not in ("x", "y")}
    channels |= {
        "latitude": Channel("latitude", "deg", time, north),
        "longitude": Channel("longitude", "deg", time, east),
    }
    moved = time - in_step(replace(log, channels=channels)).channels["latitude"].time_s
    assert float(moved[0]) == pytest.approx(0.2, abs=0.03)


def test_a_steady_speed_tells_no_lag() -> None:
    time = np.arange(0.0, 60.0, 0.1)
    speed = Channel("speed", "m/s", time, np.full(len(time), 30.0))
    lag, sigma = lag_of(time, np.stack([30.0 * (time - 0.2), 0.0 * time], axis=1), speed)
    assert not lag > max(0.03, 4.0 * sigma)


def test_too_few_positions_tell_no_lag() -> None:
    time = np.arange(0.0, 5.0, 0.1)
    speed = Channel("speed", "m/s", time, 30.0 + time)
    assert lag_of(time, np.zeros((50, 2)), speed) == (0.0, float("inf"))
