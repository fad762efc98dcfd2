"""A whole library as one zip: the database and the channel data, and back."""

from __future__ import annotations

import json
import shutil
import sqlite3
import tempfile
import zipfile
import zlib
from contextlib import closing
from pathlib import Path, PurePosixPath
from typing import TYPE_CHECKING, Any

from jete.core.errors import InputError
from jete.formats.limits import SWELL, most_bytes
from jete.formats.whole_file import keep, written_wholly
from jete.library import recordings
from jete.library.check import is_sound, orphans
from jete.library.database import NEWEST, open_file
from jete.library.errors import NewerLibraryError
from jete.library.files import digest_of
from jete.library.location import FILE
from jete.library.mending import copy_database, set_database_apart, set_recording_apart
from jete.library.open_elsewhere import alone

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.library.location import Location

MANIFEST = "jete.json"
SCHEMA = "jete.backup/1"
MOST_MANIFEST_BYTES = 1 << 16
TABLES = ("runs", "laps", "recordings", "alembic_version")


def back_up(location: Location, target: Path, progress: Callable[[int, int], None] = lambda _done, _of: None) -> int:
    """Write a backup; returns how many recordings are in it.

    Raises:
        InputError: a library on a server (its own tools back it up), or a place that can't be written.
    """
    if location.file is None:
        raise InputError(location.shown, "this library is on a database server.", "Back it up with the server's tools.")
    files = sorted((location.folder / recordings.FOLDER).glob("*/*.parquet"))
    try:
        with written_wholly(target) as unfinished, tempfile.TemporaryDirectory(prefix="jete-") as folder:
            copy = Path(folder) / FILE
            copy_database(location, copy)
            with zipfile.ZipFile(unfinished, "w", zipfile.ZIP_STORED) as archive:
                manifest = {"schema": SCHEMA, "version": NEWEST, "recordings": len(files)}
                archive.writestr(MANIFEST, json.dumps(manifest))
                archive.write(copy, FILE, zipfile.ZIP_DEFLATED)
                for k, file in enumerate(files):
                    archive.write(file, file.relative_to(location.folder).as_posix())
                    progress(k + 1, len(files))
    except OSError as error:
        raise InputError(str(target), f"it can't be written ({error.strerror}).", "Name another place.") from error
    return len(files)


def restore(backup: Path, location: Location) -> int:
    """Put a backup in the place of a library, which goes to its quarantine; returns the recordings.

    Everything is unpacked and checked beside the library first, the database too; only then it is moved in.

    Raises:
        InputError: what is no backup, or a damaged one, with what was found; the library stays as it is.
    """
    if location.file is None:
        raise InputError(location.shown, "this library is on a database server.", "Restore it with the server's tools.")
    try:
        location.folder.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(prefix=".restore-", dir=location.folder) as folder:
            root = Path(folder)
            count = _unpack(backup, root)
            _refuse_unsound(backup, root)
            with alone(location, "restored"):
                _move_in(root, location)
    except OSError as error:
        what = f"the backup can't be put in place ({error.strerror})."
        raise InputError(location.shown, what, "Make room, or give yourself the rights, and try again.") from error
    return count


def _move_in(root: Path, location: Location) -> None:
    """Recordings first: they are named by their content, so none that is there is lost; then the database."""
    assert location.file is not None
    for file in (root / recordings.FOLDER).glob("*/*.parquet"):
        keep(file, recordings.path_of(location.folder, file.stem))
    if location.file.exists():
        set_database_apart(location.folder, location.file, "before-restore-")
    keep(root / FILE, location.file)
    with closing(open_file(location.file, mode="ro")) as database:
        named = {digest for (digest,) in database.execute("SELECT digest FROM recordings")}
    for left in orphans(location.folder, named):
        set_recording_apart(location.folder, left)


def _refusal(backup: Path, what: str) -> InputError:
    return InputError(str(backup), what, "Choose another backup; the library stays as it is.")


