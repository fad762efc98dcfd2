"""Laps handed on from one library to another: everything comes along that may, and nobody's own words are lost."""

from __future__ import annotations

import json
import shutil
import zipfile
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

import pytest

from jete.core.compare import compare
from jete.core.errors import InputError
from jete.core.log.plane import Origin
from jete.desk.guide import guide_in
from jete.formats import geojson
from jete.formats.parcel import Parcel, read_parcel
from jete.library.bring_in import bring_in
from jete.library.exchange import take_in
from jete.library.guide_records import OwnWords
from jete.library.library import Library
from jete.library.location import Location
from jete.library.parcels import brings, hand_on, take_parcel
from jete.report.guide import guide_document, guide_in_words
from jete.report.parcels import brought_words
from known_laps import DEMO, DEMO_PAIR

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator


@pytest.fixture(scope="module")
def theirs(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Library]:
    """A team's library: one run, with its circuit's landmarks, own words and notes."""
    library = Library(Location(tmp_path_factory.mktemp("theirs")))
    given = {"circuit": "Kestrel Sands", "driver": "Ines Karlsby", "coach": "Edda Rowe", "note": "new pads"}
    run = bring_in(library, DEMO_PAIR[0], given).run
    take_in(library, library.circuits.places()[0], geojson.read(DEMO / "kestrel-sands.geojson"))
    place = library.circuits.places()[0]
    first = place.corners[0].id
    library.guides.write(
        place, first, "brake", OwnWords("when the post passes the mirror", "23 m before the 150 board")
    )
    library.circuits.note_corner(place, first, "", "wet in the morning")
    library.circuits.note_corner(place, first, "Ines Karlsby", "look further ahead")
    assert run == 1
    yield library
    library.close()


def handed_on(theirs: Library, folder: Path, *, names: bool = True, notes: bool = True) -> Parcel:
    path = folder / "lap.zip"
    guide = guide_document(guide_in_words(guide_in(theirs, 1, theirs.lap(theirs.run(1), 4))))
    hand_on(theirs, 1, 4, path, guide, names=names, notes=notes)
    return read_parcel(path)


@pytest.fixture(scope="module")
def parcel(theirs: Library, tmp_path_factory: pytest.TempPathFactory) -> Parcel:
    return handed_on(theirs, tmp_path_factory.mktemp("parcel"))


def test_into_an_empty_library_comes_all_of_it(library: Library, theirs: Library, parcel: Parcel) -> None:
    assert brings(library, parcel).here == ""
    took = take_parcel(library, parcel)
    run = library.run(took.run)
    assert (run.sheet.driver, run.sheet.circuit, run.sheet.note) == ("Ines Karlsby", "Kestrel Sands", "new pads")
    assert took.circuit
    assert (took.words, took.left) == (3, 0)
    place = library.circuits.place(took.run)
    assert place is not None
    assert [c.name for c in place.corners or ()][:2] == ["Harbour", "Marram"]
    assert len(library.circuits.book(place).landmarks) == len(
        theirs.circuits.book(theirs.circuits.places()[0]).landmarks
    )
    (words,) = library.guides.typed(place).values()
    assert words.text == "when the post passes the mirror"
    (version,) = library.guides.versions(place)
    assert version.author == "Edda Rowe"


def test_the_lap_is_the_same_lap(library: Library, theirs: Library, parcel: Parcel) -> None:
    took = take_parcel(library, parcel)
    run = library.run(took.run)
    before, after = theirs.lap(theirs.run(1), 4), library.lap(run, run.laps[0].number)
    assert after.span.time_s == pytest.approx(before.span.time_s, abs=0.005)
    (lap,) = compare(before, [after]).laps
    assert all(abs(c.gap_s) < 0.005 for c in lap.corners)
    assert [f for c in lap.corners for f in c.findings] == []


