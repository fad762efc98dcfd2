"""Laps that were loaded lately, so that the next comparison does not read them again."""

from __future__ import annotations

import threading
from collections import OrderedDict
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from jete.core.log.lap import Lap
    from jete.library.library import Library
    from jete.library.records import RunRecord

LAPS_KEPT = 48


class LapCache:
    """Keeps the laps used last; may be asked from any thread."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._laps: OrderedDict[tuple[str, int], Lap] = OrderedDict()

    def lap(self, library: Library, record: RunRecord, number: int) -> Lap:
        """A lap, from the library where it is not kept.

        Raises:
            InputError: channel data that can't be read.
        """
        at = (record.digest, number)
        with self._lock:
            kept = self._laps.get(at)
        lap = kept or library.lap(record, number)
        with self._lock:
            self._laps[at] = lap
            self._laps.move_to_end(at)
            while len(self._laps) > LAPS_KEPT:
                self._laps.popitem(last=False)
        return lap

    def clear(self) -> None:
        """Forget all: other laps stand under the same numbers now."""
        with self._lock:
            self._laps.clear()
