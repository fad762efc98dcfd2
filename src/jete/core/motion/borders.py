"""The borders between laps as a log tells them itself, and the line of the road where they lie."""

from __future__ import annotations

from typing import Literal

import numpy as np

from jete.core.arrays import FloatArray, IntArray
from jete.core.errors import InputError
from jete.core.log.lap import Channel, Log
from jete.core.log.lapclock import SHORTEST_LAP_S
from jete.core.log.plane import StartLine, origin_of, positions
from jete.core.motion.crossing import END_SLACK_M, FIT_REACH_M, crossings
from jete.core.motion.motion import travelled
from jete.core.motion.one_line import FARTHEST_M, NOWHERE, LineSource

# Positions that scatter by less than a millimetre stand still.
LEAST_MOVED_M2 = 1e-6
# Beacons stand within this of one line.
ONE_LINE_M = 40.0
# Of less no rate, no direction and no noise can be told.
FEWEST_SAMPLES, SHORTEST_LOG_S = 20, 1.0


def refuse_short(log: Log) -> None:
    """Refuse a log that nothing can be told from.

    Raises:
        InputError: too few samples, or too short a time.
    """
    start, end = log.span_s()
    moving = [log.channels[n] for n in ("speed", "distance", "x", "latitude") if n in log.channels]
    count = max((len(c) for c in moving), default=0)
    if count < FEWEST_SAMPLES:
        raise InputError(
            log.source, f"it holds {count} sample(s), and a lap needs many.", "Export the whole log again."
        )
    if end - start < SHORTEST_LOG_S:
        what = f"it covers {end - start:.3f} s, and a lap takes longer."
        raise InputError(log.source, what, "Check the unit of 'time', or export the whole log again.")


def line_of(log: Log) -> LineSource:
    """The line across the direction of travel where the log's own laps begin.

    Where it tells none apart, at its first sample; it serves if the path comes back there.

    Raises:
        InputError: a log of too few samples, or too short a time, for anything to be told from it.
    """
    refuse_short(log)
    origin = origin_of(log)
    path = positions(log, origin)
    if path is None or len(path[0]) < 8:
        return LineSource(origin, None)
    told = told_borders(log)
    found = [_place_and_heading(log, path, t) for t in (told or [float(path[0].time_s[0])])]
    places = np.array([place for place, _ in found])
    # A beacon that was set off elsewhere is no line.
    near = np.hypot(*(places - np.median(places, axis=0)).T) < ONE_LINE_M
    near |= not near.any()
    middle = places[near].mean(axis=0)
    ahead = np.array([heading for _, heading in found])[near].sum(axis=0)
    line = StartLine(float(middle[0]), float(middle[1]), float(np.arctan2(ahead[1], ahead[0])))
    return LineSource(origin, line, guessed=not told)


def better_line(log: Log, line: LineSource) -> LineSource | None:
    """The line of a log's own laps, where the one so far is only a guess and lies far from it; None where that one will do.

    Where a log begins is no line of the circuit: a phone is switched on anywhere.
    """
    path = positions(log, line.origin)
    if not line.guessed or line.line is None or path is None or len(told_borders(log)) < 2:
        return None
    own = line_of(log)
    if own.line is None or own.origin is None or line.origin is None:
        return None
    at = own.origin.carried_to(line.origin, np.array([[own.line.x_m, own.line.y_m]]))[0]
    away = float(np.hypot(at[0] - line.line.x_m, at[1] - line.line.y_m))
    return own if away > FARTHEST_M else None


def told_borders(log: Log) -> list[float]:
    """Times at which laps begin by the lap column or by a distance that resets."""
    if tells_laps(log):
        return [border_s(log, *pair, NOWHERE) for pair in changes(log.channels["lap"])]
    return reset_times(log)


def _place_and_heading(log: Log, path: tuple[Channel, Channel], time_s: float) -> tuple[FloatArray, FloatArray]:
    """Place and direction of travel at a time, (2,) both: of a straight run through the positions near it."""
    time, distance = travelled(log)
    s = np.interp(path[0].time_s, time, distance)
    at = float(np.interp(time_s, time, distance))
    away = np.abs(s - at)
    near = away <= max(0.5 * FIT_REACH_M, float(np.sort(away)[min(3, len(away) - 1)]))
    along = s[near] - at
    places = np.stack([c.value[near] for c in path], axis=1)
    middle, off = along.mean(), places.mean(axis=0)
    spread = float(np.sum((along - middle) ** 2))
    # Where nothing moves there is no direction.
    heading = (along - middle) @ (places - off) / spread if spread > LEAST_MOVED_M2 else np.zeros(2)
    return np.asarray(off - middle * heading), np.asarray(heading)


