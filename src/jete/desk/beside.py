"""Laps beside their circuit: compared at its corners and in its sectors, with what its road says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.core.circuit.drawn import drawn_of
from jete.core.circuit.height import profile_of
from jete.core.compare import compare, stakes_in
from jete.desk.road import RoadBeside

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.causes.verdict.result import Comparison
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.compare import Each
    from jete.core.log.lap import Lap


def compare_beside(reference: Lap, laps: Sequence[Lap], circuit: CircuitOnAxis | None, each: Each = map) -> Comparison:
    """Laps against a reference at the corners and in the sectors of its circuit; without one the reference decides.

    Raises:
        InputError: as :func:`jete.core.compare.compare`.
    """
    corners, sectors_m = (circuit.corners, circuit.book.sectors_m) if circuit is not None else (None, ())
    return compare(reference, laps, corners, sectors_m, each=each)


def road_beside(comparison: Comparison, circuit: CircuitOnAxis | None) -> RoadBeside:
    """What the road is worth and how it looks, by the laps of a comparison and what the circuit keeps."""
    passages = [comparison.reference, *(lap.passage for lap in comparison.laps)]
    own, length_m = profile_of(passages, comparison.road.length_m), comparison.road.length_m
    kept = circuit.profile(length_m) if circuit is not None else None
    # What a circuit keeps is of more laps; but altitude knows better than what accelerations feel.
    profile = own if kept is None or (own is not None and own.source == "altitude" != kept.source) else kept
    drawn = drawn_of(passages[0], passages[1:], comparison.road, circuit)
    return RoadBeside(circuit=circuit, stakes=tuple(stakes_in(comparison)), profile=profile, drawn=drawn)
