"""What columns with names that nobody knows may be: by their unit, else by how their values behave.

A path comes back to itself, a speed is what a path is driven at, a brake is at rest most
of the time and a throttle fully open for a good part of it.  A guess is shown with its
reason; a person decides.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np

from jete.core.log.channels import CHANNELS, canonical_name, conversion
from jete.core.log.plane import Origin
from jete.core.log.plausible import DEGREE_M
from jete.core.numeric.statistics import likeness

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.core.arrays import FloatArray
    from jete.formats.columns import Columns

ROUND_STEPS_MS = (1.0, 2.0, 5.0, 10.0, 20.0, 40.0, 50.0, 100.0)
LONGEST_STEP_S = 0.2
FEWEST = 50
# A path goes this far to either side, and from one position to the next it is no jump.
PATH_M = (80.0, 20_000.0)
JUMP_SHARE, REACH_S = 0.08, 0.3
SMOOTH_SHARE = 0.02
SAME_SPEED = 0.95
SAME_SCALE = 0.08
UNITS_OF_SPEED = {"m/s": 1.0, "km/h": 3.6, "mph": 2.236936, "kn": 1.943844}
# What a vehicle gains and loses in a second, m/s², at its most.
HARDEST_MPS2 = (3.0, 30.0)
FASTEST_MPS = (14.0, 110.0)
# Ratios of turns to speed within two percent are one gear; so many gears, and the share of the time that is spent in them.
GEAR_STEP, MOST_GEARS, IN_GEAR_SHARE = 0.02, 8, 0.6


@dataclass(frozen=True)
class Guess:
    """What a column may be, and why; ``channel`` is empty where nothing speaks for one."""

    channel: str
    unit: str
    why: str


@dataclass
class _Found:
    """What has been guessed so far: the step of time, the path's speed, the rpm; columns that are taken."""

    step_s: float = 0.05
    path_mps: FloatArray | None = None
    rpm: FloatArray | None = None
    by_column: dict[int, Guess] = field(default_factory=dict)

    @property
    def channels(self) -> set[str]:
        """The channels that are taken."""
        return {g.channel for g in self.by_column.values()}


def guess(columns: Columns) -> list[Guess]:
    """What each column may be: by its name, then its unit, then how it behaves; no channel twice."""
    found = _Found()
    for i in range(len(columns.names)):
        _take(found, i, _by_name_or_unit(columns, i))
    values = {i: v for i, v in enumerate(columns.values) if v is not None}
    for i, column in values.items():
        if i not in found.by_column:
            _take(found, i, _time(column))
    _note_time(found, values)
    _path(found, values)
    for look in (_rpm, _speed, _gear, _throttle, _brake):
        _look_for(found, values, look)
    return [found.by_column.get(i) or _nothing(columns, i) for i in range(len(columns.names))]


def _nothing(columns: Columns, i: int) -> Guess:
    why = "text" if columns.values[i] is None else "no name, unit or range speaks for a channel"
    return Guess("", columns.units[i] or "", why)


def _take(found: _Found, i: int, guessed: Guess | None) -> None:
    """Take over a guess unless its channel has a column already."""
    if guessed is not None and guessed.channel not in found.channels:
        found.by_column[i] = guessed


def _look_for(found: _Found, values: dict[int, FloatArray], look: Callable[[_Found, FloatArray], Guess | None]) -> None:
    """The first free column that looks like a channel."""
    for i, column in values.items():
        good = column[np.isfinite(column)]
        if i not in found.by_column and len(good) >= FEWEST and float(np.ptp(good)) > 0.0:
            _take(found, i, look(found, column))


def _by_name_or_unit(columns: Columns, i: int) -> Guess | None:
    name, unit, values = columns.names[i], columns.units[i], columns.values[i]
    known = canonical_name(name)
    if values is None:
        return None
    if known:
        fits = conversion(known, unit) is not None
        default = CHANNELS[known].quantity.default
        return Guess(known, (unit or default) if fits else default, "by its name")
    plain = (unit or "").strip()
    of_unit = [c for c, k in CHANNELS.items() if plain.casefold() in k.quantity.units and len(plain) > 1]
    if len(of_unit) == 1:
        return Guess(of_unit[0], plain, f"the only channel in {plain}")
    if of_unit and all(c.endswith("speed") for c in of_unit):
        return Guess("speed", plain, f"{plain} is of a speed")
    if of_unit and all(c.startswith("brake") for c in of_unit):
        return Guess("brake", plain, f"{plain} is of a brake, unless it is of a tyre or of oil")
    return None


def _time(column: FloatArray) -> Guess | None:
    good = column[np.isfinite(column)]
    if len(good) < 3 or good[0] < 0.0 or not np.all(np.diff(good) > 0.0):
        return None
    step = float(np.median(np.diff(good)))
    if step in ROUND_STEPS_MS:
        return Guess("time", "ms", f"rises by {step:.0f} each row")
    return Guess("time", "s", f"rises by {step:.3g} each row") if step <= LONGEST_STEP_S else None


