"""Corners as people want them: split, merged, moved, numbered and named.  No lap's data changes by it."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from jete.core.axis.road.corners import CornerId, renumbered
from jete.core.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner

    Corners = tuple[Corner, ...]
    Tightest = Callable[[float, float], float]

# Less road than this is no corner.
SHORTEST_M = 10.0


def tightest_at(place_m: FloatArray, bend_1pm: FloatArray) -> Tightest:
    """Where a road (places and curvature, (n,) both) bends most between two places."""

    def tightest(start_m: float, end_m: float) -> float:
        inside = np.flatnonzero((place_m >= start_m) & (place_m <= end_m))
        if inside.size == 0:
            return 0.5 * (start_m + end_m)
        return float(place_m[inside[int(np.argmax(np.abs(bend_1pm[inside])))]])

    return tightest


def split(corners: Sequence[Corner], number: int, at_m: float, tightest: Tightest) -> Corners:
    """One corner as two: the first keeps its id, the second has a new one; 7 becomes 7a and 7b.

    Raises:
        InputError: there is no such corner, or a part would be shorter than 10 m.
    """
    corner = _one(corners, number)
    if not corner.start_m + SHORTEST_M <= at_m <= corner.end_m - SHORTEST_M:
        what = f"it can't be split there: a part would be shorter than {SHORTEST_M:.0f} m."
        raise InputError(f"corner {corner.shown}", what, "Put the place nearer to its middle.")
    first, second = _labels(corners, corner)
    fresh = CornerId(1 + max(c.id or 0 for c in corners))
    parts = (
        replace(corner, end_m=at_m, apex_m=tightest(corner.start_m, at_m), label=first),
        replace(corner, start_m=at_m, apex_m=tightest(at_m, corner.end_m), label=second, id=fresh, name=""),
    )
    return _numbered([*(c for c in corners if c is not corner), *parts])


def merged(corners: Sequence[Corner], number: int, tightest: Tightest) -> Corners:
    """A corner and the one after it as one, with the first one's id and name; 7a and 7b become 7.

    Raises:
        InputError: there is no such corner, or none after it.
    """
    corner = _one(corners, number)
    after = next((c for c in corners if c.start_m > corner.start_m), None)
    if after is None:
        raise InputError(f"corner {corner.shown}", "there is none after it to merge it with.", "Choose an earlier one.")
    turns = corner if _turn(corner) >= _turn(after) else after
    plain = re.sub(r"\D+$", "", corner.label)
    taken = {c.label for c in corners if c not in (corner, after)}
    label = plain if plain and plain not in taken else corner.label
    one = replace(
        corner, end_m=after.end_m, direction=turns.direction, apex_m=tightest(corner.start_m, after.end_m), label=label
    )
    return _numbered([*(c for c in corners if c not in (corner, after)), one])


def moved(corners: Sequence[Corner], number: int, start_m: float, end_m: float, tightest: Tightest) -> Corners:
    """A corner that begins and ends elsewhere, between its neighbours.

    Raises:
        InputError: there is no such corner, or it would be shorter than 10 m.
    """
    corner = _one(corners, number)
    before = max((c.end_m for c in corners if c.end_m <= corner.start_m), default=0.0)
    after = min((c.start_m for c in corners if c.start_m >= corner.end_m), default=np.inf)
    start, end = max(start_m, before), min(end_m, after)
    if end - start < SHORTEST_M:
        what = f"a corner can't be shorter than {SHORTEST_M:.0f} m."
        raise InputError(f"corner {corner.shown}", what, "Move its ends apart.")
    apex = corner.apex_m if start <= corner.apex_m <= end else tightest(start, end)
    return _numbered([*(c for c in corners if c is not corner), replace(corner, start_m=start, end_m=end, apex_m=apex)])


def called(corners: Sequence[Corner], number: int, label: str, name: str) -> Corners:
    """A corner with another number and name.

    Raises:
        InputError: another corner has that number, or it is empty.
    """
    corner, label = _one(corners, number), label.strip()
    other = next((c for c in corners if c is not corner and c.shown == label), None)
    if not label or other is not None:
        what = f"'{label}' is another corner's number." if label else "a corner needs a number."
        raise InputError(f"corner {corner.shown}", what, "Type another one, such as 7a.")
    return tuple(replace(c, label=label, name=name.strip()) if c is corner else c for c in corners)


def _one(corners: Sequence[Corner], number: int) -> Corner:
    found = next((c for c in corners if c.id == number), None)
    if found is None:
        raise InputError(f"corner {number}", "the circuit has no such corner any more.", "Choose one of its list.")
    return found


def _turn(corner: Corner) -> float:
    return corner.end_m - corner.start_m


def _labels(corners: Sequence[Corner], corner: Corner) -> tuple[str, str]:
    """The first two free numbers with a letter behind a corner's own."""
    plain = re.sub(r"\D+$", "", corner.shown) or corner.shown
    taken = {c.label for c in corners if c is not corner}
    free = [x for x in (f"{plain}{letter}" for letter in "abcdefghijklmnopqrstuvwxyz") if x not in taken]
    return free[0], free[1]


def _numbered(corners: Sequence[Corner]) -> Corners:
    """Corners in the order of the road, counted from the line."""
    return tuple(renumbered(sorted(corners, key=lambda c: c.start_m)))
