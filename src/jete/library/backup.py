"""A whole library as one zip: the database and the channel data, and back."""

from __future__ import annotations

import json
import shutil
import tempfile
import zipfile
from contextlib import closing
from pathlib import Path
from typing import TYPE_CHECKING

from jete.core.errors import InputError
from jete.library import recordings
from jete.library.check import copy_database, set_database_apart
from jete.library.database import NEWEST
from jete.library.files import digest_of, written_wholly
from jete.library.location import FILE

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.library.location import Location

MANIFEST = "jete.json"
SCHEMA = "jete.backup/1"


def back_up(location: Location, target: Path, progress: Callable[[int, int], None] = lambda _done, _of: None) -> int:
    """Write a backup; returns how many recordings are in it.

    Raises:
        InputError: a library on a server (its own tools back it up), or a place that can't be written.
    """
    if location.file is None:
        raise InputError(
            str(location.url), "this library is on a database server.", "Back it up with the server's tools."
        )
    files = sorted((location.folder / recordings.FOLDER).glob("*/*.parquet"))
    try:
        with written_wholly(target) as unfinished, tempfile.TemporaryDirectory(prefix="jete-") as folder:
            copy = Path(folder) / FILE
            copy_database(location.file, copy)
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

    Everything is unpacked and checked beside the library first; only then it is moved in.

    Raises:
        InputError: what is no backup, or a damaged one; the library stays as it is.
    """
    if location.file is None:
        raise InputError(
            str(location.url), "this library is on a database server.", "Restore it with the server's tools."
        )
    location.folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix=".restore-", dir=location.folder) as folder:
        root = Path(folder)
        count = _unpack(backup, root)
        if location.file.exists():
            set_database_apart(location.folder, location.file, "before-restore-")
        for file in (root / recordings.FOLDER).glob("*/*.parquet"):
            target = recordings.path_of(location.folder, file.stem)
            target.parent.mkdir(parents=True, exist_ok=True)
            file.replace(target)
        with written_wholly(location.file) as unfinished:
            shutil.copyfile(root / FILE, unfinished)
    return count


def _unpack(backup: Path, root: Path) -> int:
    """Unpack and check a backup."""
    try:
        with closing(zipfile.ZipFile(backup)) as archive:
            manifest = json.loads(archive.read(MANIFEST))
            names = [n for n in archive.namelist() if n != MANIFEST]
            if manifest["schema"] != SCHEMA or any(n.startswith("/") or ".." in Path(n).parts for n in names):
                raise InputError(
                    str(backup), "this is no backup of a library.", "Choose a file that 'jete backup' wrote."
                )
            archive.extractall(root, names)
    except FileNotFoundError as error:
        raise InputError(str(backup), "there is no such file.", "Check the path.") from error
    except (zipfile.BadZipFile, KeyError, ValueError, OSError) as error:
        raise InputError(
            str(backup), "this is no backup of a library, or a damaged one.", "Choose another backup."
        ) from error
    files = list((root / recordings.FOLDER).glob("*/*.parquet"))
    broken = [f for f in files if digest_of(f) != f.stem]
    if broken or len(files) != manifest["recordings"] or not (root / FILE).exists():
        raise InputError(str(backup), "this backup is damaged.", "Choose another backup; the library stays as it is.")
    return len(files)
