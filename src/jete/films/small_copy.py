"""Small copies of large films: made once, so that they can be moved through as fast as a lap.

A film of 4K takes longer to decode than to watch. Its copy has at most 720 rows, a key frame
every half second (so that any place is near one), no sound, and each frame's own time.
"""

from __future__ import annotations

import hashlib
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

from platformdirs import user_cache_path

from jete.films.reader import FilmFacts, open_film

if TYPE_CHECKING:
    from collections.abc import Callable

LARGEST_ROWS = 720
# Room above what is called 720 rows: some cameras write 736.
ROOM_ROWS = 16
KEY_S = 0.5


def is_large(facts: FilmFacts) -> bool:
    """Whether a film is too large to be moved through as it is."""
    return facts.height > LARGEST_ROWS + ROOM_ROWS


def copy_of(path: Path) -> Path:
    """Where the small copy of a film is kept; another one if the film was changed."""
    stat = path.stat()
    name = hashlib.sha256(f"{path.resolve()}\n{stat.st_size}\n{stat.st_mtime_ns}".encode()).hexdigest()[:24]
    return Path(user_cache_path("jete", appauthor=False)) / "films" / f"{name}.mp4"


def make_copy(path: Path, told: Callable[[float], None], cancelled: Callable[[], bool]) -> Path:
    """Make the small copy of a film, unless it is there; returns where it is.

    Args:
        path: of the film.
        told: called with the share that is done, 0 to 1.
        cancelled: asked whether to stop; what was made so far is thrown away.

    Raises:
        InputError: no film that can be read.
        InterruptedError: it was asked to stop.
    """
    target = copy_of(path)
    if target.exists():
        return target
    target.parent.mkdir(parents=True, exist_ok=True)
    part = target.with_suffix(".part")
    try:
        _write(path, part, told, cancelled)
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)
    return target


def _write(path: Path, part: Path, told: Callable[[float], None], cancelled: Callable[[], bool]) -> None:
    import av

    with open_film(path) as source, av.open(str(part), "w", format="mp4") as out:
        video = source.streams.video[0]
        video.thread_type = "AUTO"
        rate = video.average_rate or Fraction(25)
        rows = LARGEST_ROWS
        columns = 2 * round(0.5 * video.width * rows / video.height)
        stream = out.add_stream("libx264", rate=rate, options={"preset": "ultrafast", "crf": "23"})
        stream.width, stream.height, stream.pix_fmt = columns, rows, "yuv420p"
        stream.gop_size = max(round(KEY_S * float(rate)), 1)
        stream.codec_context.time_base = video.time_base
        length = float((video.duration or 0) * (video.time_base or 0)) or (source.duration or 0) / 1e6 or 1.0
        first = None
        for frame in source.decode(video):
            if cancelled():
                raise InterruptedError
            first = frame.pts if first is None else first
            small = frame.reformat(width=columns, height=rows, format="yuv420p")
            small.pts, small.time_base = frame.pts - first, video.time_base
            small.pict_type = 0
            out.mux(stream.encode(small))
            told(min(float((frame.pts - first) * video.time_base) / length, 1.0))
        out.mux(stream.encode(None))