def _note_time(found: _Found, values: dict[int, FloatArray]) -> None:
    for i, g in found.by_column.items():
        if g.channel == "time" and i in values:
            steps = np.diff(values[i][np.isfinite(values[i])])
            unit = conversion("time", g.unit)
            step = float(np.median(steps)) * (unit.factor if unit else 1.0) if len(steps) else 0.0
            found.step_s = step if step > 0.0 else found.step_s


def _path(found: _Found, values: dict[int, FloatArray]) -> None:
    """Two free columns, one behind the other, that are a path; or what names say is one, for its speed."""
    places = {g.channel: i for i, g in found.by_column.items()}
    for pair in (("latitude", "longitude"), ("x", "y")):
        if set(pair) <= places.keys():
            _note_path(found, values[places[pair[0]]], values[places[pair[1]]], degrees=pair[0] == "latitude")
            return
    free = [i for i in values if i not in found.by_column]
    for i, j in itertools.pairwise(free):
        kind = _path_kind(values[i], values[j], found.step_s) if j == i + 1 else None
        if kind is not None:
            names, unit, why = kind
            _take(found, i, Guess(names[0], unit, why))
            _take(found, j, Guess(names[1], unit, why))
            _note_path(found, values[i], values[j], degrees=unit == "deg")
            return


def _path_kind(a: FloatArray, b: FloatArray, step_s: float) -> tuple[tuple[str, str], str, str] | None:
    """The channels and the unit of two columns that are a path, and why."""
    good = np.flatnonzero(np.isfinite(a) & np.isfinite(b))
    if len(good) < FEWEST:
        return None
    a, b = a[good], b[good]
    spans = np.array([np.ptp(a), np.ptp(b)])
    reach = max(round(REACH_S / (step_s * float(np.median(np.diff(good))))), 1)
    if not spans.min() > 0.0 or max(_jump(c, reach) for c in (a, b)) > JUMP_SHARE:
        return None
    fine = max(len(np.unique(a)), len(np.unique(b))) > 0.05 * len(a)
    in_degrees = spans * DEGREE_M
    if fine and np.abs(a).max() <= 90.0 and np.abs(b).max() <= 180.0 and _is_path(in_degrees) and spans.max() < 1.0:
        return ("latitude", "longitude"), "deg", f"a path of {in_degrees.max() / 1000.0:.1f} km, in degrees"
    if fine and _is_path(spans) and min(a.min(), b.min()) < 0.5 * spans.max() and _comes_back(a, b, spans):
        return ("x", "y"), "m", f"a path of {spans.max() / 1000.0:.1f} km, in metres"
    return None


def _jump(values: FloatArray, reach: int) -> float:
    """How far a column goes over so many samples, as a share of its span: nearly the farthest of all."""
    return float(np.percentile(np.abs(values[reach:] - values[:-reach]), 99.0)) / float(np.ptp(values))


def _is_path(spans_m: FloatArray) -> bool:
    return bool(PATH_M[0] <= spans_m.min() and spans_m.max() <= PATH_M[1])


def _comes_back(a: FloatArray, b: FloatArray, spans: FloatArray) -> bool:
    """Whether a path comes near where it was at its half, or ends near where it begins."""
    away = np.hypot(a - a[0], b - b[0])
    far = int(np.argmax(away))
    return bool(far < len(a) - 1 and away[far:].min() < 0.15 * float(spans.max()))


def _note_path(found: _Found, a: FloatArray, b: FloatArray, *, degrees: bool) -> None:
    """Keep the speed of a path, (n,), NaN where it has no position."""
    good = np.flatnonzero(np.isfinite(a) & np.isfinite(b))
    if len(good) < FEWEST:
        return
    x, y = a[good], b[good]
    if degrees:
        x, y = Origin(float(x[0]), float(y[0])).to_plane(x, y)
    moved = np.concatenate([[True], (np.diff(x) != 0.0) | (np.diff(y) != 0.0)])
    at, rows = good[moved], np.arange(len(a))
    if len(at) < FEWEST:
        return
    # Chords over two seconds: the noise of positions makes a path of single steps longer than it is.
    x, y = np.interp(rows, at, x[moved]), np.interp(rows, at, y[moved])
    reach = max(round(1.0 / found.step_s), 1)
    speed = np.full(len(a), np.nan)
    chord = np.hypot(x[2 * reach :] - x[: -2 * reach], y[2 * reach :] - y[: -2 * reach])
    speed[reach:-reach] = chord / (2 * reach * found.step_s)
    found.path_mps = speed


def _rpm(found: _Found, column: FloatArray) -> Guess | None:
    low, high = np.nanpercentile(column, [5.0, 99.0])
    if low >= 400.0 and 2500.0 <= high <= 25_000.0:
        found.rpm = column
        return Guess("rpm", "1/min", f"{low:.0f} to {high:.0f}, as an engine turns")
    return None


