"""A corner as two laps drove it, for paper: speed, brake and throttle over the same metres, and the running gap between them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

import numpy as np

from jete.report.drawings import GREY, Drawing, Line, Words

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.causes.verdict.result import CornerLoss
    from jete.core.driving.passage import Passage
    from jete.report.units import Units

SIZE: Final = (700.0, 212.0)
LEFT, RIGHT, FOOT, STEP_M = 64.0, 690.0, 18.0, 2.0
BEFORE_M, AFTER_M = 40.0, 80.0
# What each panel takes of the height: speed, brake, throttle, gap.
SHARES: Final = (0.42, 0.16, 0.16, 0.26)
ACCENT: Final = "#076E69"


def pair_drawing(reference: Passage, lap: Passage, loss: CornerLoss, units: Units) -> Drawing:
    """The reference dashed, the lap as a full line; flags where each brakes (up) and picks up (down)."""
    places = np.arange(
        max(loss.window.start_m - BEFORE_M, 0.0), loss.corner.end_m + AFTER_M, STEP_M, dtype=float
    )  # fmt: skip
    places = places[places <= reference.motion.distance_m[-1]] if len(places) else places
    pen = _Panels(places)
    speeds = [units.speed_of(1.0) * p.speed_at_scale(places) for p in (reference, lap)]
    pen.panel(0, units.speed, speeds, None)
    for k, (title, name) in enumerate((("brake", "brake"), ("throttle", "throttle")), start=1):
        pedals = [getattr(p, name) for p in (reference, lap)]
        if any(p.inferred for p in pedals):
            continue
        values = [np.clip(p.at(q.time_at(places)), 0.0, 1.0) for p, q in zip(pedals, (reference, lap), strict=True)]
        hardest = max(float(np.max(values)), 1e-3) if name == "brake" else 1.0
        pen.panel(k, title, [v / hardest for v in values], (0.0, 1.0))
    gap = lap.time_at(places) - reference.time_at(places)
    pen.panel(3, "gap s", [np.zeros_like(gap), gap - gap[0]], None)
    for marks, dashed in ((loss.reference_marks, True), (loss.lap_marks, False)):
        pen.flag(marks.onset_m, dashed=dashed, up=True)
        pen.flag(marks.throttle_on_m, dashed=dashed, up=False)
    pen.ticks(loss.corner.apex_m)
    name = f"corner {loss.corner.called}"
    return Drawing(f"{name}: both laps' speed, pedals and gap", *SIZE, tuple(pen.lines), tuple(pen.words))


class _Panels:
    """Panels below each other over the same places."""

    def __init__(self, places_m: FloatArray) -> None:
        self.lines: list[Line] = []
        self.words: list[Words] = []
        self._places = places_m
        self._x = LEFT + (places_m - places_m[0]) / max(places_m[-1] - places_m[0], 1.0) * (RIGHT - LEFT)

    def _span(self, k: int) -> tuple[float, float]:
        high = SIZE[1] - FOOT
        top = high * sum(SHARES[:k])
        return top + 6.0, top + high * SHARES[k] - 4.0

    def panel(self, k: int, title: str, curves: list[FloatArray], ends: tuple[float, float] | None) -> None:
        """The reference's curve and the lap's, between the ends of the scale."""
        top, foot = self._span(k)
        low, high = ends or (float(np.min(curves)), float(np.max(curves)))
        digits = 2 if title == "gap s" else 0
        self.lines.append(Line(((LEFT, foot), (RIGHT, foot)), 0.5, colour=GREY))
        for number, curve in enumerate(curves):
            y = foot - (curve - low) / max(high - low, 1e-6) * (foot - top)
            points = tuple(zip(self._x.tolist(), y.tolist(), strict=True))
            self.lines.append(
                Line(points, 1.8 if number else 1.2, dashed=not number, colour=ACCENT if number else "#1d1b18")
            )
        self.words.append(Words(0.0, 0.5 * (top + foot) + 3.0, title, size=10.0))
        if ends is None:
            self.words += [
                Words(LEFT - 4.0, top + 7.0, f"{high:+.{digits}f}" if digits else f"{high:.0f}", "end", 8.0),
                Words(
                    LEFT - 4.0, foot, (f"{low:+.{digits}f}" if digits else f"{low:.0f}").replace("-", "−"), "end", 8.0
                ),
            ]

    def flag(self, place_m: float | None, *, dashed: bool, up: bool) -> None:
        """A mark's place through the panel of speed: with its flag at the top or at the foot."""
        if place_m is None or not self._places[0] <= place_m <= self._places[-1]:
            return
        x = float(np.interp(place_m, self._places, self._x))
        top, foot = self._span(0)
        colour = "#1d1b18" if dashed else ACCENT
        self.lines.append(Line(((x, top), (x, foot)), 0.7, dashed=dashed, colour=colour))
        y, way = (top, 1.0) if up else (foot, -1.0)
        self.lines.append(Line(((x, y), (x + 7.0, y + 3.0 * way), (x, y + 6.0 * way)), 0.6, filled=True, colour=colour))

    def ticks(self, apex_m: float) -> None:
        """Metres from the apex under the lowest panel."""
        foot = SIZE[1] - FOOT
        first, last = self._places[0] - apex_m, self._places[-1] - apex_m
        step = 50 if last - first < 320.0 else 100
        for metres in range(int(np.ceil(first / step)) * step, int(last) + 1, step):
            x = float(np.interp(apex_m + metres, self._places, self._x))
            self.lines.append(Line(((x, 4.0), (x, foot)), 0.3, dashed=True, colour=GREY))
            text = "apex" if metres == 0 else f"{metres:+d} m".replace("-", "−")
            self.words.append(Words(x, SIZE[1] - 4.0, text, "middle", 9.0))
