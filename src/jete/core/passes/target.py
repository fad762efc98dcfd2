"""Where a time to reach could come from, in the fewest corners: what was driven once, what is aimed at, what only others have shown.

Each corner's seconds are counted once: what an aim promises beyond the driver's own best pass, what others have shown
beyond both.  What is left nobody has shown.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.axis.road.corners import CornerId

# Less than this at a corner is not worth a word.
LEAST_S = 0.01


@dataclass(frozen=True)
class FromCorner:
    """Seconds that could come from a corner (its id), and from whom where another showed them."""

    corner: CornerId
    seconds: float
    who: str = ""


@dataclass(frozen=True, kw_only=True)
class TargetSplit:
    """What is missing to a time, and where it could come from; the parts and what is unseen add up to it."""

    missing_s: float
    driven: tuple[FromCorner, ...]
    aims: tuple[FromCorner, ...]
    others: tuple[FromCorner, ...]
    unseen_s: float


def split_of(
    missing_s: float,
    best_lap: Mapping[CornerId, float],
    own: Mapping[CornerId, Sequence[float]],
    others: Mapping[str, Mapping[CornerId, Sequence[float]]],
    aims: Mapping[CornerId, float],
) -> TargetSplit:
    """Where the missing time could come from.

    Args:
        missing_s: the best lap's time less the target; not above 0 where it is reached.
        best_lap: seconds of each corner on the driver's best lap.
        own: of all his passes that count.
        others: by driver of the same class.
        aims: seconds that open aims promise, positive.

    >>> from jete.core.axis.road.corners import CornerId
    >>> a, b = CornerId(1), CornerId(2)
    >>> found = split_of(1.0, {a: 10.0, b: 12.0}, {a: [10.0, 9.7], b: [12.0]}, {"Ines": {b: [11.7]}}, {b: 0.1})
    >>> [round(sum(p.seconds for p in part), 3) for part in (found.driven, found.aims, found.others)], round(found.unseen_s, 3)
    ([0.3, 0.1, 0.2], 0.4)
    """
    left = max(missing_s, 0.0)
    shown = {c: max(s - min(own.get(c, (s,)), default=s), 0.0) for c, s in best_lap.items()}
    driven, left = _taken([FromCorner(c, s) for c, s in shown.items()], left)
    beyond = {c: max(aims.get(c, 0.0) - shown[c], 0.0) for c in best_lap}
    aimed, left = _taken([FromCorner(c, s) for c, s in beyond.items()], left)
    best_of = {c: _quickest(others, c) for c in best_lap}
    further = [
        FromCorner(c, s - shown[c] - beyond[c] - quickest[0], quickest[1])
        for c, s in best_lap.items()
        if (quickest := best_of[c]) is not None
    ]
    seen, left = _taken(further, left)
    return TargetSplit(missing_s=missing_s, driven=driven, aims=aimed, others=seen, unseen_s=left)


def _quickest(others: Mapping[str, Mapping[CornerId, Sequence[float]]], corner: CornerId) -> tuple[float, str] | None:
    """The quickest pass of anybody else, and whose."""
    found = [(min(of[corner]), who) for who, of in others.items() if of.get(corner)]
    return min(found, default=None)


def _taken(parts: Sequence[FromCorner], left: float) -> tuple[tuple[FromCorner, ...], float]:
    """The largest parts until nothing is left to find."""
    out = []
    for part in sorted(parts, key=lambda p: -p.seconds):
        if left <= 0.0 or part.seconds < LEAST_S:
            break
        taken = min(part.seconds, left)
        out.append(FromCorner(part.corner, taken, part.who))
        left -= taken
    return tuple(out), left
