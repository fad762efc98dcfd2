"""Laps of all logs from one line: where a log's own laps begin elsewhere, by positions.

A beacon, a phone and a team's logger each have a line of their own, 20 or 50 m apart.  Two
laps from two lines are not of one piece of road: what one of them drove more at its end would
be told as lost in the first corner, and won back in the last.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

import numpy as np

from jete.core.log.plane import Origin, StartLine, positions
from jete.core.motion.crossing import crossings

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.log.lap import Channel, Log

# Nearer than this, two lines may be one: receivers are off by 3 m, a lap column by a sample.
ELSEWHERE_M = 10.0
# Farther away it is no line of this lap.
FARTHEST_M = 200.0
# The laps of one log begin at one place, to this.
SCATTER_M = 8.0
# The other line is crossed so soon after the own one, or before it.
NEAR_S = 12.0


@dataclass(frozen=True)
class LineSource:
    """The line that serves all logs of a command, on the plane of ``origin``.

    ``guessed``: it only lies where a log happens to begin.  One where laps are told to begin is better.
    """

    origin: Origin | None
    line: StartLine | None
    guessed: bool = False


NOWHERE: Final = LineSource(None, None)


def elsewhere_m(log: Log, borders_s: Sequence[float], known: LineSource) -> float:
    """How far past a line a log's own laps begin, metres, below 0 before it; 0 where they begin there, or nothing tells."""
    path = positions(log, known.origin)
    if path is None or known.line is None or len(path[0]) == 0:
        return 0.0
    # Where positions have ended already, or not begun, they say nothing of a border.
    first, last = path[0].time_s[[0, -1]]
    seen = [t for t in borders_s if first <= t <= last]
    if not seen:
        return 0.0
    x, y = (np.interp(seen, c.time_s, c.value) for c in path)
    ahead = known.line.ahead_m(x, y)
    off, aside = float(np.median(ahead)), float(np.median(np.abs(known.line.aside_m(x, y))))
    # Both borders, this one and the one that the line was put at, may be known to half a sample's step only.
    least = max(ELSEWHERE_M, _step_m(log, path, seen))
    if not least < abs(off) < FARTHEST_M or aside > FARTHEST_M:
        return 0.0
    return off if float(np.ptp(ahead)) < SCATTER_M else 0.0


def _step_m(log: Log, path: tuple[Channel, Channel], at_s: Sequence[float]) -> float:
    """Metres from one row to the next at some times, their median."""
    step_s = float(np.median(np.diff(log.channels["time"].time_s)))
    ends = [np.asarray(at_s) + side * step_s for side in (-0.5, 0.5)]
    x, y = (np.diff([np.interp(t, c.time_s, c.value) for t in ends], axis=0)[0] for c in path)
    return float(np.median(np.hypot(x, y)))


def from_one_line(
    log: Log, start: tuple[bool, float], own_s: list[float], known: LineSource
) -> tuple[tuple[bool, float], list[float], list[bool]]:
    """When a log's laps begin, and whether at the line: as it says itself, or at the known line where its own lies elsewhere.

    Args:
        log: the log.
        start: whether it begins at its own line, and when.  One border is not enough to tell another line by: at the
            beginning of a log positions may still settle.
        own_s: when its later laps begin.
        known: the line.

    Returns:
        The start, the later borders, and whether each of these is at the line.
    """
    if elsewhere_m(log, own_s, known) == 0.0:
        return start, own_s, [True] * len(own_s)
    found = _at_line(log, own_s, known)
    times = [own if t is None else t for own, t in zip(own_s, found, strict=True)]
    if start[0]:
        crossed = _at_line(log, [start[1]], known)[0]
        start = (True, crossed) if crossed is not None and crossed < min(times) else (False, start[1])
    return start, times, [t is not None for t in found]


def _at_line(log: Log, borders_s: Sequence[float], known: LineSource) -> list[float | None]:
    """When the line is crossed nearest to each border, seconds; None where it is not."""
    path = positions(log, known.origin)
    times = np.empty(0) if path is None or known.line is None else crossings(log, path, known.line)
    return [_nearest(times, border) for border in borders_s]


def _nearest(times: np.ndarray, border_s: float) -> float | None:
    near = times[np.abs(times - border_s) < NEAR_S]
    return float(near[np.abs(near - border_s).argmin()]) if near.size else None
