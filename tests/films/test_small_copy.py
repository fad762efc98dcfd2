"""Small copies of large films: every frame at its own time, nothing half done."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from jete.films.reader import Film, facts_of
from jete.films.small_copy import copy_of, is_large, make_copy
from made_films import make_film, number_in


@pytest.fixture(scope="module")
def made(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return make_film(tmp_path_factory.mktemp("films") / "large.mp4", 30, size=(1920, 1080), pauses={9: 25})


@pytest.fixture
def large(made: Path, tmp_path: Path) -> Path:
    return Path(shutil.copy(made, tmp_path / "large.mp4"))


def test_a_copy_has_the_frames_at_their_times(large: Path) -> None:
    told: list[float] = []
    copy = Film(make_copy(large, told.append, lambda: False))
    assert (copy.facts.width, copy.facts.height) == (1280, 720)
    for k, film_s in ((0, 0.0), (9, 0.4), (9, 1.2), (10, 35 / 25.0), (29, 54 / 25.0)):
        frame = copy.frame(film_s + 0.01)
        assert frame is not None
        assert number_in(frame.pixels) == k
    assert told == sorted(told)
    assert told[-1] > 0.9


def test_only_what_is_too_large_is_copied(large: Path, tmp_path: Path) -> None:
    assert is_large(facts_of(large))
    assert not is_large(facts_of(make_film(tmp_path / "small.mp4", 5)))


def test_one_that_is_stopped_leaves_nothing(large: Path) -> None:
    with pytest.raises(InterruptedError):
        make_copy(large, lambda _: None, lambda: True)
    assert not copy_of(large).exists()
    assert list(copy_of(large).parent.glob("*")) == []


def test_a_film_that_was_changed_has_another_copy(large: Path) -> None:
    before = copy_of(large)
    large.write_bytes(large.read_bytes() + b"\0")
    assert copy_of(large) != before
