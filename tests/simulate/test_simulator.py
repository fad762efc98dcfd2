"""The simulator drives what it was told to."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jete.simulate.circuit import Bend, build, draw
from jete.simulate.demo import kestrel_sands
from jete.simulate.driver import Fault, LapPlan, drive
from jete.simulate.lines import draw_line
from jete.simulate.logger import LoggerSettings, record
from jete.simulate.trials import draw_trial
from jete.simulate.vehicle import CAR, MOTORCYCLE


@settings(max_examples=12, deadline=None)
@given(seed=st.integers(0, 5000))
def test_every_drawn_circuit_closes(seed: int) -> None:
    circuit = draw(seed)
    step = circuit.length_m / len(circuit.station_m)
    gap = np.hypot(circuit.x_m[0] - circuit.x_m[-1], circuit.y_m[0] - circuit.y_m[-1])
    assert gap == pytest.approx(step, rel=0.05)
    assert abs(circuit.curvature_1pm.sum() * step) == pytest.approx(2 * np.pi, abs=0.02)


def test_pieces_that_can_not_close_are_refused() -> None:
    with pytest.raises(ValueError, match="full turn"):
        build("open", [Bend(90.0, 30.0)], [100.0, 100.0])


def test_kestrel_sands_is_what_it_is_said_to_be() -> None:
    circuit = kestrel_sands()
    assert 3800.0 < circuit.length_m < 4000.0
    assert len(circuit.corners) == 13
    directions = [c.direction for c in circuit.corners]
    assert directions[:4] == ["right", "left", "right", "left"]


@pytest.mark.parametrize("vehicle", [CAR, MOTORCYCLE])
def test_nobody_exceeds_the_grip(vehicle: object) -> None:
    trace = drive(draw(3), vehicle, [LapPlan()] * 2)  # type: ignore[arg-type]
    kappa = np.interp(
        np.mod(trace.station_m, trace.circuit.length_m), trace.circuit.station_m, trace.circuit.curvature_1pm
    )
    lateral = trace.speed_mps**2 * np.abs(kappa)
    normal = 9.81 + trace.vehicle.downforce_1pm * trace.speed_mps**2
    assert np.percentile(lateral / (trace.vehicle.lateral_g * normal), 99.5) < 1.05


def test_throttle_and_brake_do_not_overlap() -> None:
    trace = drive(draw(3), CAR, [LapPlan()])
    assert not np.any((trace.throttle > 0.02) & (trace.brake_mps2 > 0.1))


@pytest.mark.parametrize(
    "kind", ["early_braking", "overslowing", "late_throttle", "throttle_hesitation", "soft_braking", "slow_exit"]
)
def test_a_fault_costs_time(kind: str) -> None:
    size = {"early_braking": 15.0, "overslowing": 6.0, "late_throttle": 15.0, "throttle_hesitation": 0.5}.get(kind, 0.2)
    circuit = draw(5)
    plain = drive(circuit, CAR, [LapPlan()] * 2)
    faulty = drive(circuit, CAR, [LapPlan(), LapPlan((Fault(kind, 2, size),))])
    assert faulty.lap_time_s(1) > plain.lap_time_s(1) + 0.02


def test_less_grip_is_slower() -> None:
    trace = drive(draw(5), CAR, [LapPlan(), LapPlan(), LapPlan(grip=0.95)])
    assert trace.lap_time_s(2) > trace.lap_time_s(1)


def test_the_logger_has_its_rates_and_noise() -> None:
    trace = drive(draw(3), CAR, [LapPlan()] * 2)
    log = record(trace, draw_line(trace.circuit, 1), LoggerSettings(rate_hz=50.0, position_hz=5.0), 1)
    assert np.median(np.diff(log.channels["speed"].time_s)) == pytest.approx(0.02)
    assert np.median(np.diff(log.channels["x"].time_s)) == pytest.approx(0.2)


def test_a_scaled_odometer_shows_another_length() -> None:
    trace = drive(draw(3), CAR, [LapPlan()] * 2)
    logs = [record(trace, draw_line(trace.circuit, 1), LoggerSettings(odometer_scale=s), 1) for s in (1.0, 1.01)]
    lengths = [float(g.channels["distance"].value.max()) for g in logs]
    assert lengths[1] / lengths[0] == pytest.approx(1.01, abs=1e-4)


@pytest.mark.long
def test_a_trial_is_the_same_each_time() -> None:
    a, b = draw_trial(77), draw_trial(77)
    assert np.array_equal(a.lap.channels["speed"].value, b.lap.channels["speed"].value)
    assert [f.fault for f in a.faults] == [f.fault for f in b.faults]


def test_the_true_gap_ends_with_the_difference_of_the_lap_times() -> None:
    trial = draw_trial(77)
    end = trial.gap_s(np.array([trial.circuit.length_m]))[0]
    assert end == pytest.approx(trial.lap_trace.lap_time_s(1) - trial.reference_trace.lap_time_s(1))
