"""Why an exit was slow: what made it is set, and told."""

from __future__ import annotations

from types import SimpleNamespace

import numpy as np
import pytest

from jete.core.driving.reasons import braking_reason, coasting_reason, early_reason, exit_reason, middle_reason
from jete.core.log.lap import Channel

TIME = np.arange(0.0, 10.0, 0.02)
MARKS = SimpleNamespace(throttle_on_m=20.0, full_throttle_m=45.0, turn_in_m=5.0, slow_point_m=18.0)
CORNER = SimpleNamespace(start_m=5.0, end_m=50.0, direction="right")


def passage(
    shift_rpm: float = 7000.0,
    feed_s: float = 0.5,
    wheel: float = 1.0,
    bend: float = 1.0,
    before_s: float = 10.0,
    inside_m: tuple[float, float, float] = (0.0, 0.0, 0.0),
    drift_m: float = 0.0,
) -> SimpleNamespace:
    """At 10 m/s: turns from 0.5 s to 5 s, picks up at 2 s, feeds to full, shifts up once at 5 s.

    ``wheel`` and ``bend`` are how much more it steers and turns until ``before_s``; its line goes from ``inside_m``
    further in than the reference's at the corner's start to as much at its end, and to as much 5 m on and from there.
    """
    turning = np.where((TIME > 0.5) & (TIME < 5.0), 1.0, 0.0)
    more = np.less(TIME, before_s)
    throttle = np.clip((TIME - 2.0) / feed_s, 0.0, 1.0)
    channels = {
        "gear": Channel("gear", "", TIME, np.where(TIME < 5.0, 2.0, 3.0)),
        "rpm": Channel("rpm", "1/min", TIME, np.where(TIME < 5.0, shift_rpm * TIME / 5.0, 0.7 * shift_rpm)),
    }
    channels["yaw_rate"] = Channel("yaw_rate", "rad/s", TIME, 0.3 * turning * np.where(more, bend, 1.0))
    steering = TIME, 0.6 * turning * np.where(more, wheel, 1.0)
    motion = SimpleNamespace(inferred=False, time_s=TIME, quiet_mps=np.full_like(TIME, 10.0))
    pedal = SimpleNamespace(inferred=False, at=lambda t: np.interp(t, TIME, throttle))
    return SimpleNamespace(
        lap=SimpleNamespace(get=channels.get), throttle=pedal, time_of=lambda m: m / 10.0, time_at=lambda m: m / 10.0,
        centred_steering=steering, motion=motion,
        alignment=SimpleNamespace(
            place_m=np.array([5.0, 50.0, 55.0]), offset_m=-np.array(inside_m), errors=SimpleNamespace(drift_m=drift_m)
        ),
    )  # fmt: skip


def told(lap: SimpleNamespace, countersteer_s: float = 0.0, *, slow: bool = True) -> str | None:
    how = (SimpleNamespace(countersteer_s=0.0), SimpleNamespace(countersteer_s=countersteer_s))
    return exit_reason((passage(), lap), CORNER, (MARKS, MARKS), how, slow=slow)  # type: ignore[arg-type]


def test_the_same_exit_has_no_reason() -> None:
    assert told(passage()) is None


def test_a_long_countersteer_is_a_rear_that_slid() -> None:
    assert told(passage(), 0.6) == "the rear slid"
    assert told(passage(), 0.6, slow=False) is None


def test_a_shift_at_another_engine_speed_is_told() -> None:
    assert told(passage(shift_rpm=6500.0)) == "shifted earlier"
    assert told(passage(shift_rpm=7500.0)) == "shifted later"


def test_a_throttle_that_is_fed_more_slowly_is_told_of_a_slow_exit_only() -> None:
    assert told(passage(feed_s=1.3)) == "fed the throttle more slowly"
    assert told(passage(feed_s=1.3), slow=False) is None


def middle(lap: SimpleNamespace, *, slow: bool = True) -> str | None:
    return middle_reason((passage(), lap), CORNER, (MARKS, MARKS), slow=slow)  # type: ignore[arg-type]


def test_more_wheel_for_no_more_bend_is_a_front_that_pushed() -> None:
    assert told(passage(wheel=1.4)) == "the front pushed"
    assert middle(passage(wheel=1.4)) == "the front pushed"
    assert middle(passage(wheel=1.4), slow=False) is None


def test_more_wheel_for_as_much_more_bend_is_a_tighter_line() -> None:
    assert told(passage(wheel=1.2, bend=1.2)) is None
    assert middle(passage(wheel=1.2, bend=1.2)) == "on a tighter line"


def test_a_wider_line_tells_why_more_speed_was_carried() -> None:
    assert middle(passage(wheel=0.85, bend=0.85), slow=False) == "on a wider line"
    assert middle(passage(wheel=0.85, bend=0.85)) is None


def test_a_front_that_pushed_before_the_pick_up_is_no_reason_of_the_exit() -> None:
    early = passage(wheel=1.6, before_s=1.9)
    assert told(early) is None
    assert middle(early) == "the front pushed"


@pytest.mark.parametrize(
    ("inside_m", "line"),
    [
        ((1.0, -1.0, 0.0), "an earlier apex"),
        ((-1.0, 1.0, 0.0), "a later apex"),
        ((-0.3, 1.5, 1.0), "held in at the exit"),
        ((0.4, -0.4, 0.0), None),
        ((2.0, 2.0, 2.0), None),
    ],
)
def test_a_line_that_lies_further_in_at_one_end_is_told(inside_m: tuple[float, float, float], line: str | None) -> None:
    assert told(passage(inside_m=inside_m)) == line
    assert middle(passage(inside_m=inside_m)) == line


def test_a_line_is_no_other_by_what_positions_drift() -> None:
    aside = (0.6, -0.6, 0.0)
    assert told(passage(inside_m=aside)) == "an earlier apex"
    assert told(passage(inside_m=aside, drift_m=0.8)) is None


def test_without_the_wheel_or_the_yaw_nothing_is_told() -> None:
    blind = passage(wheel=1.6)
    blind.centred_steering = None
    assert middle(blind) is None
    blind.lap = SimpleNamespace(get=lambda _: None)
    assert middle(blind) is None


def test_who_rolls_where_the_other_brakes_is_told_so() -> None:
    brakes, rolls = SimpleNamespace(brake_on_m=30.0), SimpleNamespace(brake_on_m=None)
    assert braking_reason((brakes, rolls)) == "only rolled"  # type: ignore[arg-type]
    assert braking_reason((rolls, brakes)) == "where the reference only rolls"  # type: ignore[arg-type]
    assert braking_reason((brakes, brakes)) is None  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("coast_s", "off_m", "reason"),
    [(0.8, 60.0, "then rolled 0.6 s longer"), (0.3, 60.0, None), (0.8, 90.0, None), (0.8, None, None)],
)
def test_who_brakes_early_and_rolls_is_told_for_how_long(
    coast_s: float, off_m: float | None, reason: str | None
) -> None:
    reference = SimpleNamespace(coast_s=0.2, brake_off_m=80.0)
    assert early_reason((reference, SimpleNamespace(coast_s=coast_s, brake_off_m=off_m))) == reason  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("lift_m", "reason"), [(86.0, "lifted early, and rolled to the brake"), (97.0, None), (None, None)]
)
def test_a_roll_before_the_brake_is_told_as_an_early_lift(lift_m: float | None, reason: str | None) -> None:
    reference, lap = (SimpleNamespace(lift_m=m, brake_on_m=100.0) for m in (98.0, lift_m))
    assert coasting_reason((reference, lap)) == reason  # type: ignore[arg-type]
