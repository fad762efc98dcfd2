"""What goes with time is told where it does, and seldom where it does not."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.passes.passes import Pass
from jete.core.passes.trends import Trend, trends_of
from known_laps import a_pass

PASS = a_pass(
    sigma_s=0.01, brake_on_m=400.0, brake_peak=60.0, turn_in_m=480.0, slow_point_m=520.0, throttle_on_m=540.0, full_throttle_m=600.0,
    exit_speed_kmh=110.0, gear=2, brushes=1,
)  # fmt: skip


def drawn(seed: int, per_m: float = 0.0, count: int = 24, level: float = 0.0) -> tuple[list[Pass], list[int]]:
    """Passes of two runs whose pick-up costs so much a metre."""
    rng = np.random.default_rng(seed)
    runs = [k % 2 for k in range(count)]
    out = []
    for run in runs:
        late = float(rng.normal(0.0, 4.0))
        time = 20.0 + per_m * late + level * run + float(rng.normal(0.0, 0.03))
        away = {n: getattr(PASS, n) + float(rng.normal(0.0, 3.0)) for n in ("brake_on_m", "turn_in_m", "min_speed_kmh")}
        out.append(replace(PASS, throttle_on_m=540.0 + late + 20.0 * run, whole_s=time, **away))
    return out, runs


def of(trends: list[Trend], mark: str) -> Trend:
    return next(t for t in trends if t.mark == mark)


def test_a_late_pick_up_is_told_with_its_price() -> None:
    told = of(trends_of(*drawn(1, 0.012)), "throttle_on_m")
    assert told.told
    assert told.low_s < 5.0 * 0.012 < told.high_s
    assert told.seconds == pytest.approx(0.06, abs=0.02)


def test_what_runs_differ_by_is_no_trend() -> None:
    """One run is a second slower and picks up 20 m later throughout: that says nothing of the pick-up."""
    told = of(trends_of(*drawn(2, 0.0, level=1.0)), "throttle_on_m")
    assert not told.told
    assert abs(told.seconds) < 0.03


@pytest.mark.long
def test_seldom_is_anything_claimed_of_nothing() -> None:
    claims = [any(t.told for t in trends_of(*drawn(seed))) for seed in range(200)]
    assert np.mean(claims) <= 0.08


def test_few_passes_say_nothing() -> None:
    assert trends_of(*drawn(3, 0.1, count=6)) == []
    bare = [replace(p, brake_on_m=None) for p in drawn(4)[0]]
    assert "brake_on_m" not in {t.mark for t in trends_of(bare, [1] * len(bare))}
