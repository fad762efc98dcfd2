"""What was typed and did not get into the shelf, kept as text for its writer."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import TYPE_CHECKING

from platformdirs import user_state_path

if TYPE_CHECKING:
    from collections.abc import Sequence
    from pathlib import Path


def not_saved_path() -> Path:
    """The file that such words are kept in."""
    return user_state_path("jete", appauthor=False) / "not-saved.txt"


def keep_words(words: Sequence[str]) -> Path:
    """Add what was not saved to the file; returns where that is.

    Raises:
        OSError: there is no room for it either.
    """
    path = not_saved_path()
    stamp = datetime.now(tz=UTC).astimezone().strftime("%Y-%m-%d %H:%M")
    path.parent.mkdir(parents=True, exist_ok=True)
    with path.open("a", encoding="utf-8") as file:
        file.writelines(f"{stamp}  {line}\n" for line in words)
    return path
