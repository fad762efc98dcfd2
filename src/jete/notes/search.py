"""Which runs hold what is looked for: every word, in any field, in any order."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from jete.notes.sheet import LapSheet, RunSheet


def text_of(sheet: RunSheet, notes: LapSheet, source: str) -> str:
    """All that is noted about a run and its laps as one text to look in."""
    fields = [str(v) for v in vars(sheet).values() if v not in ("", None)]
    laps = [f"{n.aside} {n.reason} {n.note}" for _, n in notes.notes]
    return "\n".join((source, *fields, *laps)).casefold()


def holds(text: str, wanted: str) -> bool:
    r"""Whether a text holds every word that is wanted; nothing wanted is held by all.

    >>> holds("kestrel sands\nines karlsby\nwet", "Wet ines"), holds("dry", "wet")
    (True, False)
    """
    return all(word in text for word in wanted.casefold().split())
