"""Receivers: their noise, drift, filter, rounding, and what loggers write between their fixes."""

from __future__ import annotations

import numpy as np
import pytest

from jete.simulate.receiver import Receiver, filled_in, seen, wander

FIXES = np.arange(0.0, 200.0, 0.1)


def test_a_wandering_error_has_its_size_and_its_memory() -> None:
    error = wander(np.random.default_rng(1), 200_000, 0.1, 0.8, 8.0)
    later = float(np.mean(error[80:] * error[:-80])) / float(np.mean(error**2))
    assert float(np.std(error)) == pytest.approx(0.8, rel=0.1)
    assert later == pytest.approx(np.exp(-1.0), abs=0.06)


def test_a_filter_takes_noise_and_rounds_a_bend_off() -> None:
    rng = np.random.default_rng(2)
    still = seen(Receiver(filter_s=0.6), np.zeros(len(FIXES)), rng)
    assert float(np.std(still)) == pytest.approx(1.0 / 7.0**0.5, rel=0.15)


def test_rounded_positions_lie_on_a_grid() -> None:
    value = seen(Receiver(round_m=1.1), 3.0 * FIXES, np.random.default_rng(3))
    assert value / 1.1 == pytest.approx(np.round(value / 1.1))


@pytest.mark.parametrize("filled", ["held", "linear", "cubic"])
def test_what_is_filled_in_goes_through_the_fixes(filled: str) -> None:
    value = np.random.default_rng(4).normal(0.0, 1.0, len(FIXES))
    receiver = Receiver(filled=filled)  # type: ignore[arg-type]
    assert filled_in(receiver, FIXES, value, FIXES + 1e-9) == pytest.approx(value, abs=1e-6)
