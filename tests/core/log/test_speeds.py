"""One speed from wheels that slip and a receiver that comes late."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.log.lap import Channel, Log
from jete.core.log.speeds import with_speed

TIME = np.arange(0.0, 60.0, 0.02)
TRUE = 40.0 + 18.0 * np.sin(2.0 * np.pi * TIME / 12.0)
LATE = np.arange(0.0, 60.0, 0.1)


def channel(name: str, time: np.ndarray, value: np.ndarray) -> Channel:
    return Channel(name, "m/s", time, value)


def log(**speeds: Channel) -> Log:
    return Log(source="x.csv", channels={"time": channel("time", TIME, TIME), **speeds})


def locked() -> Channel:
    """Wheels that read 1 % too much, and lock for half a second."""
    value = 1.01 * TRUE
    value[500:525] *= 0.7
    return channel("wheel_speed", TIME, value)


RECEIVER = channel("gps_speed", LATE, np.interp(LATE - 0.2, TIME, TRUE))


@pytest.mark.parametrize("name", ["wheel_speed", "gps_speed"])
def test_one_speed_alone_is_the_speed(name: str) -> None:
    only = channel(name, TIME, TRUE)
    assert with_speed(log(**{name: only})).channels["speed"].value.tolist() == TRUE.tolist()


def test_a_log_without_any_has_none() -> None:
    assert "speed" not in with_speed(log()).channels


def test_wheels_that_lock_are_mended_by_the_receiver_without_its_lag() -> None:
    mended = with_speed(log(wheel_speed=locked(), gps_speed=RECEIVER))
    assert mended.channels["speed"].value[500:525] == pytest.approx(1.01 * TRUE[500:525], abs=0.35)
    assert "wheels locked or spinning" in mended.repairs[-1].what


def test_wheels_that_roll_stay_as_they_are() -> None:
    rolling = channel("speed", TIME, 1.02 * TRUE)
    mended = with_speed(log(speed=rolling, gps_speed=RECEIVER))
    assert mended.channels["speed"].value.tolist() == rolling.value.tolist()
    assert mended.repairs == ()


def test_what_was_logged_stays_a_channel_of_its_own() -> None:
    mended = with_speed(log(wheel_speed=locked(), gps_speed=RECEIVER))
    assert mended.channels["wheel_speed"].value[510] < 0.8 * TRUE[510]
    assert "gps_speed" in mended.channels
