"""What the trace panels draw, from a comparison: curves on native samples, no Qt."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from jete.report.shown import shown
from jete.report.units import PRESSURES, SPEEDS, Units

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from jete.core.causes.verdict.result import Comparison
    from jete.core.driving.marks import Marks
    from jete.core.driving.passage import Passage

    FloatArray = NDArray[np.float64]

SPEED_CHANNELS = ("speed", "wheel_speed", "gps_speed")
BRAKES = ("brake", "brake_front", "brake_rear")
FROM_NOUGHT = (*BRAKES, "throttle")
THROTTLE_TOP = 104.0


@dataclass(frozen=True, eq=False)
class Line:
    """One lap in one panel: places (n,) in metres and values (n,) in the shown unit."""

    x: FloatArray
    y: FloatArray

    def at(self, place_m: float) -> float:
        """Value at a place."""
        return float(np.interp(place_m, self.x, self.y))


@dataclass(frozen=True, eq=False)
class Panel:
    """One panel: both laps (the gap has one line), their unit and decimals."""

    name: str
    unit: str
    digits: int
    reference: Line | None
    lap: Line | None
    low: float
    high: float
    flags: tuple[tuple[float, float], ...] = ()
    lap_flags: tuple[tuple[float, float], ...] = ()
    over: tuple[Line, ...] = ()
    since: str = ""

    @property
    def lines(self) -> list[Line]:
        """All lines that are there."""
        return [line for line in (self.reference, self.lap, *self.over) if line is not None]

    def bounds(self, start_m: float, end_m: float) -> tuple[float, float]:
        """Least and greatest value to show for a piece of the axis; pedals keep their span."""
        if self.name in FROM_NOUGHT or self.empty:
            return self.low, self.high
        seen = []
        for line in self.lines:
            lo, hi = np.searchsorted(line.x, [start_m, end_m])
            seen.append(line.y[max(int(lo) - 1, 0) : int(hi) + 1])
        low, high = _bounds(seen, pad=0.12, least=0.05 if self.name == "gap" else 1.0)
        return (min(low, 0.0), max(high, 0.0)) if self.name == "gap" else (low, high)

    @property
    def empty(self) -> bool:
        """Whether neither lap has anything to draw."""
        return self.reference is None and self.lap is None

    @property
    def title_and_unit(self) -> tuple[str, str]:
        """What is shown, and in which unit; inferred channels say so by their unit."""
        channel = shown(self.name)
        return (f"gap in {self.since}" if self.since else channel.short or channel.title), self.unit


def panels_of(comparison: Comparison, units: Units, names: Sequence[str]) -> dict[str, Panel]:
    """The panels of these names, in their order."""
    return {n: _gap(comparison) if n == "gap" else _panel(n, comparison, units) for n in names}


def since(panel: Panel, place_m: float, corner: str) -> Panel:
    """The panel of the gap with what was gained or lost before a place taken off."""
    moved = [replace(line, y=line.y - line.at(place_m)) for line in panel.lines]
    return replace(panel, lap=moved[0], over=tuple(moved[1:]), since=corner)


def _gap(comparison: Comparison) -> Panel:
    gap, *over = (Line(lap.trace_m, lap.trace_s) for lap in comparison.laps)
    low, high = _bounds([gap.y, *(line.y for line in over)], pad=0.12, least=0.1)
    return Panel("gap", "s", 3, None, gap, min(low, 0.0), max(high, 0.0), over=tuple(over))


def _panel(name: str, comparison: Comparison, units: Units) -> Panel:
    """A panel of both laps and those laid over, with the marks that belong to it; one scale for all."""
    passages = [comparison.reference, *(lap.passage for lap in comparison.laps)]
    scale = _Scale.of(name, passages, units)
    reference, lap, *over = (scale.line(p) for p in passages)
    drawn = [line.y for line in (reference, lap, *over) if line is not None]
    low, high = _bounds(drawn, pad=0.08, least=1.0)
    if name in FROM_NOUGHT:
        low = 0.0
    if name in SPEED_CHANNELS:
        low = max(low, 0.0)
    if name == "throttle":
        high = THROTTLE_TOP
    marks = [[getattr(c, which) for c in comparison.laps[0].corners] for which in ("reference_marks", "lap_marks")]
    flags = [_flags(name, m, line) for m, line in zip(marks, (reference, lap), strict=True)]
    unit = scale.unit if drawn else "not logged"
    return Panel(
        name, unit, scale.digits, reference, lap, low, high, flags[0], flags[1],
        tuple(line for line in over if line is not None),
    )  # fmt: skip


@dataclass(frozen=True, eq=False)
class _Scale:
    """How one channel is drawn, the same for all laps."""

    name: str
    factor: float
    unit: str
    digits: int

    @classmethod
    def of(cls, name: str, passages: Sequence[Passage], units: Units) -> _Scale:
        how = shown(name)
        if name in SPEED_CHANNELS:
            return cls(name, SPEEDS[units.speed], units.speed, 1)
        if name in BRAKES:
            return cls(name, *_brake_unit(name, passages, units))
        inferred = name == "throttle" and all(p.throttle.inferred for p in passages)
        unit = f"{how.unit} inferred" if inferred else how.unit or _logged_unit(name, passages)
        return cls(name, how.factor, unit, how.digits)

    def line(self, passage: Passage) -> Line | None:
        """One lap's line, None where nothing is known."""
        if self.name == "speed":
            return Line(passage.alignment.place_m, passage.motion.speed_mps * self.factor)
        if self.name in ("brake", "throttle"):
            pedal = passage.brake if self.name == "brake" else passage.throttle
            inside = (pedal.time_s >= 0.0) & (pedal.time_s <= passage.motion.time_s[-1])
            span = 1.0 if self.name == "throttle" or pedal.inferred else pedal.full - pedal.rest
            return Line(passage.place_at(pedal.time_s[inside]), pedal.value[inside] * span * self.factor)
        channel = passage.lap.get(self.name)
        if channel is None or len(channel) < 2:
            return None
        inside = (channel.time_s >= 0.0) & (channel.time_s <= passage.motion.time_s[-1])
        return Line(passage.place_at(channel.time_s[inside]), channel.value[inside] * self.factor)


