"""What a day brings: hills, wind, load, gears by choice, wheels that slip, a bend that one lifts for."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from jete.simulate.circuit import Bend, Hill, build
from jete.simulate.demo import kestrel_sands, marrow_fen
from jete.simulate.driver import Fault, LapPlan, Trace
from jete.simulate.feet import STILL, Wind, drive_stint_with_feet
from jete.simulate.lines import draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.vehicle import CAR

CIRCUIT = kestrel_sands()
LEVEL = replace(CIRCUIT, height_m=np.zeros_like(CIRCUIT.height_m))


@cache
def stint(*, hilly: bool = False, wind: Wind = STILL, plan: LapPlan = LapPlan()) -> Trace:  # noqa: B008 - frozen
    return drive_stint_with_feet(CIRCUIT if hilly else LEVEL, CAR, 3, [LapPlan(), plan, LapPlan()], 0.9, 1, wind)


def speed_at(trace: Trace, station_m: float) -> float:
    return float(np.interp(CIRCUIT.length_m + station_m, trace.station_m, trace.speed_mps))


def test_a_hill_slows_on_the_way_up_and_pays_back_on_the_way_down() -> None:
    assert abs(float(np.mean(CIRCUIT.slope))) < 1e-6
    # Up to the top of the dune, and down from it to the brake of the last corner.
    assert CIRCUIT.slope[2940] > 0.01
    assert CIRCUIT.slope[3270] < -0.005
    gained = [speed_at(stint(hilly=h), 3270.0) - speed_at(stint(hilly=h), 3150.0) for h in (True, False)]
    assert gained[0] > gained[1]


def test_head_wind_costs_top_speed() -> None:
    """The main straight runs along the heading of station 300."""
    heading = float(CIRCUIT.heading_rad[300])
    against = stint(wind=Wind(8.0, heading + np.pi))
    behind = stint(wind=Wind(8.0, heading))
    assert speed_at(against, 380.0) < speed_at(stint(), 380.0) - 0.5 < speed_at(behind, 380.0) - 1.0


def test_fuel_costs_time() -> None:
    assert stint(plan=LapPlan(load=0.1)).lap_time_s(1) > stint().lap_time_s(1) + 0.5


def test_a_gear_is_held_by_choice_and_pulls_less_below_its_range() -> None:
    third = stint(plan=LapPlan(gears=((6, 3),)))
    assert third.gear is not None
    at = int(np.searchsorted(third.station_m, CIRCUIT.length_m + 1790.0))
    assert third.gear[at] == 3.0
    plain = stint()
    assert plain.gear is not None
    assert plain.gear[int(np.searchsorted(plain.station_m, CIRCUIT.length_m + 1790.0))] == 2.0
    assert CAR.pull(15.0, 3) < CAR.pull(20.0, 3) < CAR.pull(30.0, 3) == 1.0


def test_a_bend_that_others_take_flat_is_lifted_for() -> None:
    lifted = stint(plan=LapPlan((Fault("lifts", 7, 0.5),)))
    kink = CIRCUIT.length_m + CIRCUIT.corners[6].start_m
    near = (lifted.station_m > kink - 60.0) & (lifted.station_m < kink + 90.0)
    assert lifted.throttle[near].min() < 0.05
    plain = stint()
    assert plain.throttle[(plain.station_m > kink - 60.0) & (plain.station_m < kink + 90.0)].min() > 0.9
    assert lifted.lap_time_s(1) > plain.lap_time_s(1) + 0.02


def test_wheels_slip_and_a_receiver_lags() -> None:
    channels = ("lap", "speed", "wheel_speed", "gps_speed", "altitude", "acc_vert", "x", "y")
    log = record(
        stint(hilly=True), draw_line(CIRCUIT, 1, 0.0), LoggerSettings(channels=channels, speed_noise_mps=0.0), 4, (1, 2)
    )
    speed, wheel = log.channels["speed"].value, log.channels["wheel_speed"].value
    share = wheel / speed - 1.0
    assert -0.13 < share.min() < -0.02
    assert 0.005 < share.max() < 0.13
    assert float(np.ptp(log.channels["altitude"].value)) > 8.0
    assert float(np.mean(log.channels["acc_vert"].value)) == pytest.approx(9.81, abs=0.1)


def test_hills_are_where_they_are_put_and_the_fen_is_level() -> None:
    road = build("x", [Bend(90.0, 30.0)] * 4, [80.0, 120.0, 80.0, 120.0, 60.0], (Hill(100.0, 5.0, 40.0),))
    assert road.height_m[round(100.0 / road.length_m * len(road.height_m))] == pytest.approx(5.0, abs=0.05)
    assert float(np.ptp(marrow_fen().height_m)) == 0.0
