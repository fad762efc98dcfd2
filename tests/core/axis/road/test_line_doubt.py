"""How surely a lap's ends lie on the line."""

from __future__ import annotations

from dataclasses import replace
from math import inf

import numpy as np
import pytest

from jete.core.axis.positions.path import fixes_of
from jete.core.axis.road.line_doubt import line_sigmas_m
from jete.core.causes.profiles.anchors import Anchors
from jete.core.causes.verdict.doubt import doubts_of
from jete.core.log.lap import Lap
from jete.core.log.plane import origin_of
from jete.core.motion.motion import motion_of
from jete.core.motion.split import split
from jete.simulate.circuit import draw
from jete.simulate.driver import LapPlan, Trace, drive
from jete.simulate.lines import draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.trials import draw_trial
from jete.simulate.vehicle import CAR
from known_laps import compare_trial

SETTINGS = LoggerSettings(rate_hz=20.0, position_hz=20.0, position_noise_m=0.5)
WITH_SPEED = ("lap", "speed", "x", "y")


@pytest.fixture(scope="module")
def stint() -> Trace:
    return drive(draw(3), CAR, [LapPlan()] * 4)


def sigmas(stint: Trace, channels: tuple[str, ...], laps: tuple[float, float] = (1, 2)) -> tuple[float, float]:
    log = record(stint, draw_line(stint.circuit, 9), replace(SETTINGS, channels=channels), 4, laps)
    lap = Lap(log, next(s for s in split(log) if s.complete))
    motion = motion_of(lap)
    return line_sigmas_m(lap, motion, fixes_of(lap, motion, origin_of(log)))


def test_a_distance_that_starts_anew_tells_the_line(stint: Trace) -> None:
    assert sigmas(stint, (*WITH_SPEED, "distance"), (0.3, 2.6)) == (0.0, 0.0)


def test_a_lap_column_alone_tells_it_to_a_part_of_a_sample(stint: Trace) -> None:
    start, _ = sigmas(stint, ("lap", "speed"), (0.3, 2.6))
    step_m = 0.05 * float(np.interp(stint.crossing_s(1), stint.time_s, stint.speed_mps))
    assert start == pytest.approx(step_m / 12**0.5, rel=0.03)


def test_positions_make_a_lap_column_no_less_sure(stint: Trace) -> None:
    rough = replace(SETTINGS, position_noise_m=20.0, channels=WITH_SPEED)
    log = record(stint, draw_line(stint.circuit, 9), rough, 4, (0.3, 2.6))
    lap = Lap(log, next(s for s in split(log) if s.complete))
    motion = motion_of(lap)
    assert line_sigmas_m(lap, motion, fixes_of(lap, motion, origin_of(log))) == line_sigmas_m(lap, motion, None)


def test_positions_on_both_sides_tell_it_better_than_on_one(stint: Trace) -> None:
    one, two = sigmas(stint, WITH_SPEED), sigmas(stint, WITH_SPEED, (0.3, 2.6))
    assert one[0] == pytest.approx(8**0.5 * two[0], rel=0.15)
    assert 0.02 < two[0] < one[0] < 0.5


@pytest.mark.long
def test_gaps_at_the_line_are_within_their_doubt() -> None:
    """Positions as rough as a plain receiver's: surer ones would be doubted for a drift that these laps do not have."""
    settings = replace(SETTINGS, channels=WITH_SPEED, position_noise_m=1.0)
    errors = []
    for seed in range(21, 27):
        trial = draw_trial(seed, settings, faults=0)
        comparison = compare_trial(trial)
        first = comparison.laps[0].corners[0]
        station = np.linspace(0.0, trial.circuit.length_m, 800)
        axis = comparison.reference.place_at(trial.reference_trace.time_at_s(1, station))
        true = float(np.interp(first.window.end_m, axis, trial.gap_s(station)))
        errors.append((first.gap_s - true) / first.sigma_s)
    assert 0.3 < float(np.sqrt(np.mean(np.square(errors)))) < 1.8


def test_a_speed_at_a_line_seen_from_one_side_is_no_evidence() -> None:
    settings = replace(SETTINGS, channels=("lap", "throttle", "brake", "x", "y"))
    comparison = compare_trial(draw_trial(21, settings, faults=0))
    passages = (comparison.reference, comparison.laps[0].passage)
    corners = comparison.laps[0].corners
    anchors = [
        Anchors(
            lift_m=c.window.start_m,
            brake_m=c.corner.start_m,
            released_m=c.corner.start_m,
            slowed_m=c.corner.start_m,
            pickup_m=c.corner.apex_m,
            fed_m=c.corner.apex_m,
            least=200.0,
            braking_mps2=9.0,
            rolls_in=False,
        )
        for c in corners
    ]
    doubts = doubts_of(passages, comparison.road, comparison.corners, [c.window for c in corners], anchors)
    arrivals, leavings = zip(*(d.ends_mps for d in doubts), strict=True)
    assert arrivals[0] == inf
    assert 0.0 < arrivals[1] < 1.0
    smoothed = float(np.hypot(*(p.motion.sigmas.speed_mps for p in passages)))
    hidden = arrivals[1] ** 2 - smoothed**2
    assert leavings[-1] ** 2 - hidden == pytest.approx((3.0 * smoothed) ** 2)
