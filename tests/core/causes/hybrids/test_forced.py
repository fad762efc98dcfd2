"""How much later a pick-up is since the slowing ends later, and how much by a foot that waits."""

from __future__ import annotations

import pytest

from drawn_profiles import source
from jete.core.causes.hybrids.forced import forced_m

# Brakes at 100 m, is slow at 200 m, picks up at 205 m: as soon as it can.
REFERENCE = source(100.0, pickup_m=205.0)


def test_who_is_slow_later_by_a_later_brake_can_only_then_pick_up() -> None:
    assert forced_m(REFERENCE, source(110.0, pickup_m=215.0))[0] == pytest.approx(10.0, abs=0.1)


def test_what_the_foot_waits_beyond_that_is_its_own() -> None:
    assert forced_m(REFERENCE, source(110.0, pickup_m=222.0))[0] == pytest.approx(10.0, abs=0.1)


def test_who_slows_where_the_reference_does_is_forced_to_nothing() -> None:
    assert forced_m(REFERENCE, source(100.0, pickup_m=225.0))[0] == 0.0


def test_who_holds_the_speed_for_a_second_could_have_picked_up() -> None:
    long = source(100.0, pickup_m=225.0)
    assert forced_m(long, source(110.0, pickup_m=240.0))[0] == 0.0


def test_who_is_off_the_brake_and_rolls_longer_is_forced_no_farther_than_to_where_it_was_slow() -> None:
    waits = source(110.0, pickup_m=222.0, slow=190.0, released_m=204.0, rolled_s=0.6)
    # Off the brake at 204 m, but as slow as the reference only at 210 m.
    assert forced_m(REFERENCE, waits)[0] == pytest.approx(5.0, abs=1.0)


def test_who_trails_the_brake_on_is_forced_by_no_more_than_the_brake_point() -> None:
    reference = source(100.0, slow=410.0, pickup_m=185.0)
    trails = source(104.0, slow=200.0, pickup_m=207.0)
    assert forced_m(reference, trails)[0] == pytest.approx(4.0, abs=0.1)


def test_who_rolls_off_the_brake_where_the_reference_picks_up_could_have_picked_up_there() -> None:
    rolls = source(110.0, pickup_m=222.0, slow=190.0, released_m=200.0, rolled_s=0.6)
    assert forced_m(REFERENCE, rolls)[0] == 0.0
