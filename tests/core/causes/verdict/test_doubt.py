"""How sure speeds are that come from positions: by what the smoother leaves, and by what a receiver may hide."""

from __future__ import annotations

from types import SimpleNamespace

import numpy as np
import pytest

from jete.core.axis.positions.position_errors import PositionErrors, white
from jete.core.causes.verdict.doubt import SLOWEST_LASTS_S, _inferred_mps
from jete.core.motion.motion import Motion
from jete.core.motion.track import Sigmas

TIME = np.arange(0.0, 5.0, 0.1)
LEFT = Sigmas(0.5, 0.2, 0.1)


def passage(worth: PositionErrors, sigmas: Sigmas = LEFT) -> SimpleNamespace:
    """A lap whose speed came from positions, unless its sigmas are zero."""
    motion = Motion(TIME, 20.0 * TIME, np.full_like(TIME, 20.0), sigmas=sigmas)
    return SimpleNamespace(motion=motion, alignment=SimpleNamespace(errors=worth))


def sigmas_of(worth: PositionErrors, sigmas: Sigmas = LEFT) -> list[float]:
    each = passage(worth, sigmas)
    return _inferred_mps((each, each), SimpleNamespace(errors=worth))  # type: ignore[arg-type]


def test_a_logged_speed_has_no_doubt_from_positions() -> None:
    assert sigmas_of(white(0.1, 0.1), Sigmas()) == [0.0, 0.0]


def test_positions_as_rough_as_a_plain_receiver_hide_nothing() -> None:
    assert sigmas_of(white(1.0, 0.1)) == pytest.approx([0.2, 0.2])


def test_positions_that_look_surer_may_drift_and_take_the_speed_along() -> None:
    """A random walk's slope over T: simulated as an error of 1 m that lasts 10 s."""
    rng, step = np.random.default_rng(5), 0.1
    keeps = np.exp(-step / 10.0)
    error = np.zeros(200_000)
    for k, kick in enumerate(rng.normal(0.0, np.sqrt(1.0 - keeps**2), len(error) - 1)):
        error[k + 1] = keeps * error[k] + kick
    lag = round(SLOWEST_LASTS_S / step)
    moved = (error[lag:] - error[:-lag]) / SLOWEST_LASTS_S
    hidden = sigmas_of(white(0.02, 0.1), Sigmas(0.5, 1e-6, 0.1))[0]
    assert hidden == pytest.approx(float(moved.std()), rel=0.1)
