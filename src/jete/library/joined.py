"""The ideal lap of a run of the library: joined from the best passes of its laps."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.core.compare import compare
from jete.core.errors import InputError
from jete.core.ideal import ideal_lap

if TYPE_CHECKING:
    from jete.core.log.lap import Lap
    from jete.library.library import Library
    from jete.library.records import RunRecord


def joined_lap(library: Library, run: RunRecord) -> Lap:
    """The lap joined from the best passes of a run's laps that are complete and not set aside.

    Raises:
        InputError: fewer than two such laps, or channel data that is damaged.
    """
    numbers = [s.number for s in run.laps if s.complete and not run.notes.of(s.number).aside]
    laps = sorted((library.lap(run, n) for n in numbers), key=lambda lap: lap.span.time_s)
    if len(laps) < 2:
        what = "an ideal lap needs at least two complete laps that count."
        raise InputError(f"library:{run.id}", what, "Drive another one.")
    comparison = compare(laps[0], laps[1:], library.circuits.corners_on(run.id, laps[0]))
    return ideal_lap(comparison, f"{run.source}, ideal lap").lap
