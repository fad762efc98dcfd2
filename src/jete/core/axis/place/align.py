"""Where on the reference's distance axis each sample of a lap lies.

With positions the smooth own distance carries the detail and the noisy projection the
level: place = u + e(u), u the scaled own distance.  e and the lateral offset n from the
reference's path are found together, since they are tied by geometry: on the inside of a
bend (κ n > 0) a metre driven is more than a metre of axis, e' = κ n / (1 − κ n) + c.
Without positions e follows from the curvature that both laps share; slow points and
brake points are never used, since they are what is to be measured.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.axis.place.from_bends import shift_from_bends
from jete.core.axis.place.from_positions import Shift, most_likely_shift
from jete.core.axis.place.map_offset import step_by_sides, without_step
from jete.core.axis.place.project import Seen, project
from jete.core.axis.place.spread import Drifting, Spread
from jete.core.axis.positions.path import Fixes
from jete.core.axis.positions.position_errors import PositionErrors, drift_between
from jete.core.axis.road.road import Road
from jete.core.axis.road.sensor_curvature import SensorCurvature
from jete.core.errors import different_road
from jete.core.motion.motion import Motion
from jete.core.numeric.spline import Curve
from jete.core.numeric.statistics import likeness, robust_sigma

Method = Literal["position", "curvature", "distance"]

# Laps whose own lengths differ by more than this share are of two roads: odometers read within 1 to 3 %, lines differ by 1 %.
LONGEST_MISMATCH = 0.06
# Bends of two laps of one road go together by 0.8 or more; of two roads by chance, 0.2 to 0.3. Higher refuses noisy sensors.
LEAST_ALIKE = 0.4
# Within this the sensors of both laps are of one scale, and a fitted gain would only be noise.
SAME_SENSOR = 0.04
# Curvature by sensors is used beside positions only if it goes with the road's as well as this.
RUNS_AS_ROAD = 0.9
# What own distances of two laps drift apart by in a kilometre, ends tied.
DRIFT_M = 0.5
# The slow part of what positions leave open of a place is in the solution's own doubt already.
FAST_SHARE = 0.88


@dataclass(frozen=True, eq=False, kw_only=True)
class Alignment:
    """Places of a lap's motion samples on the reference's axis.

    ``place_m`` (n,) strictly increasing from 0 to the reference's length; ``residual_m``
    is the scatter that was averaged away, ``spread`` how sure the places themselves are;
    ``offset_m`` (n,) metres to the left of the reference's path; ``errors`` those of the lap's positions,
    ``map_step_m`` by how much these lay to the east and to the north of the reference's map.
    ``scale`` brings own distances on the reference's scale, ``speed_scale`` speeds: both are one where the distance was counted from the speed.
    ``sensor_late_s`` is by how much the sensor of its bends was late, and has been brought in time.
    """

    method: Method
    scale: float
    residual_m: float
    spread: Spread
    place_m: FloatArray
    offset_m: FloatArray | None = None
    errors: PositionErrors | None = None
    map_step_m: tuple[float, float] = (0.0, 0.0)
    speed_scale: float = 1.0
    sensor_late_s: float = 0.0


def identity(motion: Motion) -> Alignment:
    """The reference on its own axis."""
    return Alignment(
        method="distance",
        scale=1.0,
        residual_m=0.0,
        spread=Spread(length_m=motion.length_m),
        place_m=motion.distance_m,
        offset_m=np.zeros_like(motion.distance_m),
    )


@dataclass(frozen=True, eq=False)
class Unplaced:
    """A lap as driven, before it is aligned.

    ``name`` is for messages; ``fixes`` are its positions on the road's plane; ``sensor`` is the
    curvature of its path by yaw, lateral acceleration, lean or steering; ``ends_m`` are the
    standard deviations of the places of its ends.
    """

    name: str
    motion: Motion
    fixes: Fixes | None
    sensor: SensorCurvature | None
    ends_m: tuple[float, float]


def align(lap: Unplaced, road: Road) -> Alignment:
    """Align a lap with the reference's road.

    Raises:
        InputError: laps of different circuits, layouts or directions.
    """
    found = _aligned(lap, road)
    return replace(found, speed_scale=found.scale * road.adds_up / lap.motion.adds_up)


def _aligned(lap: Unplaced, road: Road) -> Alignment:
    length = lap.motion.length_m
    scale = road.length_m / length
    if lap.fixes is not None and road.path is not None:
        return _by_position(lap, lap.fixes, road, road.path, scale)
    if abs(scale - 1.0) > LONGEST_MISMATCH:
        raise different_road(lap.name, f"its length is {length:.0f} m, the reference's {road.length_m:.0f} m")
    _refuse_other_speeds(lap.name, lap.motion, road, scale)
    if lap.sensor is not None and road.measured:
        return _by_curvature(lap, lap.sensor, road, scale)
    place = _monotone(lap.motion.distance_m * scale, road.length_m)
    drift = DRIFT_M * (road.length_m / 1000.0) ** 0.5
    return Alignment(
        method="distance",
        scale=scale,
        residual_m=0.0,
        spread=Spread(length_m=road.length_m, own_m=drift, ends_m=_ends_m(lap, road)),
        place_m=place,
    )


def _refuse_other_speeds(name: str, motion: Motion, road: Road, scale: float) -> None:
    """Two laps of one circuit have speeds that rise and fall together."""
    v = np.interp(road.grid_m, motion.distance_m * scale, motion.speed_mps)
    if float(np.std(v)) < 0.5 or float(np.std(road.speed_mps)) < 0.5:
        return
    alike = likeness(v, road.speed_mps)
    if alike < 0.6:
        raise different_road(name, f"its speeds over distance do not go with the reference's (correlation {alike:.2f})")


def _by_position(lap: Unplaced, fixes: Fixes, road: Road, path: Curve, scale: float) -> Alignment:
    seen = project(lap.name, fixes, road, path, scale)
    if road.errors is not None:
        seen = replace(seen, step_m=float(np.hypot(fixes.errors.level_m, road.errors.level_m)))
    u = lap.motion.distance_m * scale
    sensor = _sensed_as_road(lap, u, road)
    drifts: tuple[Drifting, ...] = ()
    if sensor is not None:
        found = shift_from_bends(sensor.curvature_1pm, u, road, seen, sensor.beside(road.noise_power))
        step_m = found.step_m
    else:
        seen, step_m, drifts = _levelled(seen, lap, fixes, road)
        found = most_likely_shift(seen, road, lap.motion.speed_mps, u)
    place = _monotone(u + found.shift(u), road.length_m)
    residual = robust_sigma(seen.shift - found.shift(seen.u))
    spread = replace(_spread(lap, road, found), drifts=drifts, headings=_headings(road, path) if drifts else None)
    return Alignment(
        method="position",
        scale=scale * (1.0 + found.rate),
        residual_m=residual,
        spread=spread,
        place_m=place,
        offset_m=found.offset(u),
        errors=fixes.errors,
        map_step_m=step_m,
    )


def _levelled(
    seen: Seen, lap: Unplaced, fixes: Fixes, road: Road
) -> tuple[Seen, tuple[float, float], tuple[Drifting, ...]]:
    """Positions on the reference's map, off by what averages away, the step to it, and what of them drifts: nothing else shows where the lap is."""
    seen = replace(seen, noise_m=float(np.hypot(fixes.noise_m, road.noise_m)))
    if road.errors is None:
        return seen, (0.0, 0.0), ()
    size_m, lasts_s = drift_between(fixes.errors, road.errors)
    drifts = [Drifting(size_m, lasts_s * road.length_m / float(lap.motion.time_s[-1]))] if size_m > 0.0 else []
    if seen.step_m == 0.0:
        return seen, (0.0, 0.0), tuple(drifts)
    step = step_by_sides(seen)
    return without_step(seen, step), step.by_m, (*drifts, Drifting(step.sigma_m, np.inf))


