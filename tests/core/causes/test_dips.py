"""What a dip of the throttle took: against a drive out that gains energy evenly."""

import numpy as np
import pytest

from jete.core.causes.dips import Dip, deficit_of, same_dip

AT = np.arange(0.0, 201.0)
GAIN = 3.0  # of v²/2 for each metre driven on


def held_back(start: float, end: float) -> np.ndarray:
    """Energy that rises evenly but for a stretch in which it stands still."""
    return GAIN * (AT - np.clip(AT - start, 0.0, end - start))


def test_a_dip_took_the_gain_of_the_metres_it_lasted() -> None:
    lost = deficit_of(AT, (held_back(50.0, 70.0), held_back(50.0, 70.0)), [Dip(50.0, 70.0, 0.5)], np.ones(201))
    assert lost[49] == 0.0
    assert lost[60] == pytest.approx(GAIN * 10.0, abs=GAIN)
    assert lost[100:] == pytest.approx(np.full(101, GAIN * 20.0), rel=0.05)


def test_what_it_took_fades_down_the_straight_and_two_add_up() -> None:
    fade = np.exp(-AT / 100.0)
    lost = deficit_of(AT, (held_back(50.0, 60.0), GAIN * AT), [Dip(50.0, 60.0, 0.5)], fade)
    assert lost[160] / lost[60] == pytest.approx(np.exp(-1.0), rel=0.01)
    twice = held_back(50.0, 60.0) + held_back(100.0, 110.0) - GAIN * AT
    both = deficit_of(AT, (twice, GAIN * AT), [Dip(50.0, 60.0, 0.5), Dip(100.0, 110.0, 0.4)], np.ones(201))
    assert both[-1] == pytest.approx(2.0 * GAIN * 10.0, rel=0.1)


def test_without_a_dip_nothing_was_taken() -> None:
    assert not deficit_of(AT, (held_back(50.0, 70.0), GAIN * AT), [], np.ones(201)).any()


@pytest.mark.parametrize(
    ("other", "same"),
    [
        (Dip(55.0, 75.0, 0.5), True),
        (Dip(79.0, 90.0, 0.5), True),
        (Dip(81.0, 90.0, 0.5), False),
        (Dip(55.0, 75.0, 0.2), False),
    ],
)
def test_the_other_lap_s_dip_is_the_same_near_by_and_about_as_deep(other: Dip, *, same: bool) -> None:
    assert same_dip(Dip(50.0, 70.0, 0.5), other) is same
