"""What a dip of the throttle took: against a drive out that gains energy evenly."""

from __future__ import annotations

from types import SimpleNamespace
from typing import TYPE_CHECKING, cast

import numpy as np
import pytest

from jete.core.causes.profiles.dips import Dip, deficit_of, own_dips

if TYPE_CHECKING:
    from jete.core.driving.passage import Passage

AT = np.arange(0.0, 201.0)
GAIN = 3.0  # of v²/2 for each metre driven on


def dip(start: float, end: float, depth: float, top: float = 0.8) -> Dip:
    """A throttle that comes off at once, stays off, and comes back at once."""
    at = np.array([start, start + 1e-6, end - 1e-6, end])
    return Dip(at, top - depth * np.array([0.0, 1.0, 1.0, 0.0]))


def lap(*dips: Dip, throttle: float = 0.8) -> Passage:
    """A lap that keeps its throttle where it is but for dips; it takes a second for a metre."""
    at = np.arange(0.0, 200.0, 0.01)
    below = sum((np.interp(at, d.at_m, d.below, left=0.0, right=0.0) for d in dips), np.zeros_like(at))
    pedal = SimpleNamespace(at=lambda t: np.interp(t, at, throttle - below))
    return cast("Passage", SimpleNamespace(time_at=lambda m: m, throttle=pedal))


def own(dips: list[Dip], others: list[Dip], throttle: float = 0.8) -> list[Dip]:
    """Those of a lap's dips that are its own against another lap with others, whose throttle is at ``throttle`` else."""
    return own_dips(dips, others, lap(*dips), lap(*others, throttle=throttle))


def held_back(start: float, end: float) -> np.ndarray:
    """Energy that rises evenly but for a stretch in which it stands still."""
    return GAIN * (AT - np.clip(AT - start, 0.0, end - start))


def test_a_dip_took_the_gain_of_the_metres_it_lasted() -> None:
    lost = deficit_of(AT, (held_back(50.0, 70.0), held_back(50.0, 70.0)), [dip(50.0, 70.0, 0.5)], [], np.ones(201))
    assert lost[49] == 0.0
    assert lost[60] == pytest.approx(GAIN * 10.0, abs=GAIN)
    assert lost[100:] == pytest.approx(np.full(101, GAIN * 20.0), rel=0.05)


def test_what_it_took_fades_down_the_straight_and_two_add_up() -> None:
    fade = np.exp(-AT / 100.0)
    lost = deficit_of(AT, (held_back(50.0, 60.0), GAIN * AT), [dip(50.0, 60.0, 0.5)], [], fade)
    assert lost[160] / lost[60] == pytest.approx(np.exp(-1.0), rel=0.01)
    twice = held_back(50.0, 60.0) + held_back(100.0, 110.0) - GAIN * AT
    both = deficit_of(AT, (twice, GAIN * AT), [dip(50.0, 60.0, 0.5), dip(100.0, 110.0, 0.4)], [], np.ones(201))
    assert both[-1] == pytest.approx(2.0 * GAIN * 10.0, rel=0.1)


def test_without_a_dip_nothing_was_taken() -> None:
    assert not deficit_of(AT, (held_back(50.0, 70.0), GAIN * AT), [], [], np.ones(201)).any()


def test_where_the_other_lap_comes_off_too_only_what_is_beyond_its_dip_was_taken() -> None:
    """Both stand still from 50 to 70 m; one goes on standing to 80 m: without its own dip it would have driven as the other."""
    ours, other = held_back(50.0, 80.0), held_back(50.0, 70.0)
    lost = deficit_of(AT, (ours, other), [dip(50.0, 80.0, 0.5)], [dip(50.0, 70.0, 0.5)], np.ones(201))
    assert lost[-1] == pytest.approx(GAIN * 10.0, abs=GAIN)


@pytest.mark.parametrize(
    ("other", "hesitated"),
    [
        (dip(55.0, 75.0, 0.5), False),
        (dip(75.0, 95.0, 0.5), False),
        (dip(81.0, 101.0, 0.5), True),
        (dip(55.0, 75.0, 0.3), True),
        (dip(55.0, 65.0, 0.5), True),
    ],
)
def test_the_other_lap_s_dip_excuses_one_near_by_that_is_about_as_deep_and_as_long(
    other: Dip, *, hesitated: bool
) -> None:
    assert bool(own([dip(50.0, 70.0, 0.5)], [other])) is hesitated


def test_who_is_further_on_than_the_other_even_where_he_comes_off_has_not_hesitated() -> None:
    assert own([dip(50.0, 70.0, 0.3)], [], throttle=0.5) == []
    assert len(own([dip(50.0, 70.0, 0.3)], [], throttle=0.8)) == 1
