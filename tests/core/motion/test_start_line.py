"""The start line: given, found, and crossed between two samples."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from jete.core.log.lap import Channel, Log
from jete.core.log.plane import StartLine
from jete.core.motion.borders import line_of
from jete.core.motion.crossing import crossings
from jete.core.motion.split import split
from jete.core.motion.start_line import proposed_line
from jete.formats.reader import read_log


@pytest.fixture(scope="module")
def from_the_paddock() -> Log:
    """A run without lap numbers that begins far off the road."""
    log = read_log(Path("src/jete/app/assets/demo/ines-karlsby-run-1.parquet"))
    held = {n: c for n, c in log.channels.items() if n not in ("lap", "distance")}
    latitude = held["latitude"]
    away = np.where(latitude.time_s < 12.0, 0.004, 0.0)
    return Log(source="paddock", channels={**held, "latitude": replace(latitude, value=latitude.value + away)})


def test_the_first_sample_s_line_does_not_serve_such_a_log(from_the_paddock: Log) -> None:
    assert not any(s.complete for s in split(from_the_paddock, line_of(from_the_paddock)))


def test_a_line_is_proposed_that_every_lap_crosses(from_the_paddock: Log) -> None:
    line = proposed_line(from_the_paddock)
    complete = [s for s in split(from_the_paddock, line) if s.complete]
    assert len(complete) >= 7
    assert all(s.length_m == pytest.approx(3905.0, rel=0.01) for s in complete)


def standing(places: np.ndarray) -> np.ndarray:
    """Crossings of a line at zero by a vehicle that stands, with its receiver at these places."""
    time = np.arange(len(places)) * 0.1
    x, y = (Channel(n, "m", time, places) for n in ("x", "y"))
    clock = np.arange(31) * 0.1
    held = {"time": Channel("time", "s", clock, clock), "speed": Channel("speed", "m/s", clock, np.zeros(31))}
    return crossings(Log(source="parked", channels={**held, "x": x, "y": y}), (x, y), StartLine(0.0, 0.0, 0.0))


@pytest.mark.parametrize("places", [np.empty(0), np.zeros(1), np.full(30, 20.0)])
def test_a_path_of_one_place_crosses_no_line(places: np.ndarray) -> None:
    assert standing(places).size == 0


def test_who_stands_just_past_the_line_crossed_it_before_the_log_began() -> None:
    assert standing(np.full(30, 2.0)) == pytest.approx([-2.0])


def test_without_positions_nothing_is_proposed(from_the_paddock: Log) -> None:
    held = {n: c for n, c in from_the_paddock.channels.items() if n != "latitude"}
    assert proposed_line(Log(source="blind", channels=held)) is None
