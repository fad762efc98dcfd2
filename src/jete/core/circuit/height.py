"""How the road rises, falls and leans: from altitude where it is logged, else from what the acceleration feels of gravity.

A pitched or rolled body tilts its sensors by an angle that goes with the acceleration itself,
so what goes with it is taken off; what stays is the road (Rajamani 2012, Vehicle Dynamics and
Control, § 8.3, on grade and bank from longitudinal and lateral acceleration).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Literal

import numpy as np

from jete.core.log.channels import GRAVITY_MPS2
from jete.core.motion.motion import acceleration_mps2
from jete.core.motion.pace import SLOWEST_MPS
from jete.core.numeric.spline import Curve, Knots, likeliest, noise_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner
    from jete.core.driving.passage import Passage

# A road bends up or down over tens of metres.
KNOT_M = 20.0
# How much that bend changes, as spectral density (1/m³): a radius of 500 m within 50 m is 8e-8.
BENDINGS = (1e-10, 1e-9, 1e-8, 1e-7)
LEAST_NOISE = 1e-3
# Of fewer samples nothing is said.
FEWEST = 20
# Over a crest of this radius a vehicle at 45 m/s loses a tenth of its weight.
CREST_RADIUS_M = 2000.0
# A lean of the road that a driver feels: four in a hundred.
LEANS = 0.04
# Steeper roads than one in six are not raced on.
STEEPEST = 0.17

Source = Literal["altitude", "acceleration"]
Word = Literal["crest", "dip", "banked", "off-camber", "uphill", "downhill"]


@dataclass(frozen=True, eq=False)
class RoadProfile:
    """Height over the lap, from the line, metres; its slope; how far the road leans to the left, rad or None; (n,) each."""

    place_m: FloatArray
    height_m: FloatArray
    slope: FloatArray
    leans_rad: FloatArray | None
    source: Source


def profile_of(passages: Sequence[Passage], length_m: float) -> RoadProfile | None:
    """The profile that several laps on one axis show, the middle one of theirs; None where no channel tells.

    Args:
        passages: laps on the axis.
        length_m: of the axis.
    """
    grid = places_over(length_m)
    by_altitude = [s for p in passages if (s := _slope_of_altitude(p, grid)) is not None]
    slopes = by_altitude or [s for p in passages if (s := _slope_felt(p, grid)) is not None]
    if not slopes:
        return None
    leans = [x for p in passages if (x := _leans(p, grid)) is not None]
    source: Source = "altitude" if by_altitude else "acceleration"
    return _profile(grid, np.median(slopes, axis=0), np.median(leans, axis=0) if leans else None, source)


def places_over(length_m: float) -> FloatArray:
    """The places of a profile, from the line to the line, (n,)."""
    return np.linspace(0.0, length_m, max(round(length_m / 5.0), 8) + 1)


def _profile(grid: FloatArray, slope: FloatArray, leans: FloatArray | None, source: Source) -> RoadProfile:
    """Heights from slopes; who is back at the line is as high as before."""
    slope = np.clip(slope, -STEEPEST, STEEPEST)
    slope = slope - float(np.mean(slope))
    height = np.concatenate([[0.0], np.cumsum(0.5 * (slope[1:] + slope[:-1]) * np.diff(grid))])
    return RoadProfile(grid, height, slope, leans, source)


@dataclass(frozen=True, eq=False)
class Rise:
    """How a circuit's road rises, at its places: the mean slope of so many laps, and how it leans by so many, (n,) each."""

    slope: FloatArray
    laps: int
    source: Source
    leans_rad: FloatArray | None = None
    leaning: int = 0


def risen(known: Rise | None, passage: Passage, place_m: FloatArray) -> Rise | None:
    """What is known of a road's height with one more lap; altitude takes the place of what accelerations feel.

    Args:
        known: of the laps before; None without any.
        passage: of the lap, on the axis of the places.
        place_m: of the road, (n,).
    """
    by_altitude = _slope_of_altitude(passage, place_m)
    slope = by_altitude if by_altitude is not None else _slope_felt(passage, place_m)
    if slope is None:
        return known
    source: Source = "altitude" if by_altitude is not None else "acceleration"
    leans = _leans(passage, place_m)
    if known is None or (source == "altitude" and known.source != "altitude"):
        before = known.leans_rad if known is not None else None
        told, leaning = _mean(before, known.leaning if known is not None else 0, leans)
        return Rise(slope, 1, source, told, leaning)
    told, leaning = _mean(known.leans_rad, known.leaning, leans)
    if source != known.source:
        return replace(known, leans_rad=told, leaning=leaning)
    return Rise(known.slope + (slope - known.slope) / (known.laps + 1), known.laps + 1, source, told, leaning)


