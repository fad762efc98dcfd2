"""Corrections of notes: what was written first stays readable."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta
from typing import TYPE_CHECKING

import pytest
from sqlalchemy import select

from jete.library import models
from jete.library.bring_in import bring_in
from jete.library.library import Library
from jete.library.location import Location
from jete.notes.corrections import AT_ONCE
from jete.notes.sheet import LapNote
from known_laps import DEMO_PAIR

if TYPE_CHECKING:
    from pathlib import Path


@pytest.fixture
def noted(tmp_path: Path) -> tuple[Library, int]:
    library = Library(Location(tmp_path / "shelf"))
    return library, bring_in(library, DEMO_PAIR[0], {"circuit": "Kestrel Sands", "condition": "dry"}).run


def change(library: Library, run: int, **values: object) -> None:
    before = library.run(run).sheet
    library.change_sheets({run: (before, replace(before, **values))})  # type: ignore[arg-type]


def later(library: Library) -> None:
    """Let so much time go by that what comes next is another change."""
    with library.writing() as session:
        for row in session.scalars(select(models.Correction)):
            row.made_at -= AT_ONCE + timedelta(seconds=1)


def kept(library: Library, run: int) -> list[tuple[str, int | None, str, str]]:
    return [(c.field, c.lap, c.before, c.after) for c in library.corrections([run]).get(run, ())]


def test_what_was_noted_first_is_kept_and_a_first_note_corrects_nothing(noted: tuple[Library, int]) -> None:
    library, run = noted
    change(library, run, wind="calm", setup="softer")
    assert kept(library, run) == []
    change(library, run, condition="damp", setup="harder")
    library.change_lap_note(run, 4, LapNote(), LapNote(note="wide at 6"))
    library.change_lap_note(run, 4, LapNote(note="wide at 6"), LapNote(note="wide at 7", star=True))
    assert kept(library, run) == [("condition", None, "dry", "damp"), ("note", 4, "wide at 6", "wide at 7")]
    assert library.corrections([run + 1]) == {}


def test_going_on_writing_is_one_correction_and_taking_it_back_is_none(noted: tuple[Library, int]) -> None:
    library, run = noted
    change(library, run, condition="damp")
    change(library, run, condition="wet")
    assert kept(library, run) == [("condition", None, "dry", "wet")]
    change(library, run, condition="dry")
    assert kept(library, run) == []


def test_a_later_change_is_a_correction_of_its_own(noted: tuple[Library, int]) -> None:
    library, run = noted
    change(library, run, condition="damp")
    later(library)
    change(library, run, condition="dry")
    assert kept(library, run) == [("condition", None, "dry", "damp"), ("condition", None, "damp", "dry")]
