"""What a vehicle does on full throttle, learnt from a lap of a known one."""

from types import SimpleNamespace

import numpy as np
import pytest

from jete.core.driving.pedals import Pedal
from jete.core.driving.vehicle import Drive, drive_of

TIME = np.arange(0.0, 30.0, 0.02)


def learnt(most_mps2: float) -> Drive:
    """From a straight on full throttle: 160 W/kg and a drag of 0.0006 v², never more than so many m/s²."""
    speed = np.empty_like(TIME)
    speed[0] = 12.0
    for k in range(len(TIME) - 1):
        speed[k + 1] = speed[k] + 0.02 * min(160.0 / speed[k] - 0.0006 * speed[k] ** 2 - 0.2, most_mps2)
    acceleration = np.gradient(speed, TIME)
    place = np.cumsum(speed) * 0.02
    road = SimpleNamespace(curvature_1pm=np.zeros_like(place), speed_mps=speed, curvature_at=np.zeros_like)
    passage = SimpleNamespace(
        motion=SimpleNamespace(time_s=TIME, speed_mps=speed),
        throttle=Pedal(time_s=TIME, value=np.ones_like(TIME), rest=0.0, full=1.0, noise=0.0, unit="ratio"),
        alignment=SimpleNamespace(place_m=place),
        acceleration_mps2=acceleration,
    )
    return drive_of(passage, road)  # type: ignore[arg-type]


def test_power_and_drag_are_those_of_the_vehicle() -> None:
    drive = learnt(most_mps2=100.0)
    assert (drive.power_wpkg, drive.drag_1pm) == pytest.approx((160.0, 0.0006), rel=0.03)
    assert drive.spins_mps == 0.0


def test_where_the_tyres_are_the_limit_a_difference_of_speed_stays() -> None:
    """5 m/s² are what the power gives at 28 m/s, and 0.93 of it at 26 m/s."""
    drive = learnt(most_mps2=5.0)
    assert drive.spins_mps == pytest.approx(26.0, abs=3.0)
    slow, fast = drive.fade_1pm(np.array([20.0, 40.0]))
    assert slow == pytest.approx(-2.0 * drive.drag_1pm)
    assert fast < 1.5 * slow
