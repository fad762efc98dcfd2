"""Laps laid on a reference's axis against known truth, by each method."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.arrays import FloatArray
from jete.core.causes.verdict.losses import gap_at
from jete.core.compare import compare
from jete.core.errors import InputError
from jete.core.log.lap import Lap, Log
from jete.core.log.plane import Origin
from jete.core.motion.borders import line_of
from jete.simulate.circuit import draw
from jete.simulate.driver import LapPlan, drive
from jete.simulate.lines import draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.trials import Trial
from jete.simulate.vehicle import CAR
from known_laps import compare_trial, drawn, lap_of

STATIONS = np.linspace(0.0, 1.0, 400)


def gap_error(trial: Trial) -> float:
    comparison = compare_trial(trial)
    station = STATIONS * trial.circuit.length_m
    found = gap_at(comparison.reference, comparison.laps[0].passage, trial.axis_m(station))
    return float(np.sqrt(np.mean((found - trial.gap_s(station)) ** 2)))


@pytest.mark.parametrize("seed", [31, 33])
def test_the_gap_follows_the_truth_with_positions(seed: int) -> None:
    assert gap_error(drawn(seed)) < 0.012


@pytest.mark.parametrize("seed", [32])
def test_the_gap_follows_the_truth_without_positions(seed: int) -> None:
    settings = LoggerSettings(channels=tuple(c for c in LoggerSettings().channels if c not in ("x", "y")))
    assert gap_error(drawn(seed, settings)) < 0.04


def test_laps_at_different_rates_can_be_compared(trial: Trial) -> None:
    slow = drawn(5, replace(LoggerSettings(), rate_hz=10.0))
    mixed = replace(trial, lap=slow.lap)
    assert gap_error(mixed) < 0.015


def test_places_run_from_the_line_to_the_line(comparison: object) -> None:
    place = comparison.laps[0].alignment.place_m  # type: ignore[attr-defined]
    assert place[0] == 0.0
    assert place[-1] == pytest.approx(comparison.road.length_m)  # type: ignore[attr-defined]
    assert np.all(np.diff(place) > 0.0)


def test_the_scale_of_the_odometer_is_found(trial: Trial, comparison: object) -> None:
    alignment = comparison.laps[0].alignment  # type: ignore[attr-defined]
    assert alignment.method == "position"
    assert alignment.scale == pytest.approx(1.0, abs=0.02)
    assert 0.5 < alignment.residual_m < 2.0


def test_without_positions_the_method_says_so(trial: Trial) -> None:
    bare = replace(trial.lap, channels={n: c for n, c in trial.lap.channels.items() if n not in ("x", "y")})
    result = compare(lap_of(trial.reference), [lap_of(bare)])
    assert result.laps[0].alignment.method == "curvature"


def test_without_any_lateral_channel_only_the_length_is_matched(trial: Trial) -> None:
    kept = ("time", "lap", "distance", "speed", "throttle", "brake")
    logs = [replace(g, channels={n: g.channels[n] for n in kept}) for g in (trial.reference, trial.lap)]
    result = compare(lap_of(logs[0]), [lap_of(logs[1])])
    assert result.laps[0].alignment.method == "distance"
    assert result.laps[0].gap_s == pytest.approx(
        trial.lap_trace.lap_time_s(1) - trial.reference_trace.lap_time_s(1), abs=0.01
    )


def lap_on(seed: int, *, with_position: bool = True) -> Log:
    circuit = draw(seed)
    trace = drive(circuit, CAR, [LapPlan()] * 3)
    channels = LoggerSettings().channels
    kept = channels if with_position else tuple(c for c in channels if c not in ("x", "y"))
    return record(trace, draw_line(circuit, seed), LoggerSettings(channels=kept), 1, (1, 2), f"circuit-{seed}.csv")


@pytest.mark.parametrize("with_position", [True, False])
def test_another_circuit_is_refused(*, with_position: bool) -> None:
    logs = [lap_on(seed, with_position=with_position) for seed in (3, 4)]
    with pytest.raises(InputError, match="does not belong"):
        compare(lap_of(logs[0]), [lap_of(logs[1])])


def test_the_other_direction_is_refused() -> None:
    log = lap_on(3)
    lap = lap_of(log)
    x, y = log.channels["x"], log.channels["y"]
    turned = {**log.channels, "x": replace(x, value=x.value[::-1]), "y": replace(y, value=y.value[::-1])}
    with pytest.raises(InputError, match="other direction"):
        compare(lap, [lap_of(replace(log, channels=turned))])


@pytest.mark.parametrize(("exchanged", "told"), [(True, "in each other's place"), (False, "elsewhere on earth")])
def test_positions_of_another_place_on_earth_are_told_as_such(*, exchanged: bool, told: str) -> None:
    """Exchanged latitudes and longitudes are a mirror's image, which looks like the other direction."""
    log = lap_on(3)
    east, north = log.channels["x"].value, log.channels["y"].value
    latitude, longitude = Origin(41.2, -31.5).to_degrees(east, north)
    other = (longitude, latitude) if exchanged else (latitude + 10.0, longitude)

    def on_earth(places: tuple[FloatArray, FloatArray]) -> Lap:
        both = zip(("latitude", "longitude"), places, strict=True)
        channels = {n: replace(log.channels["x"], name=n, unit="deg", value=v) for n, v in both}
        rest = {n: c for n, c in log.channels.items() if n not in ("x", "y")}
        return lap_of(replace(log, channels={**rest, **channels}))

    with pytest.raises(InputError, match=told):
        compare(on_earth((latitude, longitude)), [on_earth(other)])


