"""The throttle: pick-ups, dips and rolls whose times are set."""

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest

from jete.core.driving.passage import Passage
from jete.core.driving.pedals import Pedal
from jete.core.driving.throttle import coasting_s, dips, drive, lift
from jete.core.motion.motion import Motion

TIME = np.arange(0.0, 20.0, 0.02)
ZONE = SimpleNamespace(previous_s=1.0, slow_s=8.0, next_s=18.0, end_s=10.0)


def pedal(knots: list[tuple[float, float]]) -> Pedal:
    """A pedal that goes straight from one (time, value) to the next."""
    return Pedal(
        time_s=TIME, value=np.interp(TIME, *zip(*knots, strict=True)), rest=0.0, full=1.0, noise=0.0, unit="ratio"
    )


def passage(throttle: Pedal, brake: Pedal | None = None) -> Passage:
    """A vehicle that slows while the throttle is at rest, and gains 3 m/s² with it."""
    push = np.where(throttle.value > 0.05, 3.0 * throttle.value, -2.0)
    speed = 40.0 + np.cumsum(push) * 0.02
    motion = Motion(TIME, np.cumsum(speed) * 0.02, speed)
    return Passage(None, motion, None, throttle, brake or pedal([(0.0, 0.0), (20.0, 0.0)]), push)  # type: ignore[arg-type]


FED = [(0.0, 1.0), (4.0, 1.0), (4.2, 0.0), (9.0, 0.0), (10.0, 1.0), (20.0, 1.0)]


def test_lift_pick_up_and_full_are_where_the_ramps_begin_and_end() -> None:
    run = passage(pedal(FED))
    assert lift(run, ZONE, None) == pytest.approx(4.0, abs=0.02)  # type: ignore[arg-type]
    picked, full = drive(run, ZONE, 5.0)  # type: ignore[arg-type]
    assert picked == pytest.approx(9.0, abs=0.02)
    assert full == pytest.approx(9.95, abs=0.02)


def test_a_lift_on_a_short_straight_is_where_the_throttle_that_was_still_being_fed_falls() -> None:
    feeding = pedal([(0.0, 0.0), (1.5, 0.0), (4.0, 0.9), (4.2, 0.0), (9.0, 0.0), (10.0, 1.0), (20.0, 1.0)])
    assert lift(passage(feeding), ZONE, 4.3) == pytest.approx(4.0, abs=0.03)  # type: ignore[arg-type]
    balancing = pedal([(0.0, 0.0), (1.5, 0.0), (4.0, 0.25), (4.2, 0.0), (9.0, 0.0), (10.0, 1.0), (20.0, 1.0)])
    assert lift(passage(balancing), ZONE, 4.3) is None  # type: ignore[arg-type]
    assert lift(passage(feeding), ZONE, None) is None  # type: ignore[arg-type]


def test_a_foot_that_comes_off_the_balancing_throttle_first_picks_up_from_down_there() -> None:
    """It holds 0.3, comes off to 0.1 for the shift, and feeds through 0.3 a second later."""
    off_first = [*FED[:3], (6.0, 0.0), (6.2, 0.3), (8.5, 0.3), (8.7, 0.1), (10.5, 1.0), (20.0, 1.0)]
    run = passage(pedal(off_first))
    still = replace(run, motion=replace(run.motion, speed_mps=np.where(TIME < 8.7, 20.0, run.motion.speed_mps)))
    picked, _ = drive(still, ZONE, 5.0)  # type: ignore[arg-type]
    assert picked == pytest.approx(8.7, abs=0.06)


def test_a_level_held_for_a_moment_is_no_pick_up_though_the_speed_flickers() -> None:
    """It holds 0.25 for a quarter of a second at one speed, which is logged to 0.2 km/h, and drives on at 9 s."""
    held = pedal([*FED[:3], (8.65, 0.0), (8.75, 0.25), (9.0, 0.25), (10.0, 1.0), (20.0, 1.0)])
    run = passage(held)
    driven = 20.0 + np.cumsum(np.where(TIME >= 9.0, 4.0 * held.value, 0.0)) * 0.02
    for seed in range(12):
        speed = driven + np.random.default_rng(seed).normal(0.0, 0.06, len(TIME))
        picked, _ = drive(replace(run, motion=replace(run.motion, speed_mps=speed)), ZONE, 5.0)  # type: ignore[arg-type]
        assert picked == pytest.approx(9.0, abs=0.08)


