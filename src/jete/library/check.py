"""Looking at a library: what is damaged, gone, or left over.  Nothing is changed here but the marks of damaged runs.

What can be mended is mended by :mod:`jete.library.mending`, once a person has said so.
"""

from __future__ import annotations

import sqlite3
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy import select

from jete.core.errors import InputError
from jete.formats.whole_file import UNFINISHED
from jete.library import recordings
from jete.library.database import open_file
from jete.library.files import digest_of
from jete.library.models import Recording
from jete.library.trouble import is_damage, refusal

if TYPE_CHECKING:
    from jete.library.library import Library
    from jete.library.location import Location

UNREAD = "can't be read"
MEND = "'jete check --mend' sets it apart"


@dataclass(frozen=True)
class Finding:
    """One thing that was found, and what was done about it, or would."""

    what: str
    where: str
    done: str


def is_damaged(location: Location) -> bool:
    """Whether SQLite calls the database damaged.

    Raises:
        InputError: it can't be looked at: in use, no rights, a failing disk.
    """
    file = location.file
    return file is not None and file.exists() and not is_sound(location, file)


def is_sound(location: Location, file: Path) -> bool:
    """Whether a database holds together, by SQLite's own check.

    Raises:
        InputError: it can't be looked at.
    """
    try:
        with closing(open_file(file, mode="ro")) as database:
            return bool(database.execute("PRAGMA quick_check(1)").fetchone()[0] == "ok")
    except sqlite3.Error as error:
        if is_damage(error):
            return False
        raise refusal(location, error) from error


def check(library: Library, *, thorough: bool = False) -> list[Finding]:
    """Check the channel data against the database; runs whose data is gone or damaged are marked.

    Args:
        library: to check.
        thorough: compare every file with its digest, not only whether it is there.
    """
    root = library.location.folder
    with library.reading() as session:
        known = {row.digest: row.damaged for row in session.execute(select(Recording.digest, Recording.damaged))}
    found = []
    for digest, damaged in known.items():
        why = _why_damaged(root, digest, thorough=thorough)
        if why is None and damaged and not thorough:
            continue
        # What can't be read today may be read tomorrow: that is no mark to keep.
        if why != damaged and not library.read_only and not (why or "").startswith(UNREAD):
            with library.writing() as session:
                session.get_one(Recording, digest).damaged = why
        if why:
            where = str(recordings.path_of(root, digest))
            found.append(
                Finding(f"channel data {why}", where, "its run is marked; import the log again or restore a backup")
            )
    return found


def left_over(library: Library) -> list[Finding]:
    """Files that no row names and no running program is about to name; ``jete check --mend`` sets them apart."""
    root, known = library.location.folder, digests(library)
    return [
        *(Finding("a file that was not finished", str(f), MEND) for f in unfinished(root)),
        *(Finding("a recording that no run has", str(f), MEND) for f in orphans(root, known)),
    ]


def digests(library: Library) -> set[str]:
    """The recordings that rows name."""
    with library.reading() as session:
        return set(session.scalars(select(Recording.digest)))


def unfinished(root: Path) -> list[Path]:
    """Files that a program began to write and was stopped at."""
    left = [*root.glob(f"*{UNFINISHED}"), *(root / recordings.FOLDER).rglob(f"*{UNFINISHED}")]
    return [f for f in left if not in_use(f)]


def orphans(root: Path, known: set[str]) -> list[Path]:
    """Recordings that no row names, and that no running program has just written."""
    waiting = {m.name.split(".")[0] for m in (root / recordings.FOLDER).glob(f"*{recordings.UNCONFIRMED}") if in_use(m)}
    return [f for f in (root / recordings.FOLDER).glob("*/*.parquet") if f.stem not in known | waiting]


def unconfirmed(root: Path) -> list[Path]:
    """Marks of recordings whose program was stopped before a row named them."""
    return [m for m in (root / recordings.FOLDER).glob(f"*{recordings.UNCONFIRMED}") if not in_use(m)]


def in_use(file: Path) -> bool:
    """Whether the process that writes an unfinished file is still there; its number is in the name."""
    numbers = [p for part in file.name.split(".") for p in part.split("-") if p.isdigit() and len(p) < 12]
    return any((Path("/proc") / n).exists() for n in numbers)


def _why_damaged(root: Path, digest: str, *, thorough: bool) -> str | None:
    path = recordings.path_of(root, digest)
    try:
        if not path.exists():
            return "is gone"
        return "is damaged" if thorough and digest_of(path) != digest else None
    except (OSError, InputError) as error:
        return f"{UNREAD} ({error.strerror if isinstance(error, OSError) else error.what})"
