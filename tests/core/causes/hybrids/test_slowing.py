"""The slowing of a hybrid: the approach that runs on, where it meets the slowing, and what a roll takes."""

from __future__ import annotations

import numpy as np
import pytest

from drawn_profiles import BRAKING, FAST, SLOW, drawn, source
from jete.core.causes.hybrids.slowing import Roll, approach, crossing, slowing_curve
from jete.core.causes.hybrids.source import Piece, Source

AT = np.arange(2.0, 400.0, 4.0)
ALL = np.zeros(len(AT), dtype=np.intp)
PIECE = Piece(AT, ALL, np.array([0]), np.full(len(AT), 4.0), np.ones(len(AT)), np.arange(len(AT)))


def rising(by: float) -> Source:
    """A lap that still gains when it lifts at 100 m."""
    lap = drawn(100.0)
    energy = np.where(lap.grid.at_m < 100.0, FAST - by * (100.0 - lap.grid.at_m), lap.energy)
    return Source.of(type(lap)(lap.grid, energy, lap.deficit, lap.fade, lap.fade_back, lap.anchors))


def test_the_approach_is_as_driven_up_to_the_lift_and_gains_on_past_it() -> None:
    lap = rising(2.0)
    driven = lap.driven_at(AT, ALL)
    run_on = approach(lap, PIECE, driven)
    assert np.array_equal(run_on[AT <= 100.0], driven[AT <= 100.0])
    assert run_on[AT > 110.0] == pytest.approx(FAST + 2.0 * (AT[AT > 110.0] - 100.0), abs=8.0)


def test_who_runs_on_begins_to_slow_where_both_curves_cross() -> None:
    runs_on = np.full(len(AT), FAST)
    slows = SLOW + BRAKING * (200.0 - AT)
    assert crossing(PIECE, runs_on, slows, np.array([250.0]))[0] == pytest.approx(100.0, abs=0.01)


def test_where_they_never_cross_it_begins_at_the_common_place() -> None:
    over = np.full(len(AT), FAST)
    assert crossing(PIECE, over, over + 1.0, np.array([180.0]))[0] == 180.0


@pytest.mark.parametrize("raised", [0.0, 50.0])
def test_a_slowing_of_one_lap_alone_is_its_own_and_a_higher_end_lifts_it(raised: float) -> None:
    lap = source(100.0)
    end = np.array([200.0])
    back = np.array([10.0, 50.0, 90.0])
    curve = slowing_curve(back[None, None], np.zeros(3, dtype=np.intp), (lap, end), (lap, end), np.full((2, 1), raised))
    assert curve[0, 0] == pytest.approx(SLOW + raised + BRAKING * back, abs=4.0)


def test_a_slowing_goes_on_before_its_brake_point_as_steep_as_it_is() -> None:
    lap = source(100.0)
    curve = slowing_curve(
        np.array([[[120.0]]]),
        np.zeros(1, dtype=np.intp),
        (lap, np.array([200.0])),
        (lap, np.array([200.0])),
        np.zeros((2, 1)),
    )
    assert curve[0, 0, 0] == pytest.approx(SLOW + BRAKING * 120.0, abs=25.0)


def test_a_roll_before_the_brake_takes_what_it_took_and_a_foot_that_changes_over_takes_nothing() -> None:
    roll = Roll.of(source(140.0, lift_m=100.0, rolls_at=1.5))
    assert roll.length_m[0] == 40.0
    assert roll.lost_at(np.array([0.0, 20.0, 40.0]), np.zeros(3, dtype=np.intp)) == pytest.approx(
        [0.0, 30.0, 60.0], abs=8.0
    )
    assert Roll.of(source(141.0, lift_m=140.0)).length_m[0] == 0.0
