"""How a picture turns, on films that are made to turn by a known amount."""

from __future__ import annotations

from fractions import Fraction
from typing import TYPE_CHECKING

import av
import numpy as np
import pytest

from jete.core.walk.film_match import matched
from jete.films.turning import turning_of

if TYPE_CHECKING:
    from pathlib import Path

WIDTH, HEIGHT, RATE = 192, 108, 12


def turning_film(path: Path, yaw: np.ndarray) -> Path:
    """A film of far things that move to the right by 40 pixels a second for a yaw rate of one, over grain that does not turn."""
    rng = np.random.default_rng(3)
    around = np.convolve(rng.uniform(0.0, 255.0, 4000), np.ones(5) / 5.0, "same")
    turned = np.cumsum(40.0 * yaw) / RATE
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=RATE, options={"preset": "veryfast"})
        stream.width, stream.height, stream.pix_fmt = WIDTH, HEIGHT, "yuv420p"
        for k, at in enumerate(turned.tolist()):
            picture = rng.integers(90, 130, (HEIGHT, WIDTH)).astype(np.uint8)
            picture[20:36] = np.interp(2000.0 - at + np.arange(WIDTH), np.arange(4000), around).astype(np.uint8)
            frame = av.VideoFrame.from_ndarray(np.repeat(picture[:, :, None], 3, axis=2), format="rgb24")
            frame.pts, frame.time_base = k, Fraction(1, RATE)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


@pytest.fixture(scope="module")
def yaw() -> np.ndarray:
    """Five minutes of bends."""
    rng = np.random.default_rng(8)
    return np.convolve(rng.normal(size=300 * RATE), np.hanning(30), "same") * 0.2


@pytest.mark.long
def test_a_film_is_found_where_it_was_taken(yaw: np.ndarray, tmp_path: Path) -> None:
    told: list[float] = []
    film = turning_film(tmp_path / "bends.mp4", yaw[110 * RATE : 150 * RATE])
    turning = turning_of(film, told.append, lambda: False)
    found = matched(turning, (1000.0 + np.arange(len(yaw)) / RATE, yaw))
    assert found is not None
    assert found.sure
    assert found.tie.log_s - found.tie.film_s == pytest.approx(1110.0, abs=0.1)
    assert told == sorted(told)


@pytest.mark.long
def test_a_film_of_something_else_is_not_sure(yaw: np.ndarray, tmp_path: Path) -> None:
    other = np.random.default_rng(9)
    elsewhere = np.convolve(other.normal(size=30 * RATE), np.hanning(30), "same") * 0.2
    film = turning_film(tmp_path / "elsewhere.mp4", elsewhere)
    found = matched(turning_of(film, lambda _: None, lambda: False), (np.arange(len(yaw)) / RATE, yaw))
    assert found is not None
    assert not found.sure


def test_laps_that_look_alike_are_told_apart_by_where_one_is_sought(yaw: np.ndarray) -> None:
    lap = yaw[: 60 * RATE]
    log = np.tile(lap, 4) + 0.01
    clock, seen = np.arange(len(log)) / RATE, np.arange(len(lap)) / RATE
    anywhere = matched((seen, lap[None, :]), (clock, log))
    assert anywhere is not None
    assert not anywhere.sure
    third = matched((seen, lap[None, :]), (clock, log), (120.0, 180.0))
    assert third is not None
    assert third.sure
    assert third.tie.log_s - third.tie.film_s == pytest.approx(120.0, abs=0.05)


def test_too_little_in_common_is_no_match(yaw: np.ndarray) -> None:
    clock = np.arange(len(yaw)) / RATE
    assert matched((clock[: 10 * RATE], yaw[None, : 10 * RATE]), (clock, yaw)) is None
    assert matched((np.empty(0), np.empty((2, 0))), (clock, yaw)) is None


def test_it_stops_when_it_is_asked_to(yaw: np.ndarray, tmp_path: Path) -> None:
    film = turning_film(tmp_path / "short.mp4", yaw[:RATE])
    with pytest.raises(InterruptedError):
        turning_of(film, lambda _: None, lambda: True)
