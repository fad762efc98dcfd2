"""What walks along samples meets its ends: an edge with the first, the last, the only sample, or none."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.compare import compare
from jete.core.driving.braking import brake_marks, build_s
from jete.core.driving.pedals import Pedal, brake_spells, free_spells, rise_begins, spells, swings
from jete.core.driving.throttle import dips
from jete.core.log.lap import Log
from jete.core.motion.borders import line_of
from jete.simulate.logger import LoggerSettings
from known_laps import drawn, lap_of

SHAPES = {
    "first": [1.0, 0.5, 0.0, 0.0, 0.0, 0.0],
    "last": [0.0, 0.0, 0.0, 0.0, 0.0, 1.0],
    "rising at the end": [0.0, 0.0, 0.0, 0.2, 0.6, 1.0],
    "both": [1.0, 0.0, 0.0, 0.0, 0.0, 1.0],
    "all": [1.0] * 6,
    "none": [0.0] * 6,
    "one": [1.0],
}


def pedal(shape: str) -> Pedal:
    value = np.array(SHAPES[shape])
    return Pedal(time_s=np.arange(len(value)) * 0.1, value=value, rest=0.0, full=1.0, noise=0.0, unit="ratio")


@pytest.mark.parametrize("inside", range(1, 6))
@pytest.mark.parametrize("shape", [s for s in SHAPES if s != "one"])
def test_a_rise_begins_within_its_samples(shape: str, inside: int) -> None:
    one = pedal(shape)
    assert one.time_s[0] <= rise_begins(one.time_s, one.value, inside, 0.0, 0.0) <= one.time_s[-1]


def test_a_rise_that_ends_with_the_last_value_of_a_longer_clock_begins_there() -> None:
    """The clock runs on where the rise is cut off, as at the end of a log."""
    assert rise_begins(np.arange(9) * 0.1, np.array([0.0, 0.0, 1.0]), 2, 0.0, 0.0) == pytest.approx(0.2)


@pytest.mark.parametrize("shape", SHAPES)
def test_presses_and_rests_lie_within_the_samples(shape: str) -> None:
    one = pedal(shape)
    for spell in spells(one, 0.1, 0.05, 0.0):
        assert 0 <= spell.first <= spell.peak <= spell.last < len(one.value)
    begin, end = free_spells(one, 0.05, 0.6)
    assert np.all(begin <= end)
    assert swings(one.value, 0.1)[-1][0] == len(one.value) - 1


@pytest.mark.parametrize("shape", SHAPES)
def test_a_press_at_an_end_has_a_brake_point_a_release_and_a_build_up(shape: str) -> None:
    one = pedal(shape)
    chain = brake_spells(one)
    on, off, _ = brake_marks(one, chain)
    assert (on is None) is (not chain)
    assert chain == [] or on <= off  # type: ignore[operator]
    built = build_s(one, 0.0, float(one.time_s[-1]))
    assert built is None or 0.0 <= built[0] <= one.time_s[-1]


@pytest.mark.parametrize("shape", SHAPES)
def test_dips_are_counted_up_to_the_last_sample(shape: str) -> None:
    assert dips(pedal(shape), 0.0, None) in (0, 1)


def with_last_rise(log: Log, samples: int) -> Log:
    """A log whose throttle is at rest until it rises over its last samples."""
    throttle = log.channels["throttle"]
    value = throttle.value.copy()
    value[-samples - 40 : -samples] = 0.0
    value[-samples:] = value.max() * np.linspace(1.0 / samples, 1.0, samples)
    return replace(log, channels={**log.channels, "throttle": replace(throttle, value=value)})


@pytest.mark.many
@pytest.mark.parametrize("samples", [1, 2, 3])
@pytest.mark.parametrize("which", ["reference", "lap"])
def test_a_throttle_whose_rise_ends_with_the_log_is_compared(which: str, samples: int) -> None:
    trial = drawn(31, LoggerSettings(rate_hz=10.0))
    logs = {"reference": trial.reference, "lap": trial.lap}
    logs[which] = with_last_rise(logs[which], samples)
    lap = compare(lap_of(logs["reference"]), [lap_of(logs["lap"], line_of(logs["reference"]))]).laps[0]
    assert sum(c.gap_s for c in lap.corners) == pytest.approx(lap.gap_s, abs=1e-9)
