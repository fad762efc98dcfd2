"""A film's clock against a log's: tied where the same moment is seen in both.

One tie trusts the film to run as fast as the log; two give its rate as well. A camera's clock
is good to a few parts in ten thousand, and films that are counted at 30 a second but taken at
29.97 are off by one in a thousand; a rate far from that is two places that do not belong together.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from jete.core.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Sequence

# No camera's clock is off by more.
MOST_RATE = 0.01
# Two places nearer than this are one: a frame's error between them would pass for a rate.
APART_S = 10.0


@dataclass(frozen=True)
class Tie:
    """The same moment by the film's clock and by the log's, seconds each."""

    film_s: float
    log_s: float


@dataclass(frozen=True)
class FilmClock:
    """``film_s = at.film_s + rate · (log_s − at.log_s)``; ``rate`` is seconds of film for one of the log."""

    at: Tie
    rate: float = 1.0

    def film_s(self, log_s: float) -> float:
        """What the film shows at a time of the log, seconds from the film's beginning."""
        return self.at.film_s + self.rate * (log_s - self.at.log_s)

    def log_s(self, film_s: float) -> float:
        """The time of the log at which something in the film happened."""
        return self.at.log_s + (film_s - self.at.film_s) / self.rate


def clock_of(ties: Sequence[Tie]) -> FilmClock | None:
    """The clock that one or two ties make; None without any.

    Raises:
        InputError: two ties that give a rate that no camera has.

    >>> clock = clock_of([Tie(10.0, 100.0), Tie(70.06, 160.0)])
    >>> round(clock.rate, 4), round(clock.film_s(130.0), 2), round(clock.log_s(40.03), 2)
    (1.001, 40.03, 130.0)
    """
    if not ties:
        return None
    first, last = ties[0], ties[-1]
    apart_s = last.log_s - first.log_s
    if abs(apart_s) < APART_S:
        return FilmClock(last)
    rate = (last.film_s - first.film_s) / apart_s
    if abs(rate - 1.0) > MOST_RATE:
        raise InputError(
            "The film",
            f"the two places are {abs(last.film_s - first.film_s):.1f} s apart in the film and {abs(apart_s):.1f} s in the log.",
            "One of them is of another lap: find the place again, or tie the film at one place only.",
        )
    return FilmClock(first, rate)


def tied(ties: Sequence[Tie], new: Tie) -> tuple[Tie, ...]:
    """Ties with a new one: beside an earlier one that is far enough away, else in its place; two at most.

    Raises:
        InputError: with it the film would run at a rate that no camera has.

    >>> tied([Tie(1.0, 10.0), Tie(61.0, 70.0)], Tie(59.1, 68.0))
    (Tie(film_s=1.0, log_s=10.0), Tie(film_s=59.1, log_s=68.0))
    """
    near = min(ties, key=lambda t: abs(t.log_s - new.log_s), default=None)
    kept = [t for t in ties if t is not near]
    if near is not None and not kept and abs(near.log_s - new.log_s) >= APART_S:
        kept = [near]
    out = tuple(sorted([*kept, new], key=lambda t: t.log_s))
    clock_of(out)
    return out


def shifted(ties: Sequence[Tie], film_s: float) -> tuple[Tie, ...]:
    """Ties after the film was moved against the log by a little, as by a frame."""
    return tuple(replace(t, film_s=t.film_s + film_s) for t in ties)
