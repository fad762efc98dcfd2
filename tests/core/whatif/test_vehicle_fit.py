"""Power, drag, grip: learnt from samples that a known vehicle makes."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.whatif.grip_shown import grip_shown
from jete.core.whatif.vehicle_fit import DrivenSamples, VehicleFit, vehicle_of
from whatif_stint import Stint

TRUE = VehicleFit(power_wpkg=220.0, drag_1pm=0.0007, coasting_mps2=1.1, cornering_spm=0.002, most_mps2=9.0, sure=True)


def samples(noise: float = 0.05) -> DrivenSamples:
    """A stint at all speeds: full throttle, a part of it, none, and the brake, on straights and in bends."""
    rng = np.random.default_rng(5)
    n = 6000
    v, throttle = rng.uniform(12.0, 65.0, n), rng.choice([0.0, 0.4, 0.7, 1.0], n)
    lateral = rng.choice([0.0, 0.0, 6.0, 9.0], n)
    braked = rng.random(n) < 0.2
    throttle = np.where(braked, 0.0, throttle)
    a = np.array(
        [TRUE.acceleration(*each) for each in zip(v.tolist(), throttle.tolist(), lateral.tolist(), strict=True)]
    )
    a = a - braked * rng.uniform(2.0, 8.0, n) + rng.normal(0.0, noise, n)
    return DrivenSamples(
        speed_mps=v, acceleration_mps2=a, lateral_mps2=lateral, throttle=throttle, braked=braked, lap=np.arange(n) % 4.0
    )


def test_the_vehicle_comes_out_of_its_samples() -> None:
    fit = vehicle_of(samples())
    assert fit.power_wpkg == pytest.approx(220.0, rel=0.06)
    assert fit.drag_1pm == pytest.approx(0.0007, rel=0.15)
    assert fit.coasting_mps2 == pytest.approx(1.1, abs=0.15)
    assert fit.sure


@pytest.mark.long
def test_the_simulated_vehicle_s_power_comes_within_three_in_a_hundred(stint: Stint) -> None:
    assert stint.known.fit.power_wpkg == pytest.approx(stint.trial.vehicle.power_wpkg, rel=0.03)
    assert stint.known.why is None


def test_without_full_throttle_no_power_is_told() -> None:
    slow = samples()
    gentle = DrivenSamples(**{**vars(slow), "throttle": np.minimum(slow.throttle, 0.6)})
    assert not vehicle_of(gentle).sure


@pytest.mark.long
def test_the_grip_shown_is_what_the_driver_used_of_the_vehicle_s(stint: Stint) -> None:
    grip, vehicle = stint.known.grip, stint.trial.vehicle
    for v in (25.0, 40.0):
        assert grip.lateral_mps2(v) == pytest.approx(0.9 * vehicle.lateral_g * vehicle.normal_mps2(v), rel=0.08)
    assert grip.braking.share == pytest.approx(vehicle.braking_g * 0.87 / (vehicle.lateral_g * 0.9), rel=0.15)


def test_all_but_few_samples_lie_within_the_grip_shown() -> None:
    known = samples()
    grip = grip_shown(known, vehicle_of(known))
    tyres = known.acceleration_mps2 + 0.0007 * known.speed_mps**2
    used = grip.used(known.speed_mps, tyres, known.lateral_mps2)
    assert float(np.mean(used > 1.05)) < 0.05
    assert float(used.max()) > 0.95
