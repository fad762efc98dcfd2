"""The database behind a library: opening, versions, and what SQLite is told to be careful about."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from sqlalchemy import create_engine, event, inspect, text

from jete.core.errors import InputError
from jete.library.errors import NewerLibraryError
from jete.library.location import FILE, Location

if TYPE_CHECKING:
    from sqlalchemy import Connection, Engine

NEWEST = "0001"
WAIT_S = 15


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
