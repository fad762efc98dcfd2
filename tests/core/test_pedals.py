from __future__ import annotations

import numpy as np
import pytest

from jete.core.lap import Channel, Lap, LapSpan, Log
from jete.core.motion import Motion
from jete.core.pedals import brake_of, rise_begins, spells, swings, throttle_of


def lap_with(**values: np.ndarray) -> tuple[Lap, Motion]:
    count = len(next(iter(values.values())))
    time = np.arange(count) * 0.01
    channels = {n: Channel(n, "bar" if "brake" in n else "ratio", time, v) for n, v in values.items()}
    channels["time"] = Channel("time", "s", time, time)
    lap = Lap(Log("x.csv", channels), LapSpan(1, 0.0, float(time[-1]), 100.0, complete=True))
    return lap, Motion(time, time * 30.0, np.full(count, 30.0))


def pulse(rest: float, top: float) -> np.ndarray:
    ramp = np.linspace(rest, top, 20)
    return np.concatenate([np.full(200, rest), ramp, np.full(100, top), ramp[::-1], np.full(200, rest)])


@pytest.mark.parametrize(("rest", "top"), [(0.0, 60.0), (2.5, 40.0), (-1.0, 12.0)])
def test_the_brake_is_read_on_its_own_span(rest: float, top: float) -> None:
    brake = brake_of(*lap_with(brake=pulse(rest, top)))
    assert brake.rest == pytest.approx(rest)
    assert brake.value.max() == pytest.approx(1.0, abs=0.01)
    assert brake.logged(1.0) == pytest.approx(top - rest, rel=0.01)


@pytest.mark.parametrize("top", [1.0, 0.93])
def test_a_throttle_that_never_reaches_100_percent_is_full_at_its_top(top: float) -> None:
    throttle = throttle_of(*lap_with(throttle=pulse(0.04, top)))
    assert throttle.value.max() == pytest.approx(1.0, abs=0.02)
    assert np.median(throttle.value) == pytest.approx(0.0, abs=0.02)


def test_two_brake_circuits_are_added() -> None:
    brake = brake_of(*lap_with(brake_front=pulse(0.0, 30.0), brake_rear=pulse(0.0, 10.0)))
    assert brake.full == pytest.approx(40.0, rel=0.01)


def test_without_pedals_they_are_inferred_and_say_so() -> None:
    lap, _ = lap_with(speed=np.full(600, 30.0))
    time = np.arange(600) * 0.01
    speed = np.concatenate([np.linspace(20, 40, 250), np.linspace(40, 15, 200), np.linspace(15, 25, 150)])
    motion = Motion(time, np.cumsum(speed) * 0.01, speed)
    brake, throttle = brake_of(lap, motion), throttle_of(lap, motion)
    assert brake.inferred
    assert throttle.inferred
    assert brake.value[350] > 0.8
    assert throttle.value[100] > 0.8
    assert throttle.value[350] == 0.0


@pytest.mark.parametrize("offset", [0.0, 0.003, 0.0071])
@pytest.mark.parametrize("step", [0.01, 0.05, 0.1])
def test_the_start_of_a_ramp_is_found_between_samples(offset: float, step: float) -> None:
    time = np.arange(0.0, 3.0, step) + offset
    value = np.clip((time - 1.0) / 0.4, 0.0, 1.0)
    inside = int(np.argmax(value > 0.3))
    assert rise_begins(time, value, inside, 0.0, 0.0) == pytest.approx(1.0, abs=0.15 * step + 1e-3)


def test_the_start_of_a_ramp_is_found_under_noise() -> None:
    rng = np.random.default_rng(1)
    time = np.arange(0.0, 3.0, 0.01)
    errors = []
    for _ in range(40):
        value = np.clip((time - 1.0) / 0.2, 0.0, 1.0) + rng.normal(0.0, 0.004, len(time))
        errors.append(rise_begins(time, value, int(np.argmax(value > 0.4)), 0.0, 0.004) - 1.0)
    assert np.median(np.abs(errors)) < 0.008


def test_spells_have_hysteresis_and_a_least_duration() -> None:
    value = np.zeros(300)
    value[50:100] = 0.5
    value[70:75] = 0.05
    value[200:204] = 0.5
    lap, motion = lap_with(brake=value)
    found = spells(brake_of(lap, motion), 0.08, 0.03)
    assert len(found) == 1
    assert found[0][:2] == (50, 99)


def test_swings_turn_only_by_more_than_their_size() -> None:
    value = np.array([0.0, 0.5, 0.45, 0.9, 0.6, 1.0])
    assert [round(v, 2) for _, v in swings(value, 0.1)] == [0.0, 0.9, 0.6, 1.0]


def test_a_steady_series_has_only_its_ends() -> None:
    assert swings(np.full(9, 0.4), 0.1) == [(0, 0.4), (8, 0.4)]
