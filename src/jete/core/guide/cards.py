"""One card a corner: what the lap did there, in the order in which it is driven, and what may vary.

Nothing is invented: what no channel shows is None, and a spread is only there where several good
laps show one.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Literal

import numpy as np

from jete.core.circuit.stakes import stakes_of
from jete.core.driving.marks import marks_of
from jete.core.driving.shapes import feed_of, press_of
from jete.core.driving.technique import technique_of
from jete.core.driving.vehicle import drive_of

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.axis.road.corners import Corner
    from jete.core.axis.road.road import Road
    from jete.core.causes.verdict.result import LapComparison
    from jete.core.circuit.landmarks import Hazard
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.circuit.stakes import Stakes
    from jete.core.driving.marks import Marks
    from jete.core.driving.passage import Passage
    from jete.core.driving.shapes import FeedFigures, PressFigures
    from jete.core.driving.technique import Release, Technique
    from jete.core.passes.passes import Pass

# The slow point lies so far from the tightest point, as a share of the corner, before it is called early or late.
APEX_SHARE = 0.12
# Of fewer passes there is no spread.
FEWEST = 3
# Beside a card's figure a lap still keeps it.
PLACE_M, SPEED_KMH = 5.0, 2.0
# Of fewer laps nobody can say what a run does.
FEWEST_RACE = 5
# By less than this a run is not slower than its lap in the middle of a corner: tyres and traffic.
RACE_KMH = 1.5
# What settings of a vehicle are called where they are logged.
SWITCHES = ("brake bias", "brakebias", "traction", "engine map", "abs level", "abs map", "diff map")
# A hazard that lies no farther from a corner is one of its own.
BESIDE_M = 20.0

Apex = Literal["early", "middle", "late"]


@dataclass(frozen=True)
class Figure:
    """A number of the lap, with the least and the greatest of the good laps; both None where too few show it."""

    value: float
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True)
class Race:
    """What the laps of a run do otherwise than the lap of the guide: the middle one of so many ``laps``.

    ``brake_m`` and ``pickup_m`` are metres later (negative: earlier), ``min_speed_kmh`` faster; None where the same.
    """

    laps: int
    brake_m: float | None = None
    min_speed_kmh: float | None = None
    pickup_m: float | None = None
    gear: int | None = None

    @property
    def differs(self) -> bool:
        """Whether anything is done otherwise."""
        return any(v is not None for v in (self.brake_m, self.min_speed_kmh, self.pickup_m, self.gear))


@dataclass(frozen=True, kw_only=True)
class Card:
    """One corner of the guide; places in metres of the lap's axis, offsets in metres left of the mean path.

    ``straight`` says whether the brake is off before the wheel turns; ``gears`` are those that good laps
    were in at the slow point; ``switches`` are logged settings where the corner begins.
    """

    corner: Corner
    stakes: Stakes
    lift_m: Figure | None
    brake_m: Figure | None
    press: PressFigures | None
    release: Release | None
    straight: bool | None
    brake_off_m: Figure | None
    brushes: int
    downshifts_m: tuple[float, ...]
    gear: int | None
    gears: tuple[int, ...]
    turn_in_m: Figure | None
    apex: Apex
    apex_off_m: Figure | None
    slow_point_m: Figure
    min_speed_kmh: Figure
    pickup_m: Figure | None
    feed: FeedFigures | None
    full_m: Figure | None
    exit_off_m: Figure | None
    exit_speed_kmh: Figure
    hazards: tuple[Hazard, ...]
    entry_off_m: Figure | None = None
    race: Race | None = None
    switches: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True, eq=False)
class Good:
    """What other laps show: passes by corner (its id), and what lays a circuit's place on the lap's axis.

    ``passes`` are those of the best few laps, ``run`` those of all that count.  With ``middle`` a card has the middle
    one of the good laps' numbers in the place of the lap's own.
    """

    passes: Mapping[int, Sequence[Pass]]
    circuit: CircuitOnAxis | None
    run: Mapping[int, Sequence[Pass]] = field(default_factory=dict)
    middle: bool = False

    def spread(self, corner: Corner, name: str, value: float | None, *, place: bool) -> Figure | None:
        """A number of the lap with what good laps show of it."""
        if value is None:
            return None
        known = self._known(self.passes, corner, name, place=place)
        if len(known) < FEWEST:
            return Figure(value)
        told = float(np.median(known)) if self.middle else value
        return Figure(told, min(*known, told), max(*known, told))

    def _known(self, passes: Mapping[int, Sequence[Pass]], corner: Corner, name: str, *, place: bool) -> list[float]:
        """A number of other laps' passes, places on the lap's axis."""
        known = [v for p in passes.get(corner.lasting, ()) if (v := getattr(p, name)) is not None]
        return [self.circuit.to_reference(v) for v in known] if place and self.circuit is not None else known

    def gear(self, corner: Corner, gear: int | None) -> int | None:
        """The gear to tell: the lap's, or the one that most good laps were in."""
        known = [p.gear for p in self.passes.get(corner.lasting, ()) if p.gear is not None]
        return max(set(known), key=known.count) if self.middle and len(known) >= FEWEST else gear

    def race(self, corner: Corner, marks: Marks) -> Race | None:
        """What the run's laps did otherwise than this one; None where too few show it."""
        laps = self.run.get(corner.lasting, ())
        if len(laps) < FEWEST_RACE or self.middle:
            return None

        def off(name: str, value: float | None, least: float, *, place: bool) -> float | None:
            known = self._known(self.run, corner, name, place=place)
            if value is None or len(known) < FEWEST_RACE:
                return None
            by = float(np.median(known)) - value
            return by if abs(by) >= least else None

        gears = [p.gear for p in laps if p.gear is not None]
        usual = max(set(gears), key=gears.count) if gears else None
        return Race(
            len(laps), off("brake_on_m", marks.brake_on_m, PLACE_M, place=True),
            off("min_speed_kmh", marks.min_speed_kmh, RACE_KMH, place=False),
            off("throttle_on_m", marks.throttle_on_m, PLACE_M, place=True), usual if usual != marks.gear else None,
        )  # fmt: skip

    def beside(self, corner: Corner, name: str) -> Figure | None:
        """A number that only passes have: the middle one, from the least to the greatest."""
        known = [v for p in self.passes.get(corner.lasting, ()) if (v := getattr(p, name)) is not None]
        return Figure(float(np.median(known)), min(known), max(known)) if known else None


