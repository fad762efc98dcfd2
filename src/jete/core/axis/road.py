"""The road from the reference lap: curvature over its own distance, and the corners.

Curvature comes from the path, the yaw rate, the lateral acceleration, the lean or the
steering, whichever the log has; several are fused by their noise.  Corners are runs of
curvature with hysteresis, split where the direction changes, merged where nobody
straightens in between.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.axis.line_doubt import line_sigmas_m
from jete.core.axis.path import Fixes, curvature_of, smooth_path
from jete.core.axis.worth import Worth
from jete.core.log.channels import GRAVITY_MPS2
from jete.core.log.lap import Lap
from jete.core.motion.motion import Motion, smooth_box
from jete.core.motion.pace import SLOWEST_MPS
from jete.core.numeric.likeness import likeness
from jete.core.numeric.spline import Curve

# A metre shows every bend a vehicle can drive.
GRID_M = 1.0
# A running mean over this quietens a gyro and leaves a turn-in as it is.
SMOOTH_S = 0.3
# The heading of a path with 1 m of noise is sure to about 0.03 rad, its mean curvature over 300 m to 1/7000 m.
LEVEL_M_PER_M = 300.0
# The least and the most of that length: a corner's, and that over which a gyro's offset wanders.
LEVEL_M = (80.0, 400.0)
# Positions with more noise than this round a bend of 20 m radius off by a third.
BLURRED_M = 0.3

Direction = Literal["left", "right", "unknown"]


@dataclass(frozen=True, eq=False)
class Road:
    """The reference's road on an even grid, all arrays (n,).

    ``noise_m`` and ``lasting_m`` are those of its positions (:class:`jete.core.axis.path.Fixes`).
    ``measured`` is false where curvature had to be guessed from speed alone, ``blurred`` true
    where it comes from noisy positions alone, which show a short straight as a lesser bend;
    ``place_sigma_m`` is the doubt of a place where its speed was not logged, ``end_sigmas_m``
    that of both ends.
    """

    length_m: float
    grid_m: FloatArray
    speed_mps: FloatArray
    curvature_1pm: FloatArray
    path: Curve | None
    noise_m: float
    measured: bool
    place_sigma_m: float = 0.0
    end_sigmas_m: tuple[float, float] = (0.0, 0.0)
    blurred: bool = False
    sensed: bool = False
    lasting_m: float = 0.0
    worth: Worth | None = None

    def curvature_at(self, place_m: FloatArray) -> FloatArray:
        """Curvature at places (m,), 1/m, left positive, (m,); beyond the ends the end values."""
        return np.interp(place_m, self.grid_m, self.curvature_1pm)

    def pace_at(self, place_m: FloatArray) -> FloatArray:
        """The reference's speed at places (…), m/s, (…); never slower than an error of place may be divided by."""
        return np.maximum(np.interp(place_m, self.grid_m, self.speed_mps), SLOWEST_MPS)


def road_of(lap: Lap, motion: Motion, fixes: Fixes | None) -> Road:
    """The road as the reference lap drove it."""
    count = int(np.ceil(motion.length_m / GRID_M)) + 1
    grid = np.linspace(0.0, motion.length_m, count)
    path = smooth_path(fixes, motion) if fixes is not None else None
    speed = np.interp(grid, motion.distance_m, motion.speed_mps)
    sensed = sensed_curvature(lap, motion)
    from_path = curvature_of(path, grid) if path is not None else None
    from_sensor = np.interp(grid, motion.distance_m, sensed) if sensed is not None else None
    noise_m = fixes.noise_m if fixes is not None else 0.0
    kappa = _fused(from_path, from_sensor, noise_m)
    measured = kappa is not None
    if kappa is None:
        kappa = _guessed(speed)
    blurred = from_sensor is None and noise_m > BLURRED_M
    doubts = motion.sigmas.place_m, line_sigmas_m(lap, motion, fixes)
    return Road(
        motion.length_m,
        grid,
        speed,
        kappa,
        path,
        noise_m,
        measured,
        *doubts,
        blurred,
        from_sensor is not None,
        fixes.lasting_m if fixes else 0.0,
        fixes.worth if fixes else None,
    )


def _fused(from_path: FloatArray | None, from_sensor: FloatArray | None, noise_m: float) -> FloatArray | None:
    """The sensor's detail at the path's level; a sensor with the sign turned is turned back."""
    if from_path is None or from_sensor is None:
        return from_sensor if from_path is None else from_path
    agree = likeness(from_path, from_sensor)
    if abs(agree) < 0.7:
        return from_path
    turned = from_sensor * np.sign(agree)
    # By their means: the path is too smooth to have the peaks, which must not count as the sensor's scale.
    cells = _level_cells(noise_m)
    level, mean = smooth_box(from_path, cells), smooth_box(turned, cells)
    gain = float(mean @ level / (mean @ mean))
    return np.asarray(gain * (turned - mean) + level)


def _level_cells(noise_m: float) -> int:
    """Cells over which the path gives the level: the longer, the less its heading is sure."""
    reach = min(max(LEVEL_M_PER_M * noise_m, LEVEL_M[0]), LEVEL_M[1])
    return 2 * round(0.5 * reach / GRID_M) + 1


def sensed_curvature(lap: Lap, motion: Motion) -> FloatArray | None:
    """How sharply the path bends at the motion's samples, from the best sensor of the lap, (n,), or None.

    In this order: yaw rate ψ'/v, lateral acceleration a/v², lean g tan φ / v² (a motorcycle in
    balance; Cossalter 2006, Motorcycle Dynamics, § 4.2), steering (a kinematic vehicle; Milliken &
    Milliken 1995, Race Car Vehicle Dynamics, § 5.2).
    """
    t, v = motion.time_s, np.maximum(motion.speed_mps, SLOWEST_MPS)
    yaw, lateral, lean, steering = (lap.get(n) for n in ("yaw_rate", "acc_lat", "lean", "steering"))
    if yaw is not None and len(yaw) > 20:
        return _closed(_steady(yaw.at(t), motion), 1.0 / v, motion)
    if lateral is not None and len(lateral) > 20:
        return _closed(_steady(lateral.at(t), motion), 1.0 / v**2, motion)
    if lean is not None and len(lean) > 20:
        sideways = GRAVITY_MPS2 * np.tan(np.clip(_steady(lean.at(t), motion), -1.2, 1.2))
        return _closed(sideways, 1.0 / v**2, motion)
    if steering is not None and len(steering) > 20:
        return _from_steering(_steady(steering.at(t), motion), motion)
    return None


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


def _guessed(speed: FloatArray) -> FloatArray:
    """Without any lateral channel: bends where speed has its valleys, direction unknown.

    The lateral acceleration at the slowest tenth of the valleys is taken for all.
    """
    reach = int(350 / GRID_M)
    padded = np.pad(speed, reach, mode="edge")
    around = np.lib.stride_tricks.sliding_window_view(padded, 2 * reach + 1)[:, ::10]
    top = around.max(axis=1)
    depth = np.clip((0.86 * top - speed) / np.maximum(0.3 * top, 1.0), 0.0, 1.0)
    return np.asarray(depth * 9.0 / np.maximum(speed, SLOWEST_MPS) ** 2)
