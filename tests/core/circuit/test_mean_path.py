"""The road from the lines that are driven: where it lies, how long it is, that what stands on it stays."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from scipy.spatial import cKDTree

from jete.core.circuit.mean_path import CircuitRoad, founded, improved
from jete.core.circuit.schematic import schematic
from jete.core.log.lap import Lap, Log
from jete.core.motion.split import split
from jete.simulate.circuit import draw
from jete.simulate.driver import LapPlan, drive
from jete.simulate.lines import Line, draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.receiver import Receiver
from jete.simulate.vehicle import CAR

SEED = 604


@cache
def stint() -> tuple[Line, tuple[Lap, ...]]:
    """Eight laps on one line, positions ten times a second with 1 m of noise."""
    circuit = draw(SEED)
    line = draw_line(circuit, 3)
    log = record(drive(circuit, CAR, [LapPlan()] * 10), line, LoggerSettings(rate_hz=50.0), 5, (1, 9))
    return line, tuple(Lap(log, s) for s in split(log) if s.complete)


@cache
def road() -> CircuitRoad:
    laps = stint()[1]
    return founded(laps[0], laps[1:])


def away_m(road: CircuitRoad, line: Line) -> np.ndarray:
    """Distance of the mean path to the line that was driven, (n,)."""
    truth = np.stack(line.places(np.linspace(0.0, line.circuit.length_m, 400_000)), axis=1)
    return np.asarray(cKDTree(truth).query(road.path_m())[0])


@pytest.mark.long
def test_eight_laps_show_the_path_to_two_decimetres() -> None:
    line, laps = stint()
    assert len(laps) == 8
    assert float(np.sqrt(np.mean(away_m(road(), line) ** 2))) < 0.2


@pytest.mark.long
def test_more_laps_show_it_better_than_one() -> None:
    line, laps = stint()
    alone = [away_m(founded(lap), line).mean() for lap in laps]
    assert away_m(road(), line).mean() < 0.75 * np.mean(alone)


def test_the_axis_is_as_long_as_the_path() -> None:
    line, _ = stint()
    true = float(np.sum(line.length_rate())) * line.circuit.length_m / len(line.offset_m)
    assert road().length_m == pytest.approx(true, rel=1e-3)


def test_a_further_lap_moves_no_place() -> None:
    laps = stint()[1]
    two = founded(laps[0], laps[1:2])
    three = improved(two, laps[0], laps[2])
    assert three.laps == 3
    assert np.array_equal(three.circuit_m, two.circuit_m)


def test_laps_on_one_line_spread_by_less_than_their_noise() -> None:
    assert float(np.median(road().spread_m())) < 0.3


def test_another_day_s_map_makes_the_road_no_wider() -> None:
    """A plain receiver is off by a metre or two all day, and otherwise tomorrow."""
    circuit, good = draw(SEED), LoggerSettings(receiver=Receiver(white_m=0.3))
    log = record(drive(circuit, CAR, [LapPlan()] * 4), draw_line(circuit, 3), good, 5, (1, 3))
    apart = {"x": 2.0, "y": -1.2}
    moved = {n: replace(c, value=c.value + apart.get(n, 0.0)) for n, c in log.channels.items()}
    first, *_ = (Lap(log, s) for s in split(log) if s.complete)
    other = replace(log, source="tomorrow", channels=moved)
    both = founded(first, [Lap(other, s) for s in split(other) if s.complete][:1])
    assert both.laps == 2
    assert float(np.median(both.left_m - both.right_m)) < 0.8


def test_another_line_lies_beside_by_what_it_was_driven() -> None:
    line, laps = stint()
    beside = Line(line.circuit, line.offset_m + 2.0)
    log = record(drive(line.circuit, CAR, [LapPlan()] * 4), beside, LoggerSettings(rate_hz=50.0), 9, (1, 2))
    outermost = improved(founded(laps[0]), laps[0], Lap(log, split(log)[0])).left_m
    assert float(np.median(outermost)) == pytest.approx(2.0, abs=0.3)


def test_places_go_there_and_back() -> None:
    places = np.array([10.0, 700.0, 1500.0])
    assert road().to_founder(road().to_circuit(places)) == pytest.approx(places)


def test_without_positions_there_is_a_schematic_that_closes() -> None:
    lap = stint()[1][0]
    bare = Log(source=lap.log.source, channels={n: c for n, c in lap.log.channels.items() if n not in ("x", "y")})
    made = founded(Lap(bare, lap.span))
    assert made.schematic
    assert float(np.hypot(*(made.founder_xy_m[-1] - made.founder_xy_m[0]))) < 1.0
    assert improved(made, Lap(bare, lap.span), lap) is made


def test_a_straight_road_needs_no_turn() -> None:
    along = np.linspace(0.0, 100.0, 21)
    assert np.allclose(schematic(along, np.zeros(21))[:, 1], 0.0)
