"""Two people noting on one run or lap: the changed field alone is written, and a true conflict is kept and told.

A has typed the wind on a sheet that was read before B typed the driver: both stand afterwards.
"""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from typing import TYPE_CHECKING, TypeVar

from jete.notes.sheet import LapNote, RunSheet

if TYPE_CHECKING:
    from collections.abc import Sequence

Noted = TypeVar("Noted", RunSheet, LapNote)

# Words that stand beside each other where two people wrote both.
FREE_WORDS = ("note", "setup", "reason")


@dataclass(frozen=True)
class Conflict:
    """A field that somebody else changed meanwhile: what they wrote, and what stands there now."""

    field: str
    theirs: object
    now: object


def merged(before: Noted, after: Noted, now: Noted) -> tuple[Noted, tuple[Conflict, ...]]:
    """What stands after a change that was made on an older state, and where somebody else had changed the same.

    Args:
        before: what the person saw.
        after: what the person made of it.
        now: what is there.

    >>> merged(LapNote(note="a"), LapNote(note="a", star=True), LapNote(note="b"))
    (LapNote(aside='', reason='', note='b', star=True), ())
    """
    changed = {
        f.name: getattr(after, f.name) for f in fields(after) if getattr(before, f.name) != getattr(after, f.name)
    }
    conflicts = []
    for name, wanted in list(changed.items()):
        theirs = getattr(now, name)
        if theirs in (getattr(before, name), wanted):
            continue
        if name in FREE_WORDS and theirs and wanted and str(theirs) not in str(wanted):
            changed[name] = f"{theirs}; {wanted}"
        conflicts.append(Conflict(name, theirs, changed[name]))
    return replace(now, **changed), tuple(conflicts)


def changed_words(before: Noted, after: Noted) -> str:
    """What was changed, with what was typed.

    >>> changed_words(LapNote(note="a"), LapNote(note="rear slid", star=True))
    'note "rear slid", star'
    """
    told = []
    for f in fields(after):
        was, now = getattr(before, f.name), getattr(after, f.name)
        if was != now:
            told.append(f.name if now is True else f'{f.name} "{now}"' if now else f"no {f.name}")
    return ", ".join(told)


def conflict_words(conflicts: Sequence[Conflict]) -> str:
    """What was changed by two people, in a sentence; empty for nothing.

    >>> conflict_words([Conflict("wind", "calm", "strong")])
    "Somebody else had changed it meanwhile: wind was 'calm', now 'strong'."
    """
    told = "; ".join(f"{c.field} was {str(c.theirs)!r}, now {str(c.now)!r}" for c in conflicts)
    return f"Somebody else had changed it meanwhile: {told}." if told else ""
