"""What stands along the road, and the road as it is seen from the seat."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.circuit.drawn import Drawn
from jete.core.circuit.landmarks import Hazard, Landmark, LandmarkKind, RoadBook
from jete.core.walk.seat import Camera, eye_on, road_ahead, strips_of


def straight() -> Drawn:
    """A kilometre of straight road to the east, ten metres wide."""
    place = np.linspace(0.0, 1000.0, 501)
    path = np.stack([place, np.zeros_like(place)], axis=1)
    edges = (path + np.array([0.0, 5.0]), path - np.array([0.0, 5.0]))
    return Drawn(place, path, (), edges, told_edges=True, schematic=False)


def test_what_is_straight_ahead_is_in_the_middle_and_nearer_is_lower() -> None:
    drawn = straight()
    camera = Camera(eye_on(drawn, drawn.reference_xy_m, 100.0, 1.2), 800.0, 400.0)
    x, y, far = camera.seen(np.array([[120.0, 0.0, 0.0], [180.0, 0.0, 0.0], [150.0, 4.0, 0.0], [90.0, 0.0, 0.0]]))
    assert x[:2] == pytest.approx(400.0)
    assert y[0] > y[1] > camera.horizon_px
    assert x[2] < 400.0
    assert np.isnan(far[3])


def bend(radius_m: float) -> Drawn:
    """A level road that turns left all the time."""
    place = np.linspace(0.0, 2.0 * np.pi * radius_m, 721)
    turned = place / radius_m
    path = radius_m * np.stack([np.sin(turned), 1.0 - np.cos(turned)], axis=1)
    return Drawn(place, path, (), None, told_edges=False, schematic=False)


def test_the_eye_turns_into_a_bend_by_half_of_what_the_road_turns_there() -> None:
    drawn = bend(60.0)
    along, looking = (eye_on(drawn, drawn.reference_xy_m, 0.0, 1.2, look_m=m) for m in (0.0, 30.0))
    # The chord of an arc leaves its tangent by half of the arc's angle.
    turned = looking.heading_rad - along.heading_rad
    assert turned == pytest.approx(0.5 * 30.0 / 60.0 - 0.5 * 6.0 / 60.0, abs=0.01)
    hairpin = bend(10.0)
    ends = [eye_on(hairpin, hairpin.reference_xy_m, 0.0, 1.2, look_m=m).heading_rad for m in (0.0, 30.0)]
    assert ends[1] - ends[0] == pytest.approx(np.radians(50.0), abs=0.01)
    level = straight()
    assert eye_on(level, level.reference_xy_m, 100.0, 1.2, look_m=40.0).heading_rad == pytest.approx(0.0)


def kerb(number: int, kind: LandmarkKind, at: float, side: str = "left") -> Landmark:
    return Landmark(id=number, kind=kind, circuit_m=at, side=side)  # type: ignore[arg-type]


def test_a_kerb_goes_from_where_it_begins_to_where_it_ends_on_its_side() -> None:
    book = RoadBook((
        kerb(1, LandmarkKind.KERB_BEGINS, 100.0), kerb(2, LandmarkKind.KERB_ENDS, 115.0, "right"),
        kerb(3, LandmarkKind.KERB_ENDS, 131.0), kerb(4, LandmarkKind.KERB_BEGINS, 400.0),
    ))  # fmt: skip
    found = {(s.kind, s.side, s.start_m, s.end_m) for s in strips_of(book, 1000.0)}
    assert found == {
        ("kerb", "left", 100.0, 131.0), ("kerb", "left", 400.0, 422.0), ("kerb", "right", 93.0, 115.0),
    }  # fmt: skip


def test_a_kerb_over_the_line_ends_beyond_it() -> None:
    book = RoadBook((kerb(1, LandmarkKind.KERB_BEGINS, 990.0), kerb(2, LandmarkKind.KERB_ENDS, 20.0)))
    (strip,) = strips_of(book, 1000.0)
    assert (strip.start_m, strip.end_m) == (990.0, 1020.0)


def test_a_wall_that_somebody_warned_of_is_seen() -> None:
    book = RoadBook((), (Hazard(1, 200.0, 260.0, "the harbour wall is close", "left"),))
    (strip,) = strips_of(book, 1000.0)
    assert (strip.kind, strip.side, strip.start_m, strip.end_m) == ("wall", "left", 200.0, 260.0)


def test_the_road_is_drawn_to_the_feet() -> None:
    """The nearest points are so near that no gap is left below the road."""
    ahead = road_ahead(straight(), 100.0, 200.0)
    steps = np.diff(ahead.place_m[ahead.place_m < 108.0])
    assert steps.max() <= 0.5
