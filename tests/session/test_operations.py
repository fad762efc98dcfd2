"""What can be done to the open session: pure steps from state to state."""

from __future__ import annotations

import pytest

from jete.core.log.lap import LapSpan
from jete.session import operations as ops
from jete.session.state import Changed, Choice, CornerPlace, LapKey, Lay, Look, Run, Session, difference

CORNERS = (CornerPlace(1, 0.0, 150.0, 400.0), CornerPlace(2, 400.0, 500.0, 700.0), CornerPlace(3, 700.0, 850.0, 1000.0))
LAY = Lay(1000.0, CORNERS)


def run(number: int, *times: float) -> Run:
    laps = tuple(LapSpan(i + 1, 0.0, t, 1000.0, complete=True) for i, t in enumerate(times))
    return Run(number, f"run-{number}", f"/x/run-{number}.csv", laps)


@pytest.fixture
def session() -> Session:
    return ops.lay_out(Session(runs=(run(1, 90.0, 89.0), run(2, 91.0, 92.0))), LAY)


def test_the_first_pair_is_the_fastest_against_the_best_of_another_run() -> None:
    grown = ops.add_run(ops.add_run(Session(), run(1, 90.0, 89.0)), run(2, 91.0, 88.0))
    assert grown.choice == Choice(LapKey(2, 2), LapKey(1, 2))


def test_with_one_run_the_two_best_laps_are_the_pair() -> None:
    assert ops.add_run(Session(), run(1, 90.0, 89.0, 95.0)).choice == Choice(LapKey(1, 2), LapKey(1, 1))


def test_a_chosen_pair_stays_when_another_run_comes() -> None:
    chosen = ops.choose_reference(ops.add_run(Session(), run(1, 90.0, 89.0)), LapKey(1, 1))
    assert ops.add_run(chosen, run(2, 80.0)).choice == chosen.choice


def test_runs_without_a_complete_lap_choose_nothing() -> None:
    broken = Run(1, "x", "/x", (LapSpan(0, 0.0, 10.0, 100.0, complete=False, why="out lap"),))
    assert ops.add_run(Session(), broken).choice == Choice()


def test_choosing_the_lap_as_reference_swaps_them(session: Session) -> None:
    pair = ops.choose_lap(ops.choose_reference(session, LapKey(1, 1)), LapKey(2, 1))
    swapped = ops.choose_reference(pair, LapKey(2, 1))
    assert swapped.choice == Choice(LapKey(2, 1), LapKey(1, 1))
    assert ops.choose_lap(swapped, LapKey(2, 1)).choice == Choice(LapKey(1, 1), LapKey(2, 1))


def test_a_new_axis_shows_the_whole_lap(session: Session) -> None:
    assert (session.look.start_m, session.look.end_m) == (0.0, 1000.0)
    assert session.look.corner == 1


def test_an_axis_of_nearly_the_same_length_keeps_the_look(session: Session) -> None:
    looking = ops.select_corner(session, 2)
    kept = ops.lay_out(looking, Lay(1004.0, CORNERS))
    assert (kept.look.start_m, kept.look.end_m, kept.look.place_m) == (400.0, 700.0, 500.0)


def test_selecting_a_corner_fills_the_range_and_moves_the_place(session: Session) -> None:
    look = ops.select_corner(session, 2).look
    assert look == Look(look.page, 500.0, 2, 400.0, 700.0)


def test_an_unknown_corner_changes_nothing(session: Session) -> None:
    assert ops.select_corner(session, 9) is session


@pytest.mark.parametrize(("start", "step", "expected"), [(1, 1, 2), (3, 1, 1), (1, -1, 3), (2, -1, 1)])
def test_corners_are_stepped_around_the_lap(session: Session, start: int, step: int, expected: int) -> None:
    assert ops.step_corner(ops.select_corner(session, start), step).look.corner == expected


def test_stepping_without_corners_does_nothing() -> None:
    assert ops.step_corner(Session(), 1) == Session()


@pytest.mark.parametrize(("place", "corner"), [(-5.0, 1), (399.9, 1), (400.0, 2), (5000.0, 3)])
def test_the_corner_follows_the_place(session: Session, place: float, corner: int) -> None:
    assert ops.go_to(session, place).look.corner == corner


def test_the_range_follows_a_place_that_would_leave_it(session: Session) -> None:
    moved = ops.go_to(ops.select_corner(session, 1), 900.0)
    assert moved.look.start_m <= 900.0 <= moved.look.end_m
    assert moved.look.end_m - moved.look.start_m == pytest.approx(400.0)


def test_a_range_stays_inside_the_lap_and_has_a_least_width(session: Session) -> None:
    assert ops.show_range(session, 990.0, 991.0).look.end_m == 1000.0
    narrow = ops.show_range(session, 500.0, 500.1).look
    assert narrow.end_m - narrow.start_m == ops.SHORTEST_RANGE_M


def test_zooming_keeps_the_place_under_the_pointer(session: Session) -> None:
    zoomed = ops.zoom(session, 250.0, 0.5).look
    assert (250.0 - zoomed.start_m) / (zoomed.end_m - zoomed.start_m) == pytest.approx(0.25)


def test_zooming_in_and_out_comes_back(session: Session) -> None:
    there = ops.zoom(ops.show_range(session, 300.0, 600.0), 450.0, 0.5)
    back = ops.zoom(there, 450.0, 2.0).look
    assert (back.start_m, back.end_m) == pytest.approx((300.0, 600.0))


def test_panels_are_chosen_by_kind_of_vehicle(session: Session) -> None:
    chosen = ops.arrange_panels(session, "motorcycle", ["lean", "gap"])
    assert chosen.display.panels_for("motorcycle") == ("lean", "gap")
    assert chosen.display.panels_for("car") == ()
    assert ops.arrange_panels(chosen, "motorcycle", ()) == session


@pytest.mark.parametrize(
    ("operation", "flags"),
    [
        (lambda s: ops.go_to_page(s, "ledger"), Changed.PAGE),
        (lambda s: ops.go_to(s, 10.0), Changed.PLACE),
        (lambda s: ops.go_to(s, 500.0), Changed.PLACE | Changed.CORNER),
        (lambda s: ops.show_range(s, 0.0, 300.0), Changed.RANGE),
        (lambda s: ops.display(s, theme="dark"), Changed.DISPLAY),
        (lambda s: ops.choose_reference(s, LapKey(1, 1)), Changed.CHOICE),
        (lambda s: s, Changed.NOTHING),
    ],
)
def test_flags_say_what_changed(session: Session, operation: object, flags: Changed) -> None:
    assert difference(session, operation(session)) == flags  # type: ignore[operator]


def test_states_are_hashable(session: Session) -> None:
    assert len({session, ops.go_to(session, 5.0), ops.go_to(session, 5.0)}) == 2


def test_labels_name_run_and_lap(session: Session) -> None:
    assert session.label(LapKey(1, 2)) == "run-1 · lap 2"
    assert session.label(None) == "–"
    assert session.span(LapKey(7, 1)) is None
