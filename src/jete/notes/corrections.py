"""What was noted once and is noted otherwise now: a logbook strikes out, it does not rub out."""

from __future__ import annotations

from dataclasses import dataclass, fields
from datetime import timedelta
from typing import TYPE_CHECKING, Final

from jete.notes.sheet import BY_NAME

if TYPE_CHECKING:
    from datetime import datetime

    from jete.notes.sheet import LapNote, RunSheet

# A set-up's changes are kept with their dates anyhow, and a star is no statement.
NOT_KEPT: Final = frozenset({"setup", "star"})
# Who goes on writing, or takes it back at once, corrects nothing.
AT_ONCE: Final = timedelta(minutes=10)


@dataclass(frozen=True)
class Correction:
    """A field of a run, or of one of its laps, that said something else before; an empty ``after`` was struck out."""

    field: str
    lap: int | None
    before: str
    after: str
    made_at: datetime


def corrected(before: RunSheet | LapNote, after: RunSheet | LapNote) -> list[tuple[str, str, str]]:
    """Field, what it said and what it says of all that was filled in and is now other.

    >>> from jete.notes.sheet import LapNote
    >>> corrected(LapNote(note="wide at 6"), LapNote(note="wide at 7", reason="rain"))
    [('note', 'wide at 6', 'wide at 7')]
    """
    out = []
    for f in fields(before):
        was, now = getattr(before, f.name), getattr(after, f.name)
        if f.name not in NOT_KEPT and was not in ("", None) and was != now:
            out.append((f.name, str(was), "" if now is None else str(now)))
    return out


def goes_on(last: Correction, before: str, at: datetime) -> bool:
    """Whether a change is the last one gone on with: of what that one made, soon after it."""
    return last.after == before and at - last.made_at <= AT_ONCE


def correction_words(one: Correction) -> str:
    """A correction in a line.

    >>> from datetime import datetime
    >>> correction_words(Correction("condition", None, "dry", "damp", datetime(2026, 5, 2, 18, 5)))
    'road: dry, corrected to damp on 2026-05-02'
    >>> correction_words(Correction("note", 3, "wide at 6", "", datetime(2026, 5, 2, 18, 5)))
    'lap 3, note: wide at 6, struck out on 2026-05-02'
    """
    title = BY_NAME[one.field].title if one.field in BY_NAME else one.field
    where = title if one.lap is None else f"lap {one.lap}, {title}"
    what = f"corrected to {one.after}" if one.after else "struck out"
    return f"{where}: {one.before}, {what} on {one.made_at.date().isoformat()}"
