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
    book = RoadBook((Landmark(1, LandmarkKind.CONE, 500.0), Landmark(2, LandmarkKind.TREE, 100.0)))
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
        Corner(1, "left", 180.0, 200.0, 230.0, "1", 1),
        Corner(2, "left", 500.0, 520.0, 560.0, "2", 2),
        Corner(3, "right", 50.0, 60.0, 80.0, "3", 3),
    )
    there = rebased_corners(corners, OLD, NEW)
    assert [(c.number, c.id) for c in there] == [(1, 2), (2, 3)]
    assert there[0].apex_m == pytest.approx(323.2, abs=0.5)
