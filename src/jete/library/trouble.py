"""What a database's own errors mean: damage, somebody else at work, a full disk, missing rights.

Only two of SQLite's answers are damage; all others leave the library as it is.
"""

from __future__ import annotations

import os
import shutil
import sqlite3
from pathlib import Path
from typing import TYPE_CHECKING

from jete.core.errors import InputError
from jete.library.errors import DamagedError, NotNowError

if TYPE_CHECKING:
    from sqlalchemy.exc import DBAPIError

    from jete.library.location import Location

# https://sqlite.org/rescode.html: each also stands before its extended codes, as SQLITE_CORRUPT_INDEX.
DAMAGE = ("SQLITE_CORRUPT", "SQLITE_NOTADB")
IN_USE = ("SQLITE_BUSY", "SQLITE_LOCKED", "SQLITE_PROTOCOL")
NO_RIGHTS = ("SQLITE_READONLY", "SQLITE_CANTOPEN", "SQLITE_PERM", "SQLITE_AUTH")

# https://www.postgresql.org/docs/current/errcodes-appendix.html
SERVER_SAYS_LATER = (
    (("55P03", "40001", "40P01"), "somebody else's change is under way.", "Wait until that has ended, and try again."),
    (("57014", "25P03"), "the database server does not answer in time.", "Try again; nothing was changed."),
    (("53100",), "the database server's disk is full.", "Let whoever keeps it make room; nothing was changed."),
)
SERVER_SAYS_NO = (
    (("42501",), "the database gives you no rights to this.", "Let whoever keeps the server grant them."),
    (("28",), "the database server does not let you in.", "Check the name in the address, and the password."),
    (("3D000",), "the server has no such database.", "Check the address, or let whoever keeps the server make it."),
)
# Less room than a page of the database and its log.
FULL_BYTES = 64 << 10


def is_damage(error: BaseException | None) -> bool:
    """Whether SQLite says that the file itself is damaged, or no database."""
    return _code(error).startswith(DAMAGE)


def refusal(location: Location, error: DBAPIError | sqlite3.Error) -> InputError:
    """The error to tell for one of the database: what is wrong, and what would mend it; nothing was touched.

    Args:
        location: of the library.
        error: of SQLite, or of SQLAlchemy around one of a database's driver.
    """
    inner = error if isinstance(error, sqlite3.Error) else getattr(error, "orig", None)
    where, code = location.shown, _code(inner)
    if location.file is None:
        return _server_refusal(where, inner)
    if is_damage(inner):
        return DamagedError(where)
    if code.startswith(IN_USE):
        user = _holder(location.file)
        return NotNowError(where, f"it is in use by {user}.", "Wait until that has ended, and try again.")
    if code.startswith("SQLITE_FULL") or (code.startswith("SQLITE_IOERR") and _is_full(location.folder)):
        return NotNowError(where, "the disk is full.", "Make room, and try again; nothing was changed.")
    if code.startswith(NO_RIGHTS):
        return InputError(where, "it may not be written, or not be opened.", "Give yourself the rights to this folder.")
    why = _first_line(inner) or type(error).__name__
    return NotNowError(where, f"the database does not answer ({why}).", "Check the disk, and try again.")


def _server_refusal(where: str, inner: BaseException | None) -> InputError:
    state = str(getattr(inner, "sqlstate", None) or "")
    for kind, says in ((NotNowError, SERVER_SAYS_LATER), (InputError, SERVER_SAYS_NO)):
        for codes, what, mend in says:
            if state.startswith(codes):
                return kind(where, what, mend)
    why = _first_line(inner) or "no answer"
    return NotNowError(where, f"the database server can't be used ({why}).", "Check the address and the network.")


def _is_full(folder: Path) -> bool:
    """Whether nothing fits on a disk any more: SQLite tells that as a disk that fails, too."""
    try:
        return shutil.disk_usage(folder).free < FULL_BYTES
    except OSError:
        return False


def _code(error: BaseException | None) -> str:
    return str(getattr(error, "sqlite_errorname", ""))


def _first_line(error: BaseException | None) -> str:
    return next(iter(str(error or "").strip().splitlines()), "").rstrip(".")


def _holder(file: Path) -> str:
    """The programs that have a file open, as far as that can be seen (Linux)."""
    for process in Path("/proc").glob("[0-9]*"):
        if process.name != str(os.getpid()) and _has_open(process, file):
            try:
                return f"{(process / 'comm').read_text(encoding='utf-8').strip()} (process {process.name})"
            except OSError:
                continue
    return "another program"


def _has_open(process: Path, file: Path) -> bool:
    try:
        return any(os.path.realpath(fd) == str(file.resolve()) for fd in (process / "fd").iterdir())
    except OSError:
        return False
