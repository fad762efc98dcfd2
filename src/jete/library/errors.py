"""What a library may refuse."""

from __future__ import annotations

from jete.core.errors import InputError


class NewerLibraryError(InputError):
    """A library that a newer version of the program wrote; it may be opened to read only."""


class ReadOnlyError(InputError):
    """A change of a library that is open to read only."""

    def __init__(self) -> None:
        super().__init__(
            "The library", "it is open to read only.", "Open it with the version that wrote it to change it."
        )
