"""Rehearsing a lap: how far each call was from the mark, and which corners are to come again when.

A corner comes again by the rule SM-2 (Wozniak 1990, Optimization of repetition spacing in the
practice of learning, ch. 3.2): an easiness that grows with good answers and shrinks with bad
ones, and intervals of one day, six days, then the last one times the easiness.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Final, Literal

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.axis.road.corners import CornerId, CornerNumber
    from jete.core.causes.verdict.result import CornerLoss
    from jete.core.driving.marks import Marks
    from jete.core.driving.shapes import Hardness

CallName = Literal["brake", "turn_in", "pick_up", "slow_point"]
CALLS: Final[dict[CallName, str]] = {
    "brake": "brake_on_m",
    "turn_in": "turn_in_m",
    "pick_up": "throttle_on_m",
    "slow_point": "slow_point_m",
}
# So many metres off are answers of the quality 5 to 1; more, or no call at all, is 0.
QUALITIES_M: Final = (4.0, 8.0, 15.0, 30.0, 60.0)
KNOWN = 3
FIRST_EASINESS, LEAST_EASINESS = 2.5, 1.3
# Farther from a mark than this a call is not for it.
REACH_M = 120.0


@dataclass(frozen=True)
class Call:
    """One call: what was called in which corner (its number), how many metres late (negative: early), and where.

    ``hard`` is how hard the brake was called, ``wanted`` how hard it is pressed there; None where nobody said, or knows.
    """

    corner: CornerNumber
    name: CallName
    metres: float
    place_m: float = 0.0
    hard: Hardness | None = None
    wanted: Hardness | None = None

    @property
    def as_hard(self) -> bool:
        """Whether nothing speaks against how hard it was called."""
        return self.hard is None or self.wanted is None or self.hard == self.wanted


def judged(name: CallName, place_m: float, corners: Sequence[CornerLoss], hard: Hardness | None = None) -> Call | None:
    """A call against the nearest mark of its kind; None where none is near.

    Args:
        name: what was called.
        place_m: where.
        corners: of the comparison; the reference's marks count.
        hard: how hard, where that was called too.
    """
    known = [(c.corner.number, m) for c in corners if (m := _mark(c.reference_marks, name)) is not None]
    near = min(known, key=lambda k: abs(k[1] - place_m), default=None)
    if near is None or abs(near[1] - place_m) > REACH_M:
        return None
    return Call(near[0], name, place_m - near[1], place_m, hard)


def _mark(marks: Marks, name: CallName) -> float | None:
    value = getattr(marks, CALLS[name])
    return None if value is None else float(value)


def expected(corner: CornerLoss, names: Sequence[CallName]) -> list[CallName]:
    """What is to be called in a corner: the marks that the reference has there."""
    return [n for n in names if _mark(corner.reference_marks, n) is not None]


def quality(calls: Sequence[Call], wanted: int) -> int:
    """How well a corner was known, 5 to 0: by its worst call, one less where the brake was called too hard or too softly; 0 where one is missing.

    >>> quality([Call(1, "brake", 3.0), Call(1, "pick_up", -10.0)], 2), quality([Call(1, "brake", 3.0)], 2)
    (3, 0)
    """
    if len({c.name for c in calls}) < wanted:
        return 0
    worst = max((abs(c.metres) for c in calls), default=0.0)
    answer = next((5 - k for k, most in enumerate(QUALITIES_M) if worst <= most), 0)
    return max(answer - any(not c.as_hard for c in calls), 0)


@dataclass(frozen=True)
class Memory:
    """How well a person knows a corner: easiness, days to the next time, good answers in a row, days since 1970 when it is due."""

    easiness: float = FIRST_EASINESS
    interval_days: int = 0
    row: int = 0
    due_day: int = 0

    def after(self, answer: int, today: int) -> Memory:
        """The memory after an answer of a quality of 0 to 5.

        >>> Memory().after(5, 100), Memory().after(5, 100).after(4, 101).interval_days, Memory(2.5, 6, 2).after(1, 100).interval_days
        (Memory(easiness=2.6, interval_days=1, row=1, due_day=101), 6, 1)
        """
        easiness = max(self.easiness + 0.1 - (5 - answer) * (0.08 + (5 - answer) * 0.02), LEAST_EASINESS)
        if answer < KNOWN:
            return replace(self, easiness=round(easiness, 4), interval_days=1, row=0, due_day=today)
        days = 1 if self.row == 0 else 6 if self.row == 1 else round(self.interval_days * easiness)
        return Memory(round(easiness, 4), days, self.row + 1, today + days)


def due(memories: Mapping[CornerId, Memory], corners: Sequence[CornerId], today: int) -> list[CornerId]:
    """The corners (ids) that are to come again today, the least known first; those that were never called are among them."""
    known = {c: memories.get(c, Memory()) for c in corners}
    return sorted((c for c, m in known.items() if m.due_day <= today), key=lambda c: (known[c].row, known[c].easiness))
