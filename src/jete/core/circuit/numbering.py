"""The corners of a circuit: found once, numbered once, and laid on every lap that is driven there.

The list lies on the axis of one lap, the circuit's *founder*.  For a comparison the founder
is laid on the reference's road, and the corners go with it; so a bend has one number
whoever drives, in whatever vehicle.  A bend that is first taken with a lift later on comes
in between: 7a behind 7.  A number never moves by itself.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from jete.core.axis.place.align import identity
from jete.core.axis.place.laying import laid, prepare
from jete.core.axis.road.corners import Corner, CornerId, CornerNumber, find_corners, renumbered
from jete.core.axis.road.road import Road, road_of
from jete.core.driving.asked import asked_bends, is_flat
from jete.core.driving.passage import passage_of
from jete.core.log.once import once_a_lap
from jete.core.log.plane import origin_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.log.lap import Lap
    from jete.core.motion.motion import Motion

# A bend that lies in a listed corner by this share of itself is that corner.
SAME_SHARE = 0.3
LETTERS = "abcdefghijklmnopqrstuvwxyz"


@dataclass(frozen=True)
class _Driven:
    """A lap's own road, and the bends that it does not take flat."""

    road: Road
    motion: Motion
    asked: tuple[Corner, ...]


def corners_of(founder: Lap) -> tuple[Corner, ...]:
    """The first list of a circuit: the bends that its founder brakes or lifts for, on the founder's axis.

    Raises:
        InputError: a piece that is no lap.
    """
    return tuple(
        replace(c, number=CornerNumber(k), label=str(k), id=CornerId(k))
        for k, c in enumerate(_driven(founder).asked, start=1)
    )


def extended(listed: Sequence[Corner], founder: Lap, lap: Lap) -> tuple[Corner, ...]:
    """The list with the bends that another lap brakes or lifts for and that are not in it yet.

    Raises:
        InputError: a lap of another circuit, layout or direction.
    """
    own = _driven(founder)
    if not _driven(lap).asked:
        return tuple(listed)
    prepared = prepare(lap, origin_of(founder.log))
    alignment = laid(prepared, own.road)
    passage = passage_of(lap, prepared.motion, alignment)
    new = [b for b in find_corners(own.road) if not any(same_corner(b, c) for c in listed) and not is_flat(passage, b)]
    out = list(listed)
    for bend in new:
        at = sum(c.apex_m < bend.apex_m for c in out)
        fresh = CornerId(max((c.id or 0 for c in out), default=0) + 1)
        out.insert(at, replace(bend, label=_label_behind(out, at), id=fresh))
    return tuple(renumbered(out))


def counted_anew(listed: Sequence[Corner]) -> tuple[Corner, ...]:
    """The list with its labels counted from 1: for corners that nobody has spoken of yet."""
    return tuple(replace(c, label=str(k)) for k, c in enumerate(listed, start=1))


def corners_on(listed: Sequence[Corner], founder: Lap, reference: Lap) -> tuple[Corner, ...]:
    """The corners of a list on the axis of a reference lap.

    Raises:
        InputError: a reference of another circuit, layout or direction.
    """
    own_m, place_m = founder_places(founder, reference)
    return tuple(moved_corner(c, own_m, place_m) for c in listed)


def founder_places(founder: Lap, reference: Lap) -> tuple[FloatArray, FloatArray]:
    """The founder's distances, and where they lie on the axis of a reference lap, (n,) both, metres.

    Raises:
        InputError: a reference of another circuit, layout or direction.
    """
    return _places_of(reference, founder)


@once_a_lap
def _places_of(reference: Lap, founder: Lap) -> tuple[FloatArray, FloatArray]:
    prepared = prepare(founder, origin_of(reference.log))
    own = prepared.motion.distance_m
    if founder.span == reference.span and founder.log.source == reference.log.source:
        return own, own
    return own, laid(prepared, _driven(reference).road).place_m


def moved_corner(corner: Corner, own_m: FloatArray, place_m: FloatArray) -> Corner:
    """A corner on another axis: ``place_m`` (n,) is where what lies at ``own_m`` (n,) lies there."""
    places = (corner.start_m, corner.apex_m, corner.end_m)
    start, apex, end = (float(np.interp(p, own_m, place_m)) for p in places)
    return replace(corner, start_m=start, apex_m=apex, end_m=end)


@once_a_lap
def _driven(lap: Lap) -> _Driven:
    """A lap's own road and bends; the longest bend where all of them are taken flat."""
    prepared = prepare(lap, origin_of(lap.log))
    road = road_of(lap, prepared.motion, prepared.fixes)
    passage = passage_of(lap, prepared.motion, identity(prepared.motion))
    return _Driven(road, prepared.motion, tuple(asked_bends(road, passage)))


def same_corner(a: Corner, b: Corner) -> bool:
    """Whether two stretches are one corner: they share a good part of the shorter, or one holds the other's apex."""
    shared = min(a.end_m, b.end_m) - max(a.start_m, b.start_m)
    shorter = min(a.end_m - a.start_m, b.end_m - b.start_m)
    return shared > SAME_SHARE * shorter or a.start_m <= b.apex_m <= a.end_m or b.start_m <= a.apex_m <= b.end_m


def _label_behind(listed: Sequence[Corner], at: int) -> str:
    """The first free letter behind the number of the corner ahead; 0a ahead of the first."""
    ahead = re.sub(r"\D*$", "", listed[at - 1].label) if at else "0"
    taken = {c.label for c in listed}
    return next((f"{ahead}{x}" for x in LETTERS if f"{ahead}{x}" not in taken), f"{ahead}{len(taken)}")
