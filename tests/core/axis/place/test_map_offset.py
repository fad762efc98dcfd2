"""Two laps whose maps lie apart by a metre or two, as those of two days do."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.axis.place.map_offset import step_by_sides, without_step
from jete.core.axis.place.project import Seen
from jete.core.causes.verdict.losses import gap_at
from jete.core.causes.verdict.result import Comparison
from jete.core.log.lap import Log
from jete.simulate.logger import LoggerSettings
from jete.simulate.receiver import Receiver
from jete.simulate.trials import Trial
from known_laps import compare_trial, with_feet

STEP_M = (1.3, -0.7)
GOOD = LoggerSettings(receiver=Receiver(white_m=0.3))
PLAIN = replace(GOOD, channels=("lap", "distance", "speed", "throttle", "brake", "x", "y"))


def moved(log: Log) -> Log:
    """The log of a receiver that is off by the same for the whole lap."""
    by = dict(zip("xy", STEP_M, strict=True))
    return replace(log, channels={n: replace(c, value=c.value + by.get(n, 0.0)) for n, c in log.channels.items()})


def pair(seed: int, settings: LoggerSettings, *, apart: bool) -> Trial:
    trial = with_feet(seed, "equal").logged(settings)
    return replace(trial, lap=moved(trial.lap)) if apart else trial


def gap_error_s(trial: Trial, found: Comparison) -> float:
    station = np.linspace(0.0, trial.circuit.length_m, 400)
    told = gap_at(found.reference, found.laps[0].passage, trial.axis_m(station))
    return float(np.sqrt(np.mean((told - trial.gap_s(station)) ** 2)))


def beside(step_m: tuple[float, float], seed: int) -> Seen:
    """A lap about a loop, on a line of its own and on a map that lies apart."""
    rng, u = np.random.default_rng(seed), np.arange(0.0, 3000.0, 4.0)
    angle = 2.0 * np.pi * u / 3000.0
    line = np.interp(u, np.arange(0.0, 3200.0, 150.0), rng.normal(0.0, 0.9, 22))
    x, y = np.cos(angle), np.sin(angle)
    ahead, aside = x * step_m[0] + y * step_m[1], x * step_m[1] - y * step_m[0]
    noise = rng.normal(0.0, 0.3, (2, len(u)))
    return Seen(u, ahead + noise[0], line + aside + noise[1], np.array([x, y]), 0.3, step_m=1.4)


def test_a_step_is_told_from_a_line_by_the_way_back() -> None:
    found = step_by_sides(beside((2.0, -1.5), 1))
    assert found.step_m == pytest.approx([2.0, -1.5], abs=3.0 * found.sigma_m)
    assert found.sigma_m < 0.4
    assert np.abs(without_step(beside((2.0, -1.5), 1), found).shift.mean()) < 0.4


def test_where_there_is_none_none_is_taken_out() -> None:
    found = [step_by_sides(beside((0.0, 0.0), seed)) for seed in range(8)]
    assert np.median([np.hypot(*f.step_m) for f in found]) < 0.1


@pytest.mark.parametrize("settings", [GOOD, PLAIN], ids=["with bends", "positions alone"])
def test_the_gap_does_not_follow_a_step_of_the_map(settings: LoggerSettings) -> None:
    """A step that is followed is a gap of metres in every bend: 0.03 to 0.05 s."""
    apart, together = (pair(3, settings, apart=a) for a in (True, False))
    found = compare_trial(apart)
    assert gap_error_s(apart, found) < gap_error_s(together, compare_trial(together)) + 0.012
    corners = found.laps[0].corners
    off = [
        abs(c.gap_s - np.diff(np.interp([c.window.start_m, c.window.end_m], apart.axis_m(s), apart.gap_s(s)))[0])
        for c in corners
        for s in [np.linspace(0.0, apart.circuit.length_m, 400)]
    ]
    assert np.mean(np.array(off) < 2.0 * np.array([c.sigma_s for c in corners])) > 0.75
    assert not [f for c in corners for f in c.findings if abs(f.loss_s) >= 0.03]


def test_a_step_is_taken_out_of_the_line_as_well() -> None:
    """Two days' lines lie on one map."""
    on = np.array([0.2, 0.4, 0.6, 0.8])
    sides = []
    for apart in (True, False):
        alignment = compare_trial(pair(3, GOOD, apart=apart)).laps[0].alignment
        assert alignment.offset_m is not None
        sides.append(np.interp(on * alignment.place_m[-1], alignment.place_m, alignment.offset_m))
    assert np.abs(sides[0] - sides[1]).max() < 0.7


def test_lines_that_keep_metres_apart_are_no_step() -> None:
    """On perfect positions two drivers who keep 2 m apart for 300 m at a time make a step by chance."""
    found = []
    for seed in range(12):
        rng, lap = np.random.default_rng(seed), beside((0.0, 0.0), seed)
        line = np.interp(lap.u, np.arange(0.0, 3600.0, 300.0), rng.normal(0.0, 2.0, 12))
        found.append(np.hypot(*step_by_sides(replace(lap, offset=line)).step_m))
    assert np.median(found) < 0.6
