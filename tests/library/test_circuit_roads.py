"""What a library knows of a circuit: its road, what people set, the passes of its corners."""

from __future__ import annotations

import shutil
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import pytest

from jete.core.circuit.editing import merged, split, tightest_at
from jete.core.circuit.landmarks import Landmark, LandmarkKind, RoadBook
from jete.core.compare import compare
from jete.core.errors import InputError
from jete.core.walk.rehearse import Memory
from jete.desk.passes import make_passes
from jete.formats import geojson
from jete.library.bring_in import bring_in
from jete.library.circuits import Place
from jete.library.exchange import hand_out, take_in
from jete.library.guide_records import OwnWords
from jete.library.library import Library
from jete.library.location import Location
from known_laps import DEMO, DEMO_PAIR

if TYPE_CHECKING:
    from collections.abc import Iterator

KESTREL = DEMO / "kestrel-sands.geojson"


@pytest.fixture(scope="module")
def ready(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The folder of a library with both runs at the circuit, brought in once."""
    folder = tmp_path_factory.mktemp("ready") / "library"
    made = Library(Location(folder))
    for path in DEMO_PAIR:
        bring_in(made, path, {"circuit": "Kestrel Sands"})
    made.close()
    return folder


@pytest.fixture
def library(location: Location, ready: Path) -> Iterator[Library]:
    shutil.copytree(ready, location.folder)
    opened = Library(location)
    yield opened
    opened.close()


@pytest.fixture
def place(library: Library) -> Place:
    found = library.circuits.place(1)
    assert found is not None
    return found


def test_the_first_run_lays_the_axis_and_the_next_one_makes_it_surer(location: Location) -> None:
    library = Library(location)
    bring_in(library, DEMO_PAIR[0])
    first = library.circuits.road(library.circuits.places()[0])
    bring_in(library, DEMO_PAIR[1])
    second = library.circuits.road(library.circuits.places()[0])
    library.close()
    assert first is not None
    assert second is not None
    assert (first.laps, second.laps) == (8, 16)
    assert np.array_equal(first.circuit_m, second.circuit_m)


def test_a_named_circuit_keeps_its_road_and_what_people_set(library: Library, place: Place) -> None:
    library.circuits.write_book(place, RoadBook((Landmark(id=1, kind=LandmarkKind.CONE, circuit_m=500.0),)))
    for number in (1, 2):
        library.note_run(number, replace(library.run(number).sheet, circuit="Dune Ring"))
    named = library.circuits.place(1)
    assert named is not None
    assert library.circuits.book(named).landmarks[0].circuit_m == 500.0


def test_one_spot_has_one_place_on_the_circuit_whichever_lap_is_the_reference(library: Library, place: Place) -> None:
    apexes = []
    for run, lap in ((1, 4), (1, 7), (2, 6)):
        on = library.circuits.circuit_on(run, library.lap(library.run(run), lap))
        assert on is not None
        apexes.append([on.to_circuit(c.apex_m) for c in on.corners])
        assert on.to_reference(on.to_circuit(1000.0)) == pytest.approx(1000.0, abs=0.01)
    assert np.ptp(apexes, axis=0).max() < 0.5


def test_a_file_is_taken_in_where_it_lies(library: Library, place: Place) -> None:
    take_in(library, place, geojson.read(KESTREL))
    known = library.circuits.place(1)
    assert known is not None
    assert known.corners is not None
    assert [(c.shown, c.name, c.id) for c in known.corners[:2]] == [("1", "Harbour", 1), ("2", "Marram", 2)]
    book, road = library.circuits.book(known), library.circuits.road(known)
    assert road is not None
    boards = [x for x in book.landmarks if x.kind is LandmarkKind.BOARD]
    # The middle of the road is 4 m shorter than the line that the laps take: each board within that of its own metres.
    shipped = {x.id: x.circuit_m for x in geojson.read(KESTREL).book.landmarks}
    assert max(abs(x.circuit_m - shipped[x.id]) for x in boards) < 6.0


def test_it_goes_out_and_comes_in_unchanged(library: Library, place: Place, tmp_path: Path) -> None:
    take_in(library, place, geojson.read(KESTREL))
    known = library.circuits.place(1)
    assert known is not None
    geojson.write(tmp_path / "out.geojson", hand_out(library, known))
    before = library.circuits.book(known)
    take_in(library, known, geojson.read(tmp_path / "out.geojson"))
    after = library.circuits.book(known)
    assert [x.id for x in after.landmarks] == [x.id for x in before.landmarks]
    assert max(abs(a.circuit_m - b.circuit_m) for a, b in zip(after.landmarks, before.landmarks, strict=True)) < 0.6


def test_a_file_of_another_circuit_is_refused(library: Library, place: Place) -> None:
    file = geojson.read(KESTREL)
    with pytest.raises(InputError, match="does not follow"):
        take_in(library, place, replace(file, path_m=file.path_m * 1.4))


def test_a_ledger_balances_after_a_corner_is_split_and_merged(library: Library, place: Place) -> None:
    reference, lap = library.lap(library.run(1), 4), library.lap(library.run(2), 2)
    road = library.circuits.road(place)
    assert road is not None
    assert place.corners is not None
    tightest = tightest_at(road.founder_m, road.bend_1pm)
    fifth = place.corners[4]
    for listed in (split(place.corners, 5, fifth.apex_m - 30.0, tightest), merged(place.corners, 2, tightest)):
        library.circuits.write_corners(place, listed)
        on = library.circuits.circuit_on(1, reference)
        assert on is not None
        assert len(on.corners) == len(listed)
        result = compare(reference, [lap], on.corners).laps[0]
        assert sum(c.gap_s for c in result.corners) == pytest.approx(result.gap_s, abs=1e-9)


@pytest.mark.long
def test_notes_of_a_corner_that_is_merged_away_go_to_the_one_that_stays(library: Library, place: Place) -> None:
    make_passes(library, place, lambda *_: None, lambda: False)
    library.passes.note(1, 3, 3, "after the kerb", "calm")
    road = library.circuits.road(place)
    assert road is not None
    assert place.corners is not None
    listed = merged(place.corners, 2, tightest_at(road.founder_m, road.bend_1pm))
    library.circuits.write_corners(place, listed, {3: 2})
    kept = [p for p in library.passes.of_corner(place, 2) if p.tag]
    assert [(p.run, p.lap, p.tag, p.note) for p in kept] == [(1, 3, "after the kerb", "calm")]


@pytest.mark.long
def test_all_that_is_noted_goes_along_when_corners_are_merged_and_comes_back(library: Library, place: Place) -> None:
    circuits, guides = library.circuits, library.guides
    road = circuits.road(place)
    assert road is not None
    assert place.corners is not None
    library.passes.note(1, 3, 3, "after the kerb", "calm")
    circuits.note_corner(place, 2, "", "damp")
    circuits.note_corner(place, 3, "", "windy")
    guides.write(place, 2, "brake", OwnWords("at the cone", "12 m before"))
    guides.write(place, 3, "brake", OwnWords("at the post"))
    guides.write(place, 3, "exit", OwnWords("stay tight"))
    guides.add_photo(place, 3, "the post", b"jpeg")
    guides.remember(place, "Ines", {3: Memory(2.5, 6, 2, 99)})

    def noted() -> object:
        return (
            guides.typed(place), guides.photos(place), guides.remembered(place, "Ines"),
            [circuits.corner_notes(place, c) for c in (2, 3)], [(p.tag, p.note) for p in library.passes.of_corner(place, 3)],
        )  # fmt: skip

    make_passes(library, place, lambda *_: None, lambda: False)
    before, kept = noted(), circuits.noted_on(place, {2, 3})
    listed = merged(place.corners, 2, tightest_at(road.founder_m, road.bend_1pm))
    circuits.write_corners(place, listed, {3: 2})
    assert circuits.corner_notes(place, 2) == {"": "damp · windy"}
    assert {k: w.text for k, w in guides.typed(place).items()} == {
        (2, "brake"): "at the cone · at the post", (2, "exit"): "stay tight",
    }  # fmt: skip
    assert [p.corner for p in guides.photos(place)] == [2]
    assert guides.remembered(place, "Ines") == {}
    circuits.write_corners(place, place.corners, noted=kept)
    assert noted() == before


@pytest.mark.long
def test_passes_are_made_once_and_anew_where_the_corners_have_changed(library: Library, place: Place) -> None:
    assert make_passes(library, place, lambda *_: None, lambda: False) == 16
    assert make_passes(library, place, lambda *_: None, lambda: False) == 0
    kept = library.passes.of_corner(place, 1)
    assert [(p.run, p.lap) for p in kept] == [(r, n) for r in (1, 2) for n in range(1, 9)]
    assert place.corners is not None
    library.circuits.write_corners(
        place, (replace(place.corners[0], end_m=place.corners[0].end_m + 9.0), *place.corners[1:])
    )
    changed = library.circuits.place(1)
    assert changed is not None
    assert sum(map(len, library.passes.missing(changed).values())) == 16


def test_the_times_of_a_laps_passes_add_up_to_the_lap_from_the_first_one_on(library: Library, place: Place) -> None:
    make_passes(library, place, lambda *_: None, lambda: False)
    assert place.corners is not None
    passes = [
        next(p for p in library.passes.of_corner(place, c.id or 0) if (p.run, p.lap) == (2, 5)) for c in place.corners
    ]
    span = next(s for s in library.run(2).laps if s.number == 5)
    assert 0.8 * span.time_s < sum(p.numbers.whole_s for p in passes) < span.time_s


def test_edited_corners_stay_when_the_start_line_moves(library: Library, place: Place) -> None:
    take_in(library, place, geojson.read(KESTREL))
    run = library.run(1)
    log = library.log(run)
    from jete.core.log.plane import StartLine, origin_of, positions
    from jete.core.motion.one_line import LineSource

    origin = origin_of(log)
    found = positions(log, origin)
    assert found is not None
    x, y = (c.value for c in found)
    k = int(np.searchsorted(found[0].time_s, run.laps[2].start_s + 8.0))
    heading = float(np.arctan2(y[k + 1] - y[k - 1], x[k + 1] - x[k - 1]))
    library.split_again(run, LineSource(origin, StartLine(float(x[k]), float(y[k]), heading)))
    moved = library.circuits.place(1)
    assert moved is not None
    assert moved.corners is not None
    assert {c.name for c in moved.corners} >= {"Harbour", "Homeward"}
    assert len(moved.corners) == 12
