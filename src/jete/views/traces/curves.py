"""What the trace panels draw, from a comparison: curves on native samples, no Qt."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from jete.report.units import PRESSURES, SPEEDS, Units

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from jete.core.marks import Marks
    from jete.core.passage import Passage
    from jete.core.result import Comparison

    FloatArray = NDArray[np.float64]

TITLES = {
    "gap": "running gap",
    "speed": "speed",
    "brake": "brake",
    "throttle": "throttle",
    "steering": "steering",
    "gear": "gear",
}
WEIGHTS = {"gap": 1.1, "speed": 2.2, "brake": 1.0, "throttle": 1.0, "steering": 0.9, "gear": 0.7}


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
    flags: tuple[tuple[float, float], ...]
    lap_flags: tuple[tuple[float, float], ...]
    over: tuple[Line, ...] = ()

    def bounds(self, start_m: float, end_m: float) -> tuple[float, float]:
        """Least and greatest value to show for a piece of the axis; pedals keep their span."""
        if self.name in ("brake", "throttle") or not (self.reference or self.lap):
            return self.low, self.high
        seen = []
        for line in (self.reference, self.lap, *self.over):
            if line is not None:
                lo, hi = np.searchsorted(line.x, [start_m, end_m])
                seen.append(line.y[max(int(lo) - 1, 0) : int(hi) + 1])
        low, high = _bounds(seen, pad=0.12, least=0.05 if self.name == "gap" else 1.0)
        return (min(low, 0.0), max(high, 0.0)) if self.name == "gap" else (low, high)

    @property
    def empty(self) -> bool:
        """Whether neither lap has anything to draw."""
        return self.reference is None and self.lap is None

    @property
    def title(self) -> str:
        """Title with the unit; inferred channels say so by their unit."""
        return f"{TITLES[self.name]}  {self.unit}".rstrip()


def panels_of(comparison: Comparison, units: Units) -> dict[str, Panel]:
    """All panels by name."""
    first, *others = comparison.laps
    gap, *over = (Line(lap.trace_m, lap.trace_s) for lap in comparison.laps)
    low, high = _bounds([gap.y, *(line.y for line in over)], pad=0.12, least=0.1)
    out = {"gap": Panel("gap", "s", 3, None, gap, min(low, 0.0), max(high, 0.0), (), (), tuple(over))}
    for name in ("speed", "brake", "throttle", "steering", "gear"):
        lines = [_line(p, name, units) for p in (comparison.reference, first.passage)]
        laid = [_line(lap.passage, name, units) for lap in others]
        out[name] = replace(_panel(name, lines, comparison), over=tuple(line[0] for line in laid if line is not None))
    return out


def _panel(name: str, lines: list[tuple[Line, str] | None], comparison: Comparison) -> Panel:
    """A panel from its two lines, with the marks that belong to it."""
    drawn = [line[0].y for line in lines if line is not None]
    unit = next((line[1] for line in lines if line is not None), "not logged")
    low, high = _bounds(drawn, pad=0.08, least=1.0)
    if name in ("brake", "throttle", "speed"):
        low = 0.0 if name != "speed" else max(low, 0.0)
    curves = [line[0] if line else None for line in lines]
    corners = comparison.laps[0].corners
    marks = [[c.reference_marks for c in corners], [c.lap_marks for c in corners]]
    flags = [_flags(name, m, c) for m, c in zip(marks, curves, strict=True)]
    if name == "throttle":
        low, high = 0.0, 104.0
    digits = {"speed": 1, "gear": 0}.get(name, 0 if name != "brake" or unit == "%" else 1)
    return Panel(name, unit, digits, curves[0], curves[1], low, high, flags[0], flags[1])


_MARKS = {
    "speed": ("slow_point_m",),
    "brake": ("brake_on_m", "brake_off_m"),
    "throttle": ("lift_m", "throttle_on_m", "full_throttle_m"),
    "steering": ("turn_in_m",),
}


def _flags(name: str, marks: list[Marks], line: Line | None) -> tuple[tuple[float, float], ...]:
    """Places and values of the marks of one lap in a panel."""
    if line is None:
        return ()
    places = [getattr(m, key) for m in marks for key in _MARKS.get(name, ())]
    return tuple((p, line.at(p)) for p in places if p is not None)


def _bounds(drawn: list[FloatArray], pad: float, least: float) -> tuple[float, float]:
    if not drawn:
        return 0.0, 1.0
    low, high = min(float(y.min()) for y in drawn), max(float(y.max()) for y in drawn)
    room = max(high - low, least) * pad
    return low - room, max(high, low + least) + room


def _line(passage: Passage, name: str, units: Units) -> tuple[Line, str] | None:
    """One lap's line and its unit in a panel, or None where nothing is known."""
    if name == "speed":
        return Line(passage.alignment.place_m, passage.motion.speed_mps * SPEEDS[units.speed]), units.speed
    if name in ("brake", "throttle"):
        return _pedal(passage, name, units)
    channel = passage.lap.get(name)
    if channel is None or len(channel) < 2:
        return None
    inside = (channel.time_s >= 0.0) & (channel.time_s <= passage.motion.time_s[-1])
    values = np.degrees(channel.value) if name == "steering" else channel.value
    return Line(passage.place_at(channel.time_s[inside]), values[inside]), "deg" if name == "steering" else ""


def _pedal(passage: Passage, name: str, units: Units) -> tuple[Line, str]:
    """A pedal: the throttle as a share of its span, the brake as logged above rest."""
    pedal = passage.throttle if name == "throttle" else passage.brake
    inside = (pedal.time_s >= 0.0) & (pedal.time_s <= passage.motion.time_s[-1])
    x, value = passage.place_at(pedal.time_s[inside]), pedal.value[inside]
    if pedal.inferred:
        return Line(x, 100.0 * value), "% inferred"
    if name == "throttle" or pedal.unit != "bar":
        return Line(x, 100.0 * value), "%"
    return Line(x, value * (pedal.full - pedal.rest) * PRESSURES[units.pressure]), units.pressure
