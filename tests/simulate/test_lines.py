"""Lines through a corner: roads of their own, driven as quickly as they let, and told over the centre line."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np
import pytest

from jete.report.corner import reason_of
from jete.simulate.circuit import draw
from jete.simulate.feet import drive_with_feet
from jete.simulate.line_trials import OTHER, draw_line_trial
from jete.simulate.lines import Line, as_road, draw_line, draw_shaped, on_centre
from jete.simulate.vehicle import draw_vehicle
from known_laps import compare_trial

if TYPE_CHECKING:
    from jete.core.causes.verdict.result import Comparison
    from jete.simulate.trials import Trial

CIRCUIT, VEHICLE = draw(100_001), draw_vehicle(100_001)


def test_the_centre_line_as_a_road_is_the_circuit() -> None:
    road = as_road(Line(CIRCUIT, np.zeros(len(CIRCUIT.station_m))))
    assert road.length_m == pytest.approx(CIRCUIT.length_m, abs=1e-6)
    assert road.curvature_1pm == pytest.approx(CIRCUIT.curvature_1pm, abs=1e-9)
    assert road.x_m == pytest.approx(CIRCUIT.x_m, abs=1e-6)


def test_a_road_turns_as_its_own_places_do() -> None:
    """Its curvature against that of the circle through each three of its places, 5 m apart."""
    road = as_road(draw_shaped(CIRCUIT, 3, {2: "early"}))
    here = np.stack([road.x_m, road.y_m])
    before, after = (np.roll(here, k, axis=1) for k in (5, -5))
    a, b, c = (np.hypot(*d) for d in (here - before, after - here, after - before))
    area = (here - before)[0] * (after - here)[1] - (here - before)[1] * (after - here)[0]
    circle = 2.0 * area / (a * b * c)
    inner = slice(20, -20)
    assert road.curvature_1pm[inner] == pytest.approx(circle[inner], abs=0.002)


def test_out_in_and_out_is_quicker_than_the_middle_of_the_road() -> None:
    usual = draw_shaped(CIRCUIT, 1, {})
    lap = on_centre(drive_with_feet(as_road(usual), VEHICLE, 1), usual)
    assert lap.lap_time_s(1) < drive_with_feet(CIRCUIT, VEHICLE, 1).lap_time_s(1) - 1.0


def test_a_lap_keeps_its_time_when_it_is_told_over_the_centre_line() -> None:
    line = draw_line(CIRCUIT, 5)
    driven = drive_with_feet(as_road(line), VEHICLE, 5)
    told = on_centre(driven, line)
    assert told.lap_time_s(1) == pytest.approx(driven.lap_time_s(1), abs=1e-6)
    gone = np.trapezoid(told.speed_mps, told.time_s)
    assert gone == pytest.approx(told.station_m[-1] - told.station_m[0], rel=1e-4)


@lru_cache(maxsize=2)
def compared(seed: int) -> tuple[Trial, Comparison]:
    trial = draw_line_trial(seed)
    return trial, compare_trial(trial)


@pytest.mark.long
def test_the_gap_of_another_line_is_right_and_lies_where_it_was_driven() -> None:
    trial, comparison = compared(6012)
    station = np.linspace(0.0, trial.circuit.length_m, 400)
    places = trial.axis_m(station)
    lap = comparison.laps[0].passage
    found = lap.time_at(places) - comparison.reference.time_at(places)
    assert float(np.sqrt(np.mean((found - trial.gap_s(station)) ** 2))) < 0.008


@pytest.mark.long
def test_another_line_is_told_as_the_reason_and_the_usual_one_is_not() -> None:
    told: dict[str, set[str | None]] = {}
    for seed in (6001, 6012):
        trial, comparison = compared(seed)
        passages = (comparison.reference, comparison.laps[0].passage)
        shapes = {f.fault.corner: OTHER[int(f.fault.size)] for f in trial.faults}
        apexes = {c.number: float(trial.axis_m(c.apex_m)) for c in trial.circuit.corners}
        for loss in comparison.laps[0].corners:
            number = min(apexes, key=lambda n: abs(apexes[n] - loss.corner.apex_m))
            shape = shapes.get(number, "usual")
            told.setdefault(shape, set()).update(reason_of(f, loss, passages) for f in loss.findings)
    assert "an earlier apex" in told["early"]
    assert "a later apex" in told["late"]
    assert not {"an earlier apex", "a later apex", "held in at the exit"} & told["usual"]
