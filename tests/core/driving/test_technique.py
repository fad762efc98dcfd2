"""Build-up, release, overlap, downshifts and corrections of made-up presses."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.axis.place.align import identity
from jete.core.axis.road.corners import Corner
from jete.core.driving.marks import marks_of
from jete.core.driving.passage import Passage, passage_of
from jete.core.driving.technique import Technique, technique_of
from jete.core.log.lap import Channel, Lap, LapSpan, Log
from jete.core.motion.motion import motion_of

STEP_S = 0.01
END_S = 20.0
CLOCK = np.arange(0.0, END_S, STEP_S)
CORNER = Corner(number=1, direction="left", start_m=390.0, apex_m=455.0, end_m=500.0)


def shape(*points: tuple[float, float]) -> np.ndarray:
    """A line through times and values at the clock."""
    return np.interp(CLOCK, *zip(*points, strict=True))


ONE_STAGE = shape((0, 0), (5.0, 0), (5.2, 60), (7.0, 60), (8.5, 0), (20, 0))
STEERING = shape((0, 0), (7.0, 0), (8.0, 1.5), (10.0, 1.5), (11.0, 0), (20, 0))


def passage(
    brake: np.ndarray = ONE_STAGE, throttle: np.ndarray | None = None, steering: np.ndarray = STEERING
) -> Passage:
    """A plain corner: braked from 5 s, slowest at 8.5 s, driven on from 9 s."""
    fed = shape((0, 1), (4.8, 1), (4.9, 0), (9.0, 0), (10.5, 1), (20, 1)) if throttle is None else throttle
    slowed = shape((0, 0), (5, 0), (5.2, -10), (7, -10), (8.5, 0), (9, 0), (10.5, 5), (14, 3), (20, 1))
    speed = 60.0 + np.concatenate([[0.0], np.cumsum(slowed[:-1] * STEP_S)])
    values = {
        "speed": (speed, "m/s"),
        "brake": (brake, "bar"),
        "throttle": (fed, "ratio"),
        "steering": (steering, "rad"),
    }
    values["gear"] = (shape((0, 5), (5.99, 5), (6, 4), (6.99, 4), (7, 3), (12.99, 3), (13, 4), (20, 4)).round(), "")
    channels = {"time": Channel("time", "s", CLOCK, CLOCK)}
    channels |= {name: Channel(name, unit, CLOCK, value) for name, (value, unit) in values.items()}
    length = float(np.sum(speed) * STEP_S)
    lap = Lap(
        Log(source="made.csv", channels=channels), LapSpan(1, 0.0, END_S - STEP_S, length, complete=True, why=None)
    )
    motion = motion_of(lap)
    return passage_of(lap, motion, identity(motion))


def technique(**changed: np.ndarray) -> Technique:
    made = passage(**changed)
    return technique_of(made, CORNER, marks_of(made, [CORNER])[0])


def test_the_build_up_is_from_the_brake_point_to_the_peak() -> None:
    assert technique().brake_build_s == pytest.approx(0.18, abs=0.03)


@pytest.mark.parametrize(
    ("brake", "release"),
    [
        (ONE_STAGE, "one stage"),
        (shape((0, 0), (5.0, 0), (5.2, 60), (7.4, 60), (7.5, 0), (20, 0)), "dropped"),
        (shape((0, 0), (5.0, 0), (5.2, 60), (6.8, 60), (7.2, 24), (7.9, 24), (8.4, 0), (20, 0)), "two stages"),
    ],
)
def test_the_release_has_its_shape(brake: np.ndarray, release: str) -> None:
    assert technique(brake=brake).release == release


def test_braking_past_the_turn_in_is_trailed() -> None:
    made = passage()
    marks = marks_of(made, [CORNER])[0]
    assert marks.brake_off_m is not None
    assert marks.turn_in_m is not None
    assert technique_of(made, CORNER, marks).trail_m == pytest.approx(marks.brake_off_m - marks.turn_in_m)
    assert technique_of(made, CORNER, replace(marks, turn_in_m=marks.brake_off_m + 5.0)).trail_m == 0.0


def test_brake_let_go_and_taken_again_are_two_applications() -> None:
    # The first is dropped, the second let go slowly; the second is what is felt at the turn-in.
    twice = shape((0, 0), (5, 0), (5.2, 60), (6, 60), (6.05, 0), (6.8, 0), (7, 40), (7.5, 40), (8.4, 0), (20, 0))
    assert technique(brake=twice).brake_applications == 2
    assert technique(brake=twice).release == "one stage"
    assert technique().brake_applications == 1


def test_both_pedals_at_once_are_overlap_before_the_pick_up() -> None:
    balanced = shape((0, 1), (4.8, 1), (4.9, 0), (6.0, 0), (6.1, 0.2), (6.9, 0.2), (7.0, 0), (9, 0), (10.5, 1), (20, 1))
    assert technique(throttle=balanced).overlap_s == pytest.approx(0.9, abs=0.1)
    assert technique().overlap_s == 0.0


def test_pressure_left_on_after_the_pick_up_is_told() -> None:
    dragging = shape((0, 0), (5.0, 0), (5.2, 60), (7.0, 60), (8.4, 7), (9.8, 7), (9.9, 0), (20, 0))
    assert technique(brake=dragging).left_over_brake_s == pytest.approx(0.8, abs=0.25)
    assert technique().left_over_brake_s == 0.0


def test_downshifts_are_placed_between_brake_point_and_slow_point() -> None:
    made = passage()
    assert technique().downshift_m == pytest.approx(made.place_at(np.array([6.0, 7.0])), abs=1.0)


def test_steering_against_the_bend_is_countersteer() -> None:
    caught = shape((0, 0), (7.0, 0), (8.0, 1.5), (9.0, 1.5), (9.3, -0.5), (9.6, -0.5), (9.9, 0.8), (11, 0), (20, 0))
    assert technique(steering=caught).countersteer_s == pytest.approx(0.45, abs=0.1)
    assert technique().countersteer_s == 0.0


def test_without_steering_a_correction_can_not_be_told() -> None:
    made = passage()
    lap = Lap(
        Log(source="made.csv", channels={k: c for k, c in made.lap.log.channels.items() if k != "steering"}),
        made.lap.span,
    )
    bare = passage_of(lap, made.motion, made.alignment)
    assert technique_of(bare, CORNER, marks_of(bare, [CORNER])[0]).countersteer_s is None


def test_a_throttle_that_is_never_idle_has_no_pick_up() -> None:
    always = shape((0, 1), (1, 1), (1.2, 0), (2, 0), (2.5, 1), (4.8, 1), (4.9, 0.85), (9, 0.85), (10.5, 1), (20, 1))
    assert marks_of(passage(throttle=always), [CORNER])[0].throttle_on_m is None
