"""Laps that were loaded lately, so that the next comparison does not read them again."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.app.recent import Recent

if TYPE_CHECKING:
    from jete.core.log.lap import Lap
    from jete.library.library import Library
    from jete.library.records import RunRecord

LAPS_KEPT = 48


class LapCache:
    """Keeps the laps used last; may be asked from any thread."""

    def __init__(self) -> None:
        self._laps: Recent[tuple[str, int], Lap] = Recent(LAPS_KEPT)

    def lap(self, library: Library, record: RunRecord, number: int) -> Lap:
        """A lap, from the library where it is not kept.

        Raises:
            InputError: channel data that can't be read.
        """
        at = (record.digest, number)
        lap = self._laps.get(at) or library.lap(record, number)
        self._laps.keep(at, lap)
        return lap

    def clear(self) -> None:
        """Forget all: other laps stand under the same numbers now."""
        self._laps.clear()
