"""Pedals on their own span, and where their edges begin."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.driving.braking import brake_marks
from jete.core.driving.pedals import (
    Pedal,
    brake_of,
    brake_spells,
    free_spells,
    rise_begins,
    spells,
    swings,
    throttle_of,
)
from jete.core.log.lap import Channel, Lap, LapSpan, Log
from jete.core.motion.motion import Motion


def lap_with(**values: np.ndarray) -> tuple[Lap, Motion]:
    count = len(next(iter(values.values())))
    time = np.arange(count) * 0.01
    channels = {n: Channel(n, "bar" if "brake" in n else "ratio", time, v) for n, v in values.items()}
    channels["time"] = Channel("time", "s", time, time)
    lap = Lap(Log(source="x.csv", channels=channels), LapSpan(1, 0.0, float(time[-1]), 100.0, complete=True))
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


def presses(begins_s: np.ndarray, attack_s: float, step_s: float) -> Pedal:
    """A brake that is pressed at some times within ``attack_s``, held for half a second and let go."""
    time = np.arange(0.0, float(begins_s[-1]) + 2.0, step_s)
    held = [np.clip((time - t) / attack_s, 0.0, 1.0) * (time < t + 0.5 + attack_s) for t in begins_s]
    return Pedal(time_s=time, value=np.sum(held, axis=0), rest=0.0, full=60.0, noise=0.0, unit="bar")


@pytest.mark.parametrize("attack_s", [0.08, 0.15, 0.25])
def test_how_long_presses_take_is_told_by_few_samples(attack_s: float) -> None:
    begins = np.cumsum(np.random.default_rng(2).uniform(3.0, 5.0, 40))
    assert presses(begins, attack_s, 0.1).attack_s == pytest.approx(attack_s, abs=0.03)


def test_three_presses_tell_nothing() -> None:
    assert presses(np.array([3.0, 7.0, 11.0]), 0.1, 0.1).attack_s is None


@pytest.mark.parametrize("step_s", [0.05, 0.1, 0.2])
def test_quick_presses_begin_between_samples(step_s: float) -> None:
    begins = np.cumsum(np.random.default_rng(3).uniform(3.0, 5.0, 12))
    brake = presses(begins, 0.12, step_s)
    on = [brake_marks(brake, [spell])[0] for spell in brake_spells(brake)]
    errors = np.array(on, dtype=float) - begins
    assert abs(float(errors.mean())) < 0.2 * step_s
    assert float(errors.std()) < 0.25 * step_s


def test_a_pedal_is_free_between_its_crossings() -> None:
    time = np.array([0.0, 1.0, 2.0, 3.0, 4.0])
    pedal = Pedal(time_s=time, value=np.array([0.0, 0.0, 1.0, 0.0, 0.5]), rest=0.0, full=1.0, noise=0.0, unit="ratio")
    starts, ends = free_spells(pedal, 0.25, 4.5)
    assert starts == pytest.approx([0.0, 2.75])
    assert ends == pytest.approx([1.25, 3.5])


def test_a_pedal_that_is_never_touched_is_free_to_the_end() -> None:
    pedal = Pedal(time_s=np.array([0.1, 1.0]), value=np.zeros(2), rest=0.0, full=1.0, noise=0.0, unit="ratio")
    assert [e.tolist() for e in free_spells(pedal, 0.1, 1.2)] == [[0.0], [1.2]]
