"""A lap as a source of pieces: anchors laid out, values at places, and what a hold leaves of a lower speed."""

from __future__ import annotations

import numpy as np
import pytest

from drawn_profiles import FAST, SLOW, drawn, source
from jete.core.causes.hybrids.source import Source, left_in_hold

HERE = np.zeros(3, dtype=np.intp)


def test_anchors_stand_as_arrays_over_the_corners() -> None:
    lap = source(100.0, pickup_m=230.0, rolled_s=0.4)
    assert (lap.brake_m[0], lap.slowed_m[0], lap.pickup_m[0], lap.rolled_s[0]) == (100.0, 200.0, 230.0, 0.4)
    assert lap.all.tolist() == [0]


def test_what_dips_took_is_missing_as_driven_and_not_without_them() -> None:
    lap = drawn()
    lost = np.where(lap.grid.at_m > 300.0, 25.0, 0.0)
    dipped = Source.of(type(lap)(lap.grid, lap.energy, lost, lap.fade, lap.fade_back, lap.anchors))
    places = np.array([50.0, 215.0, 350.0])
    assert dipped.smooth_at(places, HERE)[:2] == pytest.approx([FAST, SLOW], abs=1.0)
    assert dipped.smooth_at(places, HERE) - dipped.driven_at(places, HERE) == pytest.approx([0.0, 0.0, 25.0])
    assert dipped.deficit_at(places, HERE) == pytest.approx([0.0, 0.0, 25.0])


def test_a_lower_speed_stays_all_through_a_hold() -> None:
    assert left_in_hold(source(), np.array([200.0, 215.0, 230.0]), HERE) == pytest.approx(np.ones(3))


def test_where_the_vehicle_drives_in_between_it_fades() -> None:
    lap = drawn(pickup_m=280.0)
    at = lap.grid.at_m
    driven_on = np.where((at > 205.0) & (at < 250.0), 1.5 * SLOW, lap.energy)
    fading = np.exp(-at / 100.0)
    fades = Source.of(type(lap)(lap.grid, driven_on, lap.deficit, fading, lap.fade_back, lap.anchors))
    assert left_in_hold(fades, np.array([200.0, 250.0, 280.0]), HERE) == pytest.approx(
        np.exp([0.0, -0.5, -0.8]), rel=0.02
    )
