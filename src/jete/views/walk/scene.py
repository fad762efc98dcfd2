"""What the walk's pictures are painted from: where both laps are, and the lines they are on."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from jete.app.player import Player
    from jete.app.store import SessionStore
    from jete.core.arrays import FloatArray
    from jete.core.circuit.drawn import Drawn
    from jete.core.walk.course import Course, Who


@dataclass(frozen=True)
class Vehicle:
    """One lap in the picture: who, where, on which line, in which colour's role."""

    who: Who
    place_m: float
    line: FloatArray
    role: str


@dataclass(frozen=True, eq=False)
class Scene:
    """The played lap first, the other one where it is at the same time, or at the same place."""

    drawn: Drawn
    course: Course
    played: Vehicle
    other: Vehicle


def scene_of(store: SessionStore, player: Player, *, in_time: bool) -> Scene | None:
    """The scene at the present place; None without a comparison that is drawn."""
    road, course = store.road, player.course
    if road is None or course is None:
        return None
    place = store.session.look.place_m
    who = player.who
    other: Who = "lap" if who == "reference" else "reference"
    there = course.place_m(other, course.time_s(who, place)) if in_time else place
    return Scene(road.drawn, course, _vehicle(road.drawn, who, place), _vehicle(road.drawn, other, there))


def _vehicle(drawn: Drawn, who: Who, place_m: float) -> Vehicle:
    line = drawn.laps_xy_m[0] if who == "lap" and drawn.laps_xy_m else None
    return Vehicle(who, place_m, drawn.reference_xy_m if line is None else line, who)
