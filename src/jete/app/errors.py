"""Failures: what was foreseen is told, what was not is logged and told, nothing is lost."""

from __future__ import annotations

import sys
import tempfile
import traceback
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, TextIO, cast

from platformdirs import user_log_path

if TYPE_CHECKING:
    from types import TracebackType


def log_path() -> Path:
    """The file that unforeseen failures are written to."""
    return user_log_path("jete", appauthor=False) / "jete.log"


def write_log(error: BaseException) -> Path:
    """Append an error with its traceback to the log; returns the log's path."""
    path = log_path()
    text = "".join(traceback.format_exception(error))
    stamp = datetime.now(tz=UTC).isoformat(timespec="seconds")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with path.open("a", encoding="utf-8") as file:
            file.write(f"--- {stamp}\n{text}\n")
    except OSError:
        sys.stderr.write(text)
    return path


def install_hook() -> None:
    """Catch exceptions in slots, which would end the process otherwise."""
    sys.excepthook = _hook


def _hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
    if issubclass(kind, KeyboardInterrupt):
        sys.__excepthook__(kind, error, trace)
        return
    path = write_log(error)
    from jete.app.dialogs import tell_unforeseen

    tell_unforeseen(error, path)


class CrashNote:
    """What the crash log of an earlier start held."""

    def __init__(self, text: str) -> None:
        self.text = text

    def tell(self) -> None:
        """Say once that the program ended badly last time."""
        from jete.app.dialogs import tell_crash

        tell_crash(log_path())


def open_crash_log() -> TextIO:
    """The file that the fault handler writes to; opened before the first window.

    Where it can't be written, one without a name: whoever may not keep a log may still look at laps.
    """
    path = log_path().with_name("crash.log")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        return path.open("a+", encoding="utf-8")
    except OSError as error:
        sys.stderr.write(f"jete: {path}: failures can't be noted here ({error.strerror}).\n")
        return cast("TextIO", tempfile.TemporaryFile("w+", encoding="utf-8"))


def earlier_crash(crash: TextIO) -> CrashNote | None:
    """What an earlier start left in the crash log, moved on to the log; None if nothing."""
    crash.seek(0)
    text = crash.read()
    if not text.strip():
        return None
    crash.truncate(0)
    with log_path().open("a", encoding="utf-8") as log:
        log.write(f"--- crash of an earlier start\n{text}\n")
    return CrashNote(text)
