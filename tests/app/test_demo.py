"""What the demo says of itself is there, and true."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest

from jete.app import demo
from jete.core.walk.film_match import matched
from jete.desk.guide import guide_in
from jete.films.reader import facts_of
from jete.films.turning import turning_of
from jete.library.bring_in import bring_in
from jete.library.library import Library
from jete.library.location import Location
from jete.report.guide import guide_in_words

if TYPE_CHECKING:
    from collections.abc import Iterator


@pytest.fixture(scope="module")
def shelf(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Library]:
    library = Library(Location(tmp_path_factory.mktemp("demo")))
    for name in demo.PAIR:
        bring_in(library, demo.file_of(name), demo.RUNS[name])
    for note in (demo.note_circuit, demo.note_guide, demo.note_films):
        note(library)
    yield library
    library.close()


def test_the_coach_has_written_into_the_guide(shelf: Library) -> None:
    run = shelf.run(1)
    guide = guide_in_words(guide_in(shelf, 1, shelf.lap(run, 4)))
    words = {(c.number, f.key): f for c in guide.cards for f in c.fields if f.typed}
    assert {key: f.typed for key, f in words.items()} == {(n, k): t for n, k, t, _ in demo.OWN_WORDS}
    assert [key for key, f in words.items() if f.changed] == [("6", "brake")]
    (version,) = shelf.guides.versions(shelf.circuits.places()[0])
    assert version.author == demo.COACH


def test_both_laps_of_the_pair_have_a_film_that_fits_them(shelf: Library) -> None:
    for run in shelf.runs():
        film = shelf.films.of_run(run.id)
        assert film is not None
        assert film.clock is not None
        best = min((s for s in run.laps if s.complete), key=lambda s: s.time_s)
        assert film.clock.film_s(best.start_s) == pytest.approx(demo.FILM_LEAD_S)
        assert film.clock.rate == pytest.approx(demo.FILM_RATE)
        assert facts_of(film.file).duration_s == pytest.approx(best.time_s + 2.0 * demo.FILM_LEAD_S, abs=0.2)
        assert facts_of(film.file).size < 1_500_000


def test_it_is_noted_once(shelf: Library) -> None:
    place = shelf.circuits.places()[0]
    before = shelf.guides.typed(place), [v.id for v in shelf.guides.versions(place)]
    demo.note_guide(shelf)
    demo.note_films(shelf)
    assert (shelf.guides.typed(place), [v.id for v in shelf.guides.versions(place)]) == before


@pytest.mark.long
def test_its_film_is_found_by_motion(shelf: Library) -> None:
    """To a tenth of a second and a little: the made-up camera looks along the road, and turns a little before the car."""
    name = demo.PAIR[0]
    run = next(r for r in shelf.runs() if name in r.path)
    best = min((s for s in run.laps if s.complete), key=lambda s: s.time_s)
    yaw = shelf.log(run).get("yaw_rate")
    assert yaw is not None
    turning = turning_of(demo.film_of(name), lambda _: None, lambda: False)
    found = matched(turning, (yaw.time_s, yaw.value), (best.start_s, best.end_s))
    film = shelf.films.of_run(run.id)
    assert found is not None
    assert film is not None
    assert film.clock is not None
    assert found.sure
    assert film.clock.film_s(found.tie.log_s) == pytest.approx(found.tie.film_s, abs=0.15)