def _brake_unit(name: str, passages: Sequence[Passage], units: Units) -> tuple[float, str, int]:
    """Factor, unit and decimals of a brake: as logged, pressures converted; a percentage is of the hardest press of all."""
    if name == "brake" and all(p.brake.inferred for p in passages):
        return 100.0, "% inferred", 0
    logged = next((p.brake.unit for p in passages if not p.brake.inferred), "bar")
    if logged != "bar":
        return 1.0, logged, 0
    if units.pressure == "%":
        hardest = max(p.brake.logged(float(p.brake.value.max())) for p in passages if not p.brake.inferred)
        return 100.0 / max(hardest, 1e-9), "% of the hardest press", 0
    return PRESSURES[units.pressure], units.pressure, 1 if units.pressure == "bar" else 0


def _logged_unit(name: str, passages: Sequence[Passage]) -> str:
    """What the log says a channel is in."""
    channels = (p.lap.get(name) for p in passages)
    return next((c.unit for c in channels if c is not None), "")


_MARKS = {
    "speed": ("slow_point_m",),
    "brake": ("brake_on_m", "brake_off_m"),
    "brake_front": ("brake_on_m", "brake_off_m"),
    "throttle": ("lift_m", "throttle_on_m", "full_throttle_m"),
    "steering": ("turn_in_m",),
    "lean": ("turn_in_m",),
}


def _flags(name: str, marks: list[Marks], line: Line | None) -> tuple[tuple[float, float], ...]:
    """Places and values of the marks of one lap in a panel."""
    if line is None:
        return ()
    places = [getattr(m, key) for m in marks for key in _MARKS.get(name, ())]
    return tuple((p, line.at(p)) for p in places if p is not None)


def _bounds(drawn: list[FloatArray], pad: float, least: float) -> tuple[float, float]:
    seen = [y for y in drawn if len(y)]
    if not seen:
        return 0.0, 1.0
    low, high = min(float(y.min()) for y in seen), max(float(y.max()) for y in seen)
    room = max(high - low, least) * pad
    return low - room, max(high, low + least) + room
