"""How a film's picture moves sideways over time: what the horizon does as the vehicle turns.

Each picture is taken small and grey; in a band of it the mean over each column is a line of brightness, and how far that
line has moved since the picture before is where their cross-correlation is greatest.  What stands near rushes by below;
far things move as the camera turns, so several bands are followed, and who matches them finds the one that shows far things.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.films.reader import open_film

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from av.video.frame import VideoFrame

    from jete.core.arrays import FloatArray

EVERY_S = 0.1
WIDTH, HEIGHT = 192, 108
# Bands of rows, as shares of the height: how a camera is tipped nobody knows. And the most that they move between two pictures.
BANDS, MOST_PX = ((0.0, 0.22), (0.12, 0.34), (0.24, 0.46), (0.36, 0.58)), 48


def turning_of(
    path: Path, told: Callable[[float], None], cancelled: Callable[[], bool]
) -> tuple[FloatArray, FloatArray]:
    """Seconds from the film's beginning (n,), and how fast each band moves to the right, pixels of a small picture a second, (b, n).

    Args:
        path: of the film, or of its small copy.
        told: called with the share that is done, 0 to 1.
        cancelled: asked whether to stop.

    Raises:
        InputError: no film that can be read.
        InterruptedError: it was asked to stop.
    """
    times: list[float] = []
    moves: list[list[float]] = []
    with open_film(path) as film:
        video = film.streams.video[0]
        video.thread_type = "AUTO"
        length = float((video.duration or 0) * (video.time_base or 0)) or (film.duration or 0) / 1e6 or 1.0
        first, last_s = None, -1.0
        lines: list[FloatArray] = []
        for frame in film.decode(video):
            if cancelled():
                raise InterruptedError
            at = float(frame.time or 0.0)
            first = at if first is None else first
            if at - first - last_s < EVERY_S - 1e-3:
                continue
            new = _lines(frame)
            if lines:
                times.append(0.5 * (at - first + last_s))
                moves.append([_moved(a, b) / max(at - first - last_s, 1e-3) for a, b in zip(lines, new, strict=True)])
            lines, last_s = new, at - first
            told(min(last_s / length, 1.0))
    return np.array(times), np.array(moves).reshape(len(times), len(BANDS)).T


def _lines(frame: VideoFrame) -> list[FloatArray]:
    """How brightness changes over the columns in each band, (WIDTH,) each: edges, since a cloud or the exposure changes the rest."""
    grey = np.asarray(frame.reformat(width=WIDTH, height=HEIGHT, format="gray8").to_ndarray(), dtype=float)
    rows = [slice(round(a * HEIGHT), round(b * HEIGHT)) for a, b in BANDS]
    return [np.gradient(grey[r, :WIDTH].mean(axis=0)) for r in rows]


def _moved(before: FloatArray, after: FloatArray) -> float:
    """How far a line has moved to the right, pixels."""
    pad = 2 * WIDTH
    both = np.fft.irfft(np.conj(np.fft.rfft(before, pad)) * np.fft.rfft(after, pad), pad)
    near = np.concatenate([both[-MOST_PX:], both[: MOST_PX + 1]])
    k = int(np.argmax(near))
    if not 0 < k < len(near) - 1:
        return 0.0
    a, b, c = near[k - 1 : k + 2].tolist()
    bend = a - 2.0 * b + c
    return k - MOST_PX + (0.5 * (a - c) / bend if bend < 0.0 else 0.0)
