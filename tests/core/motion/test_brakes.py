"""One brake channel, whichever circuits were logged."""

import numpy as np
import pytest

from jete.core.log.lap import Channel, Log
from jete.core.motion.brakes import brake_channel

TIME = np.arange(5) * 0.1
FRONT = Channel("brake_front", "bar", TIME, np.array([0.0, 20.0, 40.0, 20.0, 0.0]))
# Logged at half the rate, so that it is read between its samples.
REAR = Channel("brake_rear", "bar", TIME[::2], np.array([0.0, 10.0, 0.0]))


def braked(**channels: Channel) -> Channel | None:
    return brake_channel(Log(source="log.csv", channels={"time": Channel("time", "s", TIME, TIME), **channels}))


def test_both_circuits_add_up_on_the_front_one_s_clock() -> None:
    both = braked(brake_front=FRONT, brake_rear=REAR)
    assert both is not None
    assert both.unit == "bar"
    assert both.value == pytest.approx([0.0, 25.0, 50.0, 25.0, 0.0])


def test_a_brake_of_its_own_comes_before_both_and_one_circuit_serves_alone() -> None:
    whole = Channel("brake", "%", TIME, np.ones(5))
    assert braked(brake=whole, brake_front=FRONT, brake_rear=REAR) is whole
    assert braked(brake_front=FRONT) is FRONT
    assert braked(brake_rear=REAR) is REAR
    assert braked() is None
