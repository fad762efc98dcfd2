"""A circuit laid on a reference: its corners, landmarks and hazards in metres of the reference's axis.

The circuit's places stand on its own axis; each reference has its own (another line, another
odometer).  The founder's lap lies on both, and carries one to the other.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from jete.core.circuit.height import RoadProfile, places_over, profile_from
from jete.core.circuit.landmarks import FromLandmark, RoadBook, both_told_from, told_from
from jete.core.circuit.mean_path import CircuitRoad
from jete.core.circuit.numbering import founder_places, moved_corner

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner
    from jete.core.log.lap import Lap


@dataclass(frozen=True, eq=False)
class CircuitOnAxis:
    """What belongs to a circuit on the axis of one reference.

    ``circuit_m`` and ``reference_m`` (n,) are the same places on either axis; landmarks, hazards
    and sectors of ``book`` lie on the reference's.
    """

    name: str
    corners: tuple[Corner, ...]
    road: CircuitRoad
    book: RoadBook
    circuit_m: FloatArray
    reference_m: FloatArray

    def to_circuit(self, place_m: float) -> float:
        """A place of the reference on the circuit's axis."""
        return float(np.interp(place_m, self.reference_m, self.circuit_m))

    def to_reference(self, circuit_m: float) -> float:
        """A place of the circuit's axis on the reference's."""
        return float(np.interp(circuit_m, self.circuit_m, self.reference_m))

    def profile(self, length_m: float) -> RoadProfile | None:
        """How the road rises on the reference's axis, by all laps that showed it; None where none did."""
        if self.road.rise is None:
            return None
        grid = places_over(length_m)
        founder_m = self.road.to_founder(np.interp(grid, self.reference_m, self.circuit_m))
        at = np.interp(founder_m, self.road.founder_m, np.arange(len(self.road.founder_m), dtype=float))
        return profile_from(self.road.rise, grid, at)

    def told(self, place_m: float) -> FromLandmark | None:
        """A place of the reference from a landmark."""
        return told_from(place_m, self.book.landmarks)

    def both_told(self, places_m: tuple[float, float]) -> tuple[FromLandmark | None, FromLandmark | None]:
        """Two places of the reference that are held against each other, from one landmark where that is near both."""
        return both_told_from(places_m, self.book.landmarks)


def circuit_on(
    name: str, road: CircuitRoad, book: RoadBook, listed: Sequence[Corner], laps: tuple[Lap, Lap]
) -> CircuitOnAxis:
    """Lay a circuit on a reference.

    Args:
        name: of the circuit.
        road: its axis and path.
        book: what people know of it, on its axis.
        listed: its corners, on the founder's axis.
        laps: the founder and the reference.

    Raises:
        InputError: a reference of another circuit, layout or direction.
    """
    own_m, place_m = founder_places(*laps)
    reference_m = np.maximum.accumulate(np.interp(road.founder_m, own_m, place_m))
    corners = tuple(moved_corner(c, own_m, place_m) for c in listed)
    there = _book_at(book, road.circuit_m, reference_m)
    return CircuitOnAxis(name, corners, road, there, road.circuit_m, reference_m)


def _book_at(book: RoadBook, circuit_m: FloatArray, reference_m: FloatArray) -> RoadBook:
    """What people know, in metres of the reference's axis."""

    def at(place: float) -> float:
        return float(np.interp(place, circuit_m, reference_m))

    return replace(
        book,
        landmarks=tuple(replace(x, circuit_m=at(x.circuit_m)) for x in book.landmarks),
        hazards=tuple(replace(h, start_m=at(h.start_m), end_m=at(h.end_m)) for h in book.hazards),
        sectors_m=tuple(at(s) for s in book.sectors_m),
        edges=tuple((at(s), left, right) for s, left, right in book.edges),
    )
