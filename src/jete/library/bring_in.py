"""From a file to a run of the library: read, split at the circuit's line, note what is known."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime
from typing import TYPE_CHECKING

from jete.core.errors import InputError
from jete.core.sheet import RunSheet, with_value
from jete.core.split import line_of, split
from jete.core.start_line import proposed_line
from jete.formats.reader import read_log, refuse_no_file, telling_of
from jete.formats.watched import UNWATCHED, Watch
from jete.library.circuits import passes
from jete.library.files import digest_of

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence
    from pathlib import Path

    from jete.core.split import LineSource
    from jete.formats.mapping import ColumnMap
    from jete.library.library import Library

# What reading takes of bringing in; the rest is writing it down.
READING_SHARE = 0.6


@dataclass(frozen=True)
class BroughtIn:
    """What became of a file: the run's number, whether its content was known, and the line it was split at."""

    run: int
    known: bool
    line: LineSource | None = None


def bring_in(
    library: Library,
    path: Path,
    given: Mapping[str, str] | None = None,
    watch: Watch = UNWATCHED,
    maps: Sequence[ColumnMap] = (),
    line: LineSource | None = None,
) -> BroughtIn:
    """Bring a log file into the library.

    Args:
        library: to bring it into.
        path: of the file; it is read, never changed.
        given: fields of the sheet that are known, as typed; the others come from the last run.
        watch: told how far it is, and asked whether it is to go on.
        maps: what the columns are, before those that the library remembers.
        line: start line of the logs before on a plane without a place on earth, used if this one passes it.

    Raises:
        InputError: a file that can't be used.
        InterruptedError: it was cancelled; nothing was brought in.
    """
    given = given or {}
    _with_values(RunSheet(), given)
    with telling_of(path):
        refuse_no_file(path)
        digest = digest_of(path)
    number = library.known(digest)
    if number is not None and library.holds_recording(number):
        return _known(library, number, given)
    log = read_log(path, watch.part(0.0, READING_SHARE), [*maps, *library.column_maps()])
    if number is not None:
        library.store_again(number, log)
        return _known(library, number, given)
    found = library.circuit_of(log)
    shared = line if line is not None and "x" in log.channels and passes(log, line) else None
    line = found[2] if found else shared or line_of(log)
    spans = split(log, line)
    if found is None and shared is None and not any(s.complete for s in spans):
        proposed = proposed_line(log)
        line, spans = (proposed, split(log, proposed)) if proposed else (line, spans)
    if not spans:
        raise InputError(path.name, "it holds no lap.", "Export the whole log again.")
    watch.step(READING_SHARE)
    at = (found[0], found[1]) if found else None
    sheet = _with_values(_stamped(library.next_sheet(at, placed="latitude" in log.channels), path), given)
    run, known = library.add_or_find(log, spans, digest, sheet, path=str(path.resolve()), line=line)
    return BroughtIn(run, known, line)


def _known(library: Library, number: int, given: Mapping[str, str]) -> BroughtIn:
    """A run that was there already: out of the bin again, with what is given noted."""
    library.restore(number)
    if given:
        library.note_run(number, _with_values(library.run(number).sheet, given))
    return BroughtIn(number, known=True)


def _with_values(sheet: RunSheet, given: Mapping[str, str]) -> RunSheet:
    """The sheet with what was typed; refused before anything is read."""
    for name, text in given.items():
        sheet = with_value(sheet, name, text)
    return sheet


def _stamped(sheet: RunSheet, path: Path) -> RunSheet:
    """Date and time of the file, until a person says otherwise."""
    made = datetime.fromtimestamp(path.stat().st_mtime).astimezone()
    return replace(sheet, date=made.strftime("%Y-%m-%d"), time=made.strftime("%H:%M"))
