"""The road from the reference lap: curvature over its own distance.

Curvature is that of the path by positions and by the yaw rate, the lateral acceleration, the
lean or the steering, whichever the log has; that of the sensor alone without positions.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.axis.positions.path import Fixes, curvature_of
from jete.core.axis.positions.position_errors import PositionErrors
from jete.core.axis.road.line_doubt import line_sigmas_m
from jete.core.axis.road.sensor_curvature import GYRO
from jete.core.axis.road.sensor_lag import NOT_MOVED, SensorMoved, sensor_in_time
from jete.core.axis.road.sensor_path import GOES_WITH_PATH, path_of
from jete.core.log.lap import Lap
from jete.core.log.once import once_a_lap
from jete.core.motion.motion import Motion, smooth_box
from jete.core.motion.pace import SLOWEST_MPS
from jete.core.numeric.spline import Curve
from jete.core.numeric.statistics import likeness

# A metre shows every bend a vehicle can drive.
GRID_M = 1.0
# What is shorter is the sensor's alone: several cells of the path.
DETAIL_M = 60.0
# Positions with more noise than this round a bend of 20 m radius off by a third.
BLURRED_M = 0.3

Direction = Literal["left", "right", "unknown"]


@dataclass(frozen=True, eq=False, kw_only=True)
class Road:
    """The reference's road on an even grid, all arrays (n,).

    ``noise_m`` and ``lasting_m`` are those of its positions (:class:`jete.core.axis.positions.path.Fixes`).
    ``measured`` is false where curvature had to be guessed from speed alone, ``blurred`` true
    where it comes from noisy positions alone, which show a short straight as a lesser bend;
    ``place_sigma_m`` is the doubt of a place where its speed was not logged, ``end_sigmas_m``
    that of both ends, ``sensor_moved`` by how much its sensor was moved in time, ``noise_power`` as of :class:`jete.core.axis.road.sensor_curvature.SensorCurvature`,
    ``adds_up`` as of the reference's motion.
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
    sensor: bool = False
    lasting_m: float = 0.0
    errors: PositionErrors | None = None
    sensor_moved: SensorMoved = NOT_MOVED
    noise_power: int = GYRO
    adds_up: float = 1.0

    def curvature_at(self, place_m: FloatArray) -> FloatArray:
        """Curvature at places (m,), 1/m, left positive, (m,); beyond the ends the end values."""
        return np.interp(place_m, self.grid_m, self.curvature_1pm)

    def pace_at(self, place_m: FloatArray) -> FloatArray:
        """The reference's speed at places (…), m/s, (…); never slower than an error of place may be divided by."""
        return np.maximum(np.interp(place_m, self.grid_m, self.speed_mps), SLOWEST_MPS)


@once_a_lap
def road_of(lap: Lap, motion: Motion, fixes: Fixes | None) -> Road:
    """The road as the reference lap drove it."""
    count = int(np.ceil(motion.length_m / GRID_M)) + 1
    grid = np.linspace(0.0, motion.length_m, count)
    speed = np.interp(grid, motion.distance_m, motion.speed_mps)
    timed = sensor_in_time(lap, motion, fixes, None)
    sensor = None if timed is None else timed.sensor.curvature_1pm
    path = path_of(fixes, motion, sensor) if fixes is not None else None
    kappa = _curvature(grid, motion, path, sensor)
    measured = kappa is not None
    if kappa is None:
        kappa = _guessed(speed)
    noise_m = fixes.noise_m if fixes is not None else 0.0
    return Road(
        length_m=motion.length_m,
        grid_m=grid,
        speed_mps=speed,
        curvature_1pm=kappa,
        path=path,
        noise_m=noise_m,
        measured=measured,
        place_sigma_m=motion.sigmas.place_m,
        end_sigmas_m=line_sigmas_m(lap, motion, fixes),
        blurred=sensor is None and noise_m > BLURRED_M,
        sensor=sensor is not None,
        lasting_m=fixes.lasting_m if fixes else 0.0,
        errors=fixes.errors if fixes else None,
        sensor_moved=NOT_MOVED if timed is None else timed.moved,
        noise_power=GYRO if timed is None else timed.sensor.noise_power,
        adds_up=motion.adds_up,
    )


def _curvature(
    grid: FloatArray, motion: Motion, path: Curve | None, sensed_1pm: FloatArray | None
) -> FloatArray | None:
    """Curvature at places (n,) by a path, a sensor's at the motion's samples or both, (n,); None without either."""
    sensor = None if sensed_1pm is None else np.interp(grid, motion.distance_m, sensed_1pm)
    if path is None or sensor is None:
        return sensor if path is None else curvature_of(path, grid)
    return _with_detail(curvature_of(path, grid), sensor)


def _with_detail(from_path: FloatArray, from_sensor: FloatArray) -> FloatArray:
    """The sensor's detail at the path's level, whose knots round off what is quicker; both (n,), of one sign or of two."""
    agree = likeness(from_path, from_sensor)
    if abs(agree) < GOES_WITH_PATH:
        return from_path
    cells = 2 * round(0.5 * DETAIL_M / GRID_M) + 1
    level, mean = smooth_box(from_path, cells), smooth_box(from_sensor, cells)
    gain = float(mean @ level / (mean @ mean))
    return np.asarray(gain * (from_sensor - mean) + level)


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
