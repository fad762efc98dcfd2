"""Drivers side by side: who is quickest where, by what others lose, and what is the car's."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jete.core.axis.road.corners import Corner, CornerId, CornerNumber
from jete.core.circuit.stakes import Stakes
from jete.core.passes.passes import Pass
from jete.core.passes.team import team_of

CORNERS = [
    Corner(number=CornerNumber(k), direction="left", start_m=300.0 * k, apex_m=300.0 * k + 30.0, end_m=300.0 * k + 60.0, id=CornerId(k))
    for k in (1, 2)
]  # fmt: skip
STAKES = [
    Stakes(kind="exit", straight_m=400.0, straight_s=8.0, before_m=0.0, exit_kmh_worth_s=0.03, slow_kmh_worth_s=0.05, brake_m_worth_s=0.01)
] * 2  # fmt: skip
SHAKE = np.random.default_rng(3).normal(0.0, 0.02, 12)


def passes(corner: int, whole_s: float, **marks: float) -> list[Pass]:
    one = Pass(
        corner=CornerId(corner), window_s=6.0, whole_s=whole_s, sigma_s=0.01, brake_on_m=100.0, brake_peak=50.0, turn_in_m=120.0,
        slow_point_m=140.0, min_speed_kmh=80.0, throttle_on_m=150.0, full_throttle_m=170.0, exit_speed_kmh=110.0, gear=2, brushes=1,
        apex_off_m=None, exit_off_m=None,
    )  # fmt: skip
    return [replace(one, whole_s=whole_s + float(s), window_s=6.0 + float(s), **marks) for s in SHAKE]  # type: ignore[arg-type]


def team(second: list[Pass], **more: list[Pass]):
    of = {
        "Ines": {CornerId(1): passes(1, 14.0), CornerId(2): passes(2, 14.0)},
        "Tomasz": {CornerId(1): second, CornerId(2): more.get("other", passes(2, 14.0))},
    }
    return {row.driver: row for row in team_of(of, CORNERS, STAKES)}


def test_the_slower_one_learns_from_the_quicker_by_the_mark_that_differs() -> None:
    rows = team(passes(1, 14.3, brake_on_m=88.0, min_speed_kmh=79.5))
    cell = rows["Tomasz"].cells[0]
    assert cell is not None
    assert cell.lost_s == pytest.approx(0.3)
    assert (cell.learn_from, [m.mark for m in cell.by]) == ("Ines", ["brake_on_m"])
    assert cell.by[0].difference == pytest.approx(-12.0)
    first = rows["Ines"].cells[0]
    assert first is not None
    assert (first.lost_s, first.learn_from, list(rows)) == (0.0, "", ["Ines", "Tomasz"])


def test_what_may_be_chance_has_no_one_to_learn_from() -> None:
    cell = team(passes(1, 14.005))["Tomasz"].cells[0]
    assert cell is not None
    assert (cell.learn_from, cell.by) == ("", ())


def test_too_few_passes_are_no_cell() -> None:
    assert team(passes(1, 14.3)[:2])["Tomasz"].cells[0] is None


def test_a_car_that_is_slower_on_the_straights_is_told_apart_from_its_driver() -> None:
    slower_car = team(passes(1, 14.3), other=passes(2, 14.3))["Tomasz"]
    assert slower_car.straights_s == pytest.approx(0.6)
    slow_exits = team(passes(1, 14.3, exit_speed_kmh=100.0), other=passes(2, 14.3, exit_speed_kmh=100.0))["Tomasz"]
    assert slow_exits.straights_s is None
