"""Laps of one circuit are known by their paths, else by bends and length."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.circuit.same_circuit import _lies_on, _paths, same_circuit
from jete.core.log.lap import Lap
from jete.core.motion.borders import line_of
from jete.core.numeric.statistics import likeness, longest_run
from jete.simulate.trials import Trial
from known_laps import drawn, lap_of

POSITIONS = ("x", "y")


def beside(lap: Lap, metres: float, length_m: float) -> Lap:
    """A lap with a piece of its path so far to one side."""
    x, y = lap.log.channels["x"], lap.log.channels["y"]
    smooth = np.ones(21) / 21.0
    ahead = np.stack([np.gradient(np.convolve(c.value, smooth, mode="same")) for c in (x, y)])
    along = np.cumsum(np.hypot(*ahead))
    normal = np.stack([-ahead[1], ahead[0]]) / np.maximum(np.hypot(*ahead), 1e-6)
    within = (along > 0.4 * along[-1]) & (along < 0.4 * along[-1] + length_m)
    moved = {
        c.name: replace(c, value=c.value + np.where(within, metres * n, 0.0))
        for c, n in zip((x, y), normal, strict=True)
    }
    return replace(lap, log=replace(lap.log, channels={**lap.log.channels, **moved}))


def bare(lap: Lap, *gone: str) -> Lap:
    return replace(lap, log=replace(lap.log, channels={n: c for n, c in lap.log.channels.items() if n not in gone}))


@pytest.fixture(scope="module")
def pair(trial: Trial) -> tuple[Lap, Lap]:
    return lap_of(trial.reference), lap_of(trial.lap, line_of(trial.reference))


def test_two_drivers_lines_are_one_circuit(pair: tuple[Lap, Lap]) -> None:
    assert same_circuit(*pair)
    assert same_circuit(*pair[::-1])


@pytest.mark.parametrize(("metres", "length_m", "same"), [(25.0, 300.0, False), (25.0, 30.0, True), (4.0, 900.0, True)])
def test_a_piece_beside_makes_another_layout(
    pair: tuple[Lap, Lap], metres: float, length_m: float, same: bool  # noqa: FBT001
) -> None:  # fmt: skip
    other = bare(beside(pair[1], metres, length_m), "yaw_rate", "acc_lat", "steering", "speed")
    base = bare(pair[0], "yaw_rate", "acc_lat", "steering", "speed")
    paths = _paths(base, other)
    assert paths is not None
    assert (_lies_on(paths[1], paths[0]) and _lies_on(paths[0], paths[1])) is same


@pytest.mark.long
@pytest.mark.parametrize("gone", [POSITIONS, (*POSITIONS, "yaw_rate"), (*POSITIONS, "yaw_rate", "acc_lat", "steering")])
def test_without_positions_what_is_left_tells(pair: tuple[Lap, Lap], gone: tuple[str, ...]) -> None:
    assert same_circuit(bare(pair[0], *gone), bare(pair[1], *gone))
    strangers = [bare(lap_of(drawn(s).reference), *gone) for s in (71, 72, 73, 74)]
    assert not any(same_circuit(bare(pair[0], *gone), s) for s in strangers)


def test_the_longest_run() -> None:
    assert longest_run(np.zeros(4, dtype=bool)) == 0
    assert longest_run(np.array([True, True, False, True])) == 2


def test_what_stands_still_is_like_nothing() -> None:
    assert likeness(np.full(9, 3.0), np.arange(9.0)) == 0.0
    assert likeness(np.zeros(9), np.zeros(9)) == 0.0
    assert likeness(np.arange(9.0), -2.0 * np.arange(9.0)) == pytest.approx(-1.0)