def cards_of(passage: Passage, road: Road, corners: Sequence[Corner], good: Good) -> list[Card]:
    """The cards of a lap on its own axis.

    Args:
        passage: of the lap.
        road: its road.
        corners: in order.
        good: what its neighbours show.
    """
    marks = marks_of(passage, corners)
    stakes = stakes_of(passage, road, drive_of(passage, road), corners, marks)
    return [_card(passage, c, m, s, good) for c, m, s in zip(corners, marks, stakes, strict=True)]


def _card(passage: Passage, corner: Corner, marks: Marks, stakes: Stakes, good: Good) -> Card:
    how, passes = technique_of(passage, corner, marks), good.passes.get(corner.lasting, ())
    press, feed = press_of(passage, marks), feed_of(passage, marks)

    def place(name: str) -> Figure | None:
        return good.spread(corner, name, getattr(marks, name), place=True)

    return Card(
        corner=corner, stakes=stakes,
        lift_m=Figure(marks.lift_m) if marks.lift_m is not None else None,
        brake_m=place("brake_on_m"),
        press=press[1] if press is not None else None,
        release=how.release,
        straight=_straight(marks),
        brake_off_m=Figure(marks.brake_off_m) if marks.brake_off_m is not None else None,
        brushes=how.brake_applications,
        downshifts_m=how.downshift_m,
        gear=good.gear(corner, marks.gear),
        gears=tuple(sorted({p.gear for p in passes if p.gear is not None} | ({marks.gear} if marks.gear is not None else set()))),
        turn_in_m=place("turn_in_m"),
        apex=_apex(corner, marks),
        apex_off_m=good.beside(corner, "apex_off_m"),
        slow_point_m=good.spread(corner, "slow_point_m", marks.slow_point_m, place=True) or Figure(marks.slow_point_m),
        min_speed_kmh=good.spread(corner, "min_speed_kmh", marks.min_speed_kmh, place=False) or Figure(marks.min_speed_kmh),
        pickup_m=place("throttle_on_m"),
        feed=feed[1] if feed is not None else None,
        full_m=place("full_throttle_m"),
        exit_off_m=good.beside(corner, "exit_off_m"),
        exit_speed_kmh=good.spread(corner, "exit_speed_kmh", marks.exit_speed_kmh, place=False) or Figure(marks.exit_speed_kmh),
        hazards=good.circuit.book.hazards_in(corner.start_m - BESIDE_M, corner.end_m + BESIDE_M) if good.circuit is not None else (),
        entry_off_m=good.beside(corner, "entry_off_m"),
        race=good.race(corner, marks),
        switches=_switches(passage, marks.slowing_m if marks.slowing_m is not None else corner.start_m),
    )  # fmt: skip


