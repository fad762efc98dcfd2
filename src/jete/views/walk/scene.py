"""What the walk's pictures are painted from: where both laps are, and the lines they are on."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from jete.app.player import Player
    from jete.app.store import SessionStore
    from jete.core.arrays import FloatArray
    from jete.core.circuit.drawn import Drawn
    from jete.core.walk.course import Course, Who

# A brake light is lit from this share of the hardest press on.
LIT = 0.05


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

    def brakes(self, vehicle: Vehicle) -> bool:
        """Whether a vehicle's brake light is lit: it brakes by more than a rest of pressure."""
        passage = self.course.passage(vehicle.who)
        brake = passage.brake.value
        pressed = float(passage.brake.at(np.array([self.course.time_s(vehicle.who, vehicle.place_m)]))[0])
        return pressed > LIT * max(float(brake.max(initial=0.0)), 1e-9)


def scene_of(store: SessionStore, player: Player, *, in_time: bool, drawn: Drawn | None = None) -> Scene | None:
    """The scene at the present place; None without a comparison that is drawn.

    Args:
        store: that holds the comparison.
        player: whose lap is played.
        in_time: whether the other vehicle is where it is at the same time, else at the same place.
        drawn: the lines, where they are drawn otherwise than they are.
    """
    road, course = store.road, player.course
    if road is None or course is None:
        return None
    lines = drawn if drawn is not None else road.drawn
    place = store.session.look.place_m
    who = player.who
    other: Who = "lap" if who == "reference" else "reference"
    there = course.place_m(other, course.time_s(who, place)) if in_time else place
    return Scene(lines, course, _vehicle(lines, who, place), _vehicle(lines, other, there))


def _vehicle(drawn: Drawn, who: Who, place_m: float) -> Vehicle:
    line = drawn.laps_xy_m[0] if who == "lap" and drawn.laps_xy_m else None
    return Vehicle(who, place_m, drawn.reference_xy_m if line is None else line, who)
