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

    def __reduce__(self) -> tuple[type[InputError], tuple[str, str, str]]:
        """Cross from one process to another whole."""
        return type(self), (self.where, self.what, self.mend)


def different_road(name: str, why: str) -> InputError:
    """The error of a lap of another circuit, layout or direction than the reference."""
    return InputError(
        name,
        f"it does not belong to the reference's circuit, layout or direction: {why}.",
        "Choose laps of one circuit, driven the same way round.",
    )
