"""Prints in a process of its own.

Qt lays text out on the thread of the window only, and holds it up meanwhile: for a quarter of a second, and for longer
where laps are compared beside it.
"""

from __future__ import annotations

import os
import pickle
import subprocess
import sys
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import TYPE_CHECKING, Any

from jete.core.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.report.guide import Guide

# The longest guide takes seconds.
PATIENCE_S = 120.0
SOURCES = Path(__file__).parents[2]


def run_apart(path: Path, work: Callable[..., object], *args: Any) -> Any:
    """Call what writes a file in a process of its own; may be called from any thread.

    Args:
        path: of the file, for a message.
        work: a function of a module, called with ``path`` and the rest.
        args: the rest; all of it is pickled.

    Returns:
        what it returned.

    Raises:
        InputError: a place that can't be written to, or a process that did not end well.
        OSError: no process could be begun.
    """
    paths = os.pathsep.join(p for p in (str(SOURCES), os.environ.get("PYTHONPATH", "")) if p)
    done = subprocess.run(
        [sys.executable, "-m", "jete.paper.apart"],
        input=pickle.dumps((work, (path, *args))),
        capture_output=True,
        check=False,
        timeout=PATIENCE_S,
        env={**os.environ, "PYTHONPATH": paths, "QT_QPA_PLATFORM": "offscreen"},
    )
    if done.returncode:
        told = done.stderr.decode(errors="replace").strip().splitlines()
        raise InputError(str(path), f"it could not be printed ({(told or ['no reason given'])[-1]}).", "Try again.")
    return pickle.loads(done.stdout)  # noqa: S301 - of this program's own


def print_apart(path: Path, guide: Guide, *, bag: bool = False, small: bool = True) -> None:
    """Write a guide, or its page for the helmet bag, as PDF.

    Raises:
        InputError: as :func:`run_apart`.
    """
    run_apart(path, print_guide, guide, bag, small)


def print_guide(path: Path, guide: Guide, bag: bool, small: bool) -> None:  # noqa: FBT001 - as it is pickled
    """Write a guide in this process."""
    from jete.paper.guide_pdf import write_bag, write_guide

    if bag:
        write_bag(path, guide, small=small)
    else:
        write_guide(path, guide)


def printed(guide: Guide) -> bytes:
    """The PDF of a guide; may be called from any thread.

    Raises:
        InputError: as :func:`run_apart`.
    """
    with TemporaryDirectory(prefix="jete-") as folder:
        path = Path(folder) / "guide.pdf"
        print_apart(path, guide)
        return path.read_bytes()


def main() -> int:
    """Do what comes by standard input from :func:`run_apart`; the last line of standard error says what went wrong."""
    work, args = pickle.load(sys.stdin.buffer)  # noqa: S301 - of this program's own
    try:
        result = work(*args)
    except OSError as error:
        sys.stderr.write(f"{error.strerror}\n")
        return 1
    except InputError as error:
        sys.stderr.write(f"{error.what}\n")
        return 1
    sys.stdout.buffer.write(pickle.dumps(result))
    return 0


if __name__ == "__main__":
    sys.exit(main())
