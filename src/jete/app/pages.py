"""The pages, in the order of the work.

One entry here and the module ``jete.views.<id>.page`` with a function ``make(parts)`` are all that a page needs: the
window's buttons, the actions and keys that go to it and what is remembered of it are made from this table.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

Need = Literal["passes", "guide", "films", "evenness", "what_if", "plan", "target"]


@dataclass(frozen=True)
class PageEntry:
    """One page: its id in session and actions, its title, the key that goes there, and what it shows that is worked out behind it."""

    id: str
    title: str
    key: str
    needs: frozenset[Need] = frozenset()


PAGES: Final = (
    PageEntry("laps", "Laps", "Ctrl+1", frozenset({"evenness", "target"})),
    PageEntry("ledger", "Ledger", "Ctrl+2"),
    PageEntry("corner", "Corner", "Ctrl+3", frozenset({"passes", "what_if"})),
    PageEntry("walk", "Walk", "Ctrl+4", frozenset({"guide", "films"})),
    PageEntry("guide", "Guide", "Ctrl+5", frozenset({"guide", "passes"})),
    PageEntry("next", "Next run", "Ctrl+6", frozenset({"plan"})),
)
PAGE_IDS: Final = tuple(p.id for p in PAGES)


def shown_on(need: Need) -> tuple[str, ...]:
    """The pages that show it.

    >>> shown_on("guide")
    ('walk', 'guide')
    """
    return tuple(p.id for p in PAGES if need in p.needs)
