"""Where a library is; known without the database's machinery, which takes long to load."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

from platformdirs import user_data_path

from jete.core.errors import InputError

FILE = "library.sqlite"
PLACE_VARIABLE, FOLDER_VARIABLE = "JETE_LIBRARY", "JETE_LIBRARY_FOLDER"


@dataclass(frozen=True)
class Location:
    """A folder for the channel data, and a database: a file in it, or a server's URL."""

    folder: Path
    url: str | None = None

    @property
    def database_url(self) -> str:
        """The URL of the database."""
        return self.url or f"sqlite:///{self.folder / FILE}"

    @property
    def file(self) -> Path | None:
        """The database file, None for a server."""
        return None if self.url else self.folder / FILE


def location_named(place: str, folder: str) -> Location:
    """The library at a place: a folder, or a database's URL with the folder for the channel data; the usual one for ''.

    Raises:
        InputError: a server's URL without the folder that goes with it.
    """
    if not place:
        return Location(user_data_path("jete", appauthor=False) / "library")
    if "://" not in place:
        return Location(Path(place).expanduser())
    if not folder:
        what = "a library on a server needs a shared folder for the channel data."
        raise InputError(place, what, f"Name it with --folder or {FOLDER_VARIABLE}.")
    return Location(Path(folder).expanduser(), place)


def usual_location(place: str = "", folder: str = "") -> Location:
    """The library that the environment names, else the one at a place, else the one in the user's data folder."""
    named = os.environ.get(PLACE_VARIABLE, "").strip()
    if named:
        return location_named(named, os.environ.get(FOLDER_VARIABLE, "").strip())
    return location_named(place, folder)