def _headings(road: Road, path: Curve) -> tuple[FloatArray, FloatArray]:
    """Places on the axis and the direction of its path there, radians without jumps."""
    rate = path(road.grid_m, 1)
    return road.grid_m, np.unwrap(np.arctan2(rate[:, 1], rate[:, 0]))


def _sensed_as_road(lap: Unplaced, u: FloatArray, road: Road) -> SensorCurvature | None:
    """The lap's curvature by its sensor, where it runs as that of the road; else None."""
    if lap.sensor is None or not road.sensor:
        return None
    own = np.interp(road.grid_m, u, lap.sensor.curvature_1pm)
    return _to_scale(lap.sensor, own, road) if likeness(own, road.curvature_1pm) > RUNS_AS_ROAD else None


def _by_curvature(lap: Unplaced, sensor: SensorCurvature, road: Road, scale: float) -> Alignment:
    u = lap.motion.distance_m * scale
    own, shared = np.interp(road.grid_m, u, sensor.curvature_1pm), road.curvature_1pm
    alike = likeness(own, shared)
    if alike < LEAST_ALIKE:
        raise different_road(lap.name, f"its bends do not go with the reference's (correlation {alike:.2f})")
    between = sensor.beside(road.noise_power)
    found = shift_from_bends(_to_scale(sensor, own, road).curvature_1pm, u, road, between=between)
    place = _monotone(u + found.shift(u), road.length_m)
    residual = float(np.sqrt(np.mean((place - u) ** 2)))
    return Alignment(
        method="curvature",
        scale=scale * (1.0 + found.rate),
        residual_m=residual,
        spread=_spread(lap, road, found),
        place_m=place,
    )


def _to_scale(sensor: SensorCurvature, own: FloatArray, road: Road) -> SensorCurvature:
    """A sensor's curvature on the scale of the road's; ``own`` is it on the road's grid."""
    gain = float(own @ road.curvature_1pm / max(float(own @ own), 1e-12))
    return sensor if abs(gain - 1.0) < SAME_SENSOR else sensor._replace(curvature_1pm=gain * sensor.curvature_1pm)


def _spread(lap: Unplaced, road: Road, found: Shift) -> Spread:
    """Doubt of the solution, and of places that hang on positions of their own: both laps'."""
    own = FAST_SHARE * float(np.hypot(lap.motion.sigmas.place_m, road.place_sigma_m))
    return Spread(
        length_m=road.length_m,
        own_m=own,
        ends_m=_ends_m(lap, road),
        knots=found.shift.knots,
        system=found.system,
        extra=found.extra,
    )


def _ends_m(lap: Unplaced, road: Road) -> tuple[float, float]:
    """Doubt of both ends of the lap against the reference's."""
    start, end = np.hypot(lap.ends_m, road.end_sigmas_m).tolist()
    return start, end


def _monotone(place: FloatArray, length: float) -> FloatArray:
    """Strictly increasing from exactly 0 to exactly ``length``."""
    inner = np.clip(place, 0.0, length)
    inner[0], inner[-1] = 0.0, length
    tiny = 1e-7 * np.arange(len(inner))
    rising = np.maximum.accumulate(inner - 0.0) + tiny
    rising *= length / rising[-1]
    rising[0] = 0.0
    return np.asarray(rising)
