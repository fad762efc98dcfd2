"""Names of files that can be used."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.core.errors import InputError

if TYPE_CHECKING:
    from pathlib import Path


def refuse_odd_name(path: Path) -> None:
    """Refuse a path with a byte that is no letter: what reads files by their names in UTF-8 does not find it.

    Raises:
        InputError: there is one.
    """
    try:
        str(path).encode()
    except UnicodeEncodeError as error:
        shown = str(path).encode("utf-8", "replace").decode()
        raise InputError(shown, "a byte of its name is no letter in UTF-8.", "Rename it, and try again.") from error
