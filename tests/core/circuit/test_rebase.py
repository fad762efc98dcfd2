"""What people set stays where it stands when the axis is another."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.axis.road.corners import Corner
from jete.core.circuit.landmarks import Hazard, Landmark, LandmarkKind, RoadBook
from jete.core.circuit.rebase import Axis, rebased, rebased_corners

# A round road of 1000 m; the new axis begins 200 m further on and counts a percent more.
ANGLE = np.linspace(0.0, 2.0 * np.pi, 201)
RADIUS = 1000.0 / (2.0 * np.pi)


def ring(turned: float, scale: float) -> Axis:
    xy = RADIUS * np.stack([np.cos(ANGLE + turned), np.sin(ANGLE + turned)], axis=1)
    return Axis(1000.0 * scale * ANGLE / (2.0 * np.pi), xy)


OLD, NEW = ring(0.0, 1.0), ring(2.0 * np.pi * 0.2, 1.01)


def test_a_landmark_keeps_its_spot() -> None:
    book = RoadBook(
        (
            Landmark(id=1, kind=LandmarkKind.CONE, circuit_m=500.0),
            Landmark(id=2, kind=LandmarkKind.TREE, circuit_m=100.0),
        )
    )
    assert [(x.id, pytest.approx(x.circuit_m, abs=0.5)) for x in rebased(book, OLD, NEW).landmarks] == [
        (1, 303.0),
        (2, 909.0),
    ]


def test_hazards_sectors_and_edges_go_along() -> None:
    book = RoadBook(hazards=(Hazard(1, 300.0, 350.0, "wall"),), sectors_m=(400.0,), edges=((600.0, 4.0, 5.0),))
    there = rebased(book, OLD, NEW)
    assert (there.hazards[0].start_m, there.hazards[0].end_m) == pytest.approx((101.0, 151.5), abs=0.5)
    assert there.sectors_m[0] == pytest.approx(202.0, abs=0.5)
    assert there.edges[0] == pytest.approx((404.0, 4.0, 5.0), abs=0.5)


def test_corners_are_counted_anew_and_one_that_the_line_cuts_is_left_out() -> None:
    corners = (
        Corner(number=1, direction="left", start_m=180.0, apex_m=200.0, end_m=230.0, label="1", id=1),
        Corner(number=2, direction="left", start_m=500.0, apex_m=520.0, end_m=560.0, label="2", id=2),
        Corner(number=3, direction="right", start_m=50.0, apex_m=60.0, end_m=80.0, label="3", id=3),
    )
    there = rebased_corners(corners, OLD, NEW)
    assert [(c.number, c.id) for c in there] == [(1, 2), (2, 3)]
    assert there[0].apex_m == pytest.approx(323.2, abs=0.5)
