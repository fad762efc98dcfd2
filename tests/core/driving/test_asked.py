"""Which bends are corners: one bend with two slowings, on a road and a lap that are known to the metre."""

from __future__ import annotations

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest

from jete.core.axis.road.corners import find_corners
from jete.core.axis.road.road import Road
from jete.core.driving.asked import asked_bends, is_flat
from jete.core.driving.passage import Passage
from jete.core.driving.pedals import Pedal
from jete.core.motion.motion import Motion

GRID = np.arange(0.0, 1001.0)
# One bend from 200 m to 700 m, least bent at 450 m, but nowhere straight.
BENT = np.interp(GRID, [190.0, 200.0, 260.0, 450.0, 620.0, 700.0, 710.0], [0.0, 0.006, 0.012, 0.004, 0.01, 0.006, 0.0])
AT = [0.0, 150.0, 260.0, 500.0, 620.0, 800.0, 1000.0]


def driven(throttle: np.ndarray, brake: np.ndarray, speed: np.ndarray) -> Passage:
    """A lap of such pedals and speed over the metres of the road."""
    time = np.concatenate([[0.0], np.cumsum(2.0 / (speed[1:] + speed[:-1]))])
    pedals = (Pedal(time_s=time, value=v, rest=0.0, full=1.0, noise=0.0, unit="ratio") for v in (throttle, brake))
    motion = Motion(time, GRID, speed)
    return Passage(None, motion, SimpleNamespace(place_m=GRID), *pedals, np.gradient(speed, time))  # type: ignore[arg-type]


def lap(
    second_mps: float = 36.0, top_mps: float = 45.0, full: float = 1.0, full_m: float = 300.0, again: float = 0.0
) -> tuple[Road, Passage]:
    """Slows to 25 m/s at 260 m, drives up to a top speed at 500 m, and slows to another at 620 m, with so much brake again."""
    speed = np.interp(GRID, AT, [60.0, 60.0, 25.0, top_mps, second_mps, 60.0, 60.0])
    fed = np.interp(GRID, [149.0, 150.0, 265.0, full_m, 500.0, 501.0, 625.0, 650.0], [1, 0, 0, full, full, 0, 0, 1])
    braked = np.interp(
        GRID, [150.0, 160.0, 250.0, 255.0, 505.0, 515.0, 600.0, 610.0], [0, 0.8, 0.8, 0, 0, again, again, 0]
    )
    road = SimpleNamespace(grid_m=GRID, curvature_1pm=BENT, speed_mps=speed, blurred=False, measured=True)
    return road, driven(fed, braked, speed)  # type: ignore[return-value]


def test_a_bend_in_which_a_lap_gets_up_to_speed_and_slows_again_is_two_corners() -> None:
    first, second = asked_bends(*lap())
    assert first.end_m == pytest.approx(450.0, abs=20.0)
    assert second.start_m == pytest.approx(450.0, abs=20.0)
    assert (first.apex_m, second.apex_m) == pytest.approx((260.0, 620.0), abs=10.0)


@pytest.mark.parametrize(("again", "corners"), [(0.5, 2), (0.0, 1)])
def test_little_more_than_a_second_of_full_throttle_makes_two_corners_only_where_the_lap_brakes_again(
    again: float, corners: int
) -> None:
    assert len(asked_bends(*lap(full_m=450.0, again=again))) == corners


@pytest.mark.parametrize(
    "how",
    [{"full": 0.8}, {"top_mps": 32.0, "second_mps": 27.0}, {"second_mps": 43.5}],
    ids=["never at full throttle", "hardly quicker", "hardly slows again"],
)
def test_a_double_apex_is_one_corner(how: dict[str, float]) -> None:
    assert len(asked_bends(*lap(**how))) == 1


def test_a_bend_taken_flat_is_no_corner() -> None:
    road, passage = lap()
    time, ones = passage.motion.time_s, np.ones(len(GRID))
    throttle, brake = (
        Pedal(time_s=time, value=v, rest=0.0, full=1.0, noise=0.0, unit="ratio") for v in (ones, 0.0 * ones)
    )
    flat = Passage(None, passage.motion, passage.alignment, throttle, brake, 0.1 * ones)  # type: ignore[arg-type]
    (bend,) = find_corners(road)
    assert is_flat(flat, bend)
    assert not is_flat(passage, bend)
    assert asked_bends(road, flat) == []


def test_what_slows_a_lap_late_in_a_long_bend_and_to_its_end_is_the_next_one_s() -> None:
    """Full throttle through half of the bend, then the brake until past its end; wherever the bend is bent most."""
    (bend,) = find_corners(lap()[0])
    later = (GRID > 450.0) & (GRID < 760.0)
    speed = np.interp(GRID, [0.0, 450.0, 760.0, 1000.0], [40.0, 60.0, 20.0, 40.0])
    late = driven(np.where(later, 0.0, 1.0), np.where(later, 0.5, 0.0), speed)
    assert is_flat(late, replace(bend, apex_m=600.0))


def test_the_foot_of_the_bend_ahead_slows_nobody_for_this_one() -> None:
    """On the brake until 185 m, 8 m before the bend, and driven on from there."""
    (bend,) = find_corners(lap()[0])
    ahead = GRID < 185.0
    speed = np.interp(GRID, [0.0, 185.0, 1000.0], [60.0, 30.0, 60.0])
    passage = driven(np.where(ahead, 0.0, 1.0), np.where(ahead, 0.5, 0.0), speed)
    assert not is_flat(passage, bend)
    assert is_flat(passage, bend, after_m=188.0)
