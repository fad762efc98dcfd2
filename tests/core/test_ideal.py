"""The ideal lap: joined from best passes, its seams told."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from jete.core.causes.verdict.result import Comparison
from jete.core.compare import compare
from jete.core.errors import InputError
from jete.core.ideal import IdealLap, ideal_lap
from jete.core.log.lap import Lap
from jete.core.motion.split import split
from jete.core.run import borders_m, run_of
from jete.formats.reader import read_log

DEMO = Path("src/jete/app/assets/demo")


@pytest.fixture(scope="module")
def laps() -> list[Lap]:
    log = read_log(DEMO / "tomasz-oryel-run-1.parquet")
    return [Lap(log, s) for s in split(log) if s.complete]


@pytest.fixture(scope="module")
def run(laps: list[Lap]) -> Comparison:
    best = min(laps, key=lambda lap: lap.span.time_s)
    return compare(best, [lap for lap in laps if lap is not best])


@pytest.fixture(scope="module")
def ideal(run: Comparison) -> IdealLap:
    return ideal_lap(run, "ideal")


def test_its_time_is_the_sum_of_the_best_passes(ideal: IdealLap, run: Comparison) -> None:
    with_reference = replace(run, laps=(*run.laps, compare(run.reference.lap, [run.reference.lap]).laps[0]))
    assert ideal.lap.span.time_s == pytest.approx(run_of(with_reference).best_sum_s, abs=0.02)
    assert ideal.lap.span.time_s < run.reference.lap.span.time_s
    assert len(ideal.laps) > 2


def test_it_is_a_lap_like_any_other_and_no_slower_anywhere(ideal: IdealLap, laps: list[Lap]) -> None:
    compared = compare(ideal.lap, laps)
    for lap in compared.laps:
        assert lap.gap_s == pytest.approx(lap.passage.lap.span.time_s - ideal.lap.span.time_s, abs=1e-6)
        assert min(c.gap_s for c in lap.corners) > -0.06
        assert sum(c.gap_s for c in lap.corners) == pytest.approx(lap.gap_s, abs=1e-9)


def test_time_and_place_rise_all_along(ideal: IdealLap) -> None:
    log = ideal.lap.log
    assert np.all(np.diff(log.channels["time"].time_s) > 0.0)
    assert np.all(np.diff(log.channels["distance"].value) >= 0.0)
    assert log.channels["distance"].value[-1] == pytest.approx(ideal.lap.span.length_m)


def test_seams_stand_where_the_owner_changes(ideal: IdealLap, run: Comparison) -> None:
    starts = dict(zip([c.number for c in run.corners], borders_m(run), strict=False))
    assert [s.place_m for s in ideal.seams] == [starts[s.corner] for s in ideal.seams]
    assert [s.to_lap for s in ideal.seams] == list(ideal.laps[1:])
    assert [s.from_lap for s in ideal.seams] == list(ideal.laps[:-1])
    assert ideal.lap.log.notes[0].startswith("joined from the best passes of laps")


def test_a_jump_that_no_vehicle_makes_is_told(run: Comparison) -> None:
    fast = run.laps[0].passage
    motion = replace(fast.motion, speed_mps=fast.motion.speed_mps + np.where(fast.motion.time_s > 40.0, 30.0, 0.0))
    odd = replace(run, laps=(replace(run.laps[0], passage=replace(fast, motion=motion)), *run.laps[1:]))
    joined = ideal_lap(odd, "ideal")
    from_odd = [s for s in joined.seams if fast.lap.span.number in (s.from_lap, s.to_lap) and s.place_m > 2000.0]
    assert all(not s.honest for s in from_odd)
    assert len([n for n in joined.lap.log.notes if "can't be driven" in n]) == sum(not s.honest for s in joined.seams)


def test_one_lap_is_nothing_to_join(run: Comparison) -> None:
    with pytest.raises(InputError, match="at least two laps"):
        ideal_lap(run, "ideal", counted=[])
