"""The road's curvature and corners against the circuit that was driven."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.axis.positions.path import fixes_of, likeliest_path, samples_of
from jete.core.axis.road.corners import find_corners
from jete.core.axis.road.road import Road, _with_detail, road_of
from jete.core.axis.road.sensor_curvature import sensor_curvature
from jete.core.log.plane import Origin
from jete.core.motion.motion import motion_of
from jete.simulate.logger import LoggerSettings
from jete.simulate.trials import Trial
from known_laps import compare_trial, drawn, lap_of

BASE = ("lap", "distance", "speed", "throttle", "brake")


def road_with(*channels: str) -> Road:
    trial = drawn(5, replace(LoggerSettings(), channels=(*BASE, *channels)), faults=0)
    lap = lap_of(trial.reference)
    motion = motion_of(lap)
    return road_of(lap, motion, fixes_of(lap, motion, Origin()))


def plain_road(kappa: np.ndarray, speed: float = 30.0) -> Road:
    grid = np.arange(float(len(kappa)))
    return Road(
        length_m=grid[-1],
        grid_m=grid,
        speed_mps=np.full(len(kappa), speed),
        curvature_1pm=kappa,
        path=None,
        noise_m=0.0,
        measured=True,
    )


def bend(*pieces: tuple[float, float]) -> np.ndarray:
    return np.concatenate([np.full(int(length), 1.0 / radius if radius else 0.0) for length, radius in pieces])


@pytest.mark.many
@pytest.mark.parametrize("sensor", ["yaw_rate", "acc_lat", "lean", "steering"])
def test_every_lateral_sensor_gives_the_same_road(sensor: str) -> None:
    truth = road_with("x", "y", "yaw_rate")
    road = road_with(sensor)
    at = np.linspace(0.0, 0.99 * truth.length_m, 500)
    assert np.corrcoef(road.curvature_at(at), truth.curvature_at(at))[0, 1] > 0.95
    assert road.measured


def test_without_a_lateral_sensor_the_bends_are_guessed_from_speed() -> None:
    road = road_with()
    assert not road.measured
    assert {c.direction for c in find_corners(road)} == {"unknown"}


def test_a_sensor_of_the_other_sign_is_turned(trial: Trial) -> None:
    lap = lap_of(trial.reference)
    yaw = lap.log.channels["yaw_rate"]
    turned = replace(lap.log, channels={**lap.log.channels, "yaw_rate": replace(yaw, value=-yaw.value)})
    other = lap_of(turned)
    motion = motion_of(other)
    road = road_of(other, motion, fixes_of(other, motion, Origin()))
    truth = road_of(lap, motion, fixes_of(lap, motion, Origin()))
    assert np.corrcoef(road.curvature_1pm, truth.curvature_1pm)[0, 1] > 0.99


def test_a_constant_offset_of_a_sensor_is_taken_out(trial: Trial) -> None:
    lap = lap_of(trial.reference)
    yaw = lap.log.channels["yaw_rate"]
    motion = motion_of(lap)
    clean = sensor_curvature(lap, motion)
    drifted = lap_of(replace(lap.log, channels={**lap.log.channels, "yaw_rate": replace(yaw, value=yaw.value + 0.03)}))
    found = sensor_curvature(drifted, motion)
    assert clean is not None
    assert found is not None
    assert np.median(np.abs(found.curvature_1pm - clean.curvature_1pm)) < 3e-4


def test_the_smoothed_path_is_better_than_its_positions(trial: Trial) -> None:
    lap = lap_of(trial.reference)
    motion = motion_of(lap)
    fixes = fixes_of(lap, motion, Origin())
    assert fixes is not None
    assert fixes.noise_m == pytest.approx(1.0, rel=0.15)
    true_x, true_y = trial.reference_line.places(trial.station_m(fixes.distance_m))
    left = likeliest_path(samples_of(fixes, motion), motion)(fixes.distance_m) - np.stack([true_x, true_y], axis=1)
    assert np.sqrt(np.mean(left**2)) < 0.5


def test_a_bend_is_a_corner_with_its_direction() -> None:
    kappa = bend((300, 0), (60, 50), (300, 0), (60, -80), (300, 0))
    corners = find_corners(plain_road(kappa))
    assert [(c.number, c.direction) for c in corners] == [(1, "left"), (2, "right")]
    assert corners[0].start_m == pytest.approx(300.0, abs=2.0)
    assert corners[0].end_m == pytest.approx(359.0, abs=2.0)
    assert corners[0].apex_m == pytest.approx(330.0, abs=2.0)


def test_two_bends_of_one_direction_that_touch_are_one_corner() -> None:
    kappa = bend((300, 0), (50, 50), (12, 0), (50, 60), (300, 0))
    assert len(find_corners(plain_road(kappa))) == 1


def test_two_bends_of_one_direction_with_a_straight_between_are_two() -> None:
    kappa = bend((300, 0), (50, 50), (80, 0), (50, 60), (300, 0))
    assert len(find_corners(plain_road(kappa))) == 2


def test_a_change_of_direction_splits() -> None:
    kappa = bend((300, 0), (40, 50), (40, -50), (300, 0))
    assert [c.direction for c in find_corners(plain_road(kappa))] == ["left", "right"]


def test_a_wiggle_that_hardly_turns_is_no_corner() -> None:
    kappa = bend((300, 0), (20, 180), (300, 0))
    assert find_corners(plain_road(kappa)) == []


def test_a_bend_that_all_take_flat_is_no_corner() -> None:
    trial = drawn(6, faults=0)
    flat = {c.corner for c in trial.corners("lap") if c.flat}
    found = compare_trial(trial).corners
    assert len(found) <= len(trial.circuit.corners) - len(flat)


@pytest.mark.many
@pytest.mark.parametrize("seed", [21, 22, 23])
def test_corners_are_where_the_road_turns(seed: int) -> None:
    trial = drawn(seed, faults=0)
    corners = compare_trial(trial).corners
    flat = {c.corner for c in trial.corners("lap") if c.flat}
    for true in (c for c in trial.circuit.corners if c.number not in flat):
        lo, hi = (float(trial.axis_m(p)) for p in (true.start_m - 10.0, true.end_m + 10.0))
        hits = [c for c in corners if lo < c.apex_m < hi]
        assert [h.direction for h in hits] == [true.direction]


def smoothed(kappa: np.ndarray, metres: int) -> np.ndarray:
    return np.convolve(np.pad(kappa, metres, mode="edge"), np.ones(metres) / metres, mode="same")[metres:-metres]


TWO_BENDS = bend((200, 0), (60, 60), (28, 0), (60, 60), (200, 0))
DOUBLE_APEX = bend((200, 0), (50, 60), (60, 85), (50, 60), (200, 0))


def test_knots_of_a_path_do_not_fill_the_straight_between_two_bends() -> None:
    fused = _with_detail(smoothed(TWO_BENDS, 20), TWO_BENDS)
    assert abs(fused[262:286]).max() < 0.1 / 60
    assert fused[230] == pytest.approx(1.0 / 60, rel=0.1)


def test_the_path_gives_the_scale_of_a_sensor() -> None:
    assert _with_detail(TWO_BENDS, 0.7 * TWO_BENDS)[230] == pytest.approx(1.0 / 60, rel=0.03)


def test_a_sensor_of_other_bends_gives_no_detail() -> None:
    assert np.array_equal(_with_detail(TWO_BENDS, np.roll(TWO_BENDS, 90)), TWO_BENDS)


@pytest.mark.many
@pytest.mark.parametrize("seed", [5002, 5008, 5025, 5052])
def test_positions_alone_tell_two_bends_of_one_side_apart(seed: int) -> None:
    channels = ("lap", "throttle", "brake", "x", "y")
    trial = drawn(seed, replace(LoggerSettings(), rate_hz=10.0, channels=channels), faults=0)
    asked = [c for c in trial.corners("reference") if not c.flat]
    found = compare_trial(trial)
    assert found.road.blurred
    assert len(found.corners) == len(asked)


@pytest.mark.many
@pytest.mark.parametrize("seed", [5065, 5074, 5107, 5116])
def test_a_bend_that_is_only_braked_in_for_the_next_one_is_no_corner(seed: int) -> None:
    trial = drawn(seed)
    flat = {c.corner for c in trial.corners("lap") if c.flat} & {c.corner for c in trial.corners("reference") if c.flat}
    bends = [c for c in trial.circuit.corners if c.number in flat]
    apexes = [trial.station_m(c.apex_m) for c in compare_trial(trial).corners]
    assert bends
    assert not [b.number for b in bends if any(b.start_m < a < b.end_m for a in apexes)]
