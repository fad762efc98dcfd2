"""A log into laps, in each of the ways in which logs tell them."""

from __future__ import annotations

import pickle
from dataclasses import replace

import numpy as np
import pytest

from jete.core.errors import InputError
from jete.core.log.lap import Channel, Log, fastest
from jete.core.log.plane import Origin, StartLine
from jete.core.motion.borders import line_of
from jete.core.motion.crossing import crossings
from jete.core.motion.one_line import LineSource
from jete.core.motion.split import require_complete, split
from jete.simulate.circuit import draw
from jete.simulate.driver import LapPlan, Trace, drive
from jete.simulate.lines import draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.receiver import Receiver
from jete.simulate.trials import Trial
from jete.simulate.vehicle import CAR
from known_laps import lap_of

ALL = LoggerSettings().channels


@pytest.fixture(scope="module")
def stint() -> Trace:
    return drive(draw(3), CAR, [LapPlan(grip=1.0 - 0.005 * k) for k in range(5)])


def recorded(
    stint: Trace, channels: tuple[str, ...], rate: float = 100.0, laps: tuple[float, float] = (0.6, 4.3)
) -> Log:
    settings = LoggerSettings(rate_hz=rate, channels=channels, position_noise_m=0.5)
    return record(stint, draw_line(stint.circuit, 9), settings, 4, laps)


def without(*names: str) -> tuple[str, ...]:
    return tuple(c for c in ALL if c not in names)


@pytest.mark.parametrize(
    ("channels", "rate", "within"),
    [
        (ALL, 100.0, 0.003),
        (without("distance", "x", "y"), 100.0, 0.012),
        (without("lap"), 100.0, 0.003),
        (without("lap"), 10.0, 0.01),
    ],
    ids=["lap column", "lap column alone", "distance resets", "distance resets at 10 Hz"],
)
def test_lap_times_are_the_true_ones(stint: Trace, channels: tuple[str, ...], rate: float, within: float) -> None:
    spans = [s for s in split(recorded(stint, channels, rate)) if s.complete]
    assert len(spans) == 3
    for k, span in enumerate(spans):
        assert span.time_s == pytest.approx(stint.lap_time_s(k + 1), abs=within)


@pytest.mark.parametrize("seed", range(4))
def test_a_lap_ends_between_the_samples_that_its_number_changes_at_wherever_positions_drift(
    stint: Trace, seed: int
) -> None:
    """A drift of 3 m is 0.06 s at 50 m/s at each end; the samples lie 0.04 s apart."""
    receiver = Receiver(white_m=0.1, drift_m=3.0, drift_s=8.0)
    settings = LoggerSettings(rate_hz=25.0, channels=without("distance"), receiver=receiver)
    log = record(stint, draw_line(stint.circuit, 9), settings, seed, (0.6, 4.3))
    for k, span in enumerate([s for s in split(log) if s.complete]):
        assert span.time_s == pytest.approx(stint.lap_time_s(k + 1), abs=0.06)


@pytest.mark.parametrize("channels", [("speed", "x", "y"), ("x", "y")], ids=["with speed", "position alone"])
def test_lap_times_from_a_given_line_at_10_hz(stint: Trace, channels: tuple[str, ...]) -> None:
    log = recorded(stint, channels, 10.0)
    circuit = stint.circuit
    line = LineSource(Origin(), StartLine(circuit.x_m[0], circuit.y_m[0], circuit.heading_rad[0]))
    spans = [s for s in split(log, line) if s.complete]
    assert len(spans) == 3
    for k, span in enumerate(spans):
        assert span.time_s == pytest.approx(stint.lap_time_s(k + 1), abs=0.02)


def test_out_lap_and_rest_are_listed_with_the_reason(stint: Trace) -> None:
    spans = split(recorded(stint, ALL))
    assert [s.complete for s in spans] == [False, True, True, True, False]
    assert "out lap" in (spans[0].why or "")
    assert "incomplete" in (spans[-1].why or "")


def test_the_first_sample_gives_the_line_of_one_lap(stint: Trace) -> None:
    log = recorded(stint, ("speed", "x", "y"), 100.0, (1, 2))
    spans = split(log)
    assert [s.complete for s in spans] == [True]
    assert spans[0].time_s == pytest.approx(stint.lap_time_s(1), abs=0.03)


def test_one_lap_without_lap_reset_or_position_is_complete(stint: Trace) -> None:
    log = recorded(stint, ("speed", "distance"), 100.0, (1, 1.9999))
    spans = split(log)
    assert len(spans) == 1
    assert spans[0].complete


def test_a_lap_that_stops_just_short_is_run_on(stint: Trace) -> None:
    log = recorded(stint, ("speed", "x", "y"), 20.0, (1, 2))
    clock = log.channels["time"].time_s
    short = replace(log, channels={n: c.between(0.0, float(clock[-4])) for n, c in log.channels.items()})
    spans = split(short)
    assert spans[-1].complete
    assert spans[-1].time_s == pytest.approx(stint.lap_time_s(1), abs=0.04)


def test_half_a_lap_is_not_complete(stint: Trace) -> None:
    log = recorded(stint, ("speed", "x", "y"), 20.0, (1, 1.5))
    with pytest.raises(InputError, match="no complete lap"):
        fastest(split(log), "half.csv")