def borders_of(log: Log) -> Literal["told", "positions", "samples", "both"]:
    """What the laps of a log end by: a clock or distance that starts anew, positions, a change between two samples, or both of these."""
    column = tells_laps(log)
    if resets(log).size or (column and log.get("lap_time") is not None):
        return "told"
    if log.has_position():
        return "both" if column else "positions"
    return "samples" if column else "told"


def tells_laps(log: Log) -> bool:
    """Whether the lap column changes, and no more often than laps can be driven: a counter of rows is none."""
    lap = log.get("lap")
    if lap is None or len(lap) == 0 or float(np.ptp(lap.value)) < 0.5:
        return False
    start, end = log.span_s()
    return len(first_rows(lap)) <= 2.0 + (end - start) / SHORTEST_LAP_S


def resets(log: Log) -> IntArray:
    """Row indices of the first sample after each reset of the distance."""
    distance = log.get("distance")
    if distance is None or len(distance) < 3:
        return np.empty(0, dtype=np.intp)
    fall = np.diff(distance.value)
    top = float(distance.value.max() - distance.value.min())
    return np.flatnonzero(fall < -max(20.0, 0.3 * top)) + 1


def reset_times(log: Log) -> list[float]:
    """When the distance begins anew, by how far past the line the first sample after each reset is."""
    times = []
    for i in resets(log):
        distance = log.channels["distance"]
        after = float(distance.time_s[i])
        since = float(distance.value[i]) / max(speed_at(log, after), 1.0)
        times.append(max(float(distance.time_s[i - 1]), after - since))
    return times


def first_rows(lap: Channel) -> IntArray:
    """Rows of the lap column at which its number is a new one."""
    return np.flatnonzero(np.abs(np.diff(lap.value)) > 0.5) + 1


def changes(lap: Channel) -> list[tuple[float, float]]:
    """Times of the samples before and after each change of the lap column."""
    rows = first_rows(lap)
    return list(zip(lap.time_s[rows - 1].tolist(), lap.time_s[rows].tolist(), strict=True))


def border_s(log: Log, before_s: float, after_s: float, known: LineSource) -> float:
    """Time of a crossing known to lie between two samples.

    By a clock that starts anew with the lap, by a distance that does, by the line, or half way.
    """
    within = log.get("lap_time")
    if within is not None:
        since = float(within.at(np.array([after_s]))[0])
        if -1e-6 <= since <= 1.5 * (after_s - before_s):
            return float(np.clip(after_s - since, before_s, after_s))
    distance = log.get("distance")
    if distance is not None:
        d0, d1 = distance.at(np.array([before_s, after_s]))
        if d1 < d0 and d1 <= END_SLACK_M * 20:
            return max(before_s, after_s - float(d1) / max(speed_at(log, after_s), 1.0))
    middle = 0.5 * (before_s + after_s)
    crossing = crossing_near(log, known, middle)
    # A column that changes a sample late does so in every lap; positions that drift cross the line anywhere.
    if crossing is None or abs(crossing - middle) > 2.0 * (after_s - before_s):
        return middle
    return min(max(crossing, before_s), after_s)


def crossing_near(log: Log, known: LineSource, time_s: float) -> float | None:
    """When the line is crossed within a second of a time; None where it is not, or nothing tells."""
    path = positions(log, known.origin)
    if path is None or known.line is None:
        return None
    times = crossings(log, path, known.line)
    near = times[np.abs(times - time_s) < 1.0]
    return float(near[0]) if near.size else None


def speed_at(log: Log, time_s: float) -> float:
    """Speed at a time, m/s."""
    time, distance = travelled(log)
    at = np.interp([time_s - 0.1, time_s + 0.1], time, distance)
    inside = np.clip([time_s - 0.1, time_s + 0.1], time[0], time[-1])
    return float((at[1] - at[0]) / max(inside[1] - inside[0], 1e-6))


def step_m(log: Log, time_s: float) -> float:
    """Metres between two samples of the row clock."""
    clock = log.channels["time"].time_s
    return float(np.median(np.diff(clock))) * speed_at(log, time_s)
