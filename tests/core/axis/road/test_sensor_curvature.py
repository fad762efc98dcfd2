"""What sensors feel of bends: whose noise falls how with the speed, and what it leaves of a gap."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.axis.road.sensor_curvature import Between, SensorCurvature, sensor_curvature
from jete.core.compare import compare
from jete.core.log.lap import Channel, Log
from jete.core.motion.borders import line_of
from jete.core.motion.motion import motion_of
from jete.simulate.feet_trials import draw_feet_trial
from jete.simulate.logger import LoggerSettings
from jete.simulate.receiver import Receiver
from known_laps import lap_of

FEEL_BENDS = {"yaw_rate", "acc_lat", "steering", "lean"}
DRIFTING = LoggerSettings(receiver=Receiver(white_m=0.15, drift_m=0.6, drift_s=30.0))
G_MPS2 = 9.81


def with_one(log: Log, channel: Channel) -> Log:
    """The log with one sensor of bends alone."""
    return replace(
        log, channels={**{n: c for n, c in log.channels.items() if n not in FEEL_BENDS}, channel.name: channel}
    )


@pytest.mark.many
@pytest.mark.parametrize(("name", "power"), [("yaw_rate", 1), ("acc_lat", 2), ("lean", 2), ("steering", 0)])
def test_noise_of_a_sensor_falls_with_a_power_of_the_speed(name: str, power: int) -> None:
    log = draw_feet_trial(701).reference
    lateral = log.channels["acc_lat"]
    leaned = Channel("lean", "rad", lateral.time_s, np.arctan(lateral.value / G_MPS2))
    lap = lap_of(with_one(log, leaned if name == "lean" else log.channels[name]))
    sensor = sensor_curvature(lap, motion_of(lap))
    assert sensor is not None
    assert sensor.noise_power == power


def test_two_kinds_of_sensor_differ_as_the_rougher_and_by_more() -> None:
    gyro, lateral, steering = (SensorCurvature(np.zeros(3), power) for power in (1, 2, 0))
    assert gyro.beside(1) == Between()
    assert lateral.beside(2) == Between(2, gyro.beside(1).unlike)
    assert gyro.beside(2).noise_power == lateral.beside(1).noise_power == 2
    assert gyro.beside(0).noise_power == steering.beside(1).noise_power == 0
    assert gyro.beside(2).unlike > gyro.beside(1).unlike


@pytest.mark.many
@pytest.mark.parametrize("frame", ["the motorcycle", "the earth"])
def test_a_gyro_that_leans_with_a_motorcycle_is_set_upright(frame: str) -> None:
    log = draw_feet_trial(702).reference
    yaw, lateral = log.channels["yaw_rate"], log.channels["acc_lat"]
    lean = Channel("lean", "rad", lateral.time_s, np.arctan(1.1 * lateral.value / G_MPS2))
    timed = replace(yaw, value=yaw.value * np.cos(lean.at(yaw.time_s))) if frame == "the motorcycle" else yaw
    lap = lap_of(replace(log, channels={**log.channels, "lean": lean, "yaw_rate": timed}))
    true = lap_of(with_one(log, yaw))
    found, wanted = (sensor_curvature(each, motion_of(each)) for each in (lap, true))
    assert found is not None
    assert wanted is not None
    off = found.curvature_1pm - wanted.curvature_1pm
    assert float(np.std(off)) < 0.03 * float(np.std(wanted.curvature_1pm))


def rough(log: Log, rng: np.random.Generator) -> Log:
    """The log ten times a second, its bends by a lateral acceleration with 0.06 g of noise alone."""
    thin = {
        n: replace(c, time_s=c.time_s[::10], value=c.value[::10])
        for n, c in log.channels.items()
        if n not in {"x", "y"}
    }
    kept = replace(log, channels={**log.channels, **thin})
    lateral = kept.channels["acc_lat"]
    return with_one(kept, replace(lateral, value=lateral.value + rng.normal(0.0, 0.06 * G_MPS2, len(lateral))))


@pytest.mark.long
def test_a_gap_by_a_rough_acceleration_is_no_surer_than_it_is() -> None:
    off = []
    for seed in range(701, 709):
        trial, rng = draw_feet_trial(seed, DRIFTING, "equal"), np.random.default_rng(seed)
        logs = [rough(log, rng) for log in (trial.reference, trial.lap)]
        lap = compare(lap_of(logs[0]), [lap_of(logs[1], line_of(logs[0]))]).laps[0]
        station = np.linspace(0.0, trial.circuit.length_m, 500)
        axis, true = trial.axis_m(station), trial.gap_s(station)
        for c in lap.corners:
            gap = np.diff(np.interp([c.window.start_m, c.window.end_m], axis, true))[0]
            off.append(abs(c.gap_s - gap) / c.sigma_s)
    assert float(np.mean(np.array(off) < 1.0)) > 0.58
    assert float(np.mean(np.array(off) < 2.0)) > 0.88