def test_a_position_that_jumps_away_does_not_break_the_lap(trial: Trial) -> None:
    x = trial.lap.channels["x"]
    value = x.value.copy()
    value[200:206] += 60.0
    broken = replace(trial, lap=replace(trial.lap, channels={**trial.lap.channels, "x": replace(x, value=value)}))
    assert gap_error(broken) < 0.03


def test_a_lap_against_itself_has_no_gap(trial: Trial) -> None:
    lap = lap_of(trial.reference)
    result = compare(lap, [lap]).laps[0]
    assert result.gap_s == 0.0
    assert np.abs(result.trace_s).max() == 0.0
    assert all(not c.findings for c in result.corners)


def test_the_line_of_the_reference_serves_the_lap(trial: Trial) -> None:
    kept = ("time", "speed", "throttle", "brake", "x", "y")
    logs = [replace(g, channels={n: g.channels[n] for n in kept}) for g in (trial.reference, trial.lap)]
    laps = [lap_of(logs[0]), lap_of(logs[1], line_of(logs[0]))]
    truth = trial.lap_trace.lap_time_s(1) - trial.reference_trace.lap_time_s(1)
    assert compare(laps[0], [laps[1]]).laps[0].gap_s == pytest.approx(truth, abs=0.04)


def test_a_speed_on_another_scale_than_the_distance_beside_it_is_brought_on_the_reference_s() -> None:
    """Wheels with another size in the logger than on the road, and a distance by positions: 4 % apart."""
    trial = drawn(97)
    speed = trial.lap.channels["speed"]
    fast = replace(trial.lap, channels={**trial.lap.channels, "speed": replace(speed, value=1.04 * speed.value)})
    told = []
    for log in (trial.lap, fast):
        lap = compare(lap_of(trial.reference), [lap_of(log, line_of(trial.reference))]).laps[0]
        told.append(
            {(c.corner.number, f.kind): f.loss_s for c in lap.corners for f in c.findings if abs(f.loss_s) > 0.04}
        )
        assert lap.passage.alignment.scale == pytest.approx(1.0, abs=0.01)
    assert lap.passage.alignment.speed_scale == pytest.approx(1.0 / 1.04, abs=0.01)
    assert told[0]
    assert told[1] == pytest.approx(told[0], abs=0.03)
