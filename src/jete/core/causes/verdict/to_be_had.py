"""Time to be had: what a corner cost by what was done in it, for itself and for the corners that it spoilt.

Cost × how often × how sure; a cause counts where it began, not where it showed: the speed that
a bad exit leaves is lost at the next corner's brake, but had at this one's pick-up.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from jete.core.causes.kinds import Kind
from jete.core.causes.verdict.findings import LEAST_S

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.axis.road.corners import CornerNumber
    from jete.core.causes.verdict.findings import Finding
    from jete.core.causes.verdict.result import CornerLoss


@dataclass(frozen=True)
class ToBeHad:
    """What may be had at one corner.

    Attributes:
        corner: its number.
        seconds: own and later together, weighed by how sure and how often; what corners are put in order by.
        lost_s: what its own causes lost, as it stands in the corner's row.
        later_s: what that cost where the lap arrives slower for it.
        dearest: the cause that cost most there, None where nothing did.
        spoils: numbers of the corners that arrived slower because of it.
    """

    corner: CornerNumber
    seconds: float
    lost_s: float
    later_s: float
    dearest: Finding | None
    spoils: tuple[CornerNumber, ...]


def to_be_had(
    corners: Sequence[CornerLoss], often: Mapping[tuple[CornerNumber, Kind], float] | None = None
) -> list[ToBeHad]:
    """Where time may be had, the most of it first.

    Args:
        corners: of one lap, in order.
        often: share of the run's laps on which a corner has a cause; None where no run is known.
    """
    began = began_at(corners)
    later: dict[CornerNumber, list[tuple[CornerNumber, Finding]]] = {}
    for number, origin in began.items():
        carried = _carried(corners, number)
        if carried is not None and carried.loss_s > 0.0:
            later.setdefault(origin, []).append((number, carried))
    out = [_had(c, later.get(c.corner.number, []), often or {}) for c in corners]
    return sorted(out, key=lambda h: -h.seconds)


def _had(
    corner: CornerLoss, later: list[tuple[CornerNumber, Finding]], often: Mapping[tuple[CornerNumber, Kind], float]
) -> ToBeHad:
    own = [f for f in corner.findings if f.kind is not Kind.CARRIED_SPEED and f.loss_s > 0.0]
    weighed = sum(f.loss_s * f.confidence * often.get((corner.corner.number, f.kind), 1.0) for f in own)
    dearest = max(own, key=lambda f: f.loss_s, default=None)
    return ToBeHad(
        corner=corner.corner.number,
        seconds=weighed + sum(f.loss_s * f.confidence for _, f in later),
        lost_s=sum(f.loss_s for f in own),
        later_s=sum(f.loss_s for _, f in later),
        dearest=dearest,
        spoils=tuple(n for n, _ in later),
    )


def began_at(corners: Sequence[CornerLoss]) -> dict[CornerNumber, CornerNumber]:
    """The number of the corner where another speed on arrival began, for each corner that was arrived at with one.

    Corners that only passed it on (no own cause of theirs goes the same way) are passed over.
    """
    out: dict[CornerNumber, CornerNumber] = {}
    for k, corner in enumerate(corners):
        carried = _carried(corners, corner.corner.number)
        if carried is None or k == 0:
            continue
        origin = k - 1
        while origin > 0 and not _own(corners[origin], carried.loss_s) and _passes_on(corners[origin], carried.loss_s):
            origin -= 1
        out[corner.corner.number] = corners[origin].corner.number
    return out


def _carried(corners: Sequence[CornerLoss], number: CornerNumber) -> Finding | None:
    corner = next(c for c in corners if c.corner.number == number)
    return next((f for f in corner.findings if f.kind is Kind.CARRIED_SPEED), None)


def _own(corner: CornerLoss, sign: float) -> bool:
    return any(
        f.kind is not Kind.CARRIED_SPEED and f.loss_s * sign > 0.0 and abs(f.loss_s) >= LEAST_S for f in corner.findings
    )


def _passes_on(corner: CornerLoss, sign: float) -> bool:
    return any(f.kind is Kind.CARRIED_SPEED and f.loss_s * sign > 0.0 for f in corner.findings)