def test_where_people_here_wrote_something_theirs_is_left(library: Library, parcel: Parcel) -> None:
    take_parcel(library, parcel)
    place = library.circuits.places()[0]
    first = place.corners[0].id
    library.guides.write(place, first, "brake", OwnWords("at the second cone"))
    library.circuits.note_corner(place, first, "", "dry by noon")
    there = brings(library, parcel)
    assert (there.here, there.set_here, there.lap_known) == ("Kestrel Sands", True, True)
    took = take_parcel(library, parcel, circuit=False)
    assert took.known
    assert took.words == 0
    assert library.guides.typed(place)[first, "brake"].text == "at the second cone"
    assert library.circuits.corner_notes(place, first)[""] == "dry by noon"
    assert len(library.runs()) == 1


def test_without_names_and_notes_there_are_none_anywhere(theirs: Library, tmp_path: Path) -> None:
    parcel = handed_on(theirs, tmp_path, names=False, notes=False)
    assert {"driver", "coach", "note"} & set(parcel.about.sheet) == set()
    assert parcel.about.notes == ()
    assert len(parcel.about.words) == 1
    with zipfile.ZipFile(tmp_path / "lap.zip") as archive:
        everything = b"".join(archive.read(n) for n in archive.namelist()).lower()
    for name in (b"karlsby", b"edda", b"new pads", b"look further ahead"):
        assert name not in everything


def test_what_it_brings_is_told_before_anything_is_stored(library: Library, parcel: Parcel) -> None:
    told = " ".join(brought_words(parcel, brings(library, parcel)))
    assert "1:51.134 (Ines Karlsby" in told
    assert "Kestrel Sands, new here: 12 corners, 42 landmarks" in told
    assert "12 cards" in told
    assert library.runs() == []


def test_the_command_line_hands_on_and_takes_in(
    theirs: Library, tmp_path: Path, capfd: pytest.CaptureFixture[str]
) -> None:
    from jete.cli import main

    here, there = tmp_path / "here", tmp_path / "there"
    shutil.copytree(theirs.location.folder, here)
    out = tmp_path / "lap.zip"
    assert main(["hand-on", "library:1:4", "--out", str(out), "--library", str(here)]) == 0
    assert main(["take-in", str(out), "--library", str(there), "--json", str(tmp_path / "took.json")]) == 0
    took = json.loads((tmp_path / "took.json").read_text())
    assert took["taken"]["run"] == 1
    assert took["landmarks"] == 42
    assert main(["take-in", str(out), "--look", "--library", str(there)]) == 0
    assert "It is on the shelf already" in capfd.readouterr().out
    assert main(["hand-on", "stint.csv", "--out", str(out), "--library", str(here)]) == 2
    assert "Bring it in first" in capfd.readouterr().err


@pytest.mark.parametrize(
    ("change", "told"),
    [
        (lambda p: replace(p, about=replace(p.about, time_s=1.0)), "its data lasts"),
        (
            lambda p: replace(p, circuit=replace(p.circuit, path_m=p.circuit.path_m + 1000.0)),
            "not driven on its circuit",
        ),
    ],
    ids=["another time", "a kilometre off"],
)
def test_a_parcel_whose_parts_do_not_go_together_leaves_nothing_here(
    library: Library, parcel: Parcel, change: Callable[[Parcel], Parcel], told: str
) -> None:
    with pytest.raises(InputError, match=told):
        take_parcel(library, change(parcel))
    assert library.runs() == []
    assert library.circuits.places() == []


def test_a_parcel_whose_circuit_can_not_be_laid_on_the_one_here_leaves_nothing_here(
    library: Library, parcel: Parcel
) -> None:
    bring_in(library, DEMO_PAIR[1], {"circuit": "Kestrel Sands"})
    place = library.circuits.places()[0]
    elsewhere = replace(parcel.circuit, origin=Origin())  # type: ignore[type-var]
    with pytest.raises(InputError):
        take_parcel(library, replace(parcel, circuit=elsewhere))
    assert len(library.runs()) == 1
    assert library.circuits.book(place).landmarks == ()


def test_words_with_halves_of_code_units_are_taken_as_something_that_can_be_written() -> None:
    from jete.formats.parcel import _text

    assert _text("brake \udfff here").encode("utf-8") == b"brake ? here"
