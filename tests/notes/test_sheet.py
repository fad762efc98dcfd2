"""The fields of a run's sheet and what they hold."""

from __future__ import annotations

import numpy as np
import pytest

from jete.core.errors import InputError
from jete.core.motion.pieces import piece_times
from jete.core.motion.split import split
from jete.notes.fade import fade_of
from jete.notes.search import holds, text_of
from jete.notes.sheet import LapNote, LapSheet, RunSheet, carried_on, differences, value_of, with_value
from jete.simulate.trials import Trial


def test_numbers_are_typed_with_point_or_comma_and_emptied() -> None:
    assert value_of("air_c", " 14,5 ") == 14.5
    assert value_of("tyre_laps", "12") == 12
    assert value_of("air_c", "") is None


@pytest.mark.parametrize(("name", "text"), [("air_c", "warm"), ("condition", "snow"), ("colour", "red")])
def test_what_no_field_takes_is_refused(name: str, text: str) -> None:
    with pytest.raises(InputError):
        with_value(RunSheet(), name, text)


def test_what_belongs_to_one_run_is_not_carried_on() -> None:
    last = RunSheet(
        driver="Ines Karlsby", tyres="soft", fuel_l=30.0, note="windy", setup="x", hot_bar="1.9", time="10:00"
    )
    assert carried_on(last) == RunSheet(driver="Ines Karlsby", tyres="soft")


def test_only_what_matters_and_is_known_differs() -> None:
    a, b = RunSheet(condition="wet", tyres="soft", driver="x"), RunSheet(condition="dry", driver="y")
    assert differences(a, b) == ["road wet (reference: dry)"]


def test_an_empty_note_is_no_note() -> None:
    notes = LapSheet().with_note(3, LapNote("off")).with_note(1, LapNote(star=True))
    assert [n for n, _ in notes.notes] == [1, 3]
    assert notes.with_note(3, LapNote()).of(3) == LapNote()


def test_a_search_looks_into_fields_and_notes_of_laps() -> None:
    text = text_of(RunSheet(circuit="Kestrel Sands"), LapSheet(((2, LapNote("yellow", "dust in 4")),)), "run.csv")
    assert holds(text, "kestrel DUST run.csv")
    assert not holds(text, "kestrel rain")


def test_a_fade_is_found_through_a_lap_that_strays() -> None:
    numbers = list(range(1, 11))
    times = [90.0 + 0.08 * n + 0.01 * (-1) ** n for n in numbers]
    times[5] += 6.0
    fade = fade_of(numbers, times)
    assert fade is not None
    assert fade.per_lap_s == pytest.approx(0.08, abs=0.01)
    assert fade.strays == (6,)
    assert fade_of([1, 2], [90.0, 91.0]) is None


def test_pieces_add_up_to_the_lap(trial: Trial) -> None:
    (span,) = [s for s in split(trial.reference) if s.complete]
    pieces = piece_times(trial.reference, span)
    assert len(pieces) == 3
    assert sum(pieces) == pytest.approx(span.time_s)
    assert np.all(np.array(pieces) > 0.0)
