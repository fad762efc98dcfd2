"""Reads one film in a thread of its own: the last picture that was asked for is the one that comes."""

from __future__ import annotations

import threading
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtGui import QImage

if TYPE_CHECKING:
    from pathlib import Path

    from jete.films.reader import Film, Frame

    Wish = tuple[float, int, tuple[int, int]]


class FilmDecoder(QObject):
    """Hands over pictures as they are ready: the image, from when to when it is seen, seconds of the film."""

    came = pyqtSignal(object, float, float)
    failed = pyqtSignal(object)
    _ready = pyqtSignal(object, float, float)
    _broken = pyqtSignal(object)

    def __init__(self, path: Path) -> None:
        super().__init__()
        self._path = path
        self._wish: Wish | None = None
        self._ended = False
        self._turn = threading.Condition()
        self._ready.connect(self.came, type=Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]
        self._broken.connect(self.failed, type=Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]
        self._thread = threading.Thread(target=self._work, name=f"film {path.name}", daemon=True)
        self._thread.start()

    def ask(self, film_s: float, size: tuple[int, int], frames: int = 0) -> None:
        """Ask for what is seen at a time, or so many frames after it, to fit into a size; earlier wishes are forgotten."""
        with self._turn:
            self._wish = (film_s, frames, size)
            self._turn.notify()

    def close(self) -> None:
        """Stop, and wait for the thread."""
        with self._turn:
            self._ended = True
            self._turn.notify()
        self._thread.join()

    def _next_wish(self) -> Wish | None:
        with self._turn:
            while self._wish is None and not self._ended:
                self._turn.wait()
            wish, self._wish = self._wish, None
            return None if self._ended else wish

    def _work(self) -> None:
        film: Film | None = None
        try:
            from jete.films.reader import Film

            film = Film(self._path)
            while (wish := self._next_wish()) is not None:
                self._show(film, wish)
        except Exception as error:  # noqa: BLE001 - told on the window's thread
            self._broken.emit(error)
        finally:
            if film is not None:
                film.close()

    def _show(self, film: Film, wish: Wish) -> None:
        film_s, frames, room = wish
        at = film.step(film_s, frames) if frames else film_s
        frame = film.frame(at, _fitted((film.facts.width, film.facts.height), room))
        if frame is not None:
            self._ready.emit(image_of(frame), frame.film_s, frame.until_s)


def _fitted(size: tuple[int, int], room: tuple[int, int]) -> tuple[int, int]:
    """The largest even size of the same shape that fits, no larger than the film's own.

    >>> _fitted((1280, 720), (500, 500)), _fitted((640, 480), (2000, 2000))
    ((500, 280), (640, 480))
    """
    share = min(room[0] / size[0], room[1] / size[1], 1.0)
    return max(int(size[0] * share) // 2 * 2, 16), max(int(size[1] * share) // 2 * 2, 16)


def image_of(frame: Frame) -> QImage:
    """A frame as an image of its own."""
    height, width = frame.pixels.shape[:2]
    whole = QImage(frame.pixels.tobytes(), width, height, 4 * width, QImage.Format.Format_RGB32)
    return whole.copy()
