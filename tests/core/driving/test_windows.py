"""Windows and phases tile the lap."""

from __future__ import annotations

from dataclasses import replace

import pytest

from jete.core.axis.road.corners import Corner
from jete.core.driving.marks import Marks
from jete.core.driving.windows import Span, phases_of, windows_of

PLAIN = Marks(
    brake_on_m=200.0, brake_peak=50.0, brake_unit="bar", brake_off_m=290.0, lift_m=195.0, turn_in_m=260.0, slow_point_m=300.0,
    min_speed_kmh=80.0, throttle_on_m=310.0, full_throttle_m=350.0, exit_speed_kmh=100.0, coast_s=0.1, throttle_dips=0, gear=3,
)  # fmt: skip
FLAT = replace(
    PLAIN, brake_on_m=None, brake_peak=None, brake_unit=None, brake_off_m=None, lift_m=None, throttle_on_m=None, full_throttle_m=None
)  # fmt: skip
CORNERS = [
    Corner(number=1, direction="left", start_m=250.0, apex_m=300.0, end_m=340.0),
    Corner(number=2, direction="right", start_m=700.0, apex_m=740.0, end_m=800.0),
]


def moved(marks: Marks, by: float) -> Marks:
    places = {n: getattr(marks, n) for n in vars(PLAIN) if n.endswith("_m")}
    return replace(marks, **{n: v + by for n, v in places.items() if v is not None})


SECOND = moved(PLAIN, 450.0)


def test_the_first_window_begins_at_the_line_and_the_last_ends_there() -> None:
    windows = windows_of(CORNERS, [PLAIN, SECOND], [PLAIN, SECOND], 1000.0)
    assert (windows[0].start_m, windows[-1].end_m) == (0.0, 1000.0)


@pytest.mark.parametrize(("by", "start"), [(0.0, 615.0), (-20.0, 595.0), (25.0, 615.0)])
def test_a_window_begins_before_the_earlier_of_both_laps(by: float, start: float) -> None:
    windows = windows_of(CORNERS, [PLAIN, SECOND], [PLAIN, moved(SECOND, by)], 1000.0)
    assert windows[1].start_m == start


def test_a_window_does_not_begin_before_the_corner_ahead_ends() -> None:
    windows = windows_of(CORNERS, [PLAIN, SECOND], [PLAIN, moved(SECOND, -400.0)], 1000.0)
    assert windows[1].start_m == CORNERS[0].end_m


def test_a_flat_corner_s_window_begins_before_its_start() -> None:
    windows = windows_of(CORNERS, [PLAIN, FLAT], [PLAIN, FLAT], 1000.0)
    assert windows[1].start_m == 670.0


def names(window: Span, reference: Marks, lap: Marks) -> list[tuple[str, float, float]]:
    return [(p.phase, p.start_m, p.end_m) for p in phases_of(window, CORNERS[0], reference, lap)]


def test_phases_are_divided_by_brake_points_and_the_reference() -> None:
    assert names(Span(150.0, 600.0), PLAIN, moved(PLAIN, -9.0)) == [
        ("approach", 150.0, 191.0),
        ("braking", 191.0, 260.0),
        ("turning", 260.0, 300.0),
        ("exit", 300.0, 350.0),
        ("straight", 350.0, 600.0),
    ]


def test_without_full_throttle_the_exit_runs_to_the_window_s_end() -> None:
    phases = names(Span(150.0, 600.0), replace(PLAIN, full_throttle_m=None), PLAIN)
    assert phases[-1] == ("exit", 300.0, 600.0)


def test_a_flat_corner_has_no_braking() -> None:
    assert "braking" not in [n for n, _, _ in names(Span(150.0, 600.0), FLAT, FLAT)]


def test_a_turn_in_before_the_brake_leaves_no_braking_phase() -> None:
    late = replace(PLAIN, turn_in_m=180.0)
    assert [n for n, _, _ in names(Span(150.0, 600.0), late, late)] == ["approach", "turning", "exit", "straight"]


def test_onset_and_slowing_fall_back() -> None:
    assert PLAIN.slowing_m == 195.0
    assert PLAIN.onset_m == 200.0
    lifted = replace(PLAIN, brake_on_m=None)
    assert lifted.onset_m == 195.0
    assert FLAT.slowing_m is None
