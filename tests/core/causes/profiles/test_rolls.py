"""An early braking that rolls on below the other lap has slowed where it was as slow; others have not."""

from __future__ import annotations

import pytest

from drawn_profiles import drawn
from jete.core.causes.profiles.profile import Profile
from jete.core.causes.profiles.rolls import ended_by_roll

# The other brakes at 120 m and trails it to its lowest, picked up at 230 m.
OTHER = drawn(120.0)
ROLLED = {"rolled_s": 1.6, "rolled_first_s": 1.6}


def early(**known: float) -> Profile:
    """A lap that brakes 20 m earlier, leaves the brake as slow as the other at its slowest, and rolls on to less."""
    lap = drawn(**{"brake_m": 100.0, "released_m": 195.0, "slow": 180.0, **ROLLED, **known})
    return ended_by_roll(lap, OTHER)


def test_a_slowing_ends_where_the_lap_is_as_slow_as_the_other_ever_is() -> None:
    (own,) = early().anchors
    assert own.rolls_below
    # Down from 1250 to the other's 200 by 10.5 m/s²: 100 m past the brake point.
    assert own.slowed_m == pytest.approx(200.0, abs=0.5)
    assert own.least == pytest.approx(200.0, abs=2.0)


def test_no_slowing_ends_before_the_brake_is_let_go() -> None:
    (own,) = early(released_m=200.5, slow=170.0).anchors
    assert own.slowed_m >= 200.5


@pytest.mark.parametrize(
    "known",
    [
        pytest.param({"brake_m": 118.0, "released_m": 213.0, "pickup_m": 250.0}, id="braked where the other did"),
        pytest.param({"rolled_s": 0.1, "rolled_first_s": 0.1}, id="rolled no longer"),
        pytest.param({"slow": 199.0}, id="never slower than the other"),
        pytest.param({"slow": 100.0, "released_m": 208.0}, id="left the brake slower: overslowed"),
    ],
)
def test_others_keep_their_slowing(known: dict[str, float]) -> None:
    lap = drawn(**{"brake_m": 100.0, "released_m": 195.0, "slow": 180.0, **ROLLED, **known})
    assert ended_by_roll(lap, OTHER).anchors == lap.anchors
