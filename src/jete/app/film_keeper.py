"""The films of the compared laps' runs: which they are, how they are tied to the data, and their pictures' readers."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal

from jete.app.film_decoder import FilmDecoder, image_of
from jete.app.follower import Follower
from jete.app.pages import shown_on
from jete.core.errors import InputError
from jete.core.walk.film import Tie, shifted, tied
from jete.report.films import film_time, found_words
from jete.session.state import IDEAL, Changed, Session

if TYPE_CHECKING:
    from collections.abc import Callable

    from PyQt6.QtGui import QImage

    from jete.app.player import Player
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks, Token
    from jete.core.walk.course import Who
    from jete.core.walk.film_match import Match
    from jete.library.film_book import FilmRecord
    from jete.library.library import Library

ADDING, COPYING, STILL, SEEKING = "looking into a film", "making a small copy", "a still of the film", "seeking a film"
READING_FILMS = "reading which films there are"
SIDES: tuple[Who, ...] = ("reference", "lap")
# A film shorter than so many laps is of one, and sought in the lap it is shown with: the others look alike.
ONE_LAP = 1.6
# Of a film that was found again: its length may be told a little otherwise by another reader.
SAME_S = 0.5


class FilmKeeper(Follower):
    """Follows the pair; all that is changed of a film can be undone."""

    WORKS = (COPYING, SEEKING, READING_FILMS)
    failed = pyqtSignal(object)
    # A small copy of a large film is being made: whose run, and the share that is done.
    copying = pyqtSignal(int, float)
    # A film is being sought by its motion: whose run, and the share that was looked through.
    seeking = pyqtSignal(int, float)

    def __init__(self, store: SessionStore, tasks: Tasks, shelf: Shelf, player: Player) -> None:
        super().__init__(store, tasks, shelf)
        self._player = player
        self._decoders: dict[Who, tuple[Path, FilmDecoder]] = {}

    def _on_closing(self) -> None:
        super()._on_closing()
        self._close_decoders()

    def _forget(self) -> None:
        self._close_decoders()
        self._store.show(lambda r: replace(r, films=(None, None)), also=Changed.FILM)

    def _close_decoders(self) -> None:
        for _, decoder in self._decoders.values():
            decoder.close()
        self._decoders.clear()

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if flags & (Changed.CHOICE | Changed.RESULT) or (
            Changed.PAGE in flags and session.look.page in shown_on("films")
        ):
            self._show()

    # --- what is there

    def run_of(self, who: Who) -> int | None:
        """The run of one of the compared laps; None without one, and for an ideal lap, which nobody filmed."""
        choice = self._store.session.choice
        key = choice.reference if who == "reference" else choice.lap
        return key.run if key is not None and key.lap != IDEAL else None

    def _show(self) -> None:
        """Read which films there are."""
        if self._shelf.location is None:
            return
        library, runs = self._shelf.library(), [self.run_of(who) for who in SIDES]

        def work(_: Token) -> list[FilmRecord | None]:
            return [library.films.of_run(run) if run is not None else None for run in runs]

        self._tasks.start(READING_FILMS, work, self._on_read, self.failed.emit)

    def _on_read(self, films: list[FilmRecord | None]) -> None:
        found = films[0], films[1]
        if found != self._store.films:
            self._store.show(lambda r: replace(r, films=found), also=Changed.FILM)

    def of(self, who: Who) -> FilmRecord | None:
        """The film of one of the compared laps' runs."""
        return self._store.films[SIDES.index(who)]

    def decoder(self, who: Who) -> FilmDecoder | None:
        """What reads the pictures of a film: of its small copy where it is large; None while there is none."""
        film = self.of(who)
        path = self._readable(film) if film is not None else None
        known = self._decoders.get(who)
        if known is not None and known[0] != path:
            self._decoders.pop(who)[1].close()
        if path is None:
            return None
        if who not in self._decoders:
            self._decoders[who] = (path, FilmDecoder(path))
        return self._decoders[who][1]

    def _readable(self, film: FilmRecord) -> Path | None:
        from jete.films.small_copy import copy_of

        if not film.file.exists():
            return None
        small = copy_of(film.file)
        return small if small.exists() else film.file

    # --- the data's clock and the film's

    def log_s(self, who: Who) -> float | None:
        """The time of the log at which a lap is at the present place."""
        course = self._player.course
        if course is None or self.run_of(who) is None:
            return None
        return course.passage(who).lap.span.start_s + course.time_s(who, self._store.session.look.place_m)

    def film_s(self, who: Who) -> float | None:
        """What its film shows at the present place, seconds; None where it is not tied."""
        film, log_s = self.of(who), self.log_s(who)
        return film.clock.film_s(log_s) if film is not None and film.clock is not None and log_s is not None else None

    def place_m(self, who: Who, film_s: float) -> float | None:
        """Where a lap is at a time of its film; the lap's ends outside it."""
        film, course = self.of(who), self._player.course
        if film is None or film.clock is None or course is None:
            return None
        return course.place_m(who, film.clock.log_s(film_s) - course.passage(who).lap.span.start_s)

    def still(self, who: Who, then: Callable[[QImage, str], None]) -> None:
        """What a film shows at the present place, in its full size, and when in the film that is."""
        film, film_s = self.of(who), self.film_s(who)
        if film is None or film_s is None:
            self.failed.emit(
                InputError("The film", "it is not tied to the data.", "Tie it on the page Walk (Ctrl+4) first.")
            )
            return

        def work(_: Token) -> QImage | None:
            from jete.films.reader import Film

            opened = Film(film.file)
            frame = opened.frame(film_s)
            opened.close()
            return image_of(frame) if frame is not None else None

        when = f"film at {film_time(film_s)}"
        self._tasks.start(STILL, work, lambda image: then(image, when) if image is not None else None, self.failed.emit)

    # --- what is changed

    def add(self, who: Who, path: Path) -> None:
        """Give a run a film; a large one is copied small in the background."""
        run = self.run_of(who)
        if run is None:
            return

        def work(_: Token) -> FilmRecord:
            from jete.films.reader import facts_of
            from jete.library.film_book import FilmRecord

            facts = facts_of(path)
            return FilmRecord(run, str(path.resolve()), facts.size, facts.duration_s, facts.frame_s)

        self._tasks.start(ADDING, work, self._on_looked_into, self.failed.emit)

    def _on_looked_into(self, film: FilmRecord) -> None:
        def known(before: FilmRecord | None) -> FilmRecord:
            return replace(film, ties=before.ties) if before is not None and _same(before, film) else film

        self._do("film of this run", film.run, known)
        self.make_small(film)

    def make_small(self, film: FilmRecord) -> None:
        """Copy a large film small, once."""
        from jete.films.small_copy import copy_of, is_large, make_copy

        def work(token: Token) -> int:
            from jete.films.reader import facts_of

            if is_large(facts_of(film.file)) and not copy_of(film.file).exists():
                make_copy(film.file, lambda share: self.copying.emit(film.run, share), token.cancelled)
            return film.run

        self._tasks.start(COPYING, work, self._on_copied, self.failed.emit)

    def _on_copied(self, run: int) -> None:
        self.copying.emit(run, 1.0)
        self._store.look_at(lambda s: s, also=Changed.FILM)

    def found(self, who: Who, path: Path) -> None:
        """Where a film is that was moved.

        Another film than the one that was tied is refused, since its ties would be wrong.
        """
        film = self.of(who)
        if film is None:
            return

        def work(_: Token) -> FilmRecord:
            from jete.films.reader import facts_of

            facts = facts_of(path)
            there = replace(film, path=str(path.resolve()), size=facts.size, duration_s=facts.duration_s)
            if not _same(film, there):
                raise InputError(
                    path.name,
                    f"it is another film: {facts.duration_s:.1f} s and {facts.size / 1e6:.1f} MB, the one that is missing had "
                    f"{film.duration_s:.1f} s and {film.size / 1e6:.1f} MB.",
                    "Choose the one that was moved, or take the missing one off this run first.",
                )
            return there

        self._tasks.start(ADDING, work, self._on_found, self.failed.emit)

    def _on_found(self, film: FilmRecord) -> None:
        self._do("where the film is", film.run, lambda _: film)

    def tie(self, who: Who, film_s: float) -> bool:
        """What the film shows at a time is at the present place."""
        film, log_s = self.of(who), self.log_s(who)
        if film is None or log_s is None:
            return False
        try:
            ties = tied(film.ties, Tie(film_s, log_s))
        except InputError as error:
            self.failed.emit(error)
            return False
        return self._do("place in the film", film.run, lambda _: replace(film, ties=ties))

    def find(self, who: Who) -> None:
        """Seek by itself where a film belongs, by how its picture and the vehicle turn; tied only where that is sure."""
        film, course = self.of(who), self._player.course
        path = self._readable(film) if film is not None else None
        if film is None or path is None or course is None or self.run_of(who) is None:
            return
        lap = course.passage(who).lap
        yaw, span = lap.log.get("yaw_rate"), lap.span
        if yaw is None:
            self.failed.emit(InputError("The film", "no yaw rate was logged to seek it by.", "Tie it by hand."))
            return
        within = (span.start_s, span.end_s) if film.duration_s < ONE_LAP * span.time_s else None

        def work(token: Token) -> Match | None:
            from jete.core.walk.film_match import matched
            from jete.films.turning import turning_of

            turning = turning_of(path, lambda share: self.seeking.emit(film.run, share), token.cancelled)
            return matched(turning, (yaw.time_s, yaw.value), within)

        self._tasks.start(SEEKING, work, lambda match: self._on_sought(film, match), self._on_not_sought)

    def _on_sought(self, film: FilmRecord, match: Match | None) -> None:
        self.seeking.emit(film.run, 1.0)
        if match is not None and match.sure:
            found = replace(film, ties=(match.tie,))
            self._do("place in the film", film.run, lambda _: found)
        self._shelf.told.emit(found_words(match))

    def _on_not_sought(self, error: Exception) -> None:
        self.seeking.emit(0, 1.0)
        self.failed.emit(error)

    def shift(self, who: Who, frames: int) -> None:
        """Move a tied film against the data by frames: later ones are shown for 1."""
        film = self.of(who)
        if film is not None and film.ties:
            moved = replace(film, ties=shifted(film.ties, frames * film.frame_s))
            self._do("film against the data", film.run, lambda _: moved)

    def loosen(self, who: Who) -> None:
        """Untie a film."""
        film = self.of(who)
        if film is not None and film.ties:
            self._do("places in the film", film.run, lambda _: replace(film, ties=()))

    def take_off(self, who: Who) -> None:
        """Take a film off its run; its file stays."""
        film = self.of(who)
        if film is not None:
            self._do("film of this run", film.run, lambda _: None)

    def _do(self, text: str, run: int, change: Callable[[FilmRecord | None], FilmRecord | None]) -> bool:
        """Change a run's film, from what it is now."""

        def did(films: tuple[FilmRecord | None, FilmRecord | None]) -> None:
            before, after = films
            if before != after:
                self._store.did(
                    text, lambda: self._put(text, run, lambda _: before), lambda: self._put(text, run, lambda _: after)
                )

        return self._put(text, run, change, did)

    def _put(
        self,
        text: str,
        run: int,
        change: Callable[[FilmRecord | None], FilmRecord | None],
        did: Callable[[tuple[FilmRecord | None, FilmRecord | None]], object] = lambda _: None,
    ) -> bool:
        def write(library: Library) -> tuple[FilmRecord | None, FilmRecord | None]:
            before = library.films.of_run(run)
            after = change(before)
            if after != before:
                library.films.write(run, after)
            return before, after

        def then(films: tuple[FilmRecord | None, FilmRecord | None]) -> None:
            now = [films[1] if self.run_of(who) == run else self.of(who) for who in SIDES]
            self._on_read(now)
            did(films)

        return self._shelf.write(f"run {run}, {text}", write, then=then)


def _same(film: FilmRecord, other: FilmRecord) -> bool:
    """Whether a file is a film that was known elsewhere."""
    return film.size == other.size and abs(film.duration_s - other.duration_s) < SAME_S
