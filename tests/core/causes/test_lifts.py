"""A bend on the way out of another corner, where a foot only lifts: laps drawn by hand."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest

from jete.core.causes.verdict.result import CornerLoss
from jete.core.compare import compare
from jete.core.log.lap import Channel, Lap, Log
from known_laps import lap_of

# Two hairpins, and between them, on the way out of the first, a bend.
BENDS = ((300.0, 360.0, 1 / 20), (400.0, 480.0, -1 / 90), (880.0, 950.0, 1 / 20))
LENGTH_M = 1200.0
HAIRPIN = ((0.0, 50.0), (180.0, 55.0), (300.0, 22.0), (350.0, 22.0), (428.0, 32.6))
HELD = (
    *HAIRPIN,
    (440.0, 32.8),
    (466.0, 32.8),
    (700.0, 50.0),
    (800.0, 53.0),
    (900.0, 20.0),
    (940.0, 20.0),
    (1200.0, 45.0),
)
LIFTED = (
    *HAIRPIN,
    (440.0, 32.2),
    (466.0, 31.2),
    (700.0, 49.0),
    (802.0, 52.3),
    (900.0, 20.0),
    (940.0, 20.0),
    (1200.0, 45.0),
)


def drawn(speeds: tuple[tuple[float, float], ...], foot: float) -> Lap:
    """A lap with speeds at places, whose foot lifts to so much in the bend; logged 50 times a second."""
    place = np.arange(0.0, LENGTH_M + 0.1, 0.1)
    v = np.interp(place, *np.array(speeds).T)
    passed = np.concatenate([[0.0], np.cumsum(0.2 / (v[1:] + v[:-1]))])
    time = np.arange(0.0, passed[-1], 0.02)
    at = np.interp(time, passed, place)
    speed = np.interp(at, place, v)
    change = np.gradient(speed, time)
    braked = np.where(change < -4.0, -4.0 * change, 0.0)
    fed = np.where(change > 1.0, 1.0, np.where(change > -0.2, 0.3, 0.0))
    fed[(at > 428.0) & (at < 466.0)] = foot
    bent = sum(k * np.clip(np.minimum(at - a, b - at) / 15.0, 0.0, 1.0) for a, b, k in BENDS)
    channels = {"time": (time, "s"), "distance": (at, "m"), "speed": (speed, "m/s"), "throttle": (fed, "ratio"), "brake": (braked, "bar"), "yaw_rate": (bent * speed, "rad/s")}  # fmt: skip
    return lap_of(
        Log(source="drawn.csv", channels={n: Channel(n, unit, time, value) for n, (value, unit) in channels.items()})
    )


@cache
def corner() -> CornerLoss:
    """The bend of a lap that lifts to less than the reference, and loses 6 km/h."""
    return compare(drawn(HELD, 0.35), [drawn(LIFTED, 0.1)]).laps[0].corners[1]


def test_the_slow_point_lies_in_the_bend_and_not_in_the_corner_before() -> None:
    for marks in (corner().reference_marks, corner().lap_marks):
        assert 425.0 < marks.slow_point_m < 480.0
    assert corner().reference_marks.min_speed_kmh - corner().lap_marks.min_speed_kmh == pytest.approx(5.5, abs=0.5)


def test_who_lifts_more_has_slowed_too_much_and_nothing_was_carried_there() -> None:
    assert corner().gap_s > 0.1
    assert [f.kind for f in corner().findings] == ["overslowing"]
    assert corner().findings[0].loss_s == pytest.approx(corner().gap_s, rel=0.15)
