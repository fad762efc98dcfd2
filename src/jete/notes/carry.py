"""Notes of laps, carried over to the laps of another split of the same log."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from jete.notes.sheet import LapSheet

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.log.lap import LapSpan
    from jete.notes.sheet import LapNote


def carried(before: Sequence[LapSpan], sheet: LapSheet, after: Sequence[LapSpan]) -> LapSheet:
    """Each note on the lap that has most of the time it was about; notes that meet are put together.

    Args:
        before: the laps that the notes were made on.
        sheet: their notes.
        after: the laps of the same log at another line, at least one.
    """
    out = LapSheet()
    for number, note in sheet.notes:
        old = next((s for s in before if s.number == number), None)
        if old is not None:
            new = max(after, key=lambda s: min(s.end_s, old.end_s) - max(s.start_s, old.start_s)).number
            out = out.with_note(new, _together(out.of(new), note))
    return out


def _together(one: LapNote, other: LapNote) -> LapNote:
    """Two notes as one; nothing that was typed is dropped."""
    note = "; ".join(n for n in (one.note, other.note) if n)
    reason = "; ".join(r for r in (one.reason, other.reason) if r)
    return replace(one, aside=one.aside or other.aside, reason=reason, note=note, star=one.star or other.star)
