from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from jete.core.log.lap import Log
from jete.core.motion.split import line_of, split
from jete.core.motion.start_line import proposed_line
from jete.formats.reader import read_log


@pytest.fixture(scope="module")
def from_the_paddock() -> Log:
    """A run without lap numbers that begins far off the road."""
    log = read_log(Path("src/jete/app/assets/demo/ines-karlsby-run-1.parquet"))
    held = {n: c for n, c in log.channels.items() if n not in ("lap", "distance")}
    latitude = held["latitude"]
    away = np.where(latitude.time_s < 12.0, 0.004, 0.0)
    return Log("paddock", {**held, "latitude": replace(latitude, value=latitude.value + away)})


def test_the_first_sample_s_line_does_not_serve_such_a_log(from_the_paddock: Log) -> None:
    assert not any(s.complete for s in split(from_the_paddock, line_of(from_the_paddock)))


def test_a_line_is_proposed_that_every_lap_crosses(from_the_paddock: Log) -> None:
    line = proposed_line(from_the_paddock)
    complete = [s for s in split(from_the_paddock, line) if s.complete]
    assert len(complete) >= 7
    assert all(s.length_m == pytest.approx(3905.0, rel=0.01) for s in complete)


def test_without_positions_nothing_is_proposed(from_the_paddock: Log) -> None:
    held = {n: c for n, c in from_the_paddock.channels.items() if n != "latitude"}
    assert proposed_line(Log("blind", held)) is None
