"""Laps that leave the road, cross their own path, or were logged in another way than the reference."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from jete.core.causes.verdict.losses import gap_at
from jete.core.causes.verdict.result import Comparison
from jete.core.compare import compare
from jete.core.log.lap import Channel, Log
from jete.core.motion.borders import line_of
from jete.simulate.logger import LoggerSettings
from jete.simulate.trials import Trial
from known_laps import drawn, lap_of

ALL = LoggerSettings()
POSITION = replace(ALL, rate_hz=10.0, channels=("lap", "throttle", "brake", "x", "y"))
DISTANCE = replace(ALL, rate_hz=20.0, channels=tuple(c for c in ALL.channels if c not in ("x", "y")))
SEEDS = (81, 82)


@cache
def trial(seed: int, settings: LoggerSettings = ALL) -> Trial:
    return drawn(seed, settings)


def held(reference: Log, lap: Log) -> Comparison:
    return compare(lap_of(reference), [lap_of(lap, line_of(reference))])


def gap_error(t: Trial, found: Comparison, start: float = 0.0, end: float = 1.0) -> float:
    """Rms of the running gap over a share of the lap, seconds."""
    stations = np.linspace(start, end, 400) * t.circuit.length_m
    error = gap_at(found.reference, found.laps[0].passage, t.axis_m(stations)) - t.gap_s(stations)
    return float(np.sqrt(np.mean(error**2)))


def beside(log: Log, start: float, end: float, metres: float) -> Log:
    """The log with its positions moved to the left over a share of the lap, and back again."""
    x, y = log.channels["x"], log.channels["y"]
    share = x.time_s / x.time_s[-1]
    weight = metres * np.clip((share - start) / 0.01, 0, 1) * np.clip((end - share) / 0.01, 0, 1)
    ahead = [np.convolve(np.gradient(c.value), np.ones(9) / 9, "same") for c in (x, y)]
    rate = np.hypot(*ahead) + 1e-9
    moved = {
        "x": replace(x, value=x.value - weight * ahead[1] / rate),
        "y": replace(y, value=y.value + weight * ahead[0] / rate),
    }
    return replace(log, channels={**log.channels, **moved})


@pytest.mark.parametrize("seed", SEEDS)
@pytest.mark.parametrize("metres", [18.0, 35.0, 80.0], ids=["pit lane", "run-off", "far off"])
def test_an_excursion_does_not_break_the_rest_of_the_lap(seed: int, metres: float) -> None:
    t = trial(seed)
    found = held(t.reference, beside(t.lap, 0.45, 0.5, metres))
    assert gap_error(t, found, 0.0, 0.4) < 0.012
    assert gap_error(t, found, 0.6, 1.0) < 0.012


@pytest.mark.many
@pytest.mark.parametrize("seed", SEEDS)
def test_a_lap_logged_slowly_goes_with_a_reference_logged_fast(seed: int) -> None:
    assert gap_error(trial(seed), held(trial(seed).reference, trial(seed, POSITION).lap)) < 0.04


@pytest.mark.parametrize("seed", SEEDS)
def test_a_reference_without_positions_goes_with_a_lap_that_has_them(seed: int) -> None:
    found = held(trial(seed, DISTANCE).reference, trial(seed).lap)
    assert found.laps[0].alignment.method == "curvature"
    assert gap_error(trial(seed), found) < 0.04


def eight(share: float, seed: int) -> tuple[Log, np.ndarray, np.ndarray]:
    """A lap of a figure of eight at a share of its speed, with noise: the log, and true time over distance."""
    rng = np.random.default_rng(seed)
    s = np.linspace(0.0, 2 * np.pi, 8001)
    x, y = 500.0 * np.sin(s), 300.0 * np.sin(2 * s)
    d = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(x), np.diff(y)))])
    v = share * (45.0 + 12.0 * np.cos(2 * s))
    time = np.concatenate([[0.0], np.cumsum(np.diff(d) / (0.5 * (v[1:] + v[:-1])))])
    clock, fix = np.arange(0.005, time[-1], 0.01), np.arange(0.005, time[-1], 0.1)
    at, fixed = np.interp(clock, time, d), np.interp(fix, time, d)
    values = {"time": clock, "speed": np.interp(at, d, v), "distance": at}
    channels = {name: Channel(name, "", clock, value) for name, value in values.items()}
    for name, value in (("x", x), ("y", y)):
        channels[name] = Channel(name, "m", fix, np.interp(fixed, d, value) + rng.normal(0.0, 1.0, len(fix)))
    return Log(source=f"eight-{seed}.csv", channels=channels), time, d


def test_a_path_that_crosses_itself_never_catches_the_other_leg() -> None:
    (first, time, d), (second, slower, _) = eight(1.0, 1), eight(0.98, 2)
    found = held(first, second)
    assert found.laps[0].alignment.method == "position"
    error = gap_at(found.reference, found.laps[0].passage, d) - (slower - time)
    assert np.sqrt(np.mean(error**2)) < 0.015


def test_a_corner_taken_without_slowing_after_a_slow_exit_has_carried_speed() -> None:
    """The lap arrives so slowly that it need not brake where the reference does."""
    t = drawn(5022)
    corners = held(t.reference, t.lap).laps[0].corners
    corner = next(c for c in corners if c.reference_marks.brake_on_m is not None and c.lap_marks.slowing_m is None)
    assert corner.findings[0].kind == "carried_speed"
    assert sum(abs(f.loss_s) for f in corner.findings) < 1.3 * corner.gap_s


def test_a_gain_has_its_cause_where_the_reference_makes_the_mistake() -> None:
    t = drawn(5024)
    turned = held(t.lap, t.reference).laps[0]
    plain = held(t.reference, t.lap).laps[0]
    assert turned.gap_s == pytest.approx(-plain.gap_s, abs=1e-6)
    dearest = max((f for c in plain.corners for f in c.findings), key=lambda f: f.loss_s)
    gained = min((f for c in turned.corners for f in c.findings), key=lambda f: f.loss_s)
    assert gained.loss_s == pytest.approx(-dearest.loss_s, rel=0.4)
