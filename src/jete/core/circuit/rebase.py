"""What people set on a circuit, carried to another axis: another start line, another founder's lap, a file's.

A landmark stands where it stands; only the metres that it is told by change.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from jete.core.axis.road.corners import renumbered

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner
    from jete.core.circuit.landmarks import Hazard, RoadBook

# Between two points of a path, some metres apart, a place is found on as many steps.
FINE = 20


class Axis(NamedTuple):
    """An axis as places (n,) and the points they lie at, (n, 2) metres on a plane that both axes share."""

    place_m: FloatArray
    xy_m: FloatArray


def rebased(book: RoadBook, old: Axis, new: Axis) -> RoadBook:
    """A book on a new axis."""
    at = _Carried(old, new)
    return replace(
        book,
        landmarks=tuple(sorted((replace(x, circuit_m=at(x.circuit_m)) for x in book.landmarks), key=lambda x: x.circuit_m)),
        hazards=tuple(_hazard_ends(h, at(h.start_m), at(h.end_m)) for h in book.hazards),
        sectors_m=tuple(sorted(at(s) for s in book.sectors_m)),
        edges=tuple(sorted((at(s), left, right) for s, left, right in book.edges)),
    )  # fmt: skip


def rebased_corners(corners: Sequence[Corner], old: Axis, new: Axis) -> tuple[Corner, ...]:
    """Corners on a new axis; one that the new line cuts in two is left out."""
    at = _Carried(old, new)
    carried = [replace(c, start_m=at(c.start_m), apex_m=at(c.apex_m), end_m=at(c.end_m)) for c in corners]
    whole = sorted((c for c in carried if c.start_m < c.apex_m < c.end_m), key=lambda c: c.start_m)
    return tuple(renumbered(whole))


def _hazard_ends(hazard: Hazard, start_m: float, end_m: float) -> Hazard:
    return replace(hazard, start_m=start_m, end_m=end_m)


class _Carried:
    """The place of the new axis that lies nearest to a place of the old one."""

    def __init__(self, old: Axis, new: Axis) -> None:
        self._old = old
        self._new_m = np.linspace(float(new.place_m[0]), float(new.place_m[-1]), FINE * len(new.place_m))
        self._new = np.stack([np.interp(self._new_m, new.place_m, new.xy_m[:, k]) for k in (0, 1)], axis=1)

    def __call__(self, place_m: float) -> float:
        x, y = (np.interp(place_m, self._old.place_m, self._old.xy_m[:, k]) for k in (0, 1))
        return float(self._new_m[int(np.argmin(np.hypot(self._new[:, 0] - x, self._new[:, 1] - y)))])
