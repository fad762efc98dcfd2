"""The whole way from a reference lap and other laps to a comparison.  Start reading here.

logs ──split──> laps ──motion, align──> places on the reference's axis
     ──road, corners──> windows ──marks──> phases ──hybrid laps──> findings
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.align import Unplaced, align, identity
from jete.core.corners import Corner, find_corners, renumbered
from jete.core.line_doubt import line_sigmas_m
from jete.core.losses import Held, losses_of
from jete.core.marks import is_flat, marks_of
from jete.core.motion import Motion, motion_of
from jete.core.passage import Passage, passage_of
from jete.core.path import Fixes, fixes_of
from jete.core.plane import Origin, origin_of
from jete.core.result import Comparison
from jete.core.road import Road, road_of, sensed_curvature
from jete.core.split import require_complete
from jete.core.vehicle import drive_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.lap import Lap


@dataclass(frozen=True, eq=False)
class _Prepared:
    """A lap with its motion and positions on the reference's plane."""

    lap: Lap
    motion: Motion
    fixes: Fixes | None


def compare(reference: Lap, laps: Sequence[Lap]) -> Comparison:
    """Compare laps with a reference lap.

    Args:
        reference: gives the distance axis, the road and the corners.
        laps: one or more; the reference itself may be among them.

    Raises:
        InputError: a lap that is too short, or of another circuit, layout or direction.
    """
    origin = origin_of(reference.log)
    prepared = [_prepare(lap, origin) for lap in (reference, *laps)]
    road = road_of(reference, prepared[0].motion, prepared[0].fixes)
    passages = [passage_of(reference, prepared[0].motion, identity(prepared[0].motion))]
    passages += [_laid(p, road) for p in prepared[1:]]
    corners = _corners(road, passages)
    held = Held(passages[0], marks_of(passages[0], corners), road, corners, drive_of(passages[0], road))
    compared = [losses_of(held, p, marks_of(p, corners, held.marks)) for p in passages[1:]]
    return Comparison(passages[0], road, tuple(corners), tuple(compared))


def _prepare(lap: Lap, origin: Origin | None) -> _Prepared:
    require_complete(lap.span, lap.log.source)
    motion = motion_of(lap)
    return _Prepared(lap, motion, fixes_of(lap, motion, origin))


def _laid(prepared: _Prepared, road: Road) -> Passage:
    """A lap laid on the road."""
    sensed = None
    if prepared.fixes is None or road.path is None:
        sensed = sensed_curvature(prepared.lap, prepared.motion)
    lap, motion, fixes = prepared.lap, prepared.motion, prepared.fixes
    name = f"{lap.log.source}, lap {lap.span.number}"
    unplaced = Unplaced(name, motion, fixes, sensed, line_sigmas_m(lap, motion, fixes))
    return passage_of(lap, motion, align(unplaced, road))


def _corners(road: Road, passages: Sequence[Passage]) -> list[Corner]:
    """Bends that at least one lap does not take flat; the longest bend where all are flat."""
    bends = find_corners(road)
    asked = [c for c in bends if not all(is_flat(p, c) for p in passages)]
    if asked:
        return renumbered(asked)
    if bends:
        return renumbered([max(bends, key=lambda c: c.end_m - c.start_m)])
    slowest = float(road.grid_m[int(np.argmin(road.speed_mps))])
    return [Corner(1, "unknown", max(slowest - 20.0, 0.0), slowest, min(slowest + 20.0, road.length_m))]
