"""A run compared with itself: all laps that count against the best of them, worked out once for all who need it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.app.recent import Recent
from jete.app.tasks import one_by_one

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.app.lap_cache import LapCache
    from jete.core.causes.verdict.result import Comparison
    from jete.core.log.lap import Lap
    from jete.library.library import Library
    from jete.library.records import RunRecord

RUNS_KEPT = 6

Key = tuple[str, tuple[int, ...]]


class RunsAlone:
    """Keeps the comparisons of the runs used last, and the laps joined from them; may be asked from any thread."""

    def __init__(self, laps: LapCache) -> None:
        self._laps = laps
        self._kept: Recent[Key, Comparison] = Recent(RUNS_KEPT)
        self._joined: Recent[Key, Lap] = Recent(RUNS_KEPT)

    def comparison(
        self, library: Library, record: RunRecord, cancelled: Callable[[], bool] = lambda: False
    ) -> Comparison:
        """The laps of a run that count, the best one among them, against the best one.

        Raises:
            InputError: too few laps, channel data that can't be read, or laps that don't belong together.
            InterruptedError: it was cancelled.
        """
        from jete.desk.alone import run_alone

        key = _key(record)
        kept = self._kept.get(key)
        if kept is not None:
            return kept

        def load(number: int) -> Lap:
            if cancelled():
                raise InterruptedError
            return self._laps.lap(library, record, number)

        made = run_alone(library, record, load, lambda work, laps: one_by_one(work, laps, cancelled))
        self._kept.keep(key, made)
        return made

    def ideal(self, library: Library, record: RunRecord) -> Lap:
        """The lap joined from the best passes of a run.

        Raises:
            InputError: as :meth:`comparison`.
        """
        from jete.desk.alone import joined_lap

        key = _key(record)
        kept = self._joined.get(key)
        if kept is not None:
            return kept
        made = joined_lap(self.comparison(library, record), record)
        self._joined.keep(key, made)
        return made

    def clear(self) -> None:
        """Forget all: other laps stand under the same numbers now."""
        self._kept.clear()
        self._joined.clear()


def _key(record: RunRecord) -> Key:
    return record.digest, tuple(s.number for s in record.counted)
