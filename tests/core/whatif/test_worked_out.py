"""What a change does: nothing for nothing, the truth within its interval, never past the grip shown."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.whatif.asked_for import asked_change
from jete.core.whatif.worked_out import changed, together, within
from whatif_stint import Stint

CORNERS = range(1, 6)


@pytest.mark.parametrize("what", ["brake_on_m", "min_speed_kmh", "throttle_on_m", "feed"])
def test_a_change_of_nothing_is_nothing(stint: Stint, what: str) -> None:
    told = [changed(stint.held, stint.known, asked_change(k, [f"{what}=0"])) for k in CORNERS]
    gaps = [t.gap_s for t in told if t.gap_s is not None]
    assert gaps
    assert max(map(abs, gaps)) < 1e-4


def test_what_was_driven_with_a_change_is_what_was_told(stint: Stint) -> None:
    told = [
        (c, changed(stint.held, stint.known, asked_change(stint.corner(c.corner), c.sets, c.keeps)))
        for c in stint.trial.changes
        if c.as_asked
    ]
    offered = [(c.gap_s, t.gap_s, t.range_s) for c, t in told if t.gap_s is not None and t.range_s is not None]
    assert len(offered) >= 2
    for true, gap, (low, high) in offered:
        assert gap * true > 0.0 or abs(true) < 0.01
        assert low - 0.01 <= true <= high + 0.01


def test_the_whole_slowing_later_gains_more_than_later_and_harder(stint: Stint) -> None:
    both = [
        (
            changed(stint.held, stint.known, asked_change(k, ["brake_on_m=-4"], [keep]))
            for keep in ("braking", "slow_point_m")
        )
        for k in CORNERS
    ]
    gaps = [(whole.gap_s, softer.gap_s) for whole, softer in both if whole.offered and softer.offered]
    assert gaps
    assert all(whole > softer > 0.0 for whole, softer in gaps)


def test_far_later_braking_is_not_offered_and_says_why(stint: Stint) -> None:
    told = [changed(stint.held, stint.known, asked_change(k, ["brake_on_m=+25"])) for k in CORNERS]
    assert all(t.gap_s is None and t.range_s is None for t in told)
    assert any("grip shown here or in like corners" in (t.why or "") for t in told)


def test_an_earlier_pick_up_than_the_slowing_s_end_is_not_offered(stint: Stint) -> None:
    told = changed(stint.held, stint.known, asked_change(stint.corner(10), ["throttle_on_m=-60"]))
    assert told.why == "the slowing is not over yet where the throttle would be picked up"


def test_where_the_run_tells_no_vehicle_nothing_is_offered(stint: Stint) -> None:
    unknown = replace(stint.known, why="the throttle was not logged")
    told = changed(stint.held, unknown, asked_change(1, ["feed=+0.1"]))
    assert (told.offered, told.why) == (False, "the throttle was not logged")


def test_the_trace_begins_without_a_gap_and_ends_with_what_is_not_carried(stint: Stint) -> None:
    told = changed(stint.held, stint.known, asked_change(stint.corner(10), ["throttle_on_m=+3"]))
    assert told.gap_s is not None
    assert told.carried_s is not None
    assert told.trace.gap_s[0] == 0.0
    assert told.trace.gap_s[-1] == pytest.approx(told.gap_s - told.carried_s, abs=0.003)
    assert np.all(np.diff(told.trace.place_m) > 0.0)


def test_together_is_the_sum_and_no_surer_than_what_is_wrong_alike(stint: Stint) -> None:
    one = changed(stint.held, stint.known, asked_change(stint.corner(10), ["throttle_on_m=+3"]))
    both = together([one, one])
    assert both is not None
    assert one.gap_s is not None
    assert both[0] == pytest.approx(2.0 * one.gap_s)
    assert one.sigma_s < both[1] < 2.0 * one.sigma_s
    assert together([one, replace(one, gap_s=None)]) is None
    assert within(0.1, 0.1) == pytest.approx((-0.0645, 0.2645))
