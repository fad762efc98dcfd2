"""Notes go with the time they are about."""

from __future__ import annotations

import itertools

from jete.core.log.lap import LapSpan
from jete.notes.carry import carried
from jete.notes.sheet import LapNote, LapSheet


def laps(*borders: float) -> list[LapSpan]:
    return [
        LapSpan(number=i + 1, start_s=a, end_s=b, length_m=4000.0, complete=True, why=None)
        for i, (a, b) in enumerate(itertools.pairwise(borders))
    ]


OLD = laps(0.0, 90.0, 180.0, 270.0)


def test_a_note_goes_to_the_lap_with_most_of_its_time() -> None:
    sheet = LapSheet(((2, LapNote(note="yellow")),))
    assert carried(OLD, sheet, laps(0.0, 20.0, 110.0, 200.0, 270.0)).notes == ((3, LapNote(note="yellow")),)


def test_notes_that_meet_are_put_together() -> None:
    sheet = LapSheet(((1, LapNote(note="cold", star=True)), (2, LapNote(aside="traffic", note="blocked"))))
    (number, note), *others = carried(OLD, sheet, laps(0.0, 250.0, 270.0)).notes
    assert (number, others) == (1, [])
    assert note == LapNote(aside="traffic", note="cold; blocked", star=True)


def test_the_same_laps_keep_their_notes() -> None:
    sheet = LapSheet(((1, LapNote(star=True)), (3, LapNote(note="best"))))
    assert carried(OLD, sheet, OLD) == sheet
