"""Places told from what can be seen."""

from __future__ import annotations

import pytest

from jete.core.circuit.landmarks import Hazard, Landmark, LandmarkKind, RoadBook, both_told_from, told_from

BOARD = Landmark(id=1, kind=LandmarkKind.BOARD, circuit_m=500.0, text="100")
CONE = Landmark(id=2, kind=LandmarkKind.CONE, circuit_m=540.0, text="second cone")
TREE = Landmark(id=3, kind=LandmarkKind.TREE, circuit_m=520.0, seen="badly")


@pytest.mark.parametrize(
    ("place", "name", "metres"),
    [(491.0, 1, -9.0), (501.0, 1, 1.0), (503.0, 2, -37.0), (545.0, 2, 5.0), (579.0, 2, 39.0)],
)
def test_the_next_one_ahead_tells_a_place_and_one_just_passed_where_none_is(
    place: float, name: int, metres: float
) -> None:
    found = told_from(place, (BOARD, CONE, TREE))
    assert found is not None
    assert (found.landmark.id, found.metres) == (name, pytest.approx(metres))


def test_far_from_all_of_them_there_is_nothing_to_tell() -> None:
    assert told_from(400.0, (BOARD, CONE)) is None
    assert told_from(581.0, (BOARD, CONE)) is None
    assert told_from(500.0, ()) is None


def test_what_is_badly_seen_counts_where_there_is_nothing_else() -> None:
    found = told_from(510.0, (TREE,))
    assert found is not None
    assert found.landmark is TREE


def test_a_book_keeps_landmarks_in_the_order_of_the_road() -> None:
    book = RoadBook().with_landmark(CONE).with_landmark(BOARD)
    assert [x.id for x in book.landmarks] == [1, 2]
    moved = book.with_landmark(Landmark(id=1, kind=LandmarkKind.BOARD, circuit_m=600.0, text="100"))
    assert [x.id for x in moved.landmarks] == [2, 1]
    assert book.next_id == 3
    assert [x.id for x in book.without(2).landmarks] == [1]


def test_hazards_are_told_for_the_piece_they_reach_into() -> None:
    book = RoadBook(hazards=(Hazard(7, 100.0, 150.0, "wall"),))
    assert book.hazards_in(140.0, 200.0)
    assert not book.hazards_in(150.0, 200.0)


def test_two_places_are_told_from_one_landmark_where_it_is_near_both() -> None:
    """A brake 5 m before an arrow and one 4 m past it are not told from the arrow and from a kerb 60 m on."""
    arrow, kerb = BOARD, Landmark(id=2, kind=LandmarkKind.KERB_BEGINS, circuit_m=560.0)
    assert [told.landmark.id for told in both_told_from((495.0, 504.0), (arrow, kerb))] == [1, 1]
    assert [told.metres for told in both_told_from((495.0, 504.0), (arrow, kerb))] == [-5.0, 4.0]
    assert [told.landmark.id for told in both_told_from((430.0, 545.0), (arrow, kerb))] == [1, 2]
    assert both_told_from((495.0, 900.0), (arrow, kerb))[1] is None
