"""What a library may refuse."""

from __future__ import annotations

from jete.core.errors import InputError


class NewerLibraryError(InputError):
    """A library that a newer version of the program wrote; it may be opened to read only."""


class DamagedError(InputError):
    """A library whose database is damaged; it is not touched until a person says so."""

    def __init__(self, where: str) -> None:
        super().__init__(
            where,
            "its database is damaged.",
            "Run 'jete check' to see what can be done, and 'jete check --mend' to do it.",
        )

    def __reduce__(self) -> tuple[type[InputError], tuple[str, str, str]]:
        """Cross from one process to another whole; there it is as any other."""
        return InputError, (self.where, self.what, self.mend)


class NotNowError(InputError):
    """What a library can't take now and may take later: somebody else is changing it, the disk is full, a server is gone."""


class CircuitsChangedError(Exception):
    """Somebody else brought in a circuit since it was looked which ones there are: what rests on it is to be done again."""


class ReadOnlyError(InputError):
    """A change of a library that is open to read only."""

    def __init__(self) -> None:
        super().__init__(
            "The library", "it is open to read only.", "Open it with the version that wrote it to change it."
        )

    def __reduce__(self) -> tuple[type[InputError], tuple[str, str, str]]:
        """Cross from one process to another whole; there it is as any other."""
        return InputError, (self.where, self.what, self.mend)
