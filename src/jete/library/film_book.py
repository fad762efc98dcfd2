"""The films of a library's runs: where their files are, and how they are tied to the data."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from jete.core.walk.film import FilmClock, Tie, clock_of
from jete.library import models

if TYPE_CHECKING:
    from jete.library.storage import Storage


@dataclass(frozen=True)
class FilmRecord:
    """The film of a run: bytes and seconds it had when it was added, by which it is known again where it was moved."""

    run: int
    path: str
    size: int
    duration_s: float
    frame_s: float
    ties: tuple[Tie, ...] = ()

    @property
    def file(self) -> Path:
        """Where it was last."""
        return Path(self.path)

    @property
    def clock(self) -> FilmClock | None:
        """Its clock against the log's; None where it is not tied."""
        return clock_of(self.ties)


class FilmBook:
    """Keeps which film belongs to which run; may be asked from any thread."""

    def __init__(self, storage: Storage) -> None:
        self._storage = storage

    def of_run(self, run: int) -> FilmRecord | None:
        """The film of a run, None without one."""
        with self._storage.reading() as session:
            row = session.get(models.Film, run)
            if row is None:
                return None
            ties = tuple(Tie(float(film), float(log)) for film, log in row.ties)
            return FilmRecord(run, row.path, row.size, row.duration_s, row.frame_s, ties)

    def write(self, run: int, film: FilmRecord | None) -> None:
        """Keep the film of a run, or none."""
        with self._storage.writing() as session:
            if film is None:
                row = session.get(models.Film, run)
                if row is not None:
                    session.delete(row)
                return
            ties = [[t.film_s, t.log_s] for t in film.ties]
            session.merge(models.Film(
                run_id=run, path=film.path, size=film.size, duration_s=film.duration_s, frame_s=film.frame_s, ties=ties
            ))  # fmt: skip