def test_another_log_is_cut_at_the_line_of_the_first(stint: Trace) -> None:
    first = recorded(stint, ("speed", "x", "y"), 100.0, (1, 2))
    other = recorded(stint, ("speed", "x", "y"), 100.0, (0.4, 3.2))
    spans = [s for s in split(other, line_of(first)) if s.complete]
    assert [s.time_s for s in spans] == pytest.approx([stint.lap_time_s(1), stint.lap_time_s(2)], abs=0.04)


def test_a_log_that_begins_anywhere_is_judged_by_its_lap_from_line_to_line(stint: Trace) -> None:
    for channels in (("lap", "x", "y"), ("lap", "speed")):
        spans = split(recorded(stint, channels, 10.0, (0.3, 2.6)))
        assert [s.complete for s in spans] == [False, True, False]
        assert spans[1].time_s == pytest.approx(stint.lap_time_s(1), abs=0.1)


@pytest.mark.parametrize("rate", [2.0, 5.0, 10.0])
def test_a_lap_column_alone_finds_its_line_to_a_sample(stint: Trace, rate: float) -> None:
    (span,) = split(recorded(stint, ("lap", "x", "y"), rate, (1, 2)))
    assert span.complete
    assert span.time_s == pytest.approx(stint.lap_time_s(1), abs=1.0 / rate)


def test_a_log_of_one_lap_is_one_where_its_column_is_late(stint: Trace) -> None:
    log = recorded(stint, ("lap", "x", "y"), 20.0, (1, 2))
    lap = log.channels["lap"]
    late = replace(lap, value=np.where(np.arange(len(lap)) < len(lap) - 1, 1.0, 2.0))
    moved = {**log.channels, "lap": late, "x": replace(log.channels["x"], value=log.channels["x"].value.copy())}
    moved["x"].value[:4] += 300.0
    assert split(replace(log, channels=moved))[0].complete


def test_a_line_where_the_path_crosses_itself_is_that_of_one_leg() -> None:
    """A loop within a loop (limaçon) whose legs cross at 45 degrees, going the same way, where the log begins."""
    turn = np.linspace(0.0, 6.0 * np.pi, 3000)
    angle = turn + np.deg2rad(112.5)
    radius = 400.0 * (np.cos(np.deg2rad(67.5)) + np.cos(angle))
    x, y = radius * np.cos(angle), radius * np.sin(angle)
    time = turn * 30.0 / (2.0 * np.pi)
    places = {n: Channel(n, "m", time, v) for n, v in (("x", x), ("y", y))}
    spans = split(Log(source="loops.csv", channels={"time": Channel("time", "s", time, time), **places}))
    assert [s.time_s for s in spans if s.complete] == pytest.approx([30.0] * 3, abs=0.05)


def test_a_message_crosses_to_another_process_whole() -> None:
    error = InputError("a.csv, row 3", "it is torn.", "Log again.")
    assert str(pickle.loads(pickle.dumps(error))) == str(error)


def test_the_other_direction_does_not_cross_the_line() -> None:
    time = np.arange(0.0, 20.0, 0.1)
    x = Channel("x", "m", time, 100.0 - 10.0 * time)
    log = Log(
        source="x.csv",
        channels={"time": Channel("time", "s", time, time), "x": x, "y": Channel("y", "m", time, time * 0.0)},
    )
    path = (log.channels["x"], log.channels["y"])
    assert crossings(log, path, StartLine(0.0, 0.0, 0.0)).size == 0
    assert crossings(log, path, StartLine(0.0, 0.0, np.pi)) == pytest.approx([10.0], abs=1e-6)


def test_a_crossing_far_aside_does_not_count() -> None:
    time = np.arange(0.0, 20.0, 0.1)
    channels = {"time": Channel("time", "s", time, time)}
    channels |= {"x": Channel("x", "m", time, 10.0 * time - 100.0), "y": Channel("y", "m", time, time * 0.0 + 80.0)}
    log = Log(source="x.csv", channels=channels)
    assert crossings(log, (channels["x"], channels["y"]), StartLine(0.0, 0.0, 0.0)).size == 0


def test_degrees_become_metres_on_the_plane() -> None:
    east, north = Origin(41.0, -30.0).to_plane(np.array([41.001]), np.array([-29.999]))
    assert east[0] == pytest.approx(84.13, abs=0.05)
    assert north[0] == pytest.approx(111.05, abs=0.05)


def test_the_fastest_complete_lap_is_found(stint: Trace) -> None:
    lap = lap_of(recorded(stint, ALL))
    assert lap.span.time_s == pytest.approx(min(stint.lap_time_s(k) for k in (1, 2, 3)), abs=0.003)


def test_a_sliver_can_not_be_compared(stint: Trace) -> None:
    span = replace(split(recorded(stint, ALL))[0], length_m=20.0)
    with pytest.raises(InputError, match="shorter than 100 m"):
        require_complete(span, "log.csv")


def test_a_counter_of_rows_is_no_lap_number(trial: Trial) -> None:
    log = trial.reference
    clock = log.channels["time"].time_s
    counted = replace(log, channels={**log.channels, "lap": Channel("lap", "", clock, np.arange(len(clock)) * 1.0)})
    without = replace(log, channels={n: c for n, c in log.channels.items() if n != "lap"})
    assert [s.time_s for s in split(counted)] == pytest.approx([s.time_s for s in split(without)])
