"""What positions are worth: white, filtered and drifting errors of known size."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.axis.positions.path import Fixes, fixes_of
from jete.core.axis.positions.position_errors import PositionErrors, step_of
from jete.core.log.fill import without_fill
from jete.core.log.lap import Lap, fastest
from jete.core.log.plane import Origin, origin_of
from jete.core.motion.motion import motion_of
from jete.core.motion.split import split
from jete.simulate.feet_trials import draw_feet_trial
from jete.simulate.logger import LoggerSettings
from jete.simulate.receiver import Receiver
from known_laps import lap_of, with_feet


def fixes(seed: int, channels: tuple[str, ...] = (), **receiver: object) -> Fixes:
    settings = LoggerSettings(receiver=Receiver(**receiver))  # type: ignore[arg-type]
    if channels:
        settings = LoggerSettings(rate_hz=10.0, receiver=settings.receiver, channels=channels)
    log = without_fill(with_feet(seed, "equal").logged(settings).reference)
    lap = Lap(log, fastest(split(log), log.source))
    found = fixes_of(lap, motion_of(lap), origin_of(log))
    assert found is not None
    return found


def test_a_map_of_two_scales_is_no_drift() -> None:
    """Degrees made of metres by one round figure: three in a thousand more to the east than to the north."""
    log = with_feet(4, "equal").logged(LoggerSettings(receiver=Receiver(white_m=0.3))).reference
    x = log.channels["x"]
    log = replace(log, channels={**log.channels, "x": replace(x, value=1.003 * x.value)})
    lap = Lap(log, fastest(split(log), log.source))
    found = fixes_of(lap, motion_of(lap), origin_of(log))
    assert found is not None
    assert found.errors.drift_m == 0.0
    assert found.lasting_m == pytest.approx(0.3, rel=0.5)


@pytest.mark.parametrize("slips", [0.02, -0.04])
def test_wheels_that_slip_with_the_force_are_no_drift(slips: float) -> None:
    """By 2 % of what they cover at 1 g: metres in every braking."""
    log = with_feet(4, "equal").logged(LoggerSettings(receiver=Receiver(white_m=0.3))).reference
    speed = log.channels["speed"]
    g = np.convolve(np.gradient(speed.value, speed.time_s) / 9.81, np.full(15, 1.0 / 15.0), "same")
    slipping = replace(speed, value=speed.value * (1.0 + slips * g))
    log = replace(
        log, channels={n: slipping if n == "speed" else c for n, c in log.channels.items() if n != "distance"}
    )
    lap = Lap(log, fastest(split(log), log.source))
    found = fixes_of(lap, motion_of(lap), origin_of(log))
    assert found is not None
    assert found.errors.drift_m < 0.3
    assert found.lasting_m < 1.5


def median(name: str, **receiver: object) -> float:
    return float(np.median([getattr(fixes(seed, **receiver).errors, name) for seed in (3, 4, 5)]))


@pytest.mark.parametrize("white_m", [0.3, 1.0])
def test_white_noise_is_white(white_m: float) -> None:
    found = fixes(4, white_m=white_m)
    assert found.errors.white_m == pytest.approx(white_m, rel=0.1)
    assert found.errors.drift_m == 0.0
    assert found.lasting_m == pytest.approx(white_m, rel=0.3)


@pytest.mark.parametrize("filled", ["linear", "cubic"])
def test_what_is_filled_in_makes_noise_no_smaller(filled: str) -> None:
    assert fixes(4, filled=filled).noise_m == pytest.approx(1.0, rel=0.1)


def test_a_drift_is_told_from_white_noise() -> None:
    assert median("white_m", white_m=0.1, drift_m=0.8) == pytest.approx(0.12, abs=0.05)
    assert median("drift_m", white_m=0.1, drift_m=0.8) == pytest.approx(0.75, abs=0.3)


def test_a_drift_averages_away_hardly_at_all() -> None:
    drifting = fixes(4, white_m=0.1, drift_m=0.8)
    assert drifting.lasting_m > 20.0 * drifting.errors.white_m
    assert drifting.noise_m < 0.5 * drifting.lasting_m


def test_where_no_speed_was_logged_a_plain_receiver_is_not_trusted() -> None:
    found = fixes(4, ("lap", "throttle", "brake", "x", "y"), white_m=0.1, drift_m=0.8)
    assert not found.errors.by_speed
    assert found.errors.unseen_m == pytest.approx(1.0, abs=0.05)


def test_what_is_seen_leaves_less_unseen() -> None:
    assert PositionErrors(white_m=1.0, drift_m=0.0, drift_s=0.0, density_m2s=0.1, bending_m2s=0.1).unseen_m == 0.0
    assert PositionErrors(
        white_m=0.6, drift_m=0.0, drift_s=0.0, density_m2s=0.1, bending_m2s=0.1
    ).unseen_m == pytest.approx(0.75, abs=0.005)
    assert PositionErrors(white_m=0.93, drift_m=0.0, drift_s=0.0, density_m2s=0.1, bending_m2s=0.1).unseen_m == 0.0


def test_the_rate_of_positions_is_seen_through_rounded_times_and_holes() -> None:
    times = np.round(np.arange(600) / 60.0, 3)
    assert step_of(np.delete(times, slice(200, 230))) == pytest.approx(1.0 / 60.0, rel=1e-3)


def test_a_short_lap_does_not_hide_a_drift() -> None:
    """Twenty-five seconds show less of one than ninety do, and are no surer for that."""
    lap = lap_of(
        draw_feet_trial(9003, LoggerSettings(receiver=Receiver(white_m=0.1, drift_m=0.8, drift_s=8.0))).reference
    )
    piece = replace(lap, span=replace(lap.span, end_s=lap.span.start_s + 25.0))
    motion = motion_of(piece)
    fixes = fixes_of(piece, motion, Origin())
    assert fixes is not None
    assert fixes.errors.by_speed
    assert fixes.errors.density_m2s > 1.0
