"""Height, crest and dip from what is logged."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest

from jete.core.axis.align import identity
from jete.core.axis.corners import Corner
from jete.core.axis.laying import prepare
from jete.core.circuit.height import Profile, profile_of, words_of
from jete.core.driving.passage import passage_of
from jete.core.log.lap import Log
from jete.core.log.plane import origin_of
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


def profile(*without: str) -> Profile | None:
    bare = Log("log", {n: c for n, c in log().channels.items() if n not in without})
    lap = lap_of(bare)
    ready = prepare(lap, origin_of(bare))
    return profile_of([passage_of(lap, ready.motion, identity(ready.motion))], ready.motion.length_m)


def error_m(found: Profile) -> float:
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
    corners = {c.number: Corner(c.number, "left", c.start_m, c.apex_m, c.end_m) for c in CIRCUIT.corners}
    assert "crest" in words_of(found, corners[5])
    assert "dip" in words_of(found, corners[8])
    assert words_of(found, corners[3]) == ()


@pytest.mark.parametrize(("lean", "word"), [(0.06, "banked"), (-0.06, "off-camber")])
def test_the_road_leans_into_the_bend_or_out_of_it(lean: float, word: str) -> None:
    place = np.linspace(0.0, 1000.0, 201)
    level = np.zeros(201)
    found = Profile(place, level, level, np.full(201, lean), "altitude")
    assert words_of(found, Corner(1, "left", 100.0, 130.0, 160.0)) == (word,)
    assert words_of(found, Corner(1, "right", 100.0, 130.0, 160.0)) != (word,)
