"""The whole way from a reference lap and other laps to a comparison.  Start reading here.

logs ──split──> laps ──motion, align──> places on the reference's axis
     ──road, corners──> windows ──marks──> phases ──hybrid laps──> findings
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.core.axis.place.align import identity
from jete.core.axis.place.laying import Prepared, laid, prepare
from jete.core.axis.road.corners import Corner, CornerNumber, find_corners, renumbered
from jete.core.axis.road.road import Road, road_of
from jete.core.causes.verdict.losses import Held, losses_of
from jete.core.causes.verdict.result import Comparison
from jete.core.circuit.stakes import Stakes, stakes_of
from jete.core.driving.asked import asked_bends
from jete.core.driving.marks import marks_of
from jete.core.driving.passage import Passage, passage_of
from jete.core.driving.vehicle import drive_of
from jete.core.log.once import once_a_lap
from jete.core.log.plane import origin_of
from jete.core.motion.elsewhere import refuse_far_away

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Sequence

    from jete.core.axis.place.align import Alignment
    from jete.core.causes.verdict.result import LapComparison
    from jete.core.log.lap import Lap

    Each = Callable[[Callable[[Lap], LapComparison], Sequence[Lap]], Iterable[LapComparison]]


def compare(
    reference: Lap,
    laps: Sequence[Lap],
    corners: Sequence[Corner] | None = None,
    sectors_m: Sequence[float] = (),
    each: Each = map,
) -> Comparison:
    """Compare laps with a reference lap.

    Args:
        reference: gives the distance axis and the road.
        laps: one or more; the reference itself may be among them.
        corners: of the circuit, on the reference's axis; None: the bends that the reference does not take flat.
        sectors_m: where the circuit's sectors begin, on the same axis; thirds of the lap where there are none.
        each: does with each lap what is to be done: one after the other, or on many cores.

    Raises:
        InputError: a lap that is too short, or of another circuit, layout or direction.
    """
    held, origin = held_of(reference, tuple(corners or ()), tuple(sectors_m)), origin_of(reference.log)

    def against_reference(lap: Lap) -> LapComparison:
        refuse_far_away(lap, reference)
        prepared = prepare(lap, origin)
        driven = passage_of(lap, prepared.motion, _laid(prepared, reference, held.road))
        return losses_of(held, driven, marks_of(driven, held.corners, held.marks))

    return Comparison(held.passage, held.road, tuple(held.corners), tuple(each(against_reference, laps)))


@once_a_lap
def held_of(reference: Lap, corners: tuple[Corner, ...], sectors_m: tuple[float, ...]) -> Held:
    """A reference lap with its road, and its marks at corners; without any at the bends that it does not take flat."""
    own = prepare(reference, origin_of(reference.log))
    road = road_of(reference, own.motion, own.fixes)
    passage = passage_of(reference, own.motion, identity(own.motion))
    found = list(corners) or bends_of(road, passage)
    return Held(passage, marks_of(passage, found), road, found, drive_of(passage, road), sectors_m)


def stakes_in(comparison: Comparison) -> list[Stakes]:
    """What each corner of a comparison is worth, by its reference."""
    marks = [c.reference_marks for c in comparison.laps[0].corners]
    reference, road = comparison.reference, comparison.road
    return stakes_of(reference, road, drive_of(reference, road), comparison.corners, marks)


def _laid(lap: Prepared, reference: Lap, road: Road) -> Alignment:
    """A lap on the reference's axis; the reference itself lies on its own exactly."""
    one_log = lap.lap.log is reference.log
    itself = one_log and lap.lap.span == reference.span
    return identity(lap.motion) if itself else laid(lap, road, one_log=one_log)


def bends_of(road: Road, reference: Passage) -> list[Corner]:
    """Bends that the reference does not take flat; the longest bend where all are flat."""
    asked = asked_bends(road, reference)
    if asked:
        return renumbered(asked)
    bends = find_corners(road)
    if bends:
        return renumbered([max(bends, key=lambda c: c.end_m - c.start_m)])
    slowest = float(road.grid_m[int(np.argmin(road.speed_mps))])
    return [
        Corner(
            number=CornerNumber(1),
            direction="unknown",
            start_m=max(slowest - 20.0, 0.0),
            apex_m=slowest,
            end_m=min(slowest + 20.0, road.length_m),
        )
    ]
