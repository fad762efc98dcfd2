"""A sensor of bends whose offset wanders: told from places and lines, and from a steady one."""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from typing import TYPE_CHECKING

import numpy as np
import pytest

from jete.core.axis.place.sensor_offset import WALKS, Bent, Wander
from jete.core.causes.verdict.losses import gap_at
from jete.core.compare import compare
from jete.core.motion.borders import line_of
from jete.core.numeric.banded import Rows
from jete.core.numeric.border import Reduced
from jete.simulate.feet_trials import draw_feet_trial
from jete.simulate.logger import LoggerSettings
from jete.simulate.receiver import Receiver, wander
from known_laps import lap_of

if TYPE_CHECKING:
    from jete.core.log.lap import Log
    from jete.simulate.trials import Trial

LENGTH_M = 4000.0
AT_M = np.arange(1.0, LENGTH_M, 3.0)
NOISE_1PM = 1e-4
DRIFTING = Receiver(white_m=0.1, drift_m=0.8, drift_s=8.0)


def found_precision(offset_1pm: np.ndarray) -> np.ndarray:
    """The prior that is chosen where nothing but an offset and noise is felt."""
    timed = offset_1pm + np.random.default_rng(2).normal(0.0, NOISE_1PM, len(AT_M))
    rows = Rows(np.zeros(len(AT_M), dtype=np.intp), np.zeros((len(AT_M), 8)))
    beside = Wander.beside(Bent(rows, np.full(len(AT_M), NOISE_1PM**-2), timed), AT_M, LENGTH_M, 20)
    border = beside.border
    return beside.likeliest(Reduced(border.own, border.right, np.zeros(20), np.zeros((len(border.right), 20))))


def density_of(precision: np.ndarray) -> float:
    """What a walk of pieces of 100 m may do, by its precision, (1/m)² per m."""
    return float(-1.0 / (precision[0, 1] * 100.0))


def test_a_steady_sensor_is_taken_for_one() -> None:
    assert density_of(found_precision(np.zeros(len(AT_M)))) == pytest.approx(WALKS[0])


@pytest.mark.parametrize("density", [1e-11, 1e-10, 1e-9])
def test_how_far_a_sensor_wanders_is_found_to_a_power_of_ten(density: float) -> None:
    walk = np.cumsum(np.random.default_rng(7).normal(0.0, np.sqrt(3.0 * density), len(AT_M)))
    assert density / 15.0 < density_of(found_precision(walk)) < 15.0 * density


def test_each_piece_has_its_own_offset_and_a_long_lap_no_more_pieces() -> None:
    rows = Rows(np.arange(3), np.ones((3, 8)))
    bent = Bent(rows, np.array([1.0, 2.0, 3.0]), np.array([0.1, 0.2, 0.3]))
    border = Wander.beside(bent, np.array([10.0, 990.0, 1000.0]), 1000.0, 12).border
    assert border.own.diagonal().tolist() == [1.0, *[0.0] * 8, 5.0]
    assert border.right[[0, -1]] == pytest.approx([0.1, 1.3])
    assert border.columns[:, 0].tolist() == [1.0] * 8 + [0.0] * 4
    assert border.columns[:, -1].tolist() == [0.0, 2.0, *[5.0] * 7, 3.0, 0.0, 0.0]
    assert Wander.beside(bent, np.array([10.0, 990.0, 1000.0]), 20000.0, 12).border.columns.shape == (12, 40)


def spoilt(log: Log, degrees_per_s: float, seed: int) -> Log:
    """A log whose gyro reads five per cent too much and wanders, without accelerations."""
    yaw = log.channels["yaw_rate"]
    off = wander(np.random.default_rng(seed), len(yaw.value), 0.01, np.radians(degrees_per_s), 10.0)
    kept = {k: c for k, c in log.channels.items() if k not in {"acc_lat", "steering"}}
    return replace(log, channels={**kept, "yaw_rate": replace(yaw, value=1.05 * yaw.value + off)})


@cache
def driven(seed: int) -> Trial:
    return draw_feet_trial(seed, LoggerSettings(), "equal")


def missed_s(seed: int, settings: LoggerSettings) -> tuple[float, list[float]]:
    """How far the running gap is off, root of the mean square, and the gaps of the corners in their own standard deviations."""
    trial = driven(seed).logged(settings)
    logs = [spoilt(log, 1.0, seed + k) for k, log in enumerate((trial.reference, trial.lap))]
    result = compare(lap_of(logs[0]), [lap_of(logs[1], line_of(logs[0]))])
    station = np.linspace(0.0, trial.circuit.length_m, 800)
    axis, true, lap = trial.axis_m(station), trial.gap_s(station), result.laps[0]
    off = [
        (c.gap_s - float(np.diff(np.interp([c.window.start_m, c.window.end_m], axis, true))[0])) / c.sigma_s
        for c in lap.corners
    ]
    return float(np.sqrt(np.mean((gap_at(result.reference, lap.passage, axis) - true) ** 2))), off


@pytest.mark.long
@pytest.mark.parametrize(
    "settings",
    [
        LoggerSettings(receiver=DRIFTING),
        LoggerSettings(channels=tuple(c for c in LoggerSettings().channels if c not in {"x", "y"})),
    ],
    ids=["drifting", "no positions"],
)
def test_a_gyro_that_wanders_by_a_degree_a_second_hardly_moves_the_gap_and_is_no_false_certainty(
    settings: LoggerSettings,
) -> None:
    missed = [missed_s(seed, settings) for seed in (2101, 2102, 2105, 2108, 2111)]
    assert np.median([rms for rms, _ in missed]) < 0.015
    sigmas = np.abs(np.concatenate([off for _, off in missed]))
    assert np.mean(sigmas < 2.0) > 0.9
