"""Beacons that were missed or false: laps told by a column that goes against where the line was crossed."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from jete.core.log.lap import Log, Repair
from jete.core.log.plane import origin_of, positions
from jete.core.motion.borders import border_s, changes, line_of, tells_laps, told_borders
from jete.core.motion.crossing import crossings
from jete.core.motion.one_line import NOWHERE, LineSource, elsewhere_m

# Of so many laps one can be told that goes against the line.
FEWEST_ALIKE = 3
# Beacons are set off within this of their line, and most of them are.
BEACON_S, MOST_RIGHT = 3.0, 0.6


def crossed_instead(log: Log, own_s: list[float]) -> list[float]:
    """When the line was crossed, where the lap column missed a beacon or saw a false one; empty where it goes with the line.

    By positions, at the line where most of its own borders lie.
    """
    path = positions(log, origin_of(log))
    if path is None or len(own_s) < FEWEST_ALIKE:
        return []
    line = line_of(log).line
    times = crossings(log, path, line) if line is not None else np.empty(0)
    if len(times) < FEWEST_ALIKE:
        return []
    right = [t for t in own_s if float(np.abs(times - t).min()) < BEACON_S]
    missed = [t for t in times.tolist() if min(abs(t - o) for o in own_s) >= BEACON_S]
    if len(right) < MOST_RIGHT * len(own_s) or (len(right) == len(own_s) and not missed):
        return []
    return [min(own_s, key=lambda o, t=t: abs(o - t)) if t not in missed else t for t in times.tolist()]  # type: ignore[misc]


def told_beacons(log: Log) -> Log:
    """The log, with it told where its laps were parted or joined by the line, since a beacon was missed or false."""
    if not tells_laps(log):
        return log
    own = [border_s(log, *pair, NOWHERE) for pair in changes(log.channels["lap"])]
    times = crossed_instead(log, own)
    if not times:
        return log
    what = "missed or false beacons: laps parted and joined where the line was crossed, and counted anew"
    return replace(log, repairs=(*log.repairs, Repair("lap", what, abs(len(times) - len(own)) or 1)))


def told_line(log: Log, known: LineSource) -> Log:
    """The log, with it told where its own laps begin elsewhere than at the line that serves all of a command."""
    log = told_beacons(log)
    own = told_borders(log)
    off = elsewhere_m(log, own, known)
    if off == 0.0:
        return log
    where = f"{abs(off):.0f} m {'past' if off > 0.0 else 'before'}"
    told = Repair("lap", f"its own laps begin {where} the line that is used, taken from that", len(own))
    return replace(log, repairs=(*log.repairs, told))
