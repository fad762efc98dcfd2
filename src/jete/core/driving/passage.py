"""A lap laid on the reference's axis, ready to be read corner by corner."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from jete.core.arrays import BoolArray, FloatArray, IntArray
from jete.core.axis.place.align import Alignment
from jete.core.driving.pedals import THROTTLE_FULL, Pedal, brake_of, free_spells, slope_per_s, throttle_of
from jete.core.log.lap import Lap
from jete.core.motion.motion import Motion, acceleration_mps2
from jete.core.numeric.interpolate import MonotoneCubic, linear, slopes
from jete.core.numeric.statistics import true_runs

# A vehicle brakes from 150 to 80 km/h in a second and a half: with samples farther apart than this its marks are guesses.
COARSE_S = 0.4
# A throttle that balances the vehicle is judged over this;
BALANCE_REACH_S = 0.08
# What speed it gains, over this. Less shows the noise of the speed.
BALANCE_GAIN_S = 0.16
# Or, where the noise of the speed makes more than this of it (the noise over the reach), over longer, to this.
BALANCE_NOISE_MPS2, LONGEST_GAIN_S = 0.15, 0.3
# It gains less speed than this,
BALANCE_MPS2 = 0.6
# Or than so many standard deviations where speed was not logged,
BALANCE_SIGMAS = 1.5
# Moves by less than this share a second,
BALANCE_RATE = 0.4
# And is not as far down as this. Wider bounds move the pick-up later.
BALANCE_MOST = 0.75
# A level that is held for less is a step on the way: a foot that steps on it, and then feeds.
BALANCE_HOLD_S = 0.12


@dataclass(frozen=True, eq=False)
class Passage:
    """One lap with its motion, pedals and places; sample arrays are (n,) of the motion."""

    lap: Lap
    motion: Motion
    alignment: Alignment
    throttle: Pedal
    brake: Pedal
    acceleration_mps2: FloatArray

    @property
    def coarse(self) -> bool:
        """Whether samples lie too far apart for marks: what a corner cost can be told then, its causes can't."""
        return self.motion.step_s > COARSE_S

    @property
    def inferred(self) -> tuple[str, ...]:
        """What was not logged of speed, throttle and brake, and follows from positions or from the acceleration."""
        known = {"speed": self.motion.inferred, "throttle": self.throttle.inferred, "brake": self.brake.inferred}
        return tuple(name for name, is_inferred in known.items() if is_inferred)

    def place_at(self, time_s: FloatArray) -> FloatArray:
        """Place on the axis at times of the lap (m,), metres, (m,)."""
        return np.asarray(np.interp(time_s, self.motion.time_s, self.alignment.place_m))

    def place_of(self, time_s: float) -> float:
        """:meth:`place_at` of one time."""
        return linear(time_s, self.motion.time_s, self.alignment.place_m)

    def time_at(self, place_m: FloatArray) -> FloatArray:
        """Time of the lap at places (m,), seconds, (m,); exact at both ends."""
        return self._time_curve(np.asarray(place_m, dtype=float))

    def time_of(self, place_m: float) -> float:
        """:meth:`time_at` of one place."""
        return self._time_curve.one(place_m)

    @cached_property
    def _time_curve(self) -> MonotoneCubic:
        """Time over place; its slope is the pace that the speed gives, where it was logged."""
        place, time = self.alignment.place_m, self.motion.time_s
        if self.motion.inferred:
            return MonotoneCubic.through(place, time, slopes(time, place))
        rate = slopes(place, self.motion.distance_m)
        return MonotoneCubic.through(place, time, 1.0 / np.maximum(self.motion.speed_mps * rate, 0.1))

    @cached_property
    def gains(self) -> BoolArray:
        """Whether the vehicle gains speed, at the samples of the throttle."""
        # A speed that flickers by 0.1 km/h must not break a level up.
        reach_s = min(max(self.motion.noise_mps / BALANCE_NOISE_MPS2, BALANCE_GAIN_S), LONGEST_GAIN_S)
        a = np.interp(self.throttle.time_s, self.motion.time_s, acceleration_mps2(self.motion, reach_s))
        return np.asarray(a >= BALANCE_MPS2 + BALANCE_SIGMAS * self.motion.sigmas.acceleration_mps2)

    @cached_property
    def idle_runs(self) -> tuple[IntArray, IntArray]:
        """Runs of throttle samples at rest, or holding a level by which the vehicle does not gain speed: first and last of each, (k,)."""
        throttle = self.throttle
        steady = np.abs(slope_per_s(throttle, BALANCE_REACH_S)) < BALANCE_RATE
        rest, balancing = throttle.at_rest(), steady & ~self.gains & (throttle.value < BALANCE_MOST)
        first, last = true_runs(rest | balancing)
        rested = np.concatenate([[0], np.cumsum(rest)])
        held = (rested[last + 1] > rested[first]) | (last - first + 1 >= BALANCE_HOLD_S / throttle.step_s)
        return first[held], last[held]

    @cached_property
    def full_runs(self) -> tuple[IntArray, IntArray]:
        """Runs of throttle samples at full: first and last of each, (k,)."""
        return true_runs(self.throttle.value > THROTTLE_FULL)

    @cached_property
    def free_s(self) -> tuple[tuple[FloatArray, FloatArray], tuple[FloatArray, FloatArray]]:
        """Times between which the throttle, and the brake, is not touched, from and to, (k,) each."""
        end_s = float(self.motion.time_s[-1])
        throttle, brake = (free_spells(p, p.untouched, end_s) for p in (self.throttle, self.brake))
        return throttle, brake

    def off_throttle_until(self, time_s: FloatArray) -> FloatArray:
        """When the throttle is touched next, (n,): at once where it is touched at the times (n,)."""
        from_s, to_s = self.free_s[0]
        k = from_s.searchsorted(time_s, side="right") - 1
        until = np.concatenate([to_s, [-np.inf]])[k]
        return np.asarray(np.maximum(until, time_s))

    @cached_property
    def rolled_s(self) -> tuple[FloatArray, FloatArray]:
        """Times at which a pedal is touched or left, and the seconds on neither pedal up to each, (k,) both.

        The seconds go up evenly from one time to the next, so in between they are interpolated.
        """
        edges = self.free_s
        times = np.concatenate([[0.0, self.motion.time_s[-1]], *(e for pair in edges for e in pair)])
        counts = np.concatenate(
            [[0, 0], *(np.full(len(e), by) for pair in edges for e, by in zip(pair, (1, -1), strict=True))]
        )
        order = np.argsort(times, kind="stable")
        steps = np.diff(times[order]) * (np.cumsum(counts[order])[:-1] == 2)
        return times[order], np.concatenate([[0.0], np.cumsum(steps)])

    def gained_mps(self, start_s: float, end_s: float) -> float:
        """Change of the logged speed between two times, m/s."""
        before, after = (linear(t, self.motion.time_s, self.motion.quiet_mps) for t in (start_s, end_s))
        return after - before

    @cached_property
    def centred_steering(self) -> tuple[FloatArray, FloatArray] | None:
        """Times and angle of the steering about its middle, (n,) both, radians; None without it."""
        steering = self.lap.get("steering")
        if steering is None or len(steering) < 20:
            return None
        return steering.time_s, steering.value - float(np.median(steering.value))

    def speed_at_scale(self, place_m: FloatArray) -> FloatArray:
        """Logged speed at places (m,) on the scale of the reference's odometer, m/s, (m,)."""
        return np.interp(place_m, self.alignment.place_m, self.motion.quiet_mps) * self.alignment.speed_scale


def passage_of(lap: Lap, motion: Motion, alignment: Alignment) -> Passage:
    """Put together what the marks read."""
    return Passage(lap, motion, alignment, throttle_of(lap, motion), brake_of(lap, motion), acceleration_mps2(motion))
