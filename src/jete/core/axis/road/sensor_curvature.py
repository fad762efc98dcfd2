"""How sharply the path of a lap bends, as a sensor felt it."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from jete.core.log.channels import GRAVITY_MPS2
from jete.core.motion.motion import smooth_box
from jete.core.motion.pace import SLOWEST_MPS

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.log.lap import Lap
    from jete.core.motion.motion import Motion

# A running mean over this quietens a gyro and leaves a turn-in as it is.
SMOOTH_S = 0.3
# With which power of the speed the noise of a gyro's curvature falls.
GYRO = 1
# Two sensors of one kind differ by so much of a bend (mounting, scale, a running mean at another speed),
UNLIKE = 0.03
# Of two kinds by this: roll takes part in an acceleration and a lean, a vehicle that runs wide is steered more than it turns.
UNLIKE_KINDS = 0.1


# No rider leans farther, radians; and who leans less than this cosine seldom, has hardly leant.
MOST_LEAN, LEANS = 1.2, 0.95


class Between(NamedTuple):
    """How the curvatures of one bend by two sensors differ: with which power of the speed their noise falls, and by what share of the bend they part."""

    noise_power: int = GYRO
    unlike: float = UNLIKE


class SensorCurvature(NamedTuple):
    """Curvature of a path at the motion's samples by a sensor, (n,), 1/m; and with which power of the speed its noise falls."""

    curvature_1pm: FloatArray
    noise_power: int

    def beside(self, other_power: int) -> Between:
        """This one and another: the noise is that of the rougher, which is no gyro if one of them is not."""
        rougher = other_power if self.noise_power == GYRO else self.noise_power
        return Between(rougher, UNLIKE if other_power == self.noise_power else UNLIKE_KINDS)


def sensor_curvature(lap: Lap, motion: Motion, late_s: float = 0.0) -> SensorCurvature | None:
    """How sharply the path bends, from the best sensor of the lap, that much late; None without one.

    In this order: yaw rate ψ'/v, lateral acceleration a/v², lean g tan φ / v² (a motorcycle in
    balance; Cossalter 2006, Motorcycle Dynamics, § 4.2), steering (a kinematic vehicle; Milliken &
    Milliken 1995, Race Car Vehicle Dynamics, § 5.2).
    """
    t, v = motion.time_s + late_s, np.maximum(motion.speed_mps, SLOWEST_MPS)
    yaw, lateral, lean, steering = (lap.get(n) for n in ("yaw_rate", "acc_lat", "lean", "steering"))
    if yaw is not None and len(yaw) > 20:
        turning = yaw.at(t) if lean is None or len(lean) <= 20 else about_the_vertical(yaw.at(t), lean.at(t), v)
        return SensorCurvature(_closed(_steady(turning, motion), 1.0 / v, motion), GYRO)
    if lateral is not None and len(lateral) > 20:
        return SensorCurvature(_closed(_steady(lateral.at(t), motion), 1.0 / v**2, motion), 2)
    if lean is not None and len(lean) > 20:
        sideways = GRAVITY_MPS2 * np.tan(np.clip(_steady(lean.at(t), motion), -MOST_LEAN, MOST_LEAN))
        return SensorCurvature(_closed(sideways, 1.0 / v**2, motion), 2)
    if steering is not None and len(steering) > 20:
        return SensorCurvature(_from_steering(_steady(steering.at(t), motion), motion), 0)
    return None


def about_the_vertical(yaw_radps: FloatArray, lean_rad: FloatArray, speed_mps: FloatArray) -> FloatArray:
    """The rate at which a motorcycle turns, rad/s, (n,), by a gyro that may lean with it.

    Such a gyro feels ψ' cos φ.  Which of both it feels, its lean tells: in balance ψ' v is g tan φ.

    Args:
        yaw_radps: as logged, (n,).
        lean_rad: (n,).
        speed_mps: (n,), above 0.
    """
    upright = np.cos(np.clip(lean_rad, -MOST_LEAN, MOST_LEAN))
    balance = GRAVITY_MPS2 * np.tan(np.clip(lean_rad, -MOST_LEAN, MOST_LEAN))
    rows = np.stack([balance, balance * (1.0 - upright), np.ones_like(balance)], axis=1)
    scale, bent, _ = np.linalg.lstsq(rows, yaw_radps * speed_mps, rcond=None)[0]
    leans = abs(scale) > 0.0 and bent / scale < -0.5 and float(np.quantile(upright, 0.1)) < LEANS
    return np.asarray(yaw_radps / upright) if leans else yaw_radps


def _steady(values: FloatArray, motion: Motion) -> FloatArray:
    """A running mean over 0.3 s of values at the motion's samples."""
    width = round(SMOOTH_S / max(motion.step_s, 1e-3))
    return smooth_box(values, 2 * (width // 2) + 1)


def _closed(value: FloatArray, per_value: FloatArray, motion: Motion) -> FloatArray:
    """Curvature without the sensor's constant offset: a lap turns through whole turns.

    Args:
        value: the sensor, (n,).
        per_value: curvature for one unit of it, (n,), 1/m.
        motion: of the lap; the heading it turns through is Σ κ ds.
    """
    steps = np.gradient(motion.distance_m)
    turned = float(np.sum(value * per_value * steps))
    excess = turned - 2.0 * np.pi * round(turned / (2.0 * np.pi))
    return np.asarray((value - excess / float(np.sum(per_value * steps))) * per_value)


def _from_steering(angle: FloatArray, motion: Motion) -> FloatArray:
    """Curvature from the steering of a kinematic vehicle, its ratio from the closed lap.

    A closed road turns through one full turn (or none for a figure of eight: then a
    common ratio of 34 m of steering angle per curvature is taken).
    """
    centred = angle - float(np.median(angle))
    turned = float(np.sum(0.5 * (centred[1:] + centred[:-1]) * np.diff(motion.distance_m)))
    absolute = float(np.sum(np.abs(centred[1:]) * np.diff(motion.distance_m)))
    if absolute > 0.0 and abs(turned) > 0.25 * absolute:
        return centred * (2.0 * np.pi / abs(turned))
    return centred / 34.0