def test_a_throttle_that_never_comes_off_is_not_picked_up() -> None:
    assert drive(passage(pedal([(0.0, 1.0), (20.0, 1.0)])), ZONE, 5.0) == (None, None)  # type: ignore[arg-type]


def test_a_breath_on_the_throttle_that_drives_nothing_is_no_pick_up() -> None:
    breath = [*FED[:3], (6.0, 0.0), (6.1, 0.15), (6.2, 0.0), *FED[3:]]
    run = passage(pedal(breath))
    still = replace(run, motion=replace(run.motion, speed_mps=np.minimum(run.motion.speed_mps, 20.0)))
    picked, _ = drive(still, ZONE, 5.0)  # type: ignore[arg-type]
    assert picked == pytest.approx(9.0, abs=0.02)


def test_a_pick_up_that_has_begun_to_drive_is_one_though_the_foot_comes_off_again() -> None:
    """From 0.25 to 0.5 in three tenths, gaining 0.6 km/h; off for half a second; then all of it."""
    stab = [*FED[:3], (6.0, 0.0), (6.2, 0.25), (8.0, 0.25), (8.3, 0.5), (8.35, 0.0), (9.0, 0.0), *FED[4:]]
    run = passage(pedal(stab))
    gaining = np.interp(TIME, [8.0, 8.35], [20.0, 20.0 + 0.6 / 3.6])
    held = np.where(TIME < 9.0, gaining, run.motion.speed_mps - run.motion.speed_mps[TIME.searchsorted(9.0)] + 20.2)
    slow = replace(run, motion=replace(run.motion, speed_mps=held))
    picked, full = drive(slow, ZONE, 5.0)  # type: ignore[arg-type]
    assert picked == pytest.approx(8.0, abs=0.05)
    assert dips(slow.throttle, picked, full) == 1


@pytest.mark.parametrize(("depth", "count"), [(0.05, 0), (0.3, 1)])
def test_only_a_clear_dip_counts(depth: float, count: int) -> None:
    dipped = [*FED[:5], (10.5, 1.0), (10.7, 1.0 - depth), (10.9, 1.0), (20.0, 1.0)]
    assert dips(pedal(dipped), 9.0, 12.0) == count


def test_seconds_on_neither_pedal_are_those_between_brake_and_throttle() -> None:
    brake = pedal([(0.0, 0.0), (4.2, 0.0), (4.3, 1.0), (7.0, 1.0), (7.1, 0.0), (20.0, 0.0)])
    run = passage(pedal(FED), brake)
    assert coasting_s(run, 4.0, 9.0) == pytest.approx(9.0 - 7.1, abs=0.12)
    assert coasting_s(run, None, 9.0) == 0.0


EASED = [(0.0, 1.0), (6.0, 1.0), (6.3, 0.5), (7.0, 0.5), (7.6, 1.0), (14.0, 1.0), (14.2, 0.0), (16.0, 0.0), (16.5, 1.0), (20.0, 1.0)]  # fmt: skip


def test_a_foot_that_only_eases_picks_up_where_it_comes_back_and_not_in_the_next_corner() -> None:
    run = passage(pedal(EASED))
    picked, full = drive(run, ZONE, 6.0)  # type: ignore[arg-type]
    assert picked == pytest.approx(7.0, abs=0.05)
    assert full == pytest.approx(7.55, abs=0.03)


def test_a_foot_that_eases_and_creeps_picks_up_where_the_vehicle_is_driven_on() -> None:
    creeping = [*EASED[:2], (6.3, 0.2), (8.0, 0.5), (8.3, 1.0), *EASED[5:]]
    run = passage(pedal(creeping))
    still = np.where(TIME < 8.0, np.minimum(run.motion.speed_mps, 55.0), 55.0 + 4.0 * (TIME - 8.0))
    held = replace(run, motion=replace(run.motion, speed_mps=still))
    picked, _ = drive(held, ZONE, 6.0)  # type: ignore[arg-type]
    assert picked == pytest.approx(8.0, abs=0.15)


def test_who_stays_full_through_a_corner_does_not_pick_up_there_though_the_next_one_asks_for_a_lift() -> None:
    assert drive(passage(pedal([(0.0, 1.0), (14.0, 1.0), *EASED[6:]])), ZONE, 6.0) == (None, None)  # type: ignore[arg-type]
