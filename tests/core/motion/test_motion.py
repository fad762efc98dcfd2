"""Time, speed and distance of a lap, whichever of them was logged."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.driving.passage import passage_of
from jete.core.driving.vehicle import drive_of
from jete.core.log.lap import Channel, Lap, LapSpan, Log
from jete.core.motion.motion import Motion, _between_means, acceleration_mps2, blur_s, motion_of, smooth_box, travelled
from jete.core.motion.track import path_motion
from jete.core.numeric.interpolate import slopes
from jete.simulate.trials import Trial
from known_laps import lap_of

KEPT = ("time", "lap", "throttle", "brake")


def only(log: Log, *names: str) -> Log:
    return replace(log, channels={n: c for n, c in log.channels.items() if n in (*KEPT, *names)})


def made(**values: np.ndarray) -> Lap:
    time = np.arange(len(next(iter(values.values())))) * 0.1
    channels = {n: Channel(n, "", time, v) for n, v in values.items()}
    channels["time"] = Channel("time", "s", time, time)
    return Lap(Log(source="made.csv", channels=channels), LapSpan(1, 0.0, float(time[-1]), 0.0, complete=True))


def test_a_steady_speed_runs_a_straight_distance() -> None:
    motion = motion_of(made(speed=np.full(101, 25.0)))
    assert motion.length_m == pytest.approx(250.0)
    assert motion.distance_at(np.array([4.0])) == pytest.approx([100.0])
    assert not motion.inferred


def test_the_odometer_sets_the_level_and_the_speed_the_detail() -> None:
    speed = 30.0 + 10.0 * np.sin(np.arange(1001) * 0.02)
    driven = np.concatenate([[0.0], np.cumsum(0.5 * (speed[1:] + speed[:-1]) * 0.1)])
    motion = motion_of(made(speed=speed, distance=np.round(driven * 1.01)))
    assert motion.length_m == pytest.approx(driven[-1] * 1.01, abs=1.0)
    rate = np.diff(motion.distance_m) / np.diff(motion.time_s)
    assert np.abs(rate / (0.5 * (speed[1:] + speed[:-1])) - 1.01).max() < 0.02


def test_an_odometer_in_another_unit_than_it_says_is_left_out() -> None:
    driven = np.arange(1001) * 3.0
    assert motion_of(made(speed=np.full(1001, 30.0), distance=driven * 1000.0)).length_m == pytest.approx(3000.0)


def test_an_odometer_that_stands_still_leaves_the_word_to_the_positions() -> None:
    along = np.arange(401) * 2.0
    log = made(distance=np.full(401, 3.3), x=along, y=np.zeros(401)).log
    assert travelled(log)[1][-1] == pytest.approx(800.0, rel=0.01)


def test_without_speed_the_distance_gives_it() -> None:
    motion = motion_of(made(distance=np.arange(401) * 2.0))
    assert motion.inferred
    assert np.median(motion.speed_mps) == pytest.approx(20.0, rel=0.01)


@pytest.mark.parametrize(("names", "within"), [(("speed", "distance"), 0.001), (("speed",), 0.02), (("x", "y"), 0.012)])
def test_the_length_of_a_lap_is_found_from_what_there_is(trial: Trial, names: tuple[str, ...], within: float) -> None:
    full = motion_of(lap_of(trial.reference))
    lap = lap_of(only(trial.reference, *names))
    assert motion_of(lap).length_m == pytest.approx(full.length_m, rel=within + 0.01 * ("x" in names))


def test_positions_alone_give_the_speed(trial: Trial) -> None:
    track = path_motion(only(trial.reference, "x", "y"))
    time, speed = track.time_s, track.speed_mps
    true = np.interp(
        time + trial.reference_trace.crossing_s(1), trial.reference_trace.time_s, trial.reference_trace.speed_mps
    )
    assert np.sqrt(np.mean((speed - true)[20:-20] ** 2)) < 1.2


def test_travelled_never_goes_back(trial: Trial) -> None:
    for names in (("speed",), ("distance",), ("x", "y")):
        _, along = travelled(only(trial.reference, *names))
        assert np.all(np.diff(along) >= 0.0)


def test_a_distance_that_resets_is_travelled_on() -> None:
    lap = made(distance=np.concatenate([np.arange(50.0) * 5, np.arange(50.0) * 5]))
    assert travelled(lap.log)[1][-1] == pytest.approx(49 * 5 * 2 + 5.0)


def test_a_log_without_any_motion_has_none() -> None:
    with pytest.raises(ValueError, match="no motion"):
        path_motion(made(oil=np.zeros(50)).log)


def test_a_box_keeps_a_straight_line() -> None:
    line = np.arange(50.0)
    assert smooth_box(line, 7)[5:-5] == pytest.approx(line[5:-5])
    assert smooth_box(line, 1) is line


def test_acceleration_is_the_slope_of_the_speed() -> None:
    motion = motion_of(made(speed=np.linspace(10.0, 40.0, 301)))
    assert acceleration_mps2(motion)[20:-20] == pytest.approx(np.full(261, 1.0), abs=1e-6)


@pytest.mark.parametrize("noise_mps", [0.05, 0.2, 0.5])
def test_an_acceleration_from_a_noisy_speed_stays_quiet(noise_mps: float) -> None:
    noise = np.random.default_rng(4).normal(0.0, noise_mps, 6001)
    motion = replace(motion_of(made(speed=np.linspace(10.0, 70.0, 6001) + noise)), time_s=np.arange(6001) * 0.01)
    assert motion.noise_mps == pytest.approx(noise_mps, rel=0.1)
    assert float(np.std(acceleration_mps2(motion, 0.08)[100:-100])) < 0.45


def test_an_acceleration_between_means_is_the_slope_of_the_speed() -> None:
    motion = motion_of(made(speed=np.linspace(10.0, 40.0, 301)))
    assert _between_means(motion, 0.8)[20:-20] == pytest.approx(np.full(261, 1.0), abs=1e-6)


def test_a_quiet_speed_is_left_as_it_is_and_a_noisy_one_averaged(trial: Trial) -> None:
    motion = motion_of(lap_of(trial.reference))
    assert motion.quiet_mps is motion.speed_mps
    noise = np.random.default_rng(5).normal(0.0, 0.3, len(motion.speed_mps))
    noisy = replace(motion, speed_mps=motion.speed_mps + noise)
    left = noisy.quiet_mps - motion.speed_mps
    assert float(np.std(left)) < 0.35 * 0.3


def test_power_and_grip_are_learnt_from_the_lap(trial: Trial, comparison: object) -> None:
    drive = drive_of(comparison.reference, comparison.road)  # type: ignore[attr-defined]
    vehicle = trial.reference_trace.vehicle
    assert drive.power_wpkg == pytest.approx(vehicle.power_wpkg, rel=0.2)
    assert drive.lateral_mps2 > 0.7 * vehicle.lateral_g * 9.81
    assert np.all(drive.fade_1pm(np.array([20.0, 60.0])) < 0.0)


def test_a_difference_dies_out_faster_in_a_tighter_bend(comparison: object) -> None:
    drive = drive_of(comparison.reference, comparison.road)  # type: ignore[attr-defined]
    energy = np.full(2, 0.5 * 15.0**2)
    wide, tight = drive.grip_fade_1pm(energy, np.array([1 / 80, 1 / 25]))
    assert 0.0 < wide < tight


def test_a_passage_places_its_times_and_back(comparison: object) -> None:
    passage = comparison.laps[0].passage  # type: ignore[attr-defined]
    times = np.linspace(1.0, 80.0, 50)
    assert passage.time_at(passage.place_at(times)) == pytest.approx(times, abs=2e-3)
    assert [passage.time_of(p) for p in passage.place_at(times)] == pytest.approx(
        passage.time_at(passage.place_at(times))
    )


def test_a_lap_without_steering_has_no_centred_steering(trial: Trial) -> None:
    lap = lap_of(only(trial.reference, "speed", "distance"))
    motion = motion_of(lap)
    from jete.core.axis.place.align import identity

    assert passage_of(lap, motion, identity(motion)).centred_steering is None


def test_slopes_are_those_of_a_straight_line_whatever_the_steps() -> None:
    x = np.array([0.0, 0.1, 0.4, 0.5, 1.5])
    assert slopes(3.0 * x - 1.0, x) == pytest.approx(np.full(5, 3.0))


def test_positions_on_one_side_leave_a_line_s_speed_and_place_less_sure(trial: Trial) -> None:
    log = only(trial.reference, "x", "y")
    lap = lap_of(log)
    alone = motion_of(lap)
    inside = motion_of(Lap(log, replace(lap.span, start_s=lap.span.start_s + 5.0, end_s=lap.span.end_s - 5.0)))
    assert inside.end_sigmas == (inside.sigmas, inside.sigmas)
    assert all(e.place_m > 2.0 * alone.sigmas.place_m for e in alone.end_sigmas)
    assert all(e.speed_mps > 2.0 * alone.sigmas.speed_mps for e in alone.end_sigmas)


@pytest.mark.parametrize("noise_mps", [0.03, 0.3])
def test_a_noisier_speed_blurs_its_acceleration_longer(noise_mps: float) -> None:
    time = np.arange(0.0, 60.0, 0.1)
    speed = 30.0 + np.random.default_rng(5).normal(0.0, noise_mps, len(time))
    blur = blur_s(Motion(time, np.cumsum(speed) * 0.1, speed))
    assert (blur == pytest.approx(0.3)) if noise_mps < 0.1 else (0.6 < blur <= 0.8)
