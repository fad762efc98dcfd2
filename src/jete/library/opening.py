"""Opening a library with the check at start."""

from __future__ import annotations

from jete.library.check import Finding, check, mend_database, snapshot
from jete.library.library import Library
from jete.library.location import Location


def open_library(location: Location, *, read_only: bool = False) -> tuple[Library, list[Finding]]:
    """A library and what the check at start found and did.

    Raises:
        NewerLibraryError: one that a newer version wrote, unless it is opened to read only.
        InputError: one that can't be reached.
    """
    found = [] if read_only else mend_database(location)
    library = Library(location, read_only=read_only)
    found += check(library)
    if not read_only:
        snapshot(location)
    return library, found
