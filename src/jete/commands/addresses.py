"""Laps by their addresses: ``FILE``, ``FILE:N``, ``library:RUN`` and ``library:RUN:N``."""

from __future__ import annotations

import re
from math import radians
from pathlib import Path
from typing import TYPE_CHECKING

from jete.core.errors import InputError

if TYPE_CHECKING:
    import argparse
    from collections.abc import Sequence

    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.log.lap import Lap, LapSpan, Log
    from jete.core.motion.one_line import LineSource
    from jete.desk.guide import Made
    from jete.library.library import Library
    from jete.library.records import RunRecord
    from jete.notes.sheet import RunSheet

LIBRARY, IDEAL = "library:", ":ideal"
# What a database takes for a number too.
_NUMBER = re.compile(r"-?[0-9]{1,15}", re.ASCII)


class Logs:
    """The logs of one command: each is read once, and one start line serves all."""

    def __init__(self, line: str | None, args: argparse.Namespace | None = None) -> None:
        self._given, self._args = line, args
        self._library: Library | None = None
        self._line: LineSource | None = None
        self._logs: dict[str, Log] = {}
        self._read: dict[str, tuple[Log, tuple[LapSpan, ...]]] = {}

    def settle(self, reference: str, laps: Sequence[str]) -> None:
        """Choose the line that serves all: the reference's, or, where that is only a guess, the one at which a lap's log tells its laps."""
        from jete.core.motion.borders import better_line, line_of

        others = [_address(text)[0] for text in laps if not text.startswith(LIBRARY)]
        if self._given is not None or reference.startswith(LIBRARY) or not others:
            return
        line = line_of(self._log(_address(reference)[0]))
        better = (better_line(self._log(name), line) for name in dict.fromkeys(others) if line.guessed)
        self._line = next((b for b in better if b is not None), line)

    def lap(self, text: str) -> Lap:
        """The lap that ``FILE``, ``FILE:N``, ``library:RUN`` or ``library:RUN:N`` names."""
        from jete.core.log.lap import Lap, fastest

        if text.startswith(LIBRARY):
            return self._kept(text)
        name, number = _address(text)
        log, spans = self._spans(name)
        self._refuse_elsewhere(log, spans, number)
        return Lap(log, fastest(spans, log.source) if number is None else _numbered(spans, number, log.source))

    def laps(self, text: str, reference: Lap) -> list[Lap]:
        """All complete laps of ``FILE`` but the reference itself; the one that ``FILE:N`` names."""
        from jete.core.log.lap import Lap

        if text.startswith(LIBRARY):
            return self._all_kept(text, reference)
        name, number = _address(text)
        if number is not None:
            return [self.lap(text)]
        log, spans = self._spans(name)
        self._refuse_elsewhere(log, spans, None)
        found = [Lap(log, s) for s in spans if s.complete and not (log is reference.log and s == reference.span)]
        if not found:
            raise InputError(log.source, "it has no complete lap besides the reference.", "Name a lap as FILE:N.")
        return found

    def _kept(self, text: str) -> Lap:
        """The lap of the library that ``library:RUN`` (its fastest), ``library:RUN:N`` or ``library:RUN:ideal`` names."""
        if text.endswith(IDEAL):
            from jete.desk.alone import joined_lap, run_alone

            whole = self._run(text.removesuffix(IDEAL))[0]
            alone = run_alone(self._opened(), whole, lambda n: self._opened().lap(whole, n))
            return joined_lap(alone, whole)
        run, number = self._run(text)
        return self._opened().lap(run, number if number is not None else _fastest(run, text))

    def _all_kept(self, text: str, reference: Lap) -> list[Lap]:
        """The laps of ``library:RUN`` that count, but the reference; the one that ``library:RUN:N`` names."""
        run, number = self._run(text)
        if number is not None:
            return [self._kept(text)]
        laps = [self._opened().lap(run, s.number) for s in run.counted]
        return [lap for lap in laps if not (lap.span == reference.span and lap.log.source == reference.log.source)]

    def circuit(self, text: str, reference: Lap) -> CircuitOnAxis | None:
        """The circuit of a lap of the library, on its axis; None for a file: it decides itself."""
        if not text.startswith(LIBRARY):
            return None
        return self._opened().circuits.circuit_on(self._run(text.removesuffix(IDEAL))[0].id, reference)

    def guide(self, text: str, *, middle: bool = False) -> Made:
        """The guide of a lap, or of the middle of the good laps around it; of the library it knows those and the circuit."""
        from jete.desk.guide import guide_in, guide_of

        lap = self.lap(text)
        if not text.startswith(LIBRARY):
            return guide_of(lap)
        return guide_in(self._opened(), self._run(text.removesuffix(IDEAL))[0].id, lap, middle=middle)

    def sheet(self, text: str) -> RunSheet | None:
        """What is noted of the run of the library that a text names; None for a file."""
        return self._run(text.removesuffix(IDEAL))[0].sheet if text.startswith(LIBRARY) else None

    def address(self, text: str) -> tuple[int, int]:
        """Run and lap of the library that a text names; the run's fastest lap where it names none."""
        run, number = self._run(text)
        return run.id, number if number is not None else _fastest(run, text)

    def _run(self, text: str) -> tuple[RunRecord, int | None]:
        parts = text.removeprefix(LIBRARY).split(":")
        if not _NUMBER.fullmatch(parts[0]) or not all(map(_NUMBER.fullmatch, parts)) or len(parts) > 2:
            raise InputError(
                text, "this names no lap of the library.", "Write library:RUN, library:RUN:LAP or library:RUN:ideal."
            )
        return self._opened().run(int(parts[0])), int(parts[1]) if len(parts) > 1 else None

    def _opened(self) -> Library:
        from jete.commands.place import library_at, location_of

        self._library = self._library or library_at(location_of(self._args), read_only=True)
        return self._library

    @property
    def timed_at(self) -> str:
        """Whose start line the laps of all files are timed at, in words; empty where each lap tells for itself."""
        if self._line is None or self._line.line is None or len(self._read) < 2:
            return ""
        return (
            "the given line"
            if self._given is not None
            else f"the start line of {next(iter(self._read.values()))[0].source}"
        )

    def _refuse_elsewhere(self, log: Log, spans: tuple[LapSpan, ...], number: int | None) -> None:
        """Say that a log was driven the other way round, or elsewhere, where the line that serves all leaves it no such lap.

        Raises:
            InputError: so it was.
        """
        from jete.core.motion.elsewhere import driven_elsewhere

        known = number in {s.number for s in spans} if number is not None else any(s.complete for s in spans)
        why = None if known or self._line is None else driven_elsewhere(log, self._line)
        if why is not None:
            mend = "Choose laps of one circuit, driven the same way round."
            raise InputError(
                log.source, f"it does not belong to the reference's circuit, layout or direction: {why}.", mend
            )

    def _log(self, name: str) -> Log:
        if name not in self._logs:
            self._logs[name] = read(name)
        return self._logs[name]

    def _spans(self, name: str) -> tuple[Log, tuple[LapSpan, ...]]:
        from jete.core.motion.beacons import told_line
        from jete.core.motion.borders import line_of
        from jete.core.motion.split import split

        if name not in self._read:
            log = self._log(name)
            self._line = self._line or given_line(self._given, log) or line_of(log)
            log = told_line(log, self._line)
            self._read[name] = log, split(log, self._line)
        return self._read[name]


