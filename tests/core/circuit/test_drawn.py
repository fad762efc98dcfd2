"""Lines drawn farther apart than they are: how far, and where they must not fold over."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.circuit.drawn import Drawn, widened
from jete.core.circuit.mean_path import left_of_m, normals

HALF_M = 5.0


def bend(radius_m: float, aside_m: float) -> Drawn:
    """A straight of 100 m, a half turn to the left and a straight back; a lap so far left of the reference, which is in the middle."""
    turn = np.linspace(0.0, np.pi, max(round(np.pi * radius_m / 2.0), 8))
    out, back = np.linspace(-100.0, -2.0, 50), np.linspace(-2.0, -100.0, 50)
    x = np.concatenate([out, radius_m * np.sin(turn), back])
    y = np.concatenate([0.0 * out, radius_m * (1.0 - np.cos(turn)), 2.0 * radius_m + 0.0 * back])
    middle = np.stack([x, y], axis=1)
    place = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(middle, axis=0).T))])
    left = normals(middle)
    return Drawn(
        place, middle, (middle + aside_m * left, None), (middle + HALF_M * left, middle - HALF_M * left),
        told_edges=True, schematic=False,
    )  # fmt: skip


def test_what_lies_beside_the_middle_lies_so_many_times_as_far_out() -> None:
    drawn = bend(120.0, 1.5)
    wide, by = widened(drawn, 3.0, 0.0, float(drawn.place_m[-1]))
    assert by == 3.0
    assert wide.laps_xy_m[0] is not None
    assert wide.edges_m is not None
    assert left_of_m(wide.laps_xy_m[0], wide.reference_xy_m) == pytest.approx(4.5, abs=0.02)
    assert left_of_m(wide.edges_m[0], wide.reference_xy_m) == pytest.approx(3.0 * HALF_M, abs=0.1)
    assert wide.laps_xy_m[1] is None
    assert drawn.beside_m(0, 150.0) == pytest.approx(1.5, abs=0.01), "the lines to scale stay as they are"


def test_a_tight_bend_is_widened_by_less_so_that_its_inner_edge_does_not_fold() -> None:
    drawn = bend(12.0, 1.0)
    wide, by = widened(drawn, 3.0, 0.0, float(drawn.place_m[-1]))
    assert 1.0 < by < 2.4
    assert wide.edges_m is not None
    steps = np.diff(wide.edges_m[0], axis=0)
    along = np.diff(drawn.reference_xy_m, axis=0)
    assert np.all(np.sum(steps * along, axis=1) > 0.0), "the inner edge still goes the way of the road"
    elsewhere = widened(drawn, 3.0, 0.0, 60.0)[1]
    assert elsewhere == 3.0, "only the piece that is looked at decides"


def test_without_edges_lines_stay_where_they_are() -> None:
    drawn = bend(50.0, 1.0)
    bare = Drawn(drawn.place_m, drawn.reference_xy_m, drawn.laps_xy_m, None, told_edges=False, schematic=False)
    assert widened(bare, 3.0, 0.0, 100.0) == (bare, 1.0)
