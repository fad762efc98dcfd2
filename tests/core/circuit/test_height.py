"""Height, crest and dip from what is logged."""

from __future__ import annotations

import json
from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from jete.core.axis.place.align import identity
from jete.core.axis.place.laying import prepare
from jete.core.axis.road.corners import Corner
from jete.core.circuit.height import RoadProfile, profile_from, profile_of, words_of
from jete.core.circuit.landmarks import RoadBook
from jete.core.circuit.mean_path import CircuitRoad, founded, improved
from jete.core.circuit.on_axis import circuit_on
from jete.core.driving.passage import passage_of
from jete.core.log.lap import Lap, Log
from jete.core.log.plane import origin_of
from jete.core.motion.split import split
from jete.library.road_documents import road_document, road_from
from jete.simulate.demo import kestrel_sands
from jete.simulate.driver import LapPlan
from jete.simulate.feet import drive_stint_with_feet
from jete.simulate.lines import draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.vehicle import CAR
from known_laps import lap_of

CIRCUIT = kestrel_sands()


@cache
def log() -> Log:
    trace = drive_stint_with_feet(CIRCUIT, CAR, 3, [LapPlan()] * 3, 0.9, 1)
    channels = (*LoggerSettings().channels, "altitude")
    return record(trace, draw_line(CIRCUIT, 1, 0.0), LoggerSettings(rate_hz=50.0, channels=channels), 2, (1, 2))


def profile(*without: str) -> RoadProfile | None:
    bare = Log(source="log", channels={n: c for n, c in log().channels.items() if n not in without})
    lap = lap_of(bare)
    ready = prepare(lap, origin_of(bare))
    return profile_of([passage_of(lap, ready.motion, identity(ready.motion))], ready.motion.length_m)


@cache
def laps() -> tuple[Lap, ...]:
    """Six laps on one line, with altitude."""
    trace = drive_stint_with_feet(CIRCUIT, CAR, 5, [LapPlan()] * 8, 0.9, 1)
    channels = (*LoggerSettings().channels, "altitude")
    found = record(trace, draw_line(CIRCUIT, 1, 0.0), LoggerSettings(rate_hz=50.0, channels=channels), 4, (1, 7))
    return tuple(Lap(found, s) for s in split(found) if s.complete)


def bare(lap: Lap, *without: str) -> Lap:
    return Lap(replace(lap.log, channels={n: c for n, c in lap.log.channels.items() if n not in without}), lap.span)


def of_circuit(road: CircuitRoad) -> RoadProfile:
    assert road.rise is not None
    return profile_from(road.rise, road.founder_m, np.arange(len(road.founder_m), dtype=float))


@pytest.mark.long
def test_by_many_laps_a_circuit_knows_its_height_as_well_as_by_the_usual_one() -> None:
    timed = [bare(lap, "altitude") for lap in laps()]
    six = founded(timed[0], timed[1:])
    assert six.rise is not None
    assert (six.rise.laps, six.rise.source) == (len(timed), "acceleration")
    alone = [error_m(of_circuit(founded(lap))) for lap in timed]
    assert error_m(of_circuit(six)) < np.mean(alone)


def test_altitude_takes_the_place_of_what_was_felt() -> None:
    known = founded(bare(laps()[0], "altitude"), [bare(laps()[1], "altitude")])
    better = improved(known, laps()[0], laps()[2])
    assert better.rise is not None
    assert (better.rise.source, better.rise.laps) == ("altitude", 1)
    assert error_m(of_circuit(better)) < error_m(of_circuit(known))
    timed = improved(better, laps()[0], bare(laps()[3], "altitude"))
    assert timed.rise is not None
    assert np.array_equal(timed.rise.slope, better.rise.slope)


def test_where_nothing_shows_a_height_none_is_told() -> None:
    silent = [bare(lap, "altitude", "acc_long", "acc_lat", "acc_vert") for lap in laps()[:2]]
    assert founded(silent[0], silent[1:]).rise is None


def test_what_a_circuit_keeps_comes_back_and_lies_on_any_reference() -> None:
    road = road_from(json.loads(json.dumps(road_document(founded(laps()[0], laps()[1:])))))
    assert road.rise is not None
    on_axis = circuit_on("x", road, RoadBook(), (), (laps()[0], laps()[3]))
    found = on_axis.profile(float(on_axis.reference_m[-1]))
    assert found is not None
    assert found.source == "altitude"
    assert error_m(found) < 0.6


def error_m(found: RoadProfile) -> float:
    true = np.interp(found.place_m, CIRCUIT.station_m, CIRCUIT.height_m)
    off = found.height_m - (true - true[0])
    return float(np.sqrt(np.mean((off - off.mean()) ** 2)))


def test_altitude_tells_the_height() -> None:
    found = profile()
    assert found is not None
    assert found.source == "altitude"
    assert error_m(found) < 0.6


def test_acceleration_feels_the_height_where_no_altitude_is_logged() -> None:
    found = profile("altitude")
    assert found is not None
    assert found.source == "acceleration"
    assert error_m(found) < 3.0


def test_without_either_nothing_is_said() -> None:
    assert profile("altitude", "acc_long") is None


def test_crest_and_dip_are_words_of_the_corners_they_lie_in() -> None:
    found = profile()
    assert found is not None
    corners = {
        c.number: Corner(number=c.number, direction="left", start_m=c.start_m, apex_m=c.apex_m, end_m=c.end_m)
        for c in CIRCUIT.corners
    }
    assert "crest" in words_of(found, corners[5])
    assert "dip" in words_of(found, corners[8])
    assert words_of(found, corners[3]) == ()


@pytest.mark.parametrize(("lean", "word"), [(0.06, "banked"), (-0.06, "off-camber")])
def test_the_road_leans_into_the_bend_or_out_of_it(lean: float, word: str) -> None:
    place = np.linspace(0.0, 1000.0, 201)
    level = np.zeros(201)
    found = RoadProfile(place, level, level, np.full(201, lean), "altitude")
    assert words_of(found, Corner(number=1, direction="left", start_m=100.0, apex_m=130.0, end_m=160.0)) == (word,)
    assert words_of(found, Corner(number=1, direction="right", start_m=100.0, apex_m=130.0, end_m=160.0)) != (word,)
