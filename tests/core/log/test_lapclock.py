"""Laps told by a clock or a beacon."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.log.lapclock import lap_of_beacon, lap_resets, starts_anew, time_from_lap_clock
from jete.core.log.odometer import unwrapped

LAP_S = 60.0


def clock_of_laps(step_s: float = 0.1, laps: int = 3) -> np.ndarray:
    return np.arange(0.0, laps * LAP_S, step_s) % LAP_S


def test_a_beacon_that_counts_is_the_lap_number() -> None:
    found = lap_of_beacon(np.repeat([3.0, 4.0, 5.0], 10))
    assert found is not None
    assert found.tolist() == np.repeat([3.0, 4.0, 5.0], 10).tolist()


def test_pulses_of_a_beacon_are_counted_once_each() -> None:
    pulses = np.zeros(40)
    pulses[[10, 11, 30]] = 1.0
    found = lap_of_beacon(pulses)
    assert found is not None
    assert [found[k] for k in (9, 10, 12, 30, 39)] == [0.0, 1.0, 1.0, 2.0, 2.0]


def test_empty_cells_of_a_beacon_keep_its_count() -> None:
    found = lap_of_beacon(np.array([np.nan, 1.0, np.nan, 2.0, np.nan]))
    assert found is not None
    assert found.tolist() == [1.0, 1.0, 1.0, 2.0, 2.0]


@pytest.mark.parametrize("column", [np.zeros(20), np.full(20, np.nan)])
def test_a_beacon_that_never_changes_tells_no_laps(column: np.ndarray) -> None:
    assert lap_of_beacon(column) is None


def test_a_clock_that_starts_anew_tells_the_laps() -> None:
    clock = clock_of_laps()
    found = lap_resets(clock, np.arange(len(clock)) * 0.1)
    assert found is not None
    assert [int((found == k).sum()) for k in (0, 1, 2)] == [600, 600, 600]


def test_a_column_that_holds_the_last_laps_time_is_no_clock() -> None:
    held = np.repeat([61.0, 60.5, 62.0], 300)
    assert lap_resets(held, np.arange(900) * 0.1) is None


def test_only_a_fall_to_the_beginning_starts_anew() -> None:
    assert starts_anew(clock_of_laps())
    assert not starts_anew(np.concatenate([np.arange(100.0), 50.0 + np.arange(20.0)]))


@pytest.mark.parametrize("offset", [0.0, 0.03, 0.07])
def test_time_runs_on_over_a_clock_that_starts_anew(offset: float) -> None:
    true = offset + np.arange(1800) * 0.1
    time, repairs = time_from_lap_clock(true % LAP_S)
    assert time == pytest.approx(true, abs=0.05)
    assert repairs[0].count == 2


@pytest.mark.parametrize("count", [1000.0, 10000.0, 6553.6])
def test_a_counter_that_overflows_is_carried_on_and_told(count: float) -> None:
    true = np.arange(0.0, 25000.0, 7.0)
    found, repairs = unwrapped(true % count)
    assert found == pytest.approx(true)
    assert "overflows" in repairs[0].what


@pytest.mark.parametrize("length", [4321.0, 3900.0])
def test_a_distance_that_starts_with_each_lap_is_left_alone(length: float) -> None:
    true = np.arange(0.0, 25000.0, 7.0)
    found, repairs = unwrapped(true % length)
    assert found is not None
    assert not repairs


def test_with_a_lap_column_a_fall_inside_a_lap_is_an_overflow() -> None:
    true = np.arange(0.0, 12000.0, 5.0)
    found, repairs = unwrapped(true % 5000.0, np.floor(true / 3900.0))
    assert found == pytest.approx(true)
    assert repairs[0].count == 2


def test_with_a_lap_column_a_fall_at_its_change_is_none() -> None:
    true = np.arange(0.0, 12000.0, 5.0)
    assert not unwrapped(true % 4000.0, np.floor(true / 4000.0))[1]
