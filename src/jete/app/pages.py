"""The pages, in the order of the work.

One entry here and the module ``jete.views.<id>.page`` with a function ``make(parts)`` are all that a page needs: the
window's buttons, the actions and keys that go to it and what is remembered of it are made from this table.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True)
class PageEntry:
    """One page: its id in session and actions, its title, the key that goes there, and whether it shows passes of a corner."""

    id: str
    title: str
    key: str
    passes: bool = False


PAGES: Final = (
    PageEntry("laps", "Laps", "Ctrl+1"),
    PageEntry("ledger", "Ledger", "Ctrl+2"),
    PageEntry("corner", "Corner", "Ctrl+3", passes=True),
    PageEntry("walk", "Walk", "Ctrl+4"),
    PageEntry("guide", "Guide", "Ctrl+5", passes=True),
)
PAGE_IDS: Final = tuple(p.id for p in PAGES)
