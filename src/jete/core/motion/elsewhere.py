"""Why laps are not of one place: driven the other way round, elsewhere on earth, or latitude and longitude exchanged."""

from __future__ import annotations

from dataclasses import replace
from math import pi
from typing import TYPE_CHECKING

from jete.core.errors import InputError, different_road
from jete.core.log.plane import Origin, origin_of
from jete.core.motion.borders import line_of
from jete.core.motion.split import split, split_by_line

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.log.lap import Lap, LapSpan, Log
    from jete.core.motion.one_line import LineSource

# No circuit reaches so far.
FARTHEST_DEG = 0.5


def driven_elsewhere(log: Log, line: LineSource) -> str | None:
    """What is told of it, with the laps that it has the other way round or by itself; None where the line is not to blame.

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


def refuse_far_away(lap: Lap, reference: Lap) -> None:
    """Refuse a lap whose positions lie elsewhere on earth than the reference's.

    Raises:
        InputError: so they do, or they would lie there with latitude and longitude exchanged.
    """
    here, there = origin_of(lap.log), origin_of(reference.log)
    if here is None or there is None or None in (here.latitude_deg, there.latitude_deg):
        return
    if _near(here, there):
        return
    if are_exchanged(here, there):
        why = "its latitude and longitude stand in each other's place, or the reference's do"
        raise InputError(
            lap.called, f"{why}.", "Exchange the two columns' names in one of the files, and read it again."
        )
    raise different_road(lap.called, "its positions lie elsewhere on earth")


def are_exchanged(one: Origin, other: Origin) -> bool:
    """Whether two places on earth are one with latitude and longitude in each other's place."""
    return not _near(one, other) and _near(Origin(one.longitude_deg, one.latitude_deg), other)


def _near(one: Origin, other: Origin) -> bool:
    """Whether two places may be of one circuit."""
    pairs = ((one.latitude_deg, other.latitude_deg), (one.longitude_deg, other.longitude_deg))
    return all(
        a is not None and b is not None and abs((a - b + 180.0) % 360.0 - 180.0) < FARTHEST_DEG for a, b in pairs
    )


def _complete(spans: Sequence[LapSpan]) -> list[int]:
    return [s.number for s in spans if s.complete]


def _listed(numbers: Sequence[int]) -> str:
    """Laps by their numbers.

    >>> _listed([3]), _listed([1, 2, 5])
    ('lap 3 is complete', 'laps 1, 2, 5 are complete')
    """
    one = len(numbers) == 1
    return f"lap{'' if one else 's'} {', '.join(map(str, numbers))} {'is' if one else 'are'} complete"
