"""Frames by their exact times, in the formats of cameras, forward, backward and at random."""

from __future__ import annotations

import os
import random
import sys
from typing import TYPE_CHECKING

import pytest
from PyQt6.QtGui import QImage

from jete.core.errors import InputError
from jete.films.reader import Film, facts_of
from made_films import make_film, number_in

if TYPE_CHECKING:
    from pathlib import Path


def shown(film: Film, film_s: float) -> int:
    frame = film.frame(film_s)
    assert frame is not None
    return number_in(frame.pixels)


@pytest.fixture
def film(tmp_path: Path) -> Film:
    return Film(make_film(tmp_path / "film.mp4"))


def test_a_still_picture_and_a_pipe_are_no_films(tmp_path: Path) -> None:
    picture, pipe = tmp_path / "still.mp4", tmp_path / "pipe.mp4"
    image = QImage(64, 48, QImage.Format.Format_RGB32)
    image.fill(0)
    image.save(str(picture), "PNG")
    os.mkfifo(pipe)
    for path in (picture, pipe):
        with pytest.raises(InputError, match="no film"):
            facts_of(path)


@pytest.mark.parametrize(
    ("codec", "ending"), [("libx264", "mp4"), ("libx265", "mkv"), ("mjpeg", "avi"), ("mpeg4", "mov")]
)
def test_any_frame_is_found_in_any_order(tmp_path: Path, codec: str, ending: str) -> None:
    film = Film(make_film(tmp_path / f"film.{ending}", 60, codec=codec))
    order = random.Random(3).sample(range(60), 25)
    assert [shown(film, k / 25.0 + 0.02) for k in order] == order
    assert film.facts.rate_hz == pytest.approx(25.0)
    assert film.facts.duration_s == pytest.approx(60 / 25.0, abs=0.05)


def test_a_frame_is_seen_from_its_time_until_the_next(film: Film) -> None:
    assert [shown(film, t) for t in (1.0, 1.039, 1.04, 1.081)] == [25, 25, 26, 27]
    frame = film.frame(1.05)
    assert frame is not None
    assert (frame.film_s, frame.until_s) == (pytest.approx(1.04), pytest.approx(1.08))


def test_before_the_beginning_is_the_first_frame_and_after_the_end_the_last(film: Film) -> None:
    assert [shown(film, t) for t in (-3.0, 0.0, 3.99, 100.0)] == [0, 0, 99, 99]


def test_steps_by_frames_stop_at_both_ends(film: Film) -> None:
    assert film.step(1.0, 1) == pytest.approx(1.04)
    assert film.step(1.0, -1) == pytest.approx(0.96)
    assert film.step(0.02, -5) == 0.0
    assert film.step(3.95, 9) == pytest.approx(3.96)


def test_frames_that_are_left_out_do_not_shift_those_after_them(tmp_path: Path) -> None:
    film = Film(make_film(tmp_path / "gap.mp4", 60, pauses={20: 50}))
    assert shown(film, 1.5) == 20
    assert shown(film, 71 / 25.0) == 21
    assert shown(film, (55 + 50) / 25.0) == 55


def test_a_film_whose_clock_begins_late_begins_at_nought(tmp_path: Path) -> None:
    film = Film(make_film(tmp_path / "late.mkv", 40, first=250))
    assert [shown(film, t) for t in (0.0, 0.82)] == [0, 20]


def test_it_is_scaled_to_the_size_that_is_asked_for(film: Film) -> None:
    frame = film.frame(0.5, (96, 54))
    assert frame is not None
    assert frame.pixels.shape == (54, 96, 4)


def test_a_film_that_breaks_off_is_read_as_far_as_it_goes(tmp_path: Path) -> None:
    whole = make_film(tmp_path / "whole.avi", 50, codec="mjpeg")
    part = tmp_path / "part.avi"
    part.write_bytes(whole.read_bytes()[: whole.stat().st_size * 2 // 3])
    film = Film(part)
    assert shown(film, 0.4) == 10
    assert 10 < shown(film, 60.0) < 50


@pytest.mark.parametrize("content", [b"", b"no film at all\n" * 300, b"\x00" * 5000])
def test_what_is_no_film_is_refused_by_name(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "notes.mp4"
    path.write_bytes(content)
    with pytest.raises(InputError, match=r"notes\.mp4"):
        facts_of(path)


def test_a_film_that_is_not_there_is_said(tmp_path: Path) -> None:
    with pytest.raises(InputError, match="no such film"):
        facts_of(tmp_path / "gone.mp4")


def test_without_what_reads_films_it_is_said_what_to_install(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = make_film(tmp_path / "film.mp4", 5)
    monkeypatch.setitem(sys.modules, "av", None)
    with pytest.raises(InputError, match="Install the Python package 'av'"):
        facts_of(path)
