"""Channels that come late: told by those that go with them, and moved back."""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from typing import TYPE_CHECKING

import numpy as np
import pytest

from jete.core.compare import compare
from jete.core.log.in_step import in_step
from jete.core.log.pedal_lag import lateness_of_pedals
from jete.core.motion.borders import line_of
from jete.simulate.feet_trials import draw_feet_trial
from jete.simulate.logger import LoggerSettings
from known_laps import lap_of

if TYPE_CHECKING:
    from jete.core.log.lap import Log
    from jete.simulate.trials import Trial

POSITIONS = ("x", "y")
PEDALS = ("throttle", "brake")


@cache
def trial() -> Trial:
    return draw_feet_trial(512, LoggerSettings(position_noise_m=0.4))


def late(names: tuple[str, ...], by_s: float, without: tuple[str, ...] = (), log: Log | None = None) -> Log:
    """A log of which some channels come late, and others are not there."""
    whole = trial().reference if log is None else log
    kept = {n: c for n, c in whole.channels.items() if n not in without}
    return replace(whole, channels=kept | {n: replace(kept[n], time_s=kept[n].time_s + by_s) for n in names})


def moved_s(before: Log, after: Log, name: str) -> float:
    return float(np.median(before.channels[name].time_s - after.channels[name].time_s))


def test_a_log_in_step_is_left_as_it_is() -> None:
    assert in_step(trial().reference) is trial().reference


ACCELERATION = ("acc_long",)


@pytest.mark.parametrize(
    ("without", "tells"),
    [((), "the acceleration"), (ACCELERATION, "positions"), ((*ACCELERATION, *POSITIONS), "both pedals")],
)
def test_a_speed_that_comes_late_is_moved_back(without: tuple[str, ...], tells: str) -> None:
    log = late(("speed", "distance"), 0.25, without)
    mended = in_step(log)
    for name in ("speed", "distance"):
        assert moved_s(log, mended, name) == pytest.approx(0.25, abs=0.07), tells
    assert [r.what for r in mended.repairs if r.channel == "speed"][-1].endswith("s late, moved back")


def test_a_distance_that_is_in_time_stays() -> None:
    log = late(("speed",), 0.25)
    assert moved_s(log, in_step(log), "distance") == 0.0


def test_a_receiver_that_sends_speed_and_positions_late_is_found_by_the_pedals() -> None:
    log = late(("speed", "distance", *POSITIONS), 0.3, ACCELERATION)
    mended = in_step(log)
    assert moved_s(log, mended, "speed") == pytest.approx(0.3, abs=0.07)
    assert moved_s(log, mended, "x") == pytest.approx(0.3, abs=0.07)
    assert mended.positions.lag_s == pytest.approx(0.3, abs=0.07)


@pytest.mark.parametrize("name", PEDALS)
def test_a_pedal_that_follows_its_speed_was_logged_late(name: str) -> None:
    log = late((name,), 0.25)
    mended = in_step(log)
    assert moved_s(log, mended, name) == pytest.approx(0.25, abs=0.06)
    assert all(moved_s(log, mended, n) == 0.0 for n in log.channels if n != name)


def test_a_throttle_alone_is_told_by_where_nobody_brakes() -> None:
    log = late(("throttle",), 0.25, ("brake",))
    assert moved_s(log, in_step(log), "throttle") == pytest.approx(0.25, abs=0.06)


def test_two_brake_circuits_are_one_brake() -> None:
    whole = trial().reference
    brake = whole.channels["brake"]
    halves = {n: replace(brake, name=n, value=share * brake.value) for n, share in (("brake_front", 0.7), ("brake_rear", 0.3))}  # fmt: skip
    both = replace(whole, channels={n: c for n, c in whole.channels.items() if n != "brake"} | halves)
    log = late(("brake_front", "brake_rear"), 0.25, log=both)
    assert [moved_s(log, in_step(log), n) for n in halves] == pytest.approx([0.25, 0.25], abs=0.06)


@pytest.mark.long
@pytest.mark.parametrize("seed", [513, 514, 515])
def test_pedals_of_any_vehicle_are_known_to_a_twentieth_of_a_second(seed: int) -> None:
    brake, throttle = lateness_of_pedals(draw_feet_trial(seed).reference)
    assert abs(brake.seconds) < 0.05
    assert abs(throttle.seconds) < 0.05


def test_samples_that_are_far_apart_tell_nothing_of_pedals() -> None:
    log = trial().reference
    thin = replace(log, channels={n: replace(c, time_s=c.time_s[::50], value=c.value[::50]) for n, c in log.channels.items()})  # fmt: skip
    assert not any(late.sure(0.0, 0.0) for late in lateness_of_pedals(thin))


@pytest.mark.long
def test_what_each_corner_cost_is_told_as_with_a_speed_in_time() -> None:
    """The cause of a corner with a late speed is the one with a speed in time."""
    faults = draw_feet_trial(522)
    told = []
    for by_s in (0.0, 0.25):
        logs = [in_step(late(("speed", "distance"), by_s, log=log)) for log in (faults.reference, faults.lap)]
        lap = compare(lap_of(logs[0]), [lap_of(logs[1], line_of(logs[0]))]).laps[0]
        told.append([(c.corner.number, f.kind) for c in lap.corners for f in c.findings if abs(f.loss_s) > 0.05])
    assert told[0] == told[1]
    assert told[0]