def _speed(found: _Found, column: FloatArray) -> Guess | None:
    """A speed: of the path where there is one; else one that a vehicle can have, and that follows the engine."""
    good = np.isfinite(column)
    if found.path_mps is not None:
        both = good & np.isfinite(found.path_mps)
        if np.count_nonzero(both) > FEWEST and likeness(column[both], found.path_mps[both]) > SAME_SPEED:
            ratio = float(np.median(column[both])) / max(float(np.median(found.path_mps[both])), 1e-9)
            unit = min(UNITS_OF_SPEED, key=lambda u: abs(UNITS_OF_SPEED[u] / ratio - 1.0))
            if abs(UNITS_OF_SPEED[unit] / ratio - 1.0) < SAME_SCALE:
                return Guess("speed", unit, "as fast as the path is driven")
        return None
    return _likely_speed(found, column, good)


def _likely_speed(found: _Found, column: FloatArray, good: np.ndarray) -> Guess | None:
    values = np.interp(np.arange(len(column)), np.flatnonzero(good), column[good])
    low, high = np.percentile(values, [1.0, 99.5])
    reach = max(round(0.5 / found.step_s), 1)
    change = np.abs(values[reach:] - values[:-reach]) / (reach * found.step_s)
    hardest = float(np.percentile(change, 99.5)) if len(change) else 0.0
    for unit in ("km/h", "m/s", "mph"):
        per = UNITS_OF_SPEED[unit]
        right = FASTEST_MPS[0] <= high / per <= FASTEST_MPS[1] and HARDEST_MPS2[0] <= hardest / per <= HARDEST_MPS2[1]
        smooth = float(np.median(np.abs(np.diff(values)))) < SMOOTH_SHARE * max(high - low, 1e-9)
        if right and smooth and low >= 0.0 and high > 2.0 * max(low, 1.0) and not _rests(values, 0.3):
            if found.rpm is None:
                return Guess("speed", unit, f"{low:.0f} to {high:.0f}, and changes as a speed in {unit} does")
            if _in_gears(values, found.rpm) > IN_GEAR_SHARE:
                return Guess("speed", unit, f"follows the rpm, as a speed in {unit} does")
    return None


def _in_gears(speed: FloatArray, rpm: FloatArray) -> float:
    """The share of samples at which turns and speed stand in one of a few ratios, as in gears they do."""
    both = np.isfinite(rpm) & (rpm > 0.0) & (speed > 0.05 * speed.max())
    if np.count_nonzero(both) < FEWEST:
        return 0.0
    steps = np.round(np.log(rpm[both] / speed[both]) / GEAR_STEP).astype(int)
    counts = np.sort(np.bincount(steps - steps.min()))[::-1]
    return float(counts[:MOST_GEARS].sum()) / len(steps)


def _rests(values: FloatArray, share: float) -> bool:
    """Whether a column lies near its least value for a share of the time."""
    low, high = np.percentile(values, [1.0, 99.5])
    return bool(np.mean(values < low + 0.04 * max(high - low, 1e-9)) >= share)


def _gear(_: _Found, column: FloatArray) -> Guess | None:
    good = column[np.isfinite(column)]
    kinds = np.unique(good)
    whole = np.all(kinds == np.round(kinds)) and 2 <= len(kinds) <= 10
    if whole and kinds.min() >= -1.0 and 3.0 <= kinds.max() <= 9.0 and np.mean(np.diff(good) != 0.0) < 0.2:
        return Guess("gear", "", f"whole numbers from {kinds.min():.0f} to {kinds.max():.0f}")
    return None


def _throttle(_: _Found, column: FloatArray) -> Guess | None:
    """Fully open for a good part of the time, closed for another."""
    good = column[np.isfinite(column)]
    high = float(np.percentile(good, 99.5))
    open_share, shut = float(np.mean(good > 0.95 * high)), _rests(good, 0.08)
    if not (open_share > 0.2 and shut and good.min() > -0.1 * high):
        return None
    if 90.0 <= high <= 105.0:
        return Guess("throttle", "%", f"fully open for {open_share:.0%} of the time")
    return Guess("throttle", "ratio", f"fully open for {open_share:.0%} of the time") if 0.9 <= high <= 1.05 else None


def _brake(_: _Found, column: FloatArray) -> Guess | None:
    """At rest for most of the time, and pressed hard for short."""
    good = column[np.isfinite(column)]
    high = float(np.percentile(good, 99.5))
    pressed = float(np.mean(good > 0.1 * high))
    if not (_rests(good, 0.45) and 0.02 < pressed < 0.45 and good.min() > -0.1 * high):
        return None
    unit = "ratio" if high <= 1.05 else "bar" if high <= 250.0 else "kPa" if high > 2000.0 else "psi"
    return Guess("brake", unit, f"at rest most of the time, up to {high:.0f}: {unit}")
