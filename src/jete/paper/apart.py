"""Prints the guide in a process of its own.

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
from typing import TYPE_CHECKING

from jete.core.errors import InputError

if TYPE_CHECKING:
    from jete.report.guide import Guide

# The longest guide takes seconds.
PATIENCE_S = 120.0
SOURCES = Path(__file__).parents[2]


def print_apart(path: Path, guide: Guide, *, bag: bool = False, small: bool = True) -> None:
    """Write a guide, or its page for the helmet bag, as PDF; may be called from any thread.

    Raises:
        InputError: a place that can't be written to, or a process that did not end well.
        OSError: no process could be begun.
    """
    paths = os.pathsep.join(p for p in (str(SOURCES), os.environ.get("PYTHONPATH", "")) if p)
    done = subprocess.run(
        [sys.executable, "-m", "jete.paper.apart"],
        input=pickle.dumps((path, guide, bag, small)),
        capture_output=True,
        check=False,
        timeout=PATIENCE_S,
        env={**os.environ, "PYTHONPATH": paths, "QT_QPA_PLATFORM": "offscreen"},
    )
    if done.returncode:
        told = done.stderr.decode(errors="replace").strip().splitlines()
        raise InputError(str(path), f"it could not be printed ({(told or ['no reason given'])[-1]}).", "Try again.")


def printed(guide: Guide) -> bytes:
    """The PDF of a guide; may be called from any thread.

    Raises:
        InputError: as :func:`print_apart`.
    """
    with TemporaryDirectory(prefix="jete-") as folder:
        path = Path(folder) / "guide.pdf"
        print_apart(path, guide)
        return path.read_bytes()


def main() -> int:
    """Print what comes by standard input from :func:`print_apart`; the last line of standard error says what went wrong."""
    from jete.paper.guide_pdf import write_bag, write_guide

    path, guide, bag, small = pickle.load(sys.stdin.buffer)  # noqa: S301 - of this program's own
    try:
        if bag:
            write_bag(path, guide, small=small)
        else:
            write_guide(path, guide)
    except OSError as error:
        sys.stderr.write(f"{error.strerror}\n")
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
