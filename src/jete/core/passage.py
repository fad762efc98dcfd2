"""A lap laid on the reference's axis, ready to be read corner by corner."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from jete.core.align import Alignment
from jete.core.interpolate import MonotoneCubic
from jete.core.lap import Channel, FloatArray, Lap
from jete.core.motion import Motion, acceleration_mps2
from jete.core.pedals import Pedal, brake_of, slope_per_s, throttle_of

BALANCE_REACH_S = 0.08


@dataclass(frozen=True, eq=False)
class Passage:
    """One lap with its motion, pedals and places; sample arrays are (n,) of the motion."""

    lap: Lap
    motion: Motion
    alignment: Alignment
    throttle: Pedal
    brake: Pedal
    acceleration_mps2: FloatArray

    def place_at(self, time_s: FloatArray | float) -> FloatArray:
        """Place on the axis at times of the lap, metres."""
        return np.asarray(np.interp(time_s, self.motion.time_s, self.alignment.place_m))

    def time_at(self, place_m: FloatArray | float) -> FloatArray:
        """Time of the lap at places, seconds; exact at both ends."""
        return self._time_curve(np.asarray(place_m, dtype=float))

    @cached_property
    def _time_curve(self) -> MonotoneCubic:
        """Time over place; its slope is the pace that the speed gives, where it was logged."""
        place, time = self.alignment.place_m, self.motion.time_s
        if self.motion.inferred:
            return MonotoneCubic.through(place, time, np.gradient(time, place))
        rate = np.gradient(place, self.motion.distance_m)
        return MonotoneCubic.through(place, time, 1.0 / np.maximum(self.motion.speed_mps * rate, 0.1))

    @cached_property
    def balance_mps2(self) -> FloatArray:
        """Longitudinal acceleration over a short reach, (n,): whether the speed is constant."""
        return acceleration_mps2(self.motion, BALANCE_REACH_S)

    @cached_property
    def feed_per_s(self) -> FloatArray:
        """Rate of the throttle over a short reach, 1/s, at its own samples."""
        return slope_per_s(self.throttle, BALANCE_REACH_S)

    @cached_property
    def centred_steering(self) -> tuple[FloatArray, FloatArray] | None:
        """Times and angle of the steering about its middle, or None without it."""
        steering = self.lap.get("steering")
        if steering is None or len(steering) < 20:
            return None
        return steering.time_s, steering.value - float(np.median(steering.value))

    def speed_at(self, place_m: FloatArray | float) -> FloatArray:
        """Logged speed at places, m/s."""
        return np.asarray(np.interp(place_m, self.alignment.place_m, self.motion.speed_mps))

    def channel_at(self, name: str, place_m: FloatArray) -> FloatArray | None:
        """A channel at places, linearly interpolated, or None where it is missing."""
        channel: Channel | None = self.lap.get(name)
        if channel is None or len(channel) < 2:
            return None
        return channel.at(self.time_at(place_m))


def passage_of(lap: Lap, motion: Motion, alignment: Alignment) -> Passage:
    """Put together what the marks read."""
    return Passage(lap, motion, alignment, throttle_of(lap, motion), brake_of(lap, motion), acceleration_mps2(motion))
