"""A change as people type it, and what stays."""

from __future__ import annotations

import pytest

from jete.core.errors import InputError
from jete.core.whatif.asked_for import SetTo, asked_change


def test_what_stays_is_the_default_unless_it_is_chosen() -> None:
    assert asked_change(1, ["brake_on_m=5"]).sets == (SetTo("brake_on_m", 5.0, "slow_point_m"),)
    assert asked_change(1, ["brake_on_m=5"], ["braking"]).sets[0].keep == "braking"


def test_each_thing_keeps_what_is_its_own_to_keep() -> None:
    asked = asked_change(1, ["min_speed_kmh=+2", "throttle_on_m=−8"], ["brake_on_m"])
    assert [(s.keep, s.delta) for s in asked.sets] == [("brake_on_m", 2.0), ("feed", -8.0)]


@pytest.mark.parametrize(
    ("sets", "keeps", "told"),
    [
        (["brake=5"], [], "no change"),
        (["brake_on_m"], [], "no change"),
        (["brake_on_m=soon"], [], "no change"),
        (["brake_on_m=nan"], [], "no change"),
        (["brake_on_m=80"], [], "no small step"),
        (["feed=-1"], [], "no small step"),
        (["brake_on_m=2", "brake_on_m=3"], [], "twice"),
        (["throttle_on_m=2"], ["braking"], "can't stay"),
    ],
)
def test_what_is_no_change_is_told_with_what_would_be(sets: list[str], keeps: list[str], told: str) -> None:
    with pytest.raises(InputError, match=told):
        asked_change(1, sets, keeps)
