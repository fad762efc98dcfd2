"""Films in words: whether one is there, how it is tied, where one is in it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.report.words import MINUS

if TYPE_CHECKING:
    from jete.core.walk.film_match import Match
    from jete.library.film_book import FilmRecord

# A rate nearer to one than this is a clock that runs as the log's.
SAME_RATE = 2e-5


def film_time(film_s: float) -> str:
    """A time in a film, to the hundredth.

    >>> film_time(83.456), film_time(-0.5)
    ('1:23.46', '−0:00.50')
    """
    hundredths = round(abs(film_s) * 100.0)
    sign = MINUS if film_s < 0.0 and hundredths else ""
    minutes, rest = divmod(hundredths, 6000)
    return f"{sign}{minutes}:{rest // 100:02d}.{rest % 100:02d}"


def tied_words(film: FilmRecord) -> str:
    """How a film is tied to the data.

    >>> from jete.core.walk.film import Tie
    >>> from jete.library.film_book import FilmRecord
    >>> film = FilmRecord(1, "/in-car.mp4", 10, 95.0, 0.04)
    >>> tied_words(film)
    'not tied yet: find a place in the film, go there on the ribbon too, then “It shows this place”'
    >>> tied_words(FilmRecord(1, "/in-car.mp4", 10, 95.0, 0.04, (Tie(1.0, 10.0),)))
    'tied at one place; a second makes it surer'
    >>> tied_words(FilmRecord(1, "/in-car.mp4", 10, 95.0, 0.04, (Tie(1.0, 10.0), Tie(61.06, 70.0))))
    'tied at two places, runs 0.10 % fast'
    """
    clock = film.clock
    if clock is None:
        return "not tied yet: find a place in the film, go there on the ribbon too, then “It shows this place”"
    if len(film.ties) == 1:
        return "tied at one place; a second makes it surer"
    off = clock.rate - 1.0
    if abs(off) < SAME_RATE:
        return "tied at two places, runs as the log"
    return f"tied at two places, runs {100.0 * abs(off):.2f} % {'fast' if off > 0.0 else 'slow'}"


def found_words(match: Match | None) -> str:
    """What came of seeking a film by its motion.

    >>> from jete.core.walk.film import Tie
    >>> from jete.core.walk.film_match import Match
    >>> found_words(Match(Tie(57.5, 433.4), 0.70, 0.22))
    'Found by the picture’s motion: fits at 0.70 (the next best place at 0.22). Tune it by frames.'
    >>> found_words(Match(Tie(57.5, 433.4), 0.31, 0.28))
    'Not sure: the best place fits at 0.31, the next at 0.28. Tie it by hand.'
    """
    if match is None:
        return "The film and the log have too little in common to be sought by motion. Tie it by hand."
    next_fit = max(match.next_fit, 0.0)
    if match.sure:
        return f"Found by the picture’s motion: fits at {match.fit:.2f} (the next best place at {next_fit:.2f}). Tune it by frames."
    return f"Not sure: the best place fits at {match.fit:.2f}, the next at {next_fit:.2f}. Tie it by hand."


def gone_words(film: FilmRecord) -> str:
    """A film that is not where it was."""
    return f"The film {film.file.name} is not in {film.file.parent} any more. The run is whole without it."
