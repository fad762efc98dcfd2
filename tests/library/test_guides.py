"""What a library keeps of lap guides: own words and over what, versions, pictures."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest

from jete.library.bring_in import bring_in
from jete.library.guide_records import OwnWords
from known_laps import DEMO_PAIR

if TYPE_CHECKING:
    from jete.library.circuits import Place
    from jete.library.library import Library

DOCUMENT = {"circuit": "Kestrel Sands", "lap": "a:4", "time_s": 111.1, "good_laps": 5, "cards": []}


@pytest.fixture
def place(library: Library) -> Place:
    number = bring_in(library, DEMO_PAIR[0]).run
    found = library.circuits.place(number)
    assert found is not None
    return found


def test_own_words_remember_over_what_they_were_written(library: Library, place: Place) -> None:
    library.guides.write(place, 3, "brake", OwnWords("at the cone", "12 m before the cone"))
    assert library.guides.typed(place) == {(3, "brake"): OwnWords("at the cone", "12 m before the cone")}
    library.guides.write(place, 3, "brake", None)
    assert library.guides.typed(place) == {}


def test_a_version_says_for_what_it_is_and_outlives_its_lap(library: Library, place: Place) -> None:
    (run,) = (r.id for r in library.runs())
    number = library.guides.keep_version(place, run, "Edda Rowe", DOCUMENT)
    (kept,) = library.guides.versions(place)
    assert (kept.id, kept.author, kept.document, kept.gone) == (number, "Edda Rowe", DOCUMENT, False)
    library.remove(run)
    (kept,) = library.guides.versions(place)
    assert kept.gone
    library.guides.drop_version(number)
    assert library.guides.versions(place) == []
    library.guides.put_version_back(place, kept)
    (again,) = library.guides.versions(place)
    assert (again.author, again.made_at, again.document) == (kept.author, kept.made_at, DOCUMENT)


def test_pictures_stay_on_their_card_in_their_order(library: Library, place: Place) -> None:
    first = library.guides.add_photo(place, 2, "the kerb", b"jpeg 1")
    library.guides.add_photo(place, 2, "the post", b"jpeg 2")
    assert [p.caption for p in library.guides.photos(place)] == ["the kerb", "the post"]
    library.guides.drop_photo(first)
    library.guides.add_photo(place, 2, "the kerb", b"jpeg 1", first)
    assert next((p.id, p.jpeg) for p in library.guides.photos(place)) == (first, b"jpeg 1")


def test_a_run_has_the_film_that_was_given_to_it(library: Library, place: Place) -> None:
    from jete.core.walk.film import Tie
    from jete.library.film_book import FilmRecord

    (run,) = (r.id for r in library.runs())
    film = FilmRecord(run, "/films/in-car.mp4", 5_000_000_000, 95.2, 0.04, (Tie(1.5, 100.25),))
    library.films.write(run, film)
    assert library.films.of_run(run) == film
    library.films.write(run, None)
    assert library.films.of_run(run) is None
