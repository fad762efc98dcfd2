"""A film's clock against the log's: what one and two ties know, and what they refuse."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jete.core.errors import InputError
from jete.core.walk.film import Tie, clock_of, shifted, tied


@given(
    rate=st.floats(0.995, 1.005),
    start=st.floats(-100.0, 1000.0),
    a=st.floats(0.0, 60.0),
    b=st.floats(80.0, 300.0),
    at=st.floats(-50.0, 400.0),
)
def test_two_ties_find_the_clock_that_made_them(rate: float, start: float, a: float, b: float, at: float) -> None:
    clock = clock_of([Tie(start + rate * log_s, log_s) for log_s in (a, b)])
    assert clock is not None
    assert clock.film_s(at) == pytest.approx(start + rate * at, abs=1e-6)
    assert clock.log_s(clock.film_s(at)) == pytest.approx(at, abs=1e-6)


def test_one_tie_trusts_the_films_clock() -> None:
    clock = clock_of([Tie(3.0, 103.0)])
    assert clock is not None
    assert clock.film_s(163.0) == 63.0


def test_a_film_that_is_not_tied_has_no_clock() -> None:
    assert clock_of([]) is None


def test_places_of_two_laps_are_refused_with_both_lengths() -> None:
    with pytest.raises(InputError, match=r"60\.0 s apart in the film and 155\.0 s in the log"):
        tied([Tie(10.0, 10.0)], Tie(70.0, 165.0))


def test_a_second_place_stands_beside_the_first_and_a_third_takes_the_nearer_ones() -> None:
    first, second = Tie(1.0, 10.0), Tie(61.0, 70.0)
    assert tied([first], second) == (first, second)
    assert tied([first, second], Tie(1.04, 10.5)) == (Tie(1.04, 10.5), second)


def test_a_place_near_the_only_one_takes_its_place() -> None:
    assert tied([Tie(1.0, 10.0)], Tie(5.1, 14.0)) == (Tie(5.1, 14.0),)


def test_a_shift_moves_what_is_shown_and_no_rate() -> None:
    ties = (Tie(1.0, 10.0), Tie(61.03, 70.0))
    before, after = clock_of(ties), clock_of(shifted(ties, 0.04))
    assert before is not None
    assert after is not None
    assert after.film_s(40.0) - before.film_s(40.0) == pytest.approx(0.04)
    assert after.rate == pytest.approx(before.rate)