def _mean(before: FloatArray | None, count: int, new: FloatArray | None) -> tuple[FloatArray | None, int]:
    if new is None:
        return before, count
    return (new, 1) if before is None else (before + (new - before) / (count + 1), count + 1)


def profile_from(rise: Rise, grid: FloatArray, at: FloatArray) -> RoadProfile:
    """The profile on a reference's axis, from what its circuit keeps.

    Args:
        rise: of the circuit.
        grid: places of the reference's axis from the line to the line, (m,).
        at: the same places as places of ``rise``, counted from zero, (m,).
    """
    k = np.arange(len(rise.slope))
    leans = None if rise.leans_rad is None else np.interp(at, k, rise.leans_rad)
    return _profile(grid, np.interp(at, k, rise.slope), leans, rise.source)


def words_of(profile: RoadProfile, corner: Corner) -> tuple[Word, ...]:
    """What a driver feels of the road in a corner, in a word each.

    Args:
        profile: of the lap.
        corner: on the same axis.
    """
    inside = (profile.place_m >= corner.start_m - 30.0) & (profile.place_m <= corner.end_m + 30.0)
    if np.count_nonzero(inside) < 3:
        return ()
    slope, bend = profile.slope[inside], np.gradient(profile.slope, profile.place_m)[inside]
    words: list[Word] = []
    # What an acceleration feels of a road is good for its slope, not for how quickly that changes.
    bend = bend if profile.source == "altitude" else np.zeros_like(bend)
    if bend.min() < -1.0 / CREST_RADIUS_M:
        words.append("crest")
    if bend.max() > 1.0 / CREST_RADIUS_M:
        words.append("dip")
    mean = float(np.mean(slope))
    if abs(mean) >= LEANS:
        words.append("uphill" if mean > 0.0 else "downhill")
    words += _camber(profile, corner)
    return tuple(words)


def _camber(profile: RoadProfile, corner: Corner) -> list[Word]:
    if profile.leans_rad is None or corner.direction == "unknown":
        return []
    lean = float(np.interp(corner.apex_m, profile.place_m, profile.leans_rad))
    into = lean if corner.direction == "left" else -lean
    return ["banked" if into > 0.0 else "off-camber"] if abs(into) >= LEANS else []


def _slope_of_altitude(passage: Passage, grid: FloatArray) -> FloatArray | None:
    altitude = passage.lap.get("altitude")
    if altitude is None or len(altitude) < FEWEST:
        return None
    return _smooth(passage.place_at(altitude.time_s), altitude.value, 3)(grid, derivative=1)


def _slope_felt(passage: Passage, grid: FloatArray) -> FloatArray | None:
    """Longitudinal acceleration as felt, less that of the speed, in g: what is left is the slope."""
    timed = passage.lap.get("acc_long")
    if timed is None or len(timed) < FEWEST or passage.motion.inferred:
        return None
    moved = np.interp(timed.time_s, passage.motion.time_s, acceleration_mps2(passage.motion, 0.15))
    return _smooth(passage.place_at(timed.time_s), _left_over(timed.value, moved) / GRAVITY_MPS2, 2)(grid)


def _leans(passage: Passage, grid: FloatArray) -> FloatArray | None:
    """Lateral acceleration that the bend asks for, less that which is felt, in g: how far the road leans to the left."""
    timed, yaw = passage.lap.get("acc_lat"), passage.lap.get("yaw_rate")
    if timed is None or yaw is None or min(len(timed), len(yaw)) < FEWEST:
        return None
    speed = np.maximum(np.interp(timed.time_s, passage.motion.time_s, passage.motion.speed_mps), SLOWEST_MPS)
    rest = _left_over(timed.value, yaw.at(timed.time_s) * speed) / GRAVITY_MPS2
    return -_smooth(passage.place_at(timed.time_s), rest, 2)(grid)


def _smooth(place_m: FloatArray, values: FloatArray, derivative: int) -> Curve:
    """Values over the road, as smooth as roads bend up and down; samples at one place count once."""
    rising = np.concatenate([[True], np.diff(place_m) > 0.0])
    at, y = place_m[rising], values[rising]
    knots = Knots.over(float(at[0]), float(at[-1]), KNOT_M)
    return likeliest(at, y, max(noise_of(y), LEAST_NOISE), knots, derivative=derivative, roughnesses=BENDINGS)


def _left_over(timed: FloatArray, moved: FloatArray) -> FloatArray:
    """What is felt beyond a multiple of the movement (a body that pitches or rolls, a sensor's scale) and an offset."""
    about = moved - float(moved.mean())
    scale = float(about @ timed) / max(float(about @ about), 1e-9)
    rest = timed - scale * moved
    return np.asarray(rest - float(np.median(rest)))
