"""The check at start, and the thorough one: what can be mended is, the rest is set apart and told.

Files that nobody confirmed (left by a crash) go to ``quarantine``; runs whose channel
data is gone or damaged are marked; a database that SQLite can't read is set apart, and
the newest snapshot takes its place.
"""

from __future__ import annotations

import shutil
import sqlite3
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy import select

from jete.library import recordings
from jete.library.files import UNFINISHED, digest_of, written_wholly
from jete.library.models import Recording

if TYPE_CHECKING:
    from jete.library.library import Library
    from jete.library.location import Location

QUARANTINE = "quarantine"
SNAPSHOTS = "snapshots"
SNAPSHOTS_KEPT = 3
SNAPSHOT_AFTER_S = 86_400.0


@dataclass(frozen=True)
class Finding:
    """One thing that the check found, and what was done about it."""

    what: str
    where: str
    done: str


def mend_database(location: Location) -> list[Finding]:
    """Before a library is opened: a database that can't be read makes way for its newest snapshot."""
    file = location.file
    if file is None or not file.exists() or _is_sound(file):
        return []
    aside = set_database_apart(location.folder, file)
    newest = max((location.folder / SNAPSHOTS).glob("*.sqlite"), default=None)
    if newest is None:
        return [Finding("the database can't be read", str(file), f"set apart as {aside}; a new one was begun")]
    with written_wholly(file) as unfinished:
        shutil.copyfile(newest, unfinished)
    return [
        Finding(
            "the database can't be read", str(file), f"set apart as {aside}; the snapshot {newest.name} took its place"
        )
    ]


def _is_sound(file: Path) -> bool:
    try:
        with closing(sqlite3.connect(f"file:{file}?mode=rw", uri=True, timeout=15)) as database:
            return bool(database.execute("PRAGMA quick_check(1)").fetchone()[0] == "ok")
    except sqlite3.DatabaseError:
        return False


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
    copy_database(file, folder / f"{now:%Y%m%d-%H%M%S}.sqlite")
    for old in kept[: max(len(kept) + 1 - SNAPSHOTS_KEPT, 0)]:
        old.unlink(missing_ok=True)


def copy_database(file: Path, target: Path) -> None:
    """Copy a database that may be in use (SQLite's online backup)."""
    with (
        written_wholly(target) as unfinished,
        closing(sqlite3.connect(file)) as source,
        closing(sqlite3.connect(unfinished)) as copy,
    ):
        source.backup(copy)


def check(library: Library, *, thorough: bool = False) -> list[Finding]:
    """Check the channel data against the database.

    Args:
        library: to check.
        thorough: compare every file with its digest, not only whether it is there.
    """
    root = library.location.folder
    with library.reading() as session:
        known = {row.digest: row.damaged for row in session.execute(select(Recording.digest, Recording.damaged))}
    found = [] if library.read_only else [*_unfinished(root), *_orphans(root, set(known))]
    for digest, damaged in known.items():
        why = _why_damaged(root, digest, thorough=thorough)
        if why is None and damaged and not thorough:
            continue
        if why != damaged and not library.read_only:
            with library.writing() as session:
                session.get_one(Recording, digest).damaged = why
        if why:
            where = str(recordings.path_of(root, digest))
            found.append(
                Finding(f"channel data {why}", where, "its run is marked; import the log again or restore a backup")
            )
    return found


def _unfinished(root: Path) -> list[Finding]:
    left = [*root.glob(f"*{UNFINISHED}"), *(root / recordings.FOLDER).rglob(f"*{UNFINISHED}")]
    return [
        Finding("a file that was not finished", str(f), f"set apart as {_set_apart(root, f)}")
        for f in left
        if not _in_use(f)
    ]


def _in_use(file: Path) -> bool:
    """Whether the process that writes an unfinished file is still there; its number is in the name."""
    numbers = [p for part in file.name.split(".") for p in part.split("-") if p.isdigit()]
    return any((Path("/proc") / n).exists() for n in numbers)


def _orphans(root: Path, known: set[str]) -> list[Finding]:
    """Recordings that no row names, older than a moment (an import may be about to name one)."""
    now = datetime.now(tz=UTC).timestamp()
    files = [f for f in (root / recordings.FOLDER).glob("*/*.parquet") if f.stem not in known]
    old = [f for f in files if now - f.stat().st_mtime > 60.0]
    return [Finding("a recording that was not confirmed", str(f), f"set apart as {_set_apart(root, f)}") for f in old]


def _why_damaged(root: Path, digest: str, *, thorough: bool) -> str | None:
    path = recordings.path_of(root, digest)
    if not path.exists():
        return "is gone"
    if thorough and digest_of(path) != digest:
        return "is damaged"
    return None
