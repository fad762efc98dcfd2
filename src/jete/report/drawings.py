"""Line drawings of the guide, on any paper: the whole circuit, a corner from above, what the lap did over it.

A drawing is lines and words in a box of its own size; SVG is made of it here, print in :mod:`jete.paper`.
Black on white throughout: what differs differs by width and dash.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import atan2, cos, pi, sin
from typing import TYPE_CHECKING

import numpy as np

from jete.report.seat import landmark_short

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.guide.plans import Plan

INK, GREY = "#1d1b18", "#8a857c"
MAP_SIZE, PLAN_SIZE, TRACE_SIZE = (720.0, 330.0), (210.0, 150.0), (330.0, 150.0)
MARGIN = 16.0
# Half the length of a bar across the line.
BAR = 7.0
# Room for the names of the panels, and the share of the speed's panel.
NAMES, SPEED_SHARE = 54.0, 0.46


@dataclass(frozen=True)
class Line:
    """A polyline: its points, how wide, whether dashed, whether closed and filled."""

    points: tuple[tuple[float, float], ...]
    width: float = 1.2
    dashed: bool = False
    filled: bool = False
    colour: str = INK


@dataclass(frozen=True)
class Words:
    """Words at a point: where on them the point lies (``start``, ``middle``, ``end``), and their size."""

    x: float
    y: float
    text: str
    anchor: str = "start"
    size: float = 9.0
    bold: bool = False


@dataclass(frozen=True)
class Drawing:
    """Lines and words in a box ``width`` × ``height``, y downwards; ``name`` for those who can't see it."""

    name: str
    width: float
    height: float
    lines: tuple[Line, ...]
    words: tuple[Words, ...]


def svg_of(drawing: Drawing) -> str:
    """The drawing as SVG; every word in it escaped."""
    from markupsafe import escape

    parts = [_svg_line(line) for line in drawing.lines] + [_svg_words(w) for w in drawing.words]
    size = f'viewBox="0 0 {drawing.width:.0f} {drawing.height:.0f}"'
    return f'<svg {size} role="img" aria-label="{escape(drawing.name)}">{"".join(parts)}</svg>'


def _svg_line(line: Line) -> str:
    points = " ".join(f"{x:.1f},{y:.1f}" for x, y in line.points)
    dash = ' stroke-dasharray="4 3"' if line.dashed else ""
    shape, fill = ("polygon", line.colour) if line.filled else ("polyline", "none")
    return f'<{shape} points="{points}" fill="{fill}" stroke="{line.colour}" stroke-width="{line.width:g}"{dash}/>'


def _svg_words(words: Words) -> str:
    from markupsafe import escape

    weight = "bold" if words.bold else "normal"
    look = f'text-anchor="{words.anchor}" font-size="{words.size:.0f}" font-weight="{weight}" fill="{INK}"'
    return f'<text x="{words.x:.1f}" y="{words.y:.1f}" {look}>{escape(words.text)}</text>'


