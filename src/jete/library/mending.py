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
SNAPSHOTS_KEPT = 3
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
        Finding(
            "the database is damaged", str(file), f"set apart as {aside}; the snapshot {newest.name} took its place"
        )
    ]


def newest_sound(location: Location) -> Path | None:
    """The newest snapshot that holds together."""
    snapshots = sorted((location.folder / SNAPSHOTS).glob("*.sqlite"), reverse=True)
    return next((s for s in snapshots if is_sound(location, s)), None)


def set_database_apart(root: Path, file: Path, mark: str = "") -> Path:
    """Move a database, with what SQLite keeps beside it, into the quarantine; returns where it is then."""
    for beside in (file.with_name(f"{file.name}{end}") for end in ("-wal", "-shm")):
        if beside.exists():
            _set_apart(root, beside, mark)
    return _set_apart(root, file, mark)


def _set_apart(root: Path, file: Path, mark: str = "") -> Path:
    folder = root / QUARANTINE
    folder.mkdir(parents=True, exist_ok=True)
    stamp = datetime.now(tz=UTC).strftime("%Y%m%d-%H%M%S-%f")
    target = folder / f"{stamp}-{mark}{file.name}"
    file.replace(target)
    return target


def snapshot(location: Location) -> None:
    """Keep a copy of the database that is consistent in itself, once a day; the last three stay."""
    file = location.file
    if file is None or not file.exists():
        return
    folder = location.folder / SNAPSHOTS
    folder.mkdir(exist_ok=True)
    kept = sorted(folder.glob("*.sqlite"))
    now = datetime.now(tz=UTC)
    if kept and now.timestamp() - kept[-1].stat().st_mtime < SNAPSHOT_AFTER_S:
        return
    copy_database(location, folder / f"{now:%Y%m%d-%H%M%S}.sqlite")
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