def _unpack(backup: Path, root: Path) -> int:
    """Unpack a backup, and check the recordings in it against their names."""
    if not backup.is_file():
        what = "this is a folder." if backup.is_dir() else "there is no such file."
        raise InputError(str(backup), what, "Choose a file that 'jete backup' wrote.")
    try:
        with closing(zipfile.ZipFile(backup)) as archive:
            members = archive.infolist()
            manifest = _manifest(backup, archive, members)
            for member in members:
                if member.filename != MANIFEST:
                    _extract(archive, member, root)
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError) as error:
        raise _refusal(backup, "this is no backup of a library, or a damaged one.") from error
    files = list((root / recordings.FOLDER).glob("*/*.parquet"))
    wrong = [f.name for f in files if digest_of(f) != f.stem]
    if wrong:
        raise _refusal(backup, f"this backup is damaged: {len(wrong)} of its {len(files)} recordings have changed.")
    if len(files) != manifest["recordings"]:
        raise _refusal(backup, f"this backup is damaged: it holds {len(files)} of {manifest['recordings']} recordings.")
    return len(files)


def _manifest(backup: Path, archive: zipfile.ZipFile, members: list[zipfile.ZipInfo]) -> dict[str, Any]:
    """What a backup says of itself, once its list of contents has been found harmless."""
    names = {m.filename: m for m in members}
    if MANIFEST not in names or names[MANIFEST].file_size > MOST_MANIFEST_BYTES:
        raise _refusal(backup, "this is no backup of a library.")
    if any(m.flag_bits & 0x1 for m in members):
        raise _refusal(backup, "this archive is locked with a password.")
    if any(not _is_ours(m) for m in members):
        raise _refusal(backup, "this is no backup of a library: it holds other files too.")
    size, packed = sum(m.file_size for m in members), backup.stat().st_size
    if size > max(SWELL * packed, most_bytes()):
        raise _refusal(backup, f"it would swell from {packed / 1e6:.0f} MB to {size / 1e6:.0f} MB.")
    try:
        manifest: dict[str, Any] = json.loads(archive.read(MANIFEST))
        right = manifest["schema"] == SCHEMA and isinstance(manifest["recordings"], int)
    except (ValueError, KeyError, TypeError, RecursionError):
        right = False
    if not right:
        raise _refusal(backup, "this is no backup of a library.")
    return manifest


def _is_ours(member: zipfile.ZipInfo) -> bool:
    """Whether a member is one of the files that a backup holds."""
    parts = PurePosixPath(member.filename).parts
    if member.filename in (MANIFEST, FILE):
        return not member.is_dir()
    return len(parts) == 3 and parts[0] == recordings.FOLDER and ".." not in parts and parts[2].endswith(".parquet")


def _extract(archive: zipfile.ZipFile, member: zipfile.ZipInfo, root: Path) -> None:
    """Unpack one member, no further than it says that it goes."""
    target = root / member.filename
    target.parent.mkdir(parents=True, exist_ok=True)
    with archive.open(member) as packed, target.open("wb") as file:
        shutil.copyfileobj(packed, file)


def _refuse_unsound(backup: Path, root: Path) -> None:
    """Refuse a backup whose database is missing, damaged, empty, or of a newer version."""
    from jete.library.location import Location

    file = root / FILE
    if not file.is_file():
        raise _refusal(backup, "this backup is damaged: the database is missing.")
    if not is_sound(Location(root), file):
        raise _refusal(backup, "this backup is damaged: its database can't be read.")
    try:
        version = _version_of(backup, file)
    except sqlite3.Error as error:
        raise _refusal(backup, "this backup is damaged: its database is none of a library.") from error
    if version > NEWEST:
        raise InputError(str(backup), "a newer version of the program wrote this backup.", "Install that version.")
    _refuse_other_contents(backup, file)


def _version_of(backup: Path, file: Path) -> str:
    with closing(open_file(file, mode="ro")) as database:
        tables = {name for (name,) in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        if not set(TABLES) <= tables:
            raise _refusal(backup, "this backup is damaged: its database is empty.")
        (version,) = database.execute("SELECT version_num FROM alembic_version").fetchone() or ("",)
    return str(version)


def _refuse_other_contents(backup: Path, file: Path) -> None:
    """Refuse a sound database whose contents are none of a library: it is brought up to date and read, as a start would.

    Raises:
        InputError: so they are.
    """
    from jete.library.library import Library
    from jete.library.location import Location

    with tempfile.TemporaryDirectory(prefix="jete-") as folder:
        copy = Location(Path(folder))
        shutil.copyfile(file, copy.folder / FILE)
        try:
            library = Library(copy)
            try:
                library.runs()
                library.runs(removed=True)
                library.circuits.places()
                library.pins()
            finally:
                library.close()
        except NewerLibraryError:
            raise
        except Exception as error:
            raise _refusal(backup, "this backup is damaged: its database is none of a library.") from error
