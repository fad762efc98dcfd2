"""How late one signal is against another: found, with its doubt, and not claimed where nothing tells."""

from __future__ import annotations

from math import inf

import numpy as np
import pytest

from jete.core.numeric.interpolate import integral
from jete.core.numeric.late import UNKNOWN, Lateness, change_over, lateness_of, latenesses_of, summed_over

STEP_S = 0.05


def winding(seed: int) -> tuple[np.ndarray, np.ndarray]:
    """Two minutes of something that rises and falls within seconds."""
    rng = np.random.default_rng(seed)
    time = np.arange(0.0, 120.0, STEP_S)
    waves = zip(rng.normal(size=30), rng.uniform(0.05, 0.4, 30), rng.uniform(0.0, 6.28, 30), strict=True)
    return time, np.sum([a * np.sin(2.0 * np.pi * f * time + p) for a, f, p in waves], axis=0)


def as_signals(time: np.ndarray, value: np.ndarray):
    rate = np.gradient(value, time)
    return lambda at: (np.interp(at, time, value)[:, None], np.interp(at, time, rate)[:, None])


@pytest.mark.parametrize("true", [-0.2, 0.0, 0.13, 0.31])
@pytest.mark.parametrize("scale", [1.0, -2.5])
def test_a_delay_is_found_whatever_the_scale_the_sign_and_the_offset(true: float, scale: float) -> None:
    time, value = winding(1)
    at = time[40:-40]
    late = lateness_of(
        scale * np.interp(at, time, value) + 0.7, at, np.ones(len(at), bool), as_signals(time + true, value)
    )
    assert late.seconds == pytest.approx(true, abs=0.005)


def test_its_doubt_is_told_where_errors_last() -> None:
    off = []
    for seed in range(30):
        time, value = winding(seed)
        rng = np.random.default_rng(seed + 100)
        lasting = np.convolve(rng.normal(size=len(time) + 39), np.ones(40) / 40.0**0.5, "valid")
        at = time[40:-40]
        seen = (value + 0.5 * lasting)[40:-40]
        late = lateness_of(seen, at, np.ones(len(at), bool), as_signals(time + 0.1, value))
        off.append((late.seconds - 0.1) / late.sigma_s)
    assert 0.5 < float(np.sqrt(np.mean(np.square(off)))) < 1.8


def test_two_instruments_are_late_each_by_itself() -> None:
    time, one = winding(2)
    other = winding(3)[1]
    at = time[40:-60]
    seen = change_over(1.0, time, integral(time, one - 0.5 * other), at)
    beside = np.ones((len(at), 1))
    instruments = [summed_over(1.0, time + 0.2, one), summed_over(1.0, time - 0.1, other)]
    found = latenesses_of(seen, at, np.ones(len(at), bool), instruments, beside)
    assert [f.seconds for f in found] == pytest.approx([0.2, -0.1], abs=0.01)


def test_what_is_far_off_for_a_while_does_not_matter() -> None:
    time, value = winding(4)
    at = time[40:-40]
    seen = np.interp(at, time, value)
    seen[500:560] += 50.0
    assert lateness_of(seen, at, np.ones(len(at), bool), as_signals(time + 0.2, value)).seconds == pytest.approx(
        0.2, abs=0.01
    )


def test_what_stands_still_or_is_short_tells_nothing() -> None:
    time, value = winding(5)
    still = as_signals(time, np.full(len(time), 3.0))
    assert not lateness_of(value, time, np.ones(len(time), bool), still).sure(0.0, 3.0)
    few = slice(0, 60)
    assert lateness_of(value[few], time[few], np.ones(60, bool), as_signals(time, value)) == UNKNOWN


@pytest.mark.parametrize("seed", range(8))
def test_a_chance_likeness_is_no_lateness(seed: int) -> None:
    time, value = winding(seed)
    other = np.random.default_rng(seed).normal(size=len(time))
    found = lateness_of(change_over(1.0, time, value, time), time, time < 119.0, summed_over(1.0, time, other))
    assert found == UNKNOWN


def test_only_what_an_instrument_may_be_late_by_is_sure() -> None:
    assert Lateness(0.2, 0.01).sure(0.05, 4.0)
    assert Lateness(-0.2, 0.01).sure(0.05, 4.0)
    assert not Lateness(0.2, 0.06).sure(0.05, 4.0)
    assert not Lateness(0.04, 0.001).sure(0.05, 4.0)
    assert not Lateness(1.3, 0.01).sure(0.05, 4.0)
    assert not Lateness(0.0, inf).sure(0.05, 4.0)
