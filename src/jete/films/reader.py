"""Reads a film: what it is, and the frame that is seen at a time.

Times come from the frames themselves, never from counting them: films may pause, drop frames
or run at a rate of their own. A film begins at 0 with its first frame, whatever its container says.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from jete.core.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

    import numpy as np
    from av.video.frame import VideoFrame

# Farther ahead than this a jump to the key frame before it is quicker than reading on.
AHEAD_S = 1.5
# Frames whose time rounds to the one that was asked for: some containers count milliseconds.
CLOSE_S = 6e-4
# Packets in a row that can't be read before the film is taken to have ended.
MOST_DAMAGED = 200
BGRA = "bgra"


@dataclass(frozen=True)
class FilmFacts:
    """What a film is: seconds, pixels, frames a second (the mean), how it is coded, bytes."""

    duration_s: float
    width: int
    height: int
    rate_hz: float
    codec: str
    size: int

    @property
    def frame_s(self) -> float:
        """How long one frame is seen."""
        return 1.0 / self.rate_hz


@dataclass(frozen=True, eq=False)
class Frame:
    """One picture, rows of blue, green, red and nothing, (height, width, 4) bytes; seen from ``film_s`` until ``until_s``."""

    pixels: np.ndarray[Any, np.dtype[np.uint8]]
    film_s: float
    until_s: float


class Film:
    """An open film; belongs to one thread.

    Raises:
        InputError: no such file, no film in it, or nothing here that reads films.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self._container = open_film(path)
        self._stream = self._container.streams.video[0]
        self._stream.thread_type = "AUTO"
        self._frames: Iterator[VideoFrame] = iter(())
        self._now: VideoFrame | None = None
        self._next: VideoFrame | None = None
        self._start_s = 0.0
        self._rewind()
        self._start_s = self._time(self._now) if self._now is not None else 0.0
        self.facts = self._facts()

    def close(self) -> None:
        """Let go of the file."""
        self._container.close()

    def _facts(self) -> FilmFacts:
        stream = self._stream
        rate = float(stream.average_rate or stream.guessed_rate or 25)
        if stream.duration is not None and stream.time_base is not None:
            seconds = float(stream.duration * stream.time_base)
        else:
            seconds = (self._container.duration or 0) / 1e6
        context = stream.codec_context
        sides = context.width, context.height
        width, height = sides[::-1] if self._now is not None and round(self._now.rotation / 90.0) % 2 else sides
        return FilmFacts(seconds, width, height, rate, context.name, self.path.stat().st_size)

    def _time(self, frame: VideoFrame) -> float:
        return float(frame.time or 0.0) - self._start_s

    def _rewind(self) -> None:
        self._container.seek(0, backward=True)
        self._begin()

    def _begin(self) -> None:
        """Read on from where the file stands."""
        self._frames = self._container.decode(self._stream)
        self._now = self._read()
        self._next = self._read()

    def _read(self) -> VideoFrame | None:
        """The next frame; None at the end.  A damaged piece is passed over: what follows may be whole."""
        from av import FFmpegError

        for _ in range(MOST_DAMAGED):
            try:
                return next(self._frames, None)
            except EOFError:
                return None
            except FFmpegError:
                self._frames = self._container.decode(self._stream)
        return None

    def frame(self, film_s: float, size: tuple[int, int] | None = None) -> Frame | None:
        """What is seen at a time; before the beginning the first frame, after the end the last.

        Args:
            film_s: seconds from the beginning.
            size: width and height in pixels to scale it to; None for its own.
        """
        self._go_to(film_s)
        if self._now is None:
            return None
        pixels = _upright(self._now, size)
        until = self._time(self._next) if self._next is not None else max(self.facts.duration_s, self._time(self._now))
        return Frame(pixels, self._time(self._now), until)

    def _go_to(self, film_s: float) -> None:
        wanted = max(film_s, 0.0) + CLOSE_S
        if self._now is None or wanted < self._time(self._now) or wanted > self._time(self._now) + AHEAD_S:
            self._jump(wanted)
        while self._next is not None and self._time(self._next) <= wanted:
            self._now, self._next = self._next, self._read()

    def _jump(self, film_s: float) -> None:
        """To the key frame before a time, or the beginning where the file can't tell."""
        base = self._stream.time_base
        assert base is not None
        self._container.seek(int((film_s + self._start_s) / base), stream=self._stream, backward=True)
        self._begin()
        if self._now is None or self._time(self._now) > film_s:
            self._rewind()

    def step(self, film_s: float, frames: int) -> float:
        """The time of the frame so many after (or before) the one that is seen at a time."""
        self._go_to(film_s)
        for _ in range(abs(frames)):
            if self._now is None:
                return 0.0
            if frames > 0:
                if self._next is None:
                    break
                self._now, self._next = self._next, self._read()
            else:
                self._go_to(self._time(self._now) - 4.0 * CLOSE_S)
        return self._time(self._now) if self._now is not None else 0.0


def _upright(frame: VideoFrame, size: tuple[int, int] | None) -> np.ndarray[Any, np.dtype[np.uint8]]:
    """The pixels of a frame, turned as its camera says it was held, in a size."""
    import numpy as np

    turns = round(frame.rotation / 90.0) % 4
    width, height = size or ((frame.height, frame.width) if turns % 2 else (frame.width, frame.height))
    if turns % 2:
        width, height = height, width
    pixels = np.asarray(frame.reformat(width=width, height=height, format=BGRA).to_ndarray(), dtype=np.uint8)
    return np.ascontiguousarray(np.rot90(pixels, turns)) if turns else pixels


def facts_of(path: Path) -> FilmFacts:
    """What a film is.

    Raises:
        InputError: as :class:`Film`.
    """
    film = Film(path)
    film.close()
    return film.facts


def open_film(path: Path) -> Any:
    """A film's container, which has pictures in it.

    Raises:
        InputError: no such file, no film in it, or nothing here that reads films.
    """
    if not path.exists():
        raise InputError(str(path), "there is no such film.", "It may have been moved: say where it is now.")
    if not path.is_file():
        # A pipe would be waited for without end.
        raise _no_film(path)
    try:
        import av
    except ImportError as error:
        raise InputError(
            str(path), "nothing here reads films.", "Install the Python package 'av'; everything else works without."
        ) from error
    try:
        container = av.open(str(path))
    except (av.FFmpegError, OSError) as error:
        raise _no_film(path) from error
    if (
        _is_picture(container.format.name)
        or not container.streams.video
        or not container.streams.video[0].codec_context.width
    ):
        container.close()
        raise _no_film(path)
    return container


def _is_picture(kind: str) -> bool:
    """Whether a container is a still picture, by the name that the reader gives its kind."""
    return kind.endswith("_pipe") or kind.startswith("image2")


def _no_film(path: Path) -> InputError:
    return InputError(path.name, "it is no film that can be read.", "Use MP4, MOV, MKV or AVI as cameras write them.")
