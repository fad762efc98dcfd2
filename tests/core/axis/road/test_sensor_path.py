"""The path by positions and a sensor, against the line that was driven."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
import pytest

from jete.core.axis.positions.path import Fixes, curvature_of, fixes_of, likeliest_path, samples_of
from jete.core.axis.road.road import road_of
from jete.core.axis.road.sensor_path import led_path, path_of
from jete.core.log.plane import Origin
from jete.core.motion.motion import Motion, motion_of
from jete.simulate.feet_trials import draw_feet_trial
from jete.simulate.logger import LoggerSettings
from jete.simulate.receiver import Receiver, wander
from known_laps import drawn, lap_of

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.core.log.lap import Lap
    from jete.core.numeric.spline import Curve
    from jete.simulate.trials import Trial

DRIFTING = Receiver(white_m=0.1, drift_m=0.8, drift_s=8.0)


def with_sensor(lap: Lap, name: str, spoil: Callable[[np.ndarray], np.ndarray]) -> Lap:
    """The lap with one lateral sensor alone, and that one spoilt."""
    kept = {k: c for k, c in lap.log.channels.items() if k not in {"yaw_rate", "acc_lat", "steering"} - {name}}
    kept[name] = replace(kept[name], value=spoil(kept[name].value))
    return lap_of(replace(lap.log, channels=kept))


def off_m(path: Curve, trial: Trial, fixes: Fixes) -> float:
    """How far a path is off the line that was driven, root of the mean square, metres."""
    true = np.stack(trial.reference_line.places(trial.station_m(fixes.distance_m)), axis=1)
    along = path(fixes.distance_m, 1)
    off = path(fixes.distance_m) - true
    aside = (off[:, 1] * along[:, 0] - off[:, 0] * along[:, 1]) / np.hypot(*along.T)
    return float(np.sqrt(np.mean(aside**2)))


def prepared(lap: Lap) -> tuple[Motion, Fixes]:
    motion = motion_of(lap)
    fixes = fixes_of(lap, motion, Origin())
    assert fixes is not None
    return motion, fixes


SENSORS = {
    "a gyro": ("yaw_rate", lambda v: v, 0.6),
    "one of another sign": ("yaw_rate", lambda v: -v, 0.6),
    "one that reads three per cent short and wanders by 0.3 °/s": (
        "yaw_rate",
        lambda v: 0.97 * v + wander(np.random.default_rng(3), len(v), 0.01, np.radians(0.3), 15.0),
        0.7,
    ),
    "one that wanders by 1 °/s": (
        "yaw_rate",
        lambda v: v + wander(np.random.default_rng(3), len(v), 0.01, np.radians(1.0), 10.0),
        0.9,
    ),
    "an acceleration on a banked road": (
        "acc_lat",
        lambda v: 1.04 * v + 0.5 * np.sin(np.arange(len(v)) * 0.01 / 4.0),
        0.9,
    ),
}


@pytest.mark.parametrize("sensor", SENSORS)
@pytest.mark.parametrize("seed", [5, 8])
def test_a_sensor_brings_the_path_nearer_to_the_line_that_was_driven(seed: int, sensor: str) -> None:
    trial = drawn(seed, faults=0)
    name, spoil, share = SENSORS[sensor]
    lap = with_sensor(lap_of(trial.reference), name, spoil)
    motion, fixes = prepared(lap)
    led = led_path(lap, motion, fixes)
    assert off_m(led, trial, fixes) < share * off_m(likeliest_path(samples_of(fixes, motion), motion), trial, fixes)


def test_without_a_sensor_it_is_the_path_of_the_positions(trial: Trial) -> None:
    motion, fixes = prepared(lap_of(trial.reference))
    at = np.linspace(0.0, motion.length_m, 50)
    assert np.array_equal(path_of(fixes, motion, None)(at), likeliest_path(samples_of(fixes, motion), motion)(at))


def test_a_sensor_that_feels_other_bends_is_left_aside(trial: Trial) -> None:
    motion, fixes = prepared(lap_of(trial.reference))
    noise = np.random.default_rng(1).normal(0.0, 0.02, len(motion.distance_m))
    at = np.linspace(0.0, motion.length_m, 50)
    assert np.array_equal(path_of(fixes, motion, noise)(at), likeliest_path(samples_of(fixes, motion), motion)(at))


@pytest.mark.parametrize("seed", [2178, 2179])
def test_the_road_is_straight_behind_the_line_where_the_sensor_says_so(seed: int) -> None:
    """A path by drifting positions alone begins with a bend that is none, since nothing lies before it."""
    trial = draw_feet_trial(seed, replace(LoggerSettings(), receiver=DRIFTING), "equal")
    lap = lap_of(trial.reference)
    motion, fixes = prepared(lap)
    road = road_of(lap, motion, fixes)
    straight = slice(0, int(trial.circuit.corners[0].start_m) - 20)
    true = np.interp(
        road.grid_m, trial.axis_m(trial.reference_trace.circuit.station_m), trial.reference_line.curvature_1pm()
    )
    off = road.curvature_1pm - true
    positions = curvature_of(likeliest_path(samples_of(fixes, motion), motion), road.grid_m) - true
    assert np.abs(off[straight]).mean() < 0.3 * np.abs(positions[straight]).mean()
    assert np.abs(off[straight]).max() < 6e-4
