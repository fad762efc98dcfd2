"""Where a film belongs in a log."""

from __future__ import annotations

import numpy as np

from jete.core.walk.film_match import matched


def test_a_log_with_a_gap_of_years_takes_no_memory_and_ties_nothing() -> None:
    yaw = np.convolve(np.random.default_rng(1).normal(size=3000), np.ones(15), "same")
    clock, film = 0.1 * np.arange(3000), (0.1 * np.arange(900), 3.0 * yaw[None, 1200:2100])
    found = matched(film, (clock, yaw))
    assert found is not None
    clock[-1] += 3e9
    assert matched(film, (clock, yaw)) is None
