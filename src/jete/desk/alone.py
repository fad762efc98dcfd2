"""A run by itself: its laps that count against the best of them, and the ideal lap joined from their best passes."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from jete.core.compare import compare
from jete.core.errors import InputError
from jete.core.ideal import ideal_lap

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.core.causes.verdict.result import Comparison
    from jete.core.compare import Each
    from jete.core.log.lap import Lap
    from jete.library.library import Library
    from jete.library.records import RunRecord

FEWEST_LAPS = 2


def run_alone(library: Library, run: RunRecord, load: Callable[[int], Lap], each: Each = map) -> Comparison:
    """The laps of a run that count, the best one among them, against the best one.

    Args:
        library: that the run is of.
        run: of it.
        load: reads one of its laps by number.
        each: does with each lap what is to be done.

    Raises:
        InputError: too few laps, channel data that can't be read, or laps that don't belong together.
    """
    numbers = [s.number for s in run.counted]
    if len(numbers) < FEWEST_LAPS:
        what = "an ideal lap needs at least two complete laps that count."
        raise InputError(f"library:{run.id}", what, "Drive another one.")
    laps = [load(n) for n in numbers]
    best = min(laps, key=lambda lap: lap.span.time_s)
    return compare(best, laps, library.circuits.corners_on(run.id, best), each=each)


def joined_lap(alone: Comparison, run: RunRecord) -> Lap:
    """The ideal lap of a run that was compared with itself."""
    others = tuple(c for c in alone.laps if c.passage.lap.span != alone.reference.lap.span)
    return ideal_lap(replace(alone, laps=others), f"{run.source}, ideal lap").lap