def _address(text: str) -> tuple[str, int | None]:
    """File and lap number of ``FILE`` or ``FILE:N``."""
    name, colon, number = text.rpartition(":")
    if colon and _NUMBER.fullmatch(number) and not _exists(text):
        return name, int(number)
    return text, None


def _fastest(run: RunRecord, text: str) -> int:
    """The number of a run's fastest lap that counts; of all complete ones where none does."""
    from jete.core.log.lap import fastest

    return fastest(run.counted or run.laps, text).number


def _exists(name: str) -> bool:
    try:
        return Path(name).exists()
    except (OSError, ValueError):
        return False


def _numbered(spans: tuple[LapSpan, ...], number: int, source: str) -> LapSpan:
    found = [s for s in spans if s.number == number]
    if not found:
        known = ", ".join(str(s.number) for s in spans)
        raise InputError(source, f"there is no lap {number}.", f"It has the laps {known}.")
    return found[0]


def read(name: str) -> Log:
    """A log by the name of its file."""
    from jete.formats.reader import read_log

    return read_log(Path(name))


def given_line(text: str | None, log: Log) -> LineSource | None:
    """The line of ``--line`` on the plane of a log."""
    import numpy as np

    from jete.core.log.plane import StartLine, origin_of
    from jete.core.motion.one_line import LineSource

    if text is None:
        return None
    try:
        a, b, heading = (float(part) for part in text.split(","))
    except ValueError:
        raise InputError("--line", f"'{text}' is not three numbers.", "Write X,Y,HEADING or LAT,LON,HEADING.") from None
    origin = origin_of(log)
    if origin is None:
        raise InputError(log.source, "--line needs a log with positions.", "Leave it out.")
    if origin.latitude_deg is not None:
        east, north = origin.to_plane(np.array([a]), np.array([b]))
        a, b = float(east[0]), float(north[0])
    return LineSource(origin, StartLine(a, b, radians(90.0 - heading)))
