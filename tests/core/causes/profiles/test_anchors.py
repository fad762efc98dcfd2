"""Where a corner is taken apart, on a lap that is known to the metre."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import pytest

from jete.core.causes.profiles.anchors import GENTLEST_MPS2, Anchors, anchors_of
from jete.core.causes.profiles.cells import Cells
from jete.core.driving.marks import Marks
from jete.core.driving.windows import Span
from jete.core.motion.track import Sigmas

MARKS = Marks(
    brake_on_m=95.0, brake_peak=60.0, brake_unit="bar", brake_off_m=200.0, lift_m=90.0, turn_in_m=180.0,
    slow_point_m=215.0, min_speed_kmh=72.0, throttle_on_m=230.0, full_throttle_m=260.0, exit_speed_kmh=150.0,
    coast_s=0.0, throttle_dips=0, gear=2,
)  # fmt: skip
BRAKING_MPS2 = 10.0
LOGGED = Sigmas()
TWO = (Span(0.0, 500.0), Span(500.0, 1000.0))


@dataclass(frozen=True)
class Steady:
    """A passage at 20 m/s whose throttle is free until some places."""

    free_to_m: float
    sigmas: Sigmas

    @property
    def motion(self) -> Steady:
        return self

    def time_at(self, place_m: np.ndarray) -> np.ndarray:
        return place_m / 20.0

    def place_at(self, time_s: np.ndarray) -> np.ndarray:
        return time_s * 20.0

    def speed_at_scale(self, place_m: np.ndarray) -> np.ndarray:
        return np.full_like(place_m, 20.0)

    def off_throttle_until(self, time_s: np.ndarray) -> np.ndarray:
        return np.maximum(time_s, self.free_to_m / 20.0)

    @property
    def rolled_s(self) -> tuple[np.ndarray, np.ndarray]:
        """Off the brake at 200 m, on neither pedal until a place."""
        until = max(self.free_to_m / 20.0, 10.0)
        return np.array([0.0, 10.0, until + 1e-9]), np.array([0.0, 0.0, until - 10.0])


def found(
    marks: Marks, free_to_m: float = 0.0, sigmas: Sigmas | None = None, waits_m: float = np.inf
) -> tuple[Anchors, ...]:
    """Anchors of the same corner twice: 50 m/s, braking from 95 m to 20 m/s at 200 m, held, driven on from 230 m."""
    cells = Cells.over(TWO)
    at = np.mod(cells.table.at_m - 500.0 * cells.table.of, 1000.0)
    slowing = 0.5 * 20.0**2 + BRAKING_MPS2 * np.maximum(200.0 - at, 0.0)
    energy = np.minimum(0.5 * 50.0**2, slowing) + 4.0 * np.maximum(at - 230.0, 0.0) * (at < 600.0)
    later = replace(marks, **{k: v + 500.0 for k, v in vars(marks).items() if k.endswith("_m") and v is not None})
    passage = Steady(free_to_m, sigmas or LOGGED)
    waits = np.array([waits_m, waits_m + 500.0])
    return anchors_of(passage, (marks, later), waits, TWO, cells.table, energy)  # type: ignore[arg-type]


def test_corners_worked_out_together_are_alike() -> None:
    first, second = found(MARKS)
    for name in ("lift_m", "brake_m", "released_m", "slowed_m", "pickup_m"):
        assert getattr(second, name) - getattr(first, name) == pytest.approx(500.0, abs=0.2)
    assert second.least == pytest.approx(first.least)


def test_the_slowing_ends_near_its_lowest_speed_and_braking_is_its_mean() -> None:
    first, _ = found(MARKS)
    assert first.slowed_m == pytest.approx(199.5, abs=1.5)
    assert first.least == pytest.approx(200.0, rel=0.01)
    assert first.braking_mps2 == pytest.approx(BRAKING_MPS2, rel=0.03)
    assert not first.rolls_in


def test_a_speed_that_is_not_sure_ends_the_slowing_at_a_higher_level() -> None:
    sure, unsure = found(MARKS)[0], found(MARKS, sigmas=Sigmas(0.5, 0.5, 0.3))[0]
    assert sure.slowed_m - unsure.slowed_m == pytest.approx((21.0**2 - 20.3**2) / 2 / BRAKING_MPS2, abs=0.7)


def test_rolling_after_the_brake_is_slowing_too() -> None:
    rolled = found(MARKS, free_to_m=222.0)[0]
    assert rolled.rolls_in
    assert rolled.slowed_m == pytest.approx(222.0, abs=0.1)


def test_a_corner_without_marks_collapses_at_its_slow_point() -> None:
    bare = replace(MARKS, brake_on_m=None, brake_off_m=None, lift_m=None, throttle_on_m=None)
    first, _ = found(bare)
    assert first.lift_m == first.brake_m == first.released_m == first.slowed_m
    assert first.pickup_m == pytest.approx(215.0)
    assert first.braking_mps2 == GENTLEST_MPS2
