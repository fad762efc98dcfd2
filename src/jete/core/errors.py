"""Errors a user can mend: what is wrong, where, and what would help."""

from __future__ import annotations


class InputError(ValueError):
    """Input that can't be used.

    Args:
        where: the file, and the row, lap or channel in it.
        what: what is wrong.
        mend: what would mend it.
    """

    def __init__(self, where: str, what: str, mend: str) -> None:
        super().__init__(f"{where}: {what} {mend}".strip())
        self.where, self.what, self.mend = where, what, mend
