"""Bends that a sensor felt late, or early: told by positions, and brought in time."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from jete.core.axis.positions.path import Fixes, fixes_of
from jete.core.axis.road.road import road_of
from jete.core.axis.road.sensor_lag import NOT_MOVED, SensorMoved, sensor_in_time
from jete.core.compare import compare
from jete.core.log.lap import Lap, Log
from jete.core.log.plane import Origin
from jete.core.motion.borders import line_of
from jete.core.motion.motion import Motion, motion_of
from jete.core.numeric.late import Lateness
from jete.simulate.feet_trials import draw_feet_trial
from jete.simulate.logger import LoggerSettings
from jete.simulate.receiver import Receiver
from jete.simulate.trials import Trial
from known_laps import lap_of

FEEL_BENDS = {"yaw_rate", "acc_lat", "steering", "lean"}
DRIFTING = LoggerSettings(receiver=Receiver(white_m=0.3, drift_m=0.5, drift_s=15.0))


@cache
def trial(seed: int) -> Trial:
    return draw_feet_trial(seed, DRIFTING, "equal")


def with_late(log: Log, by_s: float, name: str = "yaw_rate") -> Log:
    """The log with one sensor of bends alone, and that one late."""
    kept = {n: c for n, c in log.channels.items() if n not in FEEL_BENDS - {name}}
    kept[name] = replace(kept[name], time_s=kept[name].time_s + by_s)
    return replace(log, channels=kept)


def prepared(log: Log) -> tuple[Lap, Motion, Fixes | None]:
    lap = lap_of(log)
    motion = motion_of(lap)
    return lap, motion, fixes_of(lap, motion, Origin())


@pytest.mark.parametrize("by_s", [-0.12, 0.15, 0.3])
@pytest.mark.parametrize("seed", [601, 602])
def test_a_sensor_that_is_late_or_early_is_brought_in_time(by_s: float, seed: int) -> None:
    clean, moved = (sensor_in_time(*prepared(with_late(trial(seed).reference, s)), None) for s in (0.0, by_s))
    assert clean is not None
    assert moved is not None
    assert clean.moved.by_s == 0.0
    assert moved.moved.by_s == pytest.approx(by_s, abs=0.04)
    off = moved.sensor.curvature_1pm - clean.sensor.curvature_1pm
    assert float(np.std(off)) < 0.1 * float(np.std(clean.sensor.curvature_1pm))


def test_both_laps_are_moved_alike_where_both_may_have_one_sensor() -> None:
    reference, lap = (prepared(with_late(log, 0.15)) for log in (trial(603).reference, trial(603).lap))
    road = road_of(*reference)
    timed = sensor_in_time(*lap, road.sensor_moved)
    assert timed is not None
    assert timed.moved == road.sensor_moved
    assert road.sensor_moved.by_s == pytest.approx(0.15, abs=0.04)


def test_another_device_is_moved_by_its_own() -> None:
    timed = sensor_in_time(*prepared(with_late(trial(604).lap, 0.25)), SensorMoved(0.0, Lateness(0.0, 0.01)))
    assert timed is not None
    assert timed.moved.by_s == pytest.approx(0.25, abs=0.04)


def test_what_was_not_sure_of_the_reference_is_not_done_to_the_lap_alone() -> None:
    lap = prepared(with_late(trial(604).lap, 0.12))
    found = sensor_in_time(*lap, None)
    assert found is not None
    assert found.moved.by_s == pytest.approx(0.12, abs=0.04)
    unsure = SensorMoved(0.0, Lateness(0.09, 0.03))
    timed = sensor_in_time(*lap, unsure)
    assert timed is not None
    assert timed.moved == unsure


def test_without_positions_nothing_is_moved() -> None:
    lap, motion, _ = prepared(with_late(trial(605).reference, 0.3))
    timed = sensor_in_time(lap, motion, None, None)
    assert timed is not None
    assert timed.moved == NOT_MOVED


def test_a_lap_without_a_sensor_felt_nothing() -> None:
    log = trial(605).reference
    assert sensor_in_time(*prepared(replace(log, channels={n: c for n, c in log.channels.items() if n not in FEEL_BENDS})), None) is None  # fmt: skip


@pytest.mark.long
def test_equal_laps_lose_nothing_by_a_late_sensor() -> None:
    """The gap with a gyro that is late by a fifth of a second is as right, and as sure, as with one in time."""
    off: dict[float, list[float]] = {0.0: [], 0.2: []}
    rms: dict[float, list[float]] = {0.0: [], 0.2: []}
    for seed in range(606, 614):
        for by_s, found in off.items():
            logs = [with_late(log, by_s) for log in (trial(seed).reference, trial(seed).lap)]
            made = compare(lap_of(logs[0]), [lap_of(logs[1], line_of(logs[0]))])
            station = np.linspace(0.0, trial(seed).circuit.length_m, 500)
            axis, true = trial(seed).axis_m(station), trial(seed).gap_s(station)
            lap = made.laps[0]
            rms[by_s].append(float(np.mean((np.interp(axis, lap.trace_m, lap.trace_s) - true) ** 2)))
            for c in lap.corners:
                gap = np.diff(np.interp([c.window.start_m, c.window.end_m], axis, true))[0]
                found.append(abs(c.gap_s - gap) / c.sigma_s)
    assert float(np.sqrt(np.mean(rms[0.2]))) < 1.25 * float(np.sqrt(np.mean(rms[0.0])))
    assert float(np.mean(np.array(off[0.2]) < 2.0)) > 0.88
