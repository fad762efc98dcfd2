"""From a file to a run of the library: read, told by its path where it was driven, noted as far as is known."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import TYPE_CHECKING

from jete.core.errors import InputError
from jete.core.log.lap import Repair
from jete.core.log.plane import origin_of
from jete.core.motion.beacons import told_line
from jete.core.motion.borders import better_line
from jete.core.motion.elsewhere import are_exchanged
from jete.core.motion.split import split
from jete.formats.reader import read_log, refuse_no_file, telling_of
from jete.formats.watched import UNWATCHED, Watch
from jete.library.circuits import line_document
from jete.library.edits import write_line
from jete.library.errors import CircuitsChangedError
from jete.library.files import content_digest, digest_of
from jete.library.mending import snapshot
from jete.library.recognise import Recognised, device_of, recognise
from jete.notes.sheet import RunSheet, with_value

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence
    from pathlib import Path

    from jete.core.log.lap import LapSpan, Log
    from jete.core.motion.one_line import LineSource
    from jete.formats.mapping import ColumnMap
    from jete.library.library import Library

# Receivers that have not seen the sky yet tell dates of before 1990, or of years to come.
FIRST_S, DAY_S = 631_152_000.0, 86_400.0
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
    spans: Sequence[LapSpan] = (),
) -> BroughtIn:
    """Bring a log file into the library.

    Args:
        library: to bring it into.
        path: of the file; it is read, never changed.
        given: fields of the sheet that are known, as typed; the others come from the last run.
        watch: told how far it is, and asked whether it is to go on.
        maps: what the columns are, before those that the library remembers.
        line: start line of the logs before on a plane without a place on earth, used if this one passes it.
        spans: the laps, where whoever wrote the file knew them; else they are found.

    Raises:
        InputError: a file that can't be used.
        InterruptedError: it was cancelled; nothing was brought in.
    """
    given = given or {}
    _with_values(RunSheet(), given)
    with telling_of(path):
        refuse_no_file(path)
        digest = content_digest(path)
        number = library.known(digest)
        if number is None:
            # Earlier versions knew a file by its bytes as they lie there.
            number = library.known(digest_of(path))
    if number is not None and library.holds_recording(number):
        return _known(library, number, given)
    log = read_log(path, watch.part(0.0, READING_SHARE), [*maps, *library.column_maps()])
    if number is not None:
        library.store_again(number, log)
        return _known(library, number, given)
    watch.step(READING_SHARE)
    while True:
        with suppress(CircuitsChangedError):
            added = _add(library, log, path, digest, _Told(given, line, tuple(spans)))
            break
    library.circuits.learn_corners(added.run)
    library.circuits.learn_road(added.run)
    library.circuits.make_whole()
    if not added.known:
        # The copy of an empty shelf is no copy: the first run makes one that is worth something.
        with suppress(InputError, OSError):
            snapshot(library.location)
    return added


@dataclass(frozen=True)
class _Told:
    """What is known of a log beside its channels: fields of its sheet, the line of the logs before it, its laps."""

    given: Mapping[str, str]
    line: LineSource | None
    spans: tuple[LapSpan, ...]


def _add(library: Library, log: Log, path: Path, digest: str, told: _Told) -> BroughtIn:
    """Tell where a log was driven and add it.

    Raises:
        InputError: it holds no lap.
        CircuitsChangedError: a circuit came in from elsewhere since it was told that this one is new.
    """
    seen = library.circuits.used()
    found = recognise(library, log, told.line, told.given.get("circuit", "").strip())
    better = better_line(log, found.line) if found.line is not None and found.place is not None else None
    if better is not None:
        found = replace(found, line=better, spans=split(log, better))
    log = log if found.line is None else told_line(log, found.line)
    log = log if found.place is not None else _told_exchanged(library, log)
    device = device_of(log, path.suffix)
    made = datetime.fromtimestamp(_began_s(log, path.stat().st_mtime)).astimezone()
    sheet = _sheet(library, found, device, made, told.given)
    if not sheet.kind and "lean" in log.channels:
        sheet = replace(sheet, kind="motorcycle")
    run, known = library.add_or_find(
        log, told.spans or found.spans, digest, sheet,
        path=str(path.resolve()), line=found.line, device=device, seen=seen if found.place is None else None,
    )  # fmt: skip
    if better is not None and not known:
        _move_line(library, run, better)
    return BroughtIn(run, known, found.line)


def _told_exchanged(library: Library, log: Log) -> Log:
    """The log of a circuit that seems new, with it told where a known one lies with latitude and longitude exchanged."""
    here = origin_of(log)
    lines = [(p.name, p.line.origin) for p in library.circuits.places() if p.line is not None]
    names = [name for name, there in lines if here is not None and there is not None and are_exchanged(here, there)]
    if not names:
        return log
    what = f"latitude and longitude may stand in each other's place: {names[0]} lies where they would be exchanged"
    return replace(log, repairs=(*log.repairs, Repair("position", what, 1)))


def _move_line(library: Library, run: int, line: LineSource) -> None:
    """Let the laps of a circuit begin where a run tells them to, not where the first log of it happened to begin."""
    at = library.run(run).sheet
    for other in library.runs():
        if other.id == run or (other.sheet.circuit, other.sheet.layout) != (at.circuit, at.layout):
            continue
        with suppress(InputError):
            library.split_again(other, line)
    with library.writing() as session:
        write_line(session, at.circuit, at.layout, line_document(line))


def _began_s(log: Log, written_s: float) -> float:
    """When a log began, seconds since 1970: as it says itself, if its clock was set; else when its file was written."""
    sound = log.started_s is not None and FIRST_S < log.started_s < datetime.now(tz=UTC).timestamp() + DAY_S
    return log.started_s if sound and log.started_s is not None else written_s


def _sheet(library: Library, found: Recognised, device: str, made: datetime, given: Mapping[str, str]) -> RunSheet:
    """What is noted on a new run: the circuit it was driven on, what goes along from the last one, what is given."""
    name, layout = _place_of(library, found, given)
    sheet = library.next_sheet((name, layout), device, given.get("date", "").strip() or made.strftime("%Y-%m-%d"))
    sheet = _with_values(replace(sheet, time=made.strftime("%H:%M")), given)
    return replace(sheet, layout=layout) if "circuit" in given and "layout" not in given else sheet


def _place_of(library: Library, found: Recognised, given: Mapping[str, str]) -> tuple[str, str]:
    """Circuit and layout: as given, as recognised, or new ones; nothing where no lap tells."""
    name = given.get("circuit", "").strip()
    if found.place is not None and name in ("", found.place.name):
        return found.place.name, found.place.layout
    if name:
        return name, given.get("layout", "").strip() or library.circuits.layout_for(name, known=found.best is None)
    return (library.circuits.new_circuit(), "") if found.best is not None else ("", "")


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
