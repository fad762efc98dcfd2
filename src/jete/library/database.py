"""The database behind a library: opening, versions, and what SQLite is told to be careful about."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from platformdirs import user_data_path
from sqlalchemy import create_engine, event, inspect, text

from jete.core.errors import InputError
from jete.library.errors import NewerLibraryError

if TYPE_CHECKING:
    from sqlalchemy import Connection, Engine

NEWEST = "0001"
FILE = "library.sqlite"
WAIT_S = 15
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


def usual_location() -> Location:
    """The library that the environment names, else the one in the user's data folder."""
    return location_named(os.environ.get(PLACE_VARIABLE, "").strip(), os.environ.get(FOLDER_VARIABLE, "").strip())


def connect(location: Location, *, read_only: bool = False) -> Engine:
    """An engine over a database of this version; an older one is brought up to date first.

    Raises:
        NewerLibraryError: a database of a newer version, unless it is to be read only.
        InputError: a database that can't be reached.
    """
    from sqlalchemy.exc import DBAPIError

    try:
        if not read_only:
            location.folder.mkdir(parents=True, exist_ok=True)
        engine = _engine(location, read_only=read_only)
        _bring_up_to_date(engine, location, read_only=read_only)
    except OSError as error:
        raise InputError(
            str(location.folder), f"it can't be used ({error.strerror}).", "Choose another folder."
        ) from error
    except DBAPIError as error:
        why = str(error.orig).splitlines()[0] if error.orig else "no answer"
        raise InputError(
            location.database_url, f"the database does not open ({why}).", "Check it with 'jete check'."
        ) from error
    return engine


def _engine(location: Location, *, read_only: bool) -> Engine:
    if location.url:
        return create_engine(location.url, pool_pre_ping=True)
    mode = "ro" if read_only else "rwc"
    engine = create_engine(
        f"sqlite:///file:{location.folder / FILE}?mode={mode}&uri=true", connect_args={"timeout": WAIT_S}
    )
    event.listen(engine, "connect", _be_careful if not read_only else _keep_references)
    return engine


def _be_careful(connection: Any, _: Any) -> None:
    """What was confirmed survives a power cut: a log written ahead, synced at every commit."""
    for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON"):
        connection.execute(f"PRAGMA {pragma}")


def _keep_references(connection: Any, _: Any) -> None:
    connection.execute("PRAGMA foreign_keys=ON")


def version_of(connection: Connection) -> str | None:
    """The version a database is of; None for an empty one."""
    if not inspect(connection).has_table("alembic_version"):
        return None
    found: str | None = connection.execute(text("SELECT version_num FROM alembic_version")).scalar()
    return found


def _bring_up_to_date(engine: Engine, location: Location, *, read_only: bool) -> None:
    with engine.connect() as connection:
        version = version_of(connection)
    if version == NEWEST or read_only:
        return
    if version is not None and version > NEWEST:
        raise NewerLibraryError(
            str(location.folder),
            "a newer version of the program wrote this library.",
            "Open it to read only, or install that version.",
        )
    migrate(engine)


def migrate(engine: Engine, to: str = "head") -> None:
    """Take every step from the version a database is of to another one, in one transaction each."""
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, to)
