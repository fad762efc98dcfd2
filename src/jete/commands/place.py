"""Where the library is, and what commands write."""

from __future__ import annotations

import json
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from jete.core.errors import InputError
from jete.formats.whole_file import written_wholly
from jete.report.words import printable

if TYPE_CHECKING:
    import argparse

    from jete.library.library import Library
    from jete.library.location import Location


# A disk that is not there leaves thousands.
MOST_TOLD = 6


def location_of(args: argparse.Namespace | None = None) -> Location:
    """The library that was named: by ``--library`` and ``--folder``, by the environment, or the usual one.

    Raises:
        InputError: a server's URL without the folder that goes with it.
    """
    from jete.library.location import FOLDER_VARIABLE, location_named, usual_location

    place, folder = getattr(args, "library", None), getattr(args, "folder", None)
    if place is None:
        return usual_location()
    return location_named(place, folder or os.environ.get(FOLDER_VARIABLE, ""))


def library_at(location: Location | None, *, read_only: bool = False) -> Library:
    """The library at a place; to read it, it must be there.

    Raises:
        InputError: none there, or one that does not open.
    """
    from jete.library.opening import open_library

    location = location or location_of()
    if read_only:
        require_library(location)
    library, found = open_library(location, read_only=read_only)
    for f in found[:MOST_TOLD]:
        tell(f"{f.where}: {f.what}; {f.done}.")
    if len(found) > MOST_TOLD:
        tell(f"and {len(found) - MOST_TOLD} more of such; 'jete check' lists them all.")
    return library


def require_library(location: Location) -> None:
    """Refuse a place where no library is.

    Raises:
        InputError: there is none.
    """
    try:
        missing = location.file is not None and not location.file.exists()
    except OSError as error:
        raise InputError(
            str(location.folder), f"it can't be looked at ({error.strerror}).", "Check its rights."
        ) from error
    if missing:
        raise InputError(str(location.folder), "there is no library yet.", "Bring in logs with 'jete import FILES'.")


def say(text: str) -> None:
    """Write to standard output what a terminal may show."""
    sys.stdout.write(printable(text))


def tell(text: str) -> None:
    """Write one line to standard error."""
    sys.stderr.write(f"jete: {printable(' '.join(text.split()))}\n")


def write_json(target: str, document: dict[str, Any]) -> None:
    """Write a document to a file, or to standard output for ``-``.

    Raises:
        InputError: a file that can't be written.
    """
    text = json.dumps(document, ensure_ascii=False, allow_nan=False) + "\n"
    if target == "-":
        sys.stdout.write(text)
        return
    try:
        with written_wholly(Path(target)) as unfinished:
            unfinished.write_text(text, encoding="utf-8")
    except OSError as error:
        raise InputError(target, f"it can't be written ({error.strerror}).", "Name another file.") from error
