"""Two ways through a corner: found where they differ, not claimed where they don't."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.numeric.student import quantile, two_sided
from jete.core.passes.two_ways import levelled, two_ways
from known_laps import a_pass

SEEDS = range(200)


def drawn(seed: int, difference: float, scatter: float, count: int) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(seed)
    return rng.normal(40.0, scatter, count), rng.normal(40.0 - difference, scatter, count)


def found(difference: float, scatter: float, count: int) -> float:
    told = [two_ways(drawn(s, difference, scatter, count)) for s in SEEDS]
    return float(np.mean([t is not None and t.verdict == "told" for t in told]))


def test_six_hundredths_are_found_with_fourteen_passes_each() -> None:
    assert found(0.06, 0.05, 14) >= 0.8


def test_with_more_scatter_it_takes_twenty_eight() -> None:
    assert found(0.06, 0.08, 28) >= 0.7
    assert found(0.06, 0.08, 14) < 0.7


def test_equal_ways_are_not_told_apart() -> None:
    assert found(0.0, 0.05, 14) <= 0.05 + 0.02


def test_how_many_more_it_takes_is_told() -> None:
    told = [two_ways(drawn(s, 0.06, 0.08, 14)) for s in SEEDS]
    needs = [t.more + 14 for t in told if t is not None and t.verdict == "open" and abs(t.difference_s) > 0.03]
    assert 15 <= float(np.median(needs)) <= 60


def test_one_spoilt_pass_decides_nothing() -> None:
    a, b = drawn(3, 0.0, 0.03, 14)
    b[4] += 3.0
    told = two_ways((a, b))
    assert told is not None
    assert abs(told.difference_s) < 0.05


def test_many_passes_that_are_alike_say_so() -> None:
    told = two_ways(drawn(1, 0.0, 0.03, 60))
    assert told is not None
    assert told.verdict == "alike"
    assert told.more == 0


def test_three_passes_say_nothing() -> None:
    assert two_ways(([40.0] * 3, [40.1] * 9)) is None


def test_levels_and_fall_of_runs_are_taken_off() -> None:
    """Second runs a second slower on a run that loses 0.05 s a lap; the second way is 0.1 s faster."""
    passes, runs, laps, ways = [], [], [], []
    for run, level in ((1, 40.0), (2, 41.0)):
        for lap in range(1, 9):
            second = (lap + run) % 2 == 0
            passes.append(a_pass(whole_s=level + 0.05 * lap - 0.1 * second))
            runs.append(run)
            laps.append(lap)
            ways.append(second)
    time = levelled(passes, runs, laps, ways)
    told = two_ways((time[~np.array(ways)], time[np.array(ways)]))
    assert told is not None
    assert told.difference_s == pytest.approx(-0.1, abs=1e-6)


def test_a_run_of_one_way_alone_does_not_count_beside_mixed_ones() -> None:
    passes = [a_pass(whole_s=40.0 + 0.01 * k) for k in range(12)]
    runs = [1] * 8 + [2] * 4
    ways = [k % 2 == 0 for k in range(8)] + [True] * 4
    assert np.isnan(levelled(passes, runs, list(range(12)), ways)[8:]).all()


@pytest.mark.parametrize(("freedom", "wide"), [(1.0, 12.706), (5.0, 2.571), (30.0, 2.042), (1e9, 1.960)])
def test_students_quantiles_are_those_of_the_tables(freedom: float, wide: float) -> None:
    assert quantile(0.95, freedom) == pytest.approx(wide, abs=2e-3)
    assert two_sided(-wide, freedom) == pytest.approx(0.05, abs=2e-4)
