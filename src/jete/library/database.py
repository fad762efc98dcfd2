"""The database behind a library: opening, versions, and what SQLite is told to be careful about."""

from __future__ import annotations

import os
import sqlite3
from contextlib import contextmanager
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Any

from sqlalchemy import create_engine, event, inspect, text
from sqlalchemy.exc import DBAPIError, SQLAlchemyError
from sqlalchemy.pool import QueuePool

from jete.core.errors import InputError
from jete.formats.names import refuse_odd_name
from jete.library.errors import NewerLibraryError
from jete.library.trouble import refusal

if TYPE_CHECKING:
    from collections.abc import Iterator

    from sqlalchemy import Connection, Engine
    from sqlalchemy.orm import Session

    from jete.library.location import Location

NEWEST = "0007"
# How long a change waits for another program's; a person has lost patience by then.
WAIT_S = 15.0
CONNECT_S = 10
LOCK_S, STATEMENT_S = 10.0, 60.0
WRITES = "jete_writes"
# Any number that no other program on the server takes for its lock.
TURN = 0x6A657465


def connect(location: Location, *, read_only: bool = False) -> Engine:
    """An engine over a database of this version; an older one is brought up to date first.

    Raises:
        NewerLibraryError: a database of a newer version, unless it is to be read only.
        DamagedError: a damaged database; it stays as it is.
        InputError: a database that can't be reached, is in use, or may not be written.
    """
    refuse_odd_name(location.folder)
    try:
        if not read_only:
            location.folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise InputError(
            str(location.folder), f"it can't be used ({error.strerror}).", "Choose another folder."
        ) from error
    with refusing(location):
        engine = _engine(location, read_only=read_only)
        _bring_up_to_date(engine, location, read_only=read_only)
    return engine


@contextmanager
def refusing(location: Location) -> Iterator[None]:
    """What the database's driver raises becomes an error that a person can read.

    Raises:
        InputError: as :func:`jete.library.trouble.refusal`.
    """
    try:
        yield
    except DBAPIError as error:
        raise refusal(location, error) from error
    except sqlite3.Error as error:
        raise refusal(location, error) from error


def open_file(file: Path, *, mode: str = "rw", wait_s: float = WAIT_S) -> sqlite3.Connection:
    """SQLite on a file whose name may hold any character.

    Args:
        file: of the database.
        mode: ``ro``, ``rw`` or ``rwc``, as SQLite has them.
        wait_s: how long to wait for another program's change.

    Raises:
        sqlite3.Error: what SQLite says.
    """
    options = f"mode={mode}"
    if mode == "ro" and not os.access(file.parent, os.W_OK) and not file.with_name(f"{file.name}-shm").exists():
        # Where it may not make its lock files, SQLite reads only what it may take for unchanging.
        options += "&immutable=1"
    return sqlite3.connect(f"{file.resolve().as_uri()}?{options}", uri=True, timeout=wait_s, check_same_thread=False)


def _engine(location: Location, *, read_only: bool) -> Engine:
    file = location.file
    if file is None:
        return _server_engine(location)
    mode = "ro" if read_only else "rwc"
    engine = create_engine("sqlite://", creator=lambda: open_file(file, mode=mode), poolclass=QueuePool)
    event.listen(engine, "connect", _keep_references if read_only else _be_careful)
    event.listen(engine, "begin", _begin)
    return engine


def _server_engine(location: Location) -> Engine:
    """The engine of a server; the driver finds a password in ~/.pgpass where the keyring has none."""
    assert location.url is not None
    # A lock that is not got in time is told; a server that is gone is noticed though nothing says so.
    limits = f"-c lock_timeout={round(1000 * LOCK_S)} -c statement_timeout={round(1000 * STATEMENT_S)}"
    options: dict[str, Any] = {"connect_timeout": CONNECT_S, "options": limits, "tcp_user_timeout": 1000 * CONNECT_S}
    password = _password(location.url)
    if password:
        options["password"] = password
    try:
        return create_engine(location.url, pool_pre_ping=True, connect_args=options)
    except (ValueError, ImportError, SQLAlchemyError) as error:
        raise InputError(
            location.shown, "this is no address of a database.", "Write postgresql+psycopg://name@server/database."
        ) from error


def _password(address: str) -> str | None:
    """The keyring's password for an address, where the keyring is installed and holds one."""
    try:
        found = import_module("keyring").get_password("jete", address)
    except Exception:  # noqa: BLE001 - a missing, locked or broken keyring is as good as none
        return None
    return str(found) if found else None


def _be_careful(connection: Any, _: Any) -> None:
    """What was confirmed survives a power cut: a log written ahead, synced at every commit."""
    connection.isolation_level = None
    for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON"):
        connection.execute(f"PRAGMA {pragma}")


def _keep_references(connection: Any, _: Any) -> None:
    connection.isolation_level = None
    connection.execute("PRAGMA foreign_keys=ON")


def _begin(connection: Connection) -> None:
    """A change waits for its turn before it reads what it rests on; reading never waits."""
    writes = connection.get_execution_options().get(WRITES, False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writes else "BEGIN")


def writing_engine(engine: Engine) -> Engine:
    """The engine whose transactions are changes."""
    return engine.execution_options(**{WRITES: True})


def take_turn(session: Session) -> None:
    """On a server, wait until no other change of the library is under way; a file does that by itself."""
    if session.get_bind().dialect.name == "postgresql":
        session.execute(text("SELECT pg_advisory_xact_lock(:key)"), {"key": TURN})


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
            location.shown,
            "a newer version of the program wrote this library.",
            "Open it to read only, or install that version.",
        )
    migrate(engine)


def migrate(engine: Engine, to: str = "head") -> None:
    """Take every step from the version a database is of to another one, in one transaction each."""
    from alembic import command
    from alembic.config import Config

    config = Config()
    # Alembic reads its own options with percent signs for variables.
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations").replace("%", "%%"))
    with writing_engine(engine).begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, to)
