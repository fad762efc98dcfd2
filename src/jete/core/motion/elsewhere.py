"""Why a line leaves a log no laps: the other way round, or somewhere else."""

from __future__ import annotations

from dataclasses import replace
from math import pi
from typing import TYPE_CHECKING

from jete.core.motion.split import line_of, split, split_by_line

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.log.lap import LapSpan, Log
    from jete.core.motion.one_line import LineSource


def driven_elsewhere(log: Log, line: LineSource) -> str | None:
    """In words, with the laps that it has the other way round or by itself; None where the line is not to blame.

    Args:
        log: that has no lap, or not the one that was asked for, at the line.
        line: that serves all laps.
    """
    if line.line is None or not log.has_position():
        return None
    back = replace(line, line=replace(line.line, heading_rad=line.line.heading_rad + pi))
    reversed_laps = _complete(split_by_line(log, back))
    if reversed_laps and not _complete(split_by_line(log, line)):
        return f"it is driven in the other direction ({_listed(reversed_laps)} that way round)"
    own = _complete(split(log, line_of(log)))
    if own and not _complete(split_by_line(log, line)):
        return f"it never passes the reference's start line ({_listed(own)} by a line of its own)"
    return None


def _complete(spans: Sequence[LapSpan]) -> list[int]:
    return [s.number for s in spans if s.complete]


def _listed(numbers: Sequence[int]) -> str:
    """Laps by their numbers.

    >>> _listed([3]), _listed([1, 2, 5])
    ('lap 3 is complete', 'laps 1, 2, 5 are complete')
    """
    one = len(numbers) == 1
    return f"lap{'' if one else 's'} {', '.join(map(str, numbers))} {'is' if one else 'are'} complete"
