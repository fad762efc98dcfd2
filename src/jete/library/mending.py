"""Mending a library: what was left over is set apart, a damaged database makes way for its newest sound snapshot.

A replacement is ready and has been checked before anything is moved, and nothing is ever deleted.
"""

from __future__ import annotations

import os
import shutil
import sqlite3
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from jete.core.errors import InputError
from jete.formats.whole_file import UNFINISHED, keep, written_wholly
from jete.library import recordings
from jete.library.check import Finding, check, digests, is_damaged, is_sound, orphans, unconfirmed, unfinished
from jete.library.database import open_file
from jete.library.trouble import refusal

if TYPE_CHECKING:
    from jete.library.library import Library
    from jete.library.location import Location

QUARANTINE = "quarantine"
SNAPSHOTS = "snapshots"
SNAPSHOTS_KEPT, NUMBER_DIGITS = 3, 6
SNAPSHOT_AFTER_S = 86_400.0


def mend_start(library: Library) -> list[Finding]:
    """What a start does by itself: set apart what interrupted work of the program has left, and nothing else."""
    root = library.location.folder
    found = [
        Finding("a file that was not finished", str(f), f"set apart as {_set_apart(root, f)}") for f in unfinished(root)
    ]
    marks = unconfirmed(root)
    known = digests(library) if marks else set()
    for mark in marks:
        file = recordings.path_of(root, mark.name.split(".")[0])
        if file.stem not in known and file.exists():
            found.append(_orphan(root, file))
        mark.unlink(missing_ok=True)
    return found


def mend(library: Library) -> list[Finding]:
    """What a person asked for: also set apart the recordings that no run has; what can't be mended is told."""
    root = library.location.folder
    found = mend_start(library) + [_orphan(root, f) for f in orphans(root, digests(library))]
    return found + check(library, thorough=True)


def _orphan(root: Path, file: Path) -> Finding:
    return Finding("a recording that no run has", str(file), f"set apart as {_set_apart(root, file)}")


def mend_database(location: Location) -> list[Finding]:
    """A damaged database makes way for its newest sound snapshot, or for a new one where there is none.

    Raises:
        InputError: the database can't be looked at: it is in use, or may not be read; nothing is touched.
    """
    file = location.file
    if file is None or not is_damaged(location):
        return []
    newest = newest_sound(location)
    if newest is None:
        aside = set_database_apart(location.folder, file)
        return [Finding("the database is damaged", str(file), f"set apart as {aside}; a new one was begun")]
    holds = holds_words(newest)
    ready = file.with_name(f"{file.name}.{os.getpid()}{UNFINISHED}")
    try:
        shutil.copyfile(newest, ready)
        if not is_sound(location, ready):
            return [Finding("the database is damaged", str(file), f"left as it is: a copy of {newest} is damaged too")]
        aside = set_database_apart(location.folder, file)
        keep(ready, file)
    except OSError as error:
        raise InputError(
            str(location.folder), f"its snapshot can't be put in place ({error.strerror}).", "Make room, and try again."
        ) from error
    finally:
        ready.unlink(missing_ok=True)
    return [
        Finding("the database is damaged", str(file), f"set apart as {aside}; the snapshot {holds}, took its place")
    ]


def newest_sound(location: Location) -> Path | None:
    """The newest snapshot that holds together; one that holds runs before one that holds none."""
    sound = [s for s in reversed(_snapshots(location)) if is_sound(location, s)]
    return next((s for s in sound if runs_in(s)), sound[0] if sound else None)


def _snapshots(location: Location) -> list[Path]:
    """The snapshots in the order in which they were taken: by their number, not by a clock that may have been wrong."""
    return sorted((location.folder / SNAPSHOTS).glob("*.sqlite"), key=_order)


def _order(snapshot: Path) -> tuple[int, str]:
    """Its number, and its date for those of earlier versions, which have none.

    >>> _order(Path("000012-20360101-000000.sqlite")), _order(Path("20260501-101500.sqlite"))
    ((12, '000012-20360101-000000.sqlite'), (0, '20260501-101500.sqlite'))
    """
    number, _, rest = snapshot.name.partition("-")
    return (int(number) if number.isdigit() and len(number) == NUMBER_DIGITS and rest.count("-") else 0, snapshot.name)


def runs_in(database: Path) -> int:
    """How many runs a database holds; 0 for one that is none of ours."""
    try:
        with closing(open_file(database, mode="ro")) as found:
            return int(found.execute("SELECT count(*) FROM runs").fetchone()[0])
    except sqlite3.Error:
        return 0


def holds_words(database: Path) -> str:
    """What a copy holds, to be told before it is put back."""
    count = runs_in(database)
    return f"{database.name}, which holds {count} run{'' if count == 1 else 's'}"


def set_database_apart(root: Path, file: Path, mark: str = "") -> Path:
    """Move a database, with what SQLite keeps beside it, into the quarantine; returns where it is then.

    What was noted last may still stand in the log beside it: that is taken in first, and where it can't be, all of it
    goes under one name, so that opening it there finds all.
    """
    _take_in_log(file)
    stamp = _stamp()
    for beside in (file.with_name(f"{file.name}{end}") for end in ("-wal", "-shm")):
        if beside.exists():
            _set_apart(root, beside, mark, stamp)
    return _set_apart(root, file, mark, stamp)


def set_recording_apart(root: Path, file: Path) -> Path:
    """Move a recording that no run has into the quarantine; returns where it is then."""
    return _set_apart(root, file)


def _take_in_log(file: Path) -> None:
    """Write what stands in a database's log into the database; a damaged one stays as it is."""
    try:
        with closing(open_file(file, mode="rw")) as database:
            database.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    except sqlite3.Error:
        return


def _stamp() -> str:
    return datetime.now(tz=UTC).strftime("%Y%m%d-%H%M%S-%f")


def _set_apart(root: Path, file: Path, mark: str = "", stamp: str = "") -> Path:
    folder = root / QUARANTINE
    folder.mkdir(parents=True, exist_ok=True)
    stamp = stamp or _stamp()
    target = folder / f"{stamp}-{mark}{file.name}"
    file.replace(target)
    return target


def snapshot(location: Location) -> None:
    """Keep a copy of the database that is consistent in itself, once a day and after the first import; the last three stay.

    A copy whose date lies in the future was taken by a clock that was wrong: it ends nothing.
    """
    file = location.file
    if file is None or not file.exists():
        return
    folder = location.folder / SNAPSHOTS
    folder.mkdir(exist_ok=True)
    kept = _snapshots(location)
    now = datetime.now(tz=UTC)
    fresh = bool(kept) and 0.0 <= now.timestamp() - kept[-1].stat().st_mtime < SNAPSHOT_AFTER_S
    if fresh and (runs_in(kept[-1]) or not runs_in(file)):
        return
    number = _order(kept[-1])[0] + 1 if kept else 1
    copy_database(location, folder / f"{number:0{NUMBER_DIGITS}d}-{now:%Y%m%d-%H%M%S}.sqlite")
    for old in kept[: max(len(kept) + 1 - SNAPSHOTS_KEPT, 0)]:
        old.unlink(missing_ok=True)


def copy_database(location: Location, target: Path) -> None:
    """Copy a database that may be in use (SQLite's online backup).

    Raises:
        InputError: it is damaged, in use for long, or the disk is full.
    """
    assert location.file is not None
    try:
        with (
            written_wholly(target) as copy_file,
            closing(open_file(location.file, mode="ro")) as source,
            closing(open_file(copy_file, mode="rwc")) as copy,
        ):
            source.backup(copy)
    except sqlite3.Error as error:
        raise refusal(location, error) from error
