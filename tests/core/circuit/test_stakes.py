"""What a kilometre an hour, or a metre, is worth: against driving it again."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest

from jete.core.causes.verdict.result import Comparison
from jete.core.circuit.stakes import Stakes, stakes_of
from jete.core.compare import compare
from jete.core.driving.vehicle import drive_of
from jete.simulate.vehicle import Vehicle
from known_laps import drawn, lap_of


@cache
def worked_out(seed: int = 5) -> tuple[Comparison, list[Stakes]]:
    reference = lap_of(drawn(seed).reference)
    found = compare(reference, [reference])
    marks = [c.reference_marks for c in found.laps[0].corners]
    return found, stakes_of(found.reference, found.road, drive_of(found.reference, found.road), found.corners, marks)


def seconds_to(vehicle: Vehicle, start_mps: float, metres: float) -> float:
    """Time over a straight on full throttle, by small steps."""
    v, t, step = start_mps, 0.0, 0.25
    for _ in range(round(metres / step)):
        nxt = float(np.sqrt(v * v + 2.0 * step * float(vehicle.full_mps2(np.array([v]))[0])))
        t += 2.0 * step / (v + nxt)
        v = nxt
    return t


@pytest.mark.parametrize("at", range(4))
def test_speed_on_a_straight_is_worth_what_driving_it_again_says(at: int) -> None:
    found, stakes = worked_out()
    long = sorted(range(len(stakes)), key=lambda k: -stakes[k].straight_m)[at]
    corner, stake, vehicle = found.corners[long], stakes[long], drawn(5).reference_trace.vehicle
    mark = found.laps[0].corners[long].reference_marks
    assert mark.full_throttle_m is not None
    v = float(found.reference.speed_at_scale(np.array([max(mark.full_throttle_m, corner.end_m)]))[0])
    way = stake.straight_m - max(corner.end_m - mark.full_throttle_m, 0.0)
    again = seconds_to(vehicle, v, way) - seconds_to(vehicle, v + 1.0 / 3.6, way)
    # The piece from the corner's end to full throttle is not on full throttle: it is taken off as it is.
    before = max(mark.full_throttle_m - corner.end_m, 0.0) / v**2 / 3.6
    assert stake.exit_kmh_worth_s - before == pytest.approx(again, rel=0.1)


def test_kinds_say_what_lies_before_and_after() -> None:
    _, stakes = worked_out()
    for stake in stakes:
        after = stake.straight_m >= 150.0 and stake.straight_s >= 3.0
        assert (stake.kind in ("exit", "both")) is after
    assert {s.kind for s in stakes} & {"exit", "both"}


def test_braking_a_metre_later_saves_the_pace_of_both_ends() -> None:
    found, stakes = worked_out()
    for loss, stake in zip(found.laps[0].corners, stakes, strict=True):
        mark = loss.reference_marks
        if mark.brake_on_m is not None and mark.brake_off_m is not None:
            fast, slow = (
                float(found.reference.speed_at_scale(np.array([m]))[0]) for m in (mark.brake_on_m, mark.brake_off_m)
            )
            assert stake.brake_m_worth_s == pytest.approx(1.0 / slow - 1.0 / fast, abs=2e-4)


def test_speed_at_the_slow_point_is_worth_more_than_at_the_exit() -> None:
    _, stakes = worked_out()
    assert all(s.slow_kmh_worth_s > 0.8 * s.exit_kmh_worth_s for s in stakes if s.kind != "flat")
