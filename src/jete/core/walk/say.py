"""Saying a lap, corner by corner, without seeing it: gear, the landmark one brakes by, the kind of corner; against the lap.

A corner is said right in a part where it is as the reference does it; what the data do not show is not asked for.
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.causes.verdict.result import CornerLoss
    from jete.core.circuit.landmarks import Landmark
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.circuit.stakes import CornerKind, Stakes

# Landmarks this far before the brake point and after it are offered.
BEFORE_M, AFTER_M = 180.0, 120.0


@dataclass(frozen=True)
class Said:
    """What was said of a corner, or what is so: None where nothing was said, or nothing shows it.

    ``landmark`` is the id of the one that is braked by, or at which the throttle is lifted; 0 for a corner that is flat.
    """

    gear: int | None = None
    landmark: int | None = None
    kind: CornerKind | None = None


def truths_of(corners: Sequence[CornerLoss], circuit: CircuitOnAxis | None, stakes: Sequence[Stakes]) -> list[Said]:
    """What the reference does in each corner.

    Args:
        corners: of the comparison; the reference's marks count.
        circuit: with its landmarks; None without.
        stakes: of the corners, in the same order.
    """
    return [_truth(c, circuit, s) for c, s in zip(corners, stakes, strict=True)]


def _truth(loss: CornerLoss, circuit: CircuitOnAxis | None, stakes: Stakes) -> Said:
    marks = loss.reference_marks
    if circuit is None or not circuit.book.landmarks:
        return Said(marks.gear, None, stakes.kind)
    if marks.slowing_m is None:
        return Said(marks.gear, 0, stakes.kind)
    told = circuit.told(marks.slowing_m)
    return Said(marks.gear, told.landmark.id if told is not None else None, stakes.kind)


def offered(loss: CornerLoss, circuit: CircuitOnAxis | None) -> list[Landmark]:
    """Landmarks around where the corner is begun, in the order of the road: among them the one."""
    if circuit is None:
        return []
    at = loss.reference_marks.slowing_m
    place = loss.corner.start_m if at is None else at
    return [m for m in circuit.book.landmarks if -BEFORE_M <= m.circuit_m - place <= AFTER_M]


def checked(said: Said, truth: Said) -> dict[str, bool]:
    """What was said right and what not, by part; only parts that were said and are known.

    >>> checked(Said(gear=3, kind="exit"), Said(gear=2, landmark=7, kind="exit"))
    {'gear': False, 'kind': True}
    """
    parts = ((f.name, getattr(said, f.name), getattr(truth, f.name)) for f in fields(Said))
    return {name: mine == theirs for name, mine, theirs in parts if mine is not None and theirs is not None}
