"""Where both laps are at a time, and what is seen from the seat."""

from __future__ import annotations

from math import pi

import numpy as np
import pytest

from jete.core.causes.verdict.result import Comparison
from jete.core.circuit.drawn import drawn_of
from jete.core.walk.course import course_of
from jete.core.walk.seat import Camera, Eye, eye_on, road_ahead


def test_a_time_and_its_place_go_there_and_back(comparison: Comparison) -> None:
    course = course_of(comparison)
    for place in (0.0, 300.0, 1200.0, course.length_m):
        assert course.place_m("lap", course.time_s("lap", place)) == pytest.approx(place, abs=0.3)
    assert course.duration_s("reference") == pytest.approx(comparison.reference.lap.span.time_s)


def test_who_is_ahead_by_how_much_goes_with_the_gap(comparison: Comparison) -> None:
    course, lap = course_of(comparison), comparison.laps[0]
    place = 0.5 * course.length_m
    gap = float(np.interp(place, lap.trace_m, lap.trace_s))
    ahead = course.apart_m("lap", place)
    assert ahead * gap > 0.0
    speed = float(comparison.reference.speed_at_scale(np.array([place]))[0])
    assert ahead == pytest.approx(gap * speed, rel=0.25)


def test_the_stops_are_the_marks_of_both_in_the_order_of_the_road(comparison: Comparison) -> None:
    course = course_of(comparison)
    places = [s.place_m for s in course.stops]
    assert places == sorted(places)
    marks = comparison.laps[0].corners[0].lap_marks
    assert marks.brake_on_m in [s.place_m for s in course.stops if s.who == "lap" and s.words == "brake point"]
    assert any(s.words.startswith("shift to") for s in course.stops)
    first = course.next_stop(-1.0, 1)
    assert first is not None
    assert course.next_stop(first.place_m, -1) is None
    assert course.next_stop(course.length_m, 1) is None


def test_a_point_straight_ahead_is_in_the_middle_and_a_far_one_near_the_horizon() -> None:
    camera = Camera(Eye(0.0, 0.0, 1.2, 0.5 * pi), 800.0, 600.0)
    x, y, far = camera.seen(np.array([[0.0, 10.0, 0.0], [0.0, 5000.0, 0.0], [3.0, 10.0, 0.0], [0.0, -5.0, 0.0]]))
    assert x[0] == pytest.approx(400.0)
    assert y[0] > camera.horizon_px
    assert y[1] == pytest.approx(camera.horizon_px, abs=1.0)
    assert x[2] > 400.0
    assert np.isnan(far[3])


def test_twice_as_far_is_half_as_large() -> None:
    camera = Camera(Eye(0.0, 0.0, 1.2, 0.0, down_rad=0.0), 800.0, 600.0)
    x, _, _ = camera.seen(np.array([[20.0, -2.0, 1.2], [40.0, -2.0, 1.2]]))
    assert x[0] - 400.0 == pytest.approx(2.0 * (x[1] - 400.0))


def test_the_road_ahead_lies_left_and_right_of_the_eye_and_goes_on_over_the_line(comparison: Comparison) -> None:
    drawn = drawn_of(comparison.reference, [comparison.laps[0].passage], comparison.road, None)
    length = float(drawn.place_m[-1])
    ahead = road_ahead(drawn, length - 20.0, 60.0)
    camera = Camera(eye_on(drawn, drawn.reference_xy_m, length - 20.0, 1.15), 800.0, 600.0)
    left, right = camera.seen(ahead.left_m)[0][3:8], camera.seen(ahead.right_m)[0][3:8]
    assert np.all(left < 400.0)
    assert np.all(right > 400.0)
    assert np.isfinite(camera.seen(ahead.middle_m)[2][3:]).all()


def test_the_hardest_press_is_a_stop_between_brake_point_and_release(comparison: Comparison) -> None:
    stops = [s for s in course_of(comparison).stops if s.words == "hardest press"]
    corners = {c.corner.number: c for c in comparison.laps[0].corners}
    assert {s.who for s in stops} == {"reference", "lap"}
    for stop in stops:
        marks = corners[stop.corner].reference_marks if stop.who == "reference" else corners[stop.corner].lap_marks
        assert marks.brake_on_m is not None
        assert marks.brake_off_m is not None
        assert marks.brake_on_m <= stop.place_m <= marks.brake_off_m
