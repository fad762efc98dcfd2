"""Speed from positions, alignment by bends, and how sure both are."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from jete.core.axis.place.spread import Spread
from jete.core.causes.verdict.result import Comparison
from jete.core.compare import compare
from jete.core.log.lap import Log
from jete.core.motion.borders import line_of
from jete.core.motion.split import split
from jete.core.motion.track import Track, path_motion, smoother_sigmas
from jete.simulate.logger import LoggerSettings
from jete.simulate.trials import Trial, draw_trial
from known_laps import lap_of

ALL = LoggerSettings()
POSITION = replace(ALL, rate_hz=10.0, channels=("lap", "throttle", "brake", "x", "y"))
DISTANCE = replace(ALL, rate_hz=20.0, channels=tuple(c for c in ALL.channels if c not in ("x", "y")))


@cache
def trial(settings: LoggerSettings, seed: int = 71) -> Trial:
    return draw_trial(seed, settings, faults=0)


@cache
def compared(settings: LoggerSettings, seed: int = 71) -> Comparison:
    t = trial(settings, seed)
    return compare(lap_of(t.reference), [lap_of(t.lap, line_of(t.reference))])


def speed_error(track: Track, t: Trial) -> np.ndarray:
    trace = t.reference_trace
    at = track.time_s + trace.crossing_s(1)
    station = np.mod(np.interp(at, trace.time_s, trace.station_m), t.circuit.length_m)
    rate = np.interp(station, t.circuit.station_m, t.reference_line.length_rate())
    error: np.ndarray = (track.speed_mps - np.interp(at, trace.time_s, trace.speed_mps) * rate)[20:-20]
    return error


def without(log: Log, *names: str) -> Log:
    return replace(log, channels={k: c for k, c in log.channels.items() if k not in names})


@pytest.mark.parametrize("seed", [71, 72, 73])
def test_pedals_make_a_speed_from_positions_twice_as_good(seed: int) -> None:
    t = trial(POSITION, seed)
    with_pedals = speed_error(path_motion(t.reference), t)
    alone = speed_error(path_motion(without(t.reference, "brake", "throttle")), t)
    assert np.std(with_pedals) < 0.35
    assert np.std(with_pedals) < 0.65 * np.std(alone)


@pytest.mark.parametrize("seed", [71, 72, 73])
def test_the_stated_doubt_of_a_speed_is_of_its_size(seed: int) -> None:
    t = trial(POSITION, seed)
    track = path_motion(t.reference)
    assert 0.3 < np.std(speed_error(track, t)) / track.sigmas.speed_mps < 1.6


def test_a_smoother_on_less_noise_is_surer() -> None:
    assert all(a < b for a, b in zip(smoother_sigmas(0.5, 0.1, 10.0), smoother_sigmas(1.0, 0.1, 10.0), strict=True))


@pytest.mark.parametrize("seed", [71, 72, 73])
def test_lap_times_from_positions_alone_are_true_to_a_few_hundredths(seed: int) -> None:
    t = trial(POSITION, seed)
    line = line_of(t.reference)
    for log, trace in ((t.reference, t.reference_trace), (t.lap, t.lap_trace)):
        assert split(log, line)[0].time_s == pytest.approx(trace.lap_time_s(1), abs=0.06)


@pytest.mark.many
@pytest.mark.parametrize("seed", [71, 72, 73, 74])
def test_another_line_is_told_from_another_place_by_the_bends(seed: int) -> None:
    t, found = trial(DISTANCE, seed), compared(DISTANCE, seed)
    assert found.laps[0].alignment.method == "curvature"
    stations = np.linspace(0.0, t.circuit.length_m, 400)
    error = found.laps[0].passage.time_at(t.axis_m(stations)) - found.reference.time_at(t.axis_m(stations))
    assert np.sqrt(np.mean((error - t.gap_s(stations)) ** 2)) < 0.03


@pytest.mark.parametrize("settings", [ALL, DISTANCE, POSITION], ids=["all", "distance", "position"])
def test_windows_gaps_are_within_three_of_their_doubts(settings: LoggerSettings) -> None:
    outside = 0
    for c in compared(settings).laps[0].corners:
        outside += abs(c.gap_s) > 3.0 * c.sigma_s + 0.004
    assert outside <= 1


def test_a_logged_speed_leaves_no_doubt_of_the_lap_time() -> None:
    assert compared(ALL).laps[0].sigma_s == pytest.approx(0.0, abs=2e-3)
    assert compared(POSITION).laps[0].sigma_s > 0.005


def test_a_spread_without_a_solution_is_that_of_its_ends() -> None:
    spread = Spread(length_m=1000.0, own_m=0.6, ends_m=(0.8, 0.8))
    one = np.ones(2)
    found = spread.change(np.array([0.0, 100.0]), np.array([500.0, 500.0]), one, 2.0 * one)
    assert found == pytest.approx([np.hypot(0.8, 0.3), np.hypot(0.6, 0.3)])
