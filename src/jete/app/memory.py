"""Where one left off: kept beside the settings when the window closes, taken up again at the next start.

What is read back is checked as any other file is: what no longer makes sense is left out.
"""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from typing import Any

from jete.app.pages import PAGE_IDS
from jete.app.settings import keep_text, kept_text
from jete.session.state import Choice, LapKey, Session

FILE = "last-session.json"
SMALLEST_PX, LARGEST_PX = 400, 10_000


@dataclass(frozen=True)
class Memory:
    """Size of the window, places of the splitters by name, page; and of one shelf the run that was shown and the choice."""

    size: tuple[int, int] | None = None
    maximized: bool = False
    splits: dict[str, list[int]] = field(default_factory=dict)
    page: str = PAGE_IDS[0]
    shelf: str = ""
    run: int | None = None
    choice: Choice = field(default_factory=Choice)


def save(memory: Memory) -> None:
    """Write where one left off."""
    choice = memory.choice
    keep_text(FILE, json.dumps({
        "size": memory.size, "maximized": memory.maximized, "splits": memory.splits, "page": memory.page,
        "shelf": memory.shelf, "run": memory.run, "reference": _pair(choice.reference), "lap": _pair(choice.lap),
        "over": [_pair(k) for k in choice.over],
    }))  # fmt: skip


def load() -> Memory:
    """Where one left off; the first start where nothing sound was kept."""
    try:
        found = json.loads(kept_text(FILE))
    except ValueError:
        return Memory()
    return _checked(found) if isinstance(found, dict) else Memory()


def _checked(found: dict[str, Any]) -> Memory:
    splits = found.get("splits")
    over = found.get("over")
    return Memory(
        size=_size(found.get("size")),
        maximized=found.get("maximized") is True,
        splits={k: v for k, v in splits.items() if _numbers(v)} if isinstance(splits, dict) else {},
        page=found["page"] if found.get("page") in PAGE_IDS else PAGE_IDS[0],
        shelf=str(found.get("shelf") or ""),
        run=found["run"] if isinstance(found.get("run"), int) else None,
        choice=Choice(
            _key(found.get("reference")),
            _key(found.get("lap")),
            over=tuple(k for x in over if (k := _key(x)) is not None) if isinstance(over, list) else (),
        ),
    )


def _pair(key: LapKey | None) -> list[int] | None:
    return None if key is None else [key.run, key.lap]


def _numbers(value: object) -> bool:
    return isinstance(value, list) and all(isinstance(n, int) and 0 <= n < LARGEST_PX for n in value)


def _size(value: object) -> tuple[int, int] | None:
    match value:
        case [int(width), int(height)] if min(width, height) >= SMALLEST_PX and max(width, height) < LARGEST_PX:
            return width, height
    return None


def _key(value: object) -> LapKey | None:
    match value:
        case [int(run), int(lap)]:
            return LapKey(run, lap)
    return None


def of_session(session: Session, shelf: str) -> Memory:
    """What of a session is remembered for a shelf."""
    return Memory(page=session.look.page, shelf=shelf, run=session.look.run, choice=session.choice)
