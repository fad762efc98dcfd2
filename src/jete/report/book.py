"""The logbook in words: a row a run, and which cues worked."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from jete.notes.corrections import correction_words
from jete.report.plan import TRIED
from jete.report.words import lap_time

if TYPE_CHECKING:
    from jete.desk.book import Book, BookEntry, CueCount

HEADS: Final = (
    "day",
    "time",
    "vehicle",
    "conditions",
    "laps",
    "best",
    "thirds together",
    "tried, and what came of it",
    "note, and what was corrected",
)


def book_row(entry: BookEntry) -> tuple[str, ...]:
    """The cells of a run, under ``HEADS``."""
    sheet = entry.run.sheet
    conditions = (
        sheet.condition,
        f"track {sheet.track_c:g} °C" if sheet.track_c is not None else "",
        sheet.tyres,
        sheet.wind,
        f"set-up: {sheet.setup}" if sheet.setup else "",
    )
    tried = "; ".join(f"{t.corner}: {TRIED.get(t.outcome, t.outcome)} ({t.cue})" for t in entry.tried)
    return (
        sheet.date or "day not noted",
        sheet.time,
        sheet.vehicle,
        ", ".join(c for c in conditions if c),
        str(entry.laps),
        lap_time(entry.best_s) if entry.best_s is not None else "–",
        lap_time(entry.together_s) if entry.together_s is not None else "–",
        tried,
        "; ".join(t for t in (sheet.note, *(correction_words(c) for c in entry.corrected)) if t),
    )


def cue_words(count: CueCount) -> str:
    """How often a kind of cue worked.

    >>> from jete.desk.book import CueCount
    >>> cue_words(CueCount("a landmark", 4, 5, 0.44, 0.95))
    '4 of 5 that began with a landmark (44 to 95 %)'
    """
    return f"{count.worked} of {count.of} that began with {count.kind} ({100.0 * count.low:.0f} to {100.0 * count.high:.0f} %)"


def cues_words(book: Book) -> str:
    """Which cues worked for the driver; what would fill the book where nothing is told yet."""
    if not book.cues:
        return "Which cues work for this driver is told once plans were looked back on."
    return f"Cues that worked for {book.driver}: {'; '.join(cue_words(c) for c in book.cues)}."
