"""What belongs to one lap alone is worked out once, and kept with the lap.

A lap is compared with many others: its motion, its fixes and the road as it drove it are the same each time.
"""

from __future__ import annotations

from functools import update_wrapper
from typing import TYPE_CHECKING, Any, Final, Protocol, TypeVar, TypeVarTuple, Unpack, cast

if TYPE_CHECKING:
    from collections.abc import Callable

# A lap that others are laid on for days would keep something of each.
MOST_KEPT = 80
UNKNOWN: Final = object()


class Keeping(Protocol):
    """What keeps what was worked out of it: a lap."""

    @property
    def kept(self) -> dict[Any, Any]:
        """Answers by question."""


A = TypeVarTuple("A")
L = TypeVar("L", bound=Keeping)
R = TypeVar("R")


def once_a_lap(work: Callable[[L, Unpack[A]], R]) -> Callable[[L, Unpack[A]], R]:
    """A function of a lap that remembers what it answered, as long as the lap lives.

    It must be pure.  What else it takes is compared by ``==``: arrays belong into objects that are equal to themselves alone.
    Two threads that ask at once may both work it out.
    """

    def kept(lap: L, *args: *A) -> R:
        key = (work, args)
        known = lap.kept.get(key, UNKNOWN)
        if known is not UNKNOWN:
            return cast("R", known)
        answer = work(lap, *args)
        for oldest in list(lap.kept)[: max(len(lap.kept) - MOST_KEPT + 1, 0)]:
            lap.kept.pop(oldest, None)
        lap.kept[key] = answer
        return answer

    return update_wrapper(kept, work)