def _switches(passage: Passage, place_m: float) -> tuple[tuple[str, float], ...]:
    """Logged settings where a corner begins, by the channel's name."""
    found = [c for name in passage.lap.log.channels if _is_switch(name) and (c := passage.lap.get(name)) is not None]
    at = passage.time_of(place_m)
    return tuple(
        (c.name, float(c.value[max(int(np.searchsorted(c.time_s, at, side="right")) - 1, 0)])) for c in found if len(c)
    )


def _is_switch(name: str) -> bool:
    words = name.casefold().replace("_", " ")
    return any(w in words for w in SWITCHES)


def _straight(marks: Marks) -> bool | None:
    if marks.brake_off_m is None or marks.turn_in_m is None:
        return None
    return marks.brake_off_m <= marks.turn_in_m


def _apex(corner: Corner, marks: Marks) -> Apex:
    """Where the lap is slowest against the tightest point: slow early is a late apex in the making."""
    share = (marks.slow_point_m - corner.apex_m) / max(corner.end_m - corner.start_m, 1.0)
    return "late" if share < -APEX_SHARE else "early" if share > APEX_SHARE else "middle"


def kept_of(cards: Sequence[Card], lap: LapComparison) -> list[dict[str, bool]]:
    """What a lap kept of each card of a guide that it is compared with, by :func:`keeps`."""
    return [
        keeps(card, technique_of(lap.passage, loss.corner, loss.lap_marks), loss.lap_marks)
        for card, loss in zip(cards, lap.corners, strict=True)
    ]


def keeps(card: Card, how: Technique, marks: Marks) -> dict[str, bool]:
    """Which parts of a card another lap kept: within the spread of the good laps, or a little beside the card.

    Args:
        card: of the guide, on the same axis as the marks.
        how: the lap's technique there.
        marks: the lap's.
    """
    told = {
        "brake": _within(card.brake_m, marks.brake_on_m, PLACE_M),
        "turn_in": _within(card.turn_in_m, marks.turn_in_m, PLACE_M),
        "lowest_speed": _within(card.min_speed_kmh, marks.min_speed_kmh, SPEED_KMH),
        "pick_up": _within(card.pickup_m, marks.throttle_on_m, PLACE_M),
        "gear": None if card.gear is None or marks.gear is None else marks.gear in card.gears,
        "brushes": None if not card.brushes or not how.brake_applications else how.brake_applications == card.brushes,
    }
    return {k: v for k, v in told.items() if v is not None}


def _within(figure: Figure | None, value: float | None, room: float) -> bool | None:
    if figure is None or value is None:
        return None
    low = figure.value if figure.low is None else figure.low
    high = figure.value if figure.high is None else figure.high
    return min(low, figure.value - room) <= value <= max(high, figure.value + room)
