"""The way through a lap: where both laps are at each time or place, and where one may stop."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Final, Literal

import numpy as np

from jete.core.axis.road.corners import CornerNumber

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.causes.verdict.result import Comparison, CornerLoss
    from jete.core.driving.passage import Passage

Who = Literal["reference", "lap"]
# The marks at which one may stop, with their words.
STOPS: Final = {
    "lift_m": "lift", "brake_on_m": "brake point", "brake_off_m": "release", "turn_in_m": "turn-in", "slow_point_m": "slowest",
    "throttle_on_m": "pick-up", "full_throttle_m": "full throttle",
}  # fmt: skip
# Two stops nearer than this are one.
TOGETHER_M = 0.5
# A press is looked through at so many places for its hardest.
PRESS_STEPS = 80
# A gap smaller than this is none.
NO_GAP_M = 0.05


@dataclass(frozen=True)
class Stop:
    """A mark of one lap: where it is, what it is, in which corner (its number)."""

    place_m: float
    words: str
    who: Who
    corner: CornerNumber


@dataclass(frozen=True, eq=False)
class Course:
    """Both laps of a comparison on one axis, with the stops in the order of the road."""

    reference: Passage
    lap: Passage
    stops: tuple[Stop, ...]
    length_m: float

    def passage(self, who: Who) -> Passage:
        """One of the laps."""
        return self.reference if who == "reference" else self.lap

    def time_s(self, who: Who, place_m: float) -> float:
        """When a lap is at a place."""
        return self.passage(who).time_of(min(max(place_m, 0.0), self.length_m))

    def place_m(self, who: Who, time_s: float) -> float:
        """Where a lap is at a time of its own; the line before and after it."""
        passage = self.passage(who)
        return passage.place_of(min(max(time_s, 0.0), float(passage.motion.time_s[-1])))

    def duration_s(self, who: Who) -> float:
        """How long a lap takes."""
        return float(self.passage(who).motion.time_s[-1])

    def apart_m(self, who: Who, place_m: float) -> float:
        """How far the other lap is ahead at the time at which a lap is at a place, metres; negative behind."""
        other: Who = "lap" if who == "reference" else "reference"
        there = self.place_m(other, self.time_s(who, place_m))
        return there - place_m if abs(there - place_m) > NO_GAP_M else 0.0

    def next_stop(self, place_m: float, step: int) -> Stop | None:
        """The stop after a place (1) or before it (−1)."""
        if step > 0:
            return next((s for s in self.stops if s.place_m > place_m + TOGETHER_M), None)
        return next((s for s in reversed(self.stops) if s.place_m < place_m - TOGETHER_M), None)

    def near(self, place_m: float) -> list[Stop]:
        """The stops at a place."""
        return [s for s in self.stops if abs(s.place_m - place_m) <= TOGETHER_M]


def course_of(comparison: Comparison) -> Course:
    """The way through the first lap of a comparison and its reference."""
    lap = comparison.laps[0]
    sides: tuple[tuple[Who, str], ...] = (("reference", "reference_marks"), ("lap", "lap_marks"))
    stops = [
        Stop(place, words, who, loss.corner.number)
        for loss in lap.corners
        for who, marks in sides
        for name, words in STOPS.items()
        if (place := getattr(getattr(loss, marks), name)) is not None
    ]
    stops += _presses(comparison.reference, "reference", lap.corners) + _presses(lap.passage, "lap", lap.corners)
    stops += _shifts(comparison.reference, "reference", lap.corners) + _shifts(lap.passage, "lap", lap.corners)
    return Course(
        comparison.reference, lap.passage, tuple(sorted(stops, key=lambda s: s.place_m)), comparison.road.length_m
    )


def _presses(passage: Passage, who: Who, corners: Sequence[CornerLoss]) -> list[Stop]:
    """Where a lap presses the brake hardest, corner by corner; nothing where no brake was logged."""
    if passage.brake.inferred:
        return []
    stops = []
    for loss in corners:
        marks = loss.reference_marks if who == "reference" else loss.lap_marks
        if marks.brake_on_m is None or marks.brake_off_m is None or marks.brake_off_m <= marks.brake_on_m:
            continue
        places = np.linspace(marks.brake_on_m, marks.brake_off_m, PRESS_STEPS)
        hardest = int(np.argmax(passage.brake.at(passage.time_at(places))))
        stops.append(Stop(float(places[hardest]), "hardest press", who, loss.corner.number))
    return stops


def _shifts(passage: Passage, who: Who, corners: Sequence[CornerLoss]) -> list[Stop]:
    """Where a lap shifts."""
    gear = passage.lap.get("gear")
    if gear is None or len(gear) < 2:
        return []
    at = np.flatnonzero((np.abs(np.diff(gear.value)) > 0.5) & (gear.value[1:] >= 0.5)) + 1
    places = passage.place_at(gear.time_s[at])
    windows = [(c.window.start_m, c.corner.number) for c in corners]

    def corner(place: float) -> CornerNumber:
        return max((n for start, n in windows if start <= place), default=CornerNumber(1))

    return [
        Stop(float(p), f"shift to {gear.value[k]:.0f}", who, corner(float(p)))
        for p, k in zip(places, at.tolist(), strict=True)
        if 0.0 <= p <= float(passage.alignment.place_m[-1])
    ]
