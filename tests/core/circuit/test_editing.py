"""Corners as people want them."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.axis.road.corners import Corner
from jete.core.circuit.editing import called, merged, moved, split, tightest_at
from jete.core.errors import InputError

PLACES = np.arange(0.0, 1001.0, 5.0)
# Two bends: tightest at 300 and at 400.
BENDS = 0.02 * np.exp(-(((PLACES - 300.0) / 20.0) ** 2)) + 0.03 * np.exp(-(((PLACES - 400.0) / 20.0) ** 2))
tightest = tightest_at(PLACES, BENDS)
LIST = (
    Corner(number=1, direction="left", start_m=100.0, apex_m=130.0, end_m=160.0, label="1", id=1),
    Corner(number=2, direction="left", start_m=260.0, apex_m=400.0, end_m=440.0, label="2", id=2, name="Marram"),
    Corner(number=3, direction="right", start_m=600.0, apex_m=640.0, end_m=700.0, label="3", id=3),
)


def test_a_corner_is_split_into_two_with_an_apex_each() -> None:
    parts = split(LIST, 2, 350.0, tightest)
    assert [(c.number, c.shown, c.id, c.apex_m) for c in parts[1:3]] == [(2, "2a", 2, 300.0), (3, "2b", 4, 400.0)]
    assert [c.name for c in parts[1:3]] == ["Marram", ""]
    assert parts[3].number == 4
    assert parts[3].id == 3


def test_two_corners_are_merged_into_one_that_has_the_first_ones_id() -> None:
    back = merged(split(LIST, 2, 350.0, tightest), 2, tightest)
    assert back == LIST


def test_a_number_that_is_taken_is_not_taken_again() -> None:
    parts = split(split(LIST, 2, 350.0, tightest), 2, 300.0, tightest)
    assert [c.shown for c in parts] == ["1", "2a", "2c", "2b", "3"]


@pytest.mark.parametrize("place", [255.0, 265.0, 435.0])
def test_a_part_that_is_no_corner_is_refused(place: float) -> None:
    with pytest.raises(InputError, match="shorter than 10 m"):
        split(LIST, 2, place, tightest)


def test_ends_move_as_far_as_the_neighbours() -> None:
    assert [(c.start_m, c.end_m) for c in moved(LIST, 2, 120.0, 900.0, tightest)][1] == (160.0, 600.0)
    with pytest.raises(InputError, match="can't be shorter"):
        moved(LIST, 2, 300.0, 305.0, tightest)


def test_an_apex_that_is_left_outside_is_found_anew() -> None:
    assert moved(LIST, 2, 260.0, 350.0, tightest)[1].apex_m == 300.0


def test_a_corner_is_numbered_and_named() -> None:
    named = called(LIST, 3, " 2b ", "Groyne")
    assert (named[2].shown, named[2].name, named[2].number) == ("2b", "Groyne", 3)
    with pytest.raises(InputError, match="another corner's number"):
        called(LIST, 3, "1", "")
    with pytest.raises(InputError, match="needs a number"):
        called(LIST, 3, " ", "")


def test_the_last_corner_has_none_after_it() -> None:
    with pytest.raises(InputError, match="none after it"):
        merged(LIST, 3, tightest)
    with pytest.raises(InputError, match="no such corner"):
        merged(LIST, 9, tightest)
