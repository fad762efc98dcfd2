"""Why an exit was slow: what made it is set, and told."""

from __future__ import annotations

from types import SimpleNamespace

import numpy as np

from jete.core.driving.reasons import exit_reason
from jete.core.log.lap import Channel

TIME = np.arange(0.0, 10.0, 0.02)
MARKS = SimpleNamespace(throttle_on_m=20.0)


def passage(shift_rpm: float = 7000.0, feed_s: float = 0.5) -> SimpleNamespace:
    """Picks up at 2 s, feeds to full, shifts up once at 5 s."""
    throttle = np.clip((TIME - 2.0) / feed_s, 0.0, 1.0)
    channels = {
        "gear": Channel("gear", "", TIME, np.where(TIME < 5.0, 2.0, 3.0)),
        "rpm": Channel("rpm", "1/min", TIME, np.where(TIME < 5.0, shift_rpm * TIME / 5.0, 0.7 * shift_rpm)),
    }
    pedal = SimpleNamespace(inferred=False, at=lambda t: np.interp(t, TIME, throttle))
    return SimpleNamespace(lap=SimpleNamespace(get=channels.get), throttle=pedal, time_of=lambda m: m / 10.0)


def told(lap: SimpleNamespace, countersteer_s: float = 0.0, *, slow: bool = True) -> str | None:
    how = (SimpleNamespace(countersteer_s=0.0), SimpleNamespace(countersteer_s=countersteer_s))
    return exit_reason((passage(), lap), (MARKS, MARKS), how, slow=slow)  # type: ignore[arg-type]


def test_the_same_exit_has_no_reason() -> None:
    assert told(passage()) is None


def test_a_long_countersteer_is_a_rear_that_slid() -> None:
    assert told(passage(), 0.6) == "the rear slid"
    assert told(passage(), 0.6, slow=False) is None


def test_a_shift_at_another_engine_speed_is_told() -> None:
    assert told(passage(shift_rpm=6500.0)) == "shifted earlier"
    assert told(passage(shift_rpm=7500.0)) == "shifted later"


def test_a_throttle_that_is_fed_more_slowly_is_told_of_a_slow_exit_only() -> None:
    assert told(passage(feed_s=1.3)) == "fed the throttle more slowly"
    assert told(passage(feed_s=1.3), slow=False) is None
