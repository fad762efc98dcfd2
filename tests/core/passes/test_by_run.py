"""Passes put together by run: against the middle and scatter worked out by hand."""

import pytest

from jete.core.passes.by_run import LEAST_PASSES, by_run


def test_each_run_has_the_middle_of_its_own_passes_and_of_their_times():
    rows = by_run([3, 3, 3, 8, 8], [100.0, 104.0, 101.0, None, 90.0], [6.0, 6.3, 6.1, 9.0, 7.0])
    assert [r.run for r in rows] == [3, 8]
    assert rows[0].values == (100.0, 104.0, 101.0)
    assert rows[0].at == (0, 1, 2)
    assert (rows[0].value.middle, rows[0].time_s.middle) == (101.0, 6.1)
    assert rows[0].value.spread == pytest.approx(1.4826), "the middle one of 1, 3 and 0 is 1"
    assert (rows[1].at, rows[1].time_s.middle) == ((4,), 7.0), "a pass without the mark counts for neither"


def test_a_spread_is_told_of_three_passes_and_more():
    few, enough = by_run([1] * (LEAST_PASSES - 1) + [2] * LEAST_PASSES, [5.0] * 5, [1.0, 1.1, 2.0, 2.1, 2.2])
    assert few.value.spread is None
    assert few.time_s.spread is None
    assert enough.value.spread == 0.0
    assert enough.time_s.spread is not None


def test_a_run_without_the_mark_has_no_row():
    assert by_run([1, 1], [None, None], [5.0, 5.0]) == []
