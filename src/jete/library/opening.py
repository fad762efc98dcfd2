"""Opening a library with the check at start."""

from __future__ import annotations

from jete.core.errors import InputError
from jete.library.check import Finding, check
from jete.library.library import Library
from jete.library.location import Location
from jete.library.mending import mend_start, snapshot


def open_library(location: Location, *, read_only: bool = False) -> tuple[Library, list[Finding]]:
    """A library, and what the check at start found and did; a damaged database is refused and stays as it is.

    Raises:
        NewerLibraryError: one that a newer version wrote, unless it is opened to read only.
        DamagedError: one whose database is damaged.
        InputError: one that can't be reached, is in use, or may not be written.
    """
    library = Library(location, read_only=read_only)
    try:
        found = [] if read_only else mend_start(library)
        found += check(library)
    except BaseException:
        library.close()
        raise
    if not read_only:
        found += _snapshot(location)
    return library, found


def _snapshot(location: Location) -> list[Finding]:
    """Keep today's copy; where there is no room for it the library opens all the same."""
    try:
        snapshot(location)
    except (InputError, OSError) as error:
        return [Finding("today's copy of the database could not be made", location.shown, str(error))]
    return []
