"""Logs and laps: channels with their own time stamps, in inside units, never resampled."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Literal

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.errors import InputError
from jete.core.log.once import once_a_lap

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping

# Of fewer positions no path can be told.
FEWEST_FIXES = 20


@dataclass(frozen=True, eq=False)
class Channel:
    """Samples of one quantity: ``time_s`` (n,) strictly increasing, ``value`` (n,), finite.

    ``unit`` is what the log said (for display); values are in the inside unit.
    """

    name: str
    unit: str
    time_s: FloatArray
    value: FloatArray

    def __len__(self) -> int:
        return len(self.time_s)

    def between(self, start_s: float, end_s: float) -> Channel:
        """The samples from ``start_s`` to ``end_s``, with one more on either side."""
        lo = max(int(np.searchsorted(self.time_s, start_s, side="right")) - 1, 0)
        hi = min(int(np.searchsorted(self.time_s, end_s, side="left")) + 1, len(self.time_s))
        return Channel(self.name, self.unit, self.time_s[lo:hi], self.value[lo:hi])

    def at(self, time_s: FloatArray) -> FloatArray:
        """Linear interpolation at ``time_s`` (any shape); beyond the ends the end values."""
        return np.interp(time_s, self.time_s, self.value)


@dataclass(frozen=True)
class Repair:
    """One mend: which channel, what was wrong, how many samples it touched."""

    channel: str
    what: str
    count: int


@dataclass(frozen=True)
class PositionsMade:
    """How the positions of a log were made: what a logger wrote between two fixes, and how late they came."""

    filled: Literal["none", "linear", "cubic", "smoothed"] = "none"
    lag_s: float = 0.0


@dataclass(frozen=True)
class Torn:
    """A stretch of a log, by its clock, that says nothing of driving, and why."""

    start_s: float
    end_s: float
    what: str

    def reaches_into(self, start_s: float, end_s: float) -> bool:
        """Whether it shares some time with a stretch."""
        return self.start_s < end_s and self.end_s > start_s


@dataclass(frozen=True, eq=False, kw_only=True)
class Log:
    """One recording: its name, its channels by canonical name, and what was mended; ``started_s`` is when it began, seconds since 1970 UTC, where it says so."""

    source: str
    channels: Mapping[str, Channel]
    repairs: tuple[Repair, ...] = ()
    notes: tuple[str, ...] = ()
    positions: PositionsMade = PositionsMade()
    started_s: float | None = None
    torn: tuple[Torn, ...] = ()

    def get(self, name: str) -> Channel | None:
        """The channel, or None."""
        return self.channels.get(name)

    def has_position(self) -> bool:
        """Whether the log knows where it is (degrees or a local plane), often enough for a path."""
        pairs = (("x", "y"), ("latitude", "longitude"))
        return any(min(len(self.channels.get(n, ())) for n in pair) >= FEWEST_FIXES for pair in pairs)

    def span_s(self) -> tuple[float, float]:
        """First and last time of the row clock."""
        clock = self.channels["time"].time_s
        return float(clock[0]), float(clock[-1])


@dataclass(frozen=True)
class LapSpan:
    """Where one lap lies in its log; times on the log's clock, crossings interpolated.

    ``why`` says why a lap is not complete, None for a complete one.
    """

    number: int
    start_s: float
    end_s: float
    length_m: float
    complete: bool
    why: str | None = None

    @property
    def time_s(self) -> float:
        """Lap time, seconds."""
        return self.end_s - self.start_s


@dataclass(frozen=True, eq=False)
class Lap:
    """One lap of one log, and who drove it where that is known.

    ``kept`` is what was worked out of it (:mod:`jete.core.log.once`); a copy of the lap begins without.
    """

    log: Log
    span: LapSpan
    driver: str = ""
    kept: dict[object, object] = field(default_factory=dict, init=False, repr=False)

    @property
    def label(self) -> str:
        """File and lap number, as the command line writes it, behind the driver where that is known."""
        name = f"{self.log.source}:{self.span.number}"
        return f"{self.driver}, {name}" if self.driver else name

    @property
    def called(self) -> str:
        """File and lap number, as messages name it."""
        return f"{self.log.source}, lap {self.span.number}"

    def __getstate__(self) -> dict[str, object]:
        return {**vars(self), "kept": {}}

    @once_a_lap
    def get(self, name: str) -> Channel | None:
        """The channel cut to the lap with time from the start of the lap, or None."""
        whole = self.log.get(name)
        if whole is None:
            return None
        part = whole.between(self.span.start_s, self.span.end_s)
        return Channel(name, part.unit, part.time_s - self.span.start_s, part.value)


# What stands before the reason of a lap that goes from line to line, but whose log is torn.
DOUBTFUL = "doubtful"


def best_of(spans: Iterable[LapSpan]) -> LapSpan | None:
    """The fastest complete lap, None without one."""
    return min((s for s in spans if s.complete), key=lambda s: s.time_s, default=None)


def fastest(spans: tuple[LapSpan, ...], source: str) -> LapSpan:
    """The fastest complete lap.

    Raises:
        InputError: where no lap is complete.
    """
    doubtful = (s for s in spans if s.why is not None and s.why.startswith(DOUBTFUL))
    # One that is doubtful is never chosen before another, but better than none.
    best = best_of(spans) or min(doubtful, key=lambda s: s.time_s, default=None)
    if best is None:
        reasons = dict.fromkeys(s.why or "" for s in spans)
        alike = {why: [str(s.number) for s in spans if s.why == why] for why in reasons}
        why = (
            "; ".join(f"lap{'s' if len(n) > 1 else ''} {', '.join(n)}: {w}" for w, n in alike.items()) or "it is empty"
        )
        raise InputError(
            source,
            f"no complete lap in this log ({why}).",
            "Log from line to line, or name a lap by its number, as FILE:N.",
        )
    return best