def map_drawing(path_m: FloatArray, apexes: Sequence[tuple[str, float, float]]) -> Drawing:
    """The whole circuit, north up, with the numbers of its corners beside it.

    Args:
        path_m: (n, 2).
        apexes: number of each corner, and where it lies on the same plane.
    """
    width, height = MAP_SIZE
    fit = _Fit.of(path_m, MAP_SIZE, MARGIN + 10.0)
    middle = 0.5 * (path_m.min(axis=0) + path_m.max(axis=0))
    line = Line(fit.at(path_m[:: max(len(path_m) // 800, 1)]), 2.0)
    words = []
    for label, x, y in apexes:
        out = np.array([x, y]) - middle
        out = out / max(float(np.hypot(*out)), 1e-6) * 14.0
        ((px, py),) = fit.at(np.array([[x, y]]))
        words.append(Words(px + float(out[0]), py - float(out[1]) + 4.0, label, "middle", 13.0, bold=True))
    return Drawing("The circuit", width, height, (line,), tuple(words))


def plan_drawing(plan: Plan, circuit: CircuitOnAxis | None, name: str) -> Drawing | None:
    """A corner from above, driven upwards: a full bar where it brakes, an open one where it picks up; None without a path.

    Args:
        plan: of the corner.
        circuit: with its landmarks, on the lap's axis; None without.
        name: of the corner.
    """
    if plan.path_m is None or len(plan.path_m) < 3:
        return None
    turned = _upwards(plan.path_m)
    fit = _Fit.of(turned, PLAN_SIZE, MARGIN)
    lines = [Line(fit.at(turned), 2.0)]

    def spot(place_m: float) -> tuple[tuple[float, float], tuple[float, float]]:
        """A place on the path, and the unit vector across it, as drawn."""
        at, ahead = (
            np.array([[np.interp(p, plan.place_m, turned[:, k]) for k in (0, 1)]]) for p in (place_m, place_m + 2.0)
        )
        ((x, y),), ((x1, y1),) = fit.at(at), fit.at(ahead)
        long = max(float(np.hypot(x1 - x, y1 - y)), 1e-6)
        return (x, y), (-(y1 - y) / long, (x1 - x) / long)

    for place, full in ((plan.brake_m, True), (plan.pickup_m, False)):
        if place is not None and plan.place_m[0] <= place <= plan.place_m[-1]:
            lines.append(_bar(*spot(place), full=full))
    (x, y), (nx, ny) = spot(plan.apex_m)
    lines.append(Line(((x - 3 * nx, y - 3 * ny), (x + 3 * nx, y + 3 * ny)), 1.0))
    words = []
    for mark in circuit.book.landmarks if circuit is not None else ():
        if plan.place_m[0] < mark.circuit_m < plan.place_m[-1] and mark.side in ("left", "right"):
            sign, label = _sign(*spot(mark.circuit_m), left=mark.side == "left", words=landmark_short(mark))
            lines.append(sign)
            words.append(label)
    return Drawing(f"{name} from above", *PLAN_SIZE, tuple(lines), tuple(_apart(words)))


def _sign(at: tuple[float, float], across: tuple[float, float], *, left: bool, words: str) -> tuple[Line, Words]:
    """What stands beside the road, and its name on the far side of it."""
    side = -1.0 if left else 1.0
    x, y = at[0] + 9.0 * side * across[0], at[1] + 9.0 * side * across[1]
    box = ((x - 1.5, y - 1.5), (x + 1.5, y - 1.5), (x + 1.5, y + 1.5), (x - 1.5, y + 1.5))
    outwards = side * across[0]
    label = Words(x + (4.0 if outwards >= 0.0 else -4.0), y + 3.0, words, "start" if outwards >= 0.0 else "end", 7.0)
    return Line(box, 0.8, filled=True, colour=GREY), label


def _apart(words: Sequence[Words]) -> list[Words]:
    """Words that would lie on each other are left out: those before them stay."""
    kept: list[Words] = []
    for w in words:
        if all(abs(w.y - k.y) > w.size or abs(w.x - k.x) > 0.6 * w.size * max(len(w.text), len(k.text)) for k in kept):
            kept.append(w)
    return kept


def _bar(at: tuple[float, float], across: tuple[float, float], *, full: bool) -> Line:
    (x, y), (nx, ny) = at, across
    # Along the way: across, turned back by a quarter.
    ax, ay = ny, -nx
    corners = [
        (x + s * BAR * nx + a * 1.8 * ax, y + s * BAR * ny + a * 1.8 * ay)
        for s, a in ((-1, -1), (1, -1), (1, 1), (-1, 1))
    ]
    return Line((*corners, corners[0]), 1.0, filled=full)


def trace_drawing(plan: Plan, name: str, apex: str = "apex") -> Drawing:
    """Speed, brake and throttle of a corner over its metres, counted from the apex.

    Args:
        plan: of the corner.
        name: of the corner.
        apex: what the metres count from.
    """
    width, height = TRACE_SIZE
    feet = [(n, v) for n, v in (("brake", plan.brake), ("throttle", plan.throttle)) if v is not None]
    floor, top = height - 16.0, 6.0
    each = (floor - top) * (1.0 - SPEED_SHARE) / max(len(feet), 1) if feet else 0.0
    speed_floor = floor - each * len(feet) - (6.0 if feet else 0.0)
    metres = plan.place_m - plan.apex_m

    def x(values: FloatArray | float) -> FloatArray:
        return np.asarray(NAMES + (values - metres[0]) / max(metres[-1] - metres[0], 1.0) * (width - NAMES - 6.0))

    low, high = 10.0 * np.floor(plan.speed_kmh.min() / 10.0), 10.0 * np.ceil(plan.speed_kmh.max() / 10.0)
    y = speed_floor - (plan.speed_kmh - low) / max(high - low, 1.0) * (speed_floor - top)
    lines = [_trace(x(metres), y, 1.6)]
    words = [
        Words(0.0, top + 8.0, "km/h"),
        Words(NAMES - 4.0, top + 8.0, f"{high:.0f}", "end", 8.0),
        Words(NAMES - 4.0, speed_floor, f"{low:.0f}", "end", 8.0),
    ]
    for k, (title, values) in enumerate(feet):
        base = floor - each * (len(feet) - 1 - k)
        lines += [
            _trace(x(metres), base - values * (each - 6.0), 1.4),
            Line(((NAMES, base), (width - 6.0, base)), 0.5, colour=GREY),
        ]
        words.append(Words(0.0, base - 0.4 * each, title))
    for place in _round(metres):
        at = float(x(float(place)))
        lines.append(Line(((at, top), (at, floor)), 0.4, dashed=True, colour=GREY))
        words.append(Words(at, height - 3.0, apex if place == 0 else f"{place:+d}".replace("-", "−"), "middle", 8.0))
    return Drawing(f"{name}: speed, brake and throttle", width, height, tuple(lines), tuple(words))


def _trace(x: FloatArray, y: FloatArray, width: float) -> Line:
    return Line(tuple(zip(x.tolist(), y.tolist(), strict=True)), width)


def _round(metres: FloatArray) -> list[int]:
    """Round metres for the ticks: fifties, or hundreds of a long corner."""
    step = 50 if metres[-1] - metres[0] < 260.0 else 100
    return list(range(int(np.ceil(metres[0] / step)) * step, int(metres[-1]) + 1, step))


def _upwards(path_m: FloatArray) -> FloatArray:
    """The path turned so that it begins upwards."""
    dx, dy = path_m[min(4, len(path_m) - 1)] - path_m[0]
    turn = 0.5 * pi - atan2(float(dy), float(dx))
    c, s = cos(turn), sin(turn)
    return np.asarray(path_m @ np.array([[c, s], [-s, c]]))


@dataclass(frozen=True)
class _Fit:
    """From metres to a box, y downwards, to scale."""

    scale: float
    x: float
    y: float

    @classmethod
    def of(cls, path_m: FloatArray, size: tuple[float, float], margin: float) -> _Fit:
        low, high = path_m.min(axis=0), path_m.max(axis=0)
        room = size[0] - 2.0 * margin, size[1] - 2.0 * margin
        scale = min(room[0] / max(float(high[0] - low[0]), 1.0), room[1] / max(float(high[1] - low[1]), 1.0))
        middle = 0.5 * (low + high)
        return cls(scale, 0.5 * size[0] - scale * float(middle[0]), 0.5 * size[1] + scale * float(middle[1]))

    def at(self, xy_m: FloatArray) -> tuple[tuple[float, float], ...]:
        return tuple((self.x + self.scale * px, self.y - self.scale * py) for px, py in xy_m.tolist())
