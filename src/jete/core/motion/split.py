"""A log into laps: by the ``lap`` column, a distance that resets, or crossing the line.

All crossings are interpolated.  With a distance that resets, the first sample after the
reset tells how far past the line it is; with positions, the crossing is found on a curve
fitted over the samples around it, since one noisy sample would shift it by its noise.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from jete.core.arrays import FloatArray, IntArray
from jete.core.errors import InputError
from jete.core.log.lap import DOUBTFUL, Channel, LapSpan, Log, Repair
from jete.core.log.lapclock import SHORTEST_LAP_S
from jete.core.log.plane import StartLine, origin_of, positions
from jete.core.motion.crossing import END_SLACK_M, FIT_REACH_M, crossings, end_speed
from jete.core.motion.motion import travelled
from jete.core.motion.one_line import FARTHEST_M, NOWHERE, LineSource, elsewhere_m, from_one_line

SHORTEST_LAP_M, LONGEST_LAP_M, LONGEST_LAP_S = 100.0, 100_000.0, 7200.0
# What is left at an end of a log and shorter is no lap.
SLIVER_S = 0.3
# Positions that scatter by less than a millimetre stand still.
LEAST_MOVED_M2 = 1e-6
# Of so many laps one can be told that is not as long as the others, or not timed where they are; longer or shorter by so much it
# was mended in its time, or left the road.
FEWEST_ALIKE, OFF_SHARE = 3, 0.03
# Beacons stand within this of one line, are set off within this of it, and most of them are.
ONE_LINE_M, BEACON_S, MOST_RIGHT = 40.0, 3.0, 0.6
# Of less no rate, no direction and no noise can be told.
FEWEST_SAMPLES, SHORTEST_LOG_S = 20, 1.0


@dataclass(frozen=True)
class _Piece:
    """A stretch of a log between two crossings; ``begins`` and ``ends`` say if at the line."""

    number: int
    start_s: float
    end_s: float
    begins: bool
    ends: bool


def split(log: Log, known: LineSource | None = None) -> tuple[LapSpan, ...]:
    """The laps of a log in the order they were driven, incomplete ones among them.

    Args:
        log: the log.
        known: the line that was given, or the reference log's; None: the log's own.

    Raises:
        InputError: a log of too few samples, or too short a time, for anything to be told from it.
    """
    _refuse_short(log)
    known = known or line_of(log)
    if _tells_laps(log):
        pieces = _by_lap_column(log, known)
    elif _resets(log).size:
        pieces = _by_reset(log, known)
    else:
        pieces = _by_line(log, known)
    return _judge(log, pieces)


def _refuse_short(log: Log) -> None:
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


def split_by_line(log: Log, line: LineSource) -> tuple[LapSpan, ...]:
    """The laps between crossings of a line, whatever the log says of laps itself."""
    return _judge(log, _by_line(log, line))


def line_of(log: Log) -> LineSource:
    """The line across the direction of travel where the log's own laps begin.

    Where it tells none apart, at its first sample; it serves if the path comes back there.

    Raises:
        InputError: a log of too few samples, or too short a time, for anything to be told from it.
    """
    _refuse_short(log)
    origin = origin_of(log)
    path = positions(log, origin)
    if path is None or len(path[0]) < 8:
        return LineSource(origin, None)
    told = _told_borders(log)
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
    if not line.guessed or line.line is None or path is None or len(_told_borders(log)) < 2:
        return None
    own = line_of(log)
    if own.line is None or own.origin is None or line.origin is None:
        return None
    at = own.origin.carried_to(line.origin, np.array([[own.line.x_m, own.line.y_m]]))[0]
    away = float(np.hypot(at[0] - line.line.x_m, at[1] - line.line.y_m))
    return own if away > FARTHEST_M else None


def _told_borders(log: Log) -> list[float]:
    """Times at which laps begin by the lap column or by a distance that resets."""
    if _tells_laps(log):
        return [_border_s(log, *pair, NOWHERE) for pair in _changes(log.channels["lap"])]
    return [p.start_s for p in _by_reset(log)[1:]] if _resets(log).size else []


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
    column = _tells_laps(log)
    if _resets(log).size or (column and log.get("lap_time") is not None):
        return "told"
    if log.has_position():
        return "both" if column else "positions"
    return "samples" if column else "told"


def _tells_laps(log: Log) -> bool:
    """Whether the lap column changes, and no more often than laps can be driven: a counter of rows is none."""
    lap = log.get("lap")
    if lap is None or len(lap) == 0 or float(np.ptp(lap.value)) < 0.5:
        return False
    start, end = log.span_s()
    return len(_first_rows(lap)) <= 2.0 + (end - start) / SHORTEST_LAP_S


def _resets(log: Log) -> IntArray:
    """Row indices of the first sample after each reset of the distance."""
    distance = log.get("distance")
    if distance is None or len(distance) < 3:
        return np.empty(0, dtype=np.intp)
    fall = np.diff(distance.value)
    top = float(distance.value.max() - distance.value.min())
    return np.flatnonzero(fall < -max(20.0, 0.3 * top)) + 1


def _by_lap_column(log: Log, known: LineSource) -> list[_Piece]:
    """Pieces of equal lap number; each border is placed between its two samples."""
    lap = log.channels["lap"]
    start, end = log.span_s()
    own = [_border_s(log, *pair, known) for pair in _changes(lap)]
    crossed = _beacons_amiss(log, own)
    if crossed:
        return _by_crossings(log, crossed, round(float(lap.value[0])), known)
    (starts_at_line, start), times, at = from_one_line(log, _start_at_line(log, start, known), own, known)
    edges = [start, *times, end]
    numbers = [round(float(n)) for n in lap.value[[0, *_first_rows(lap)]]]
    last = len(numbers) - 1
    if last == 1 and end - times[0] <= SLIVER_S:
        # A log of one lap, which nothing but its column tells to be one.
        starts_at_line = starts_at_line or log.get("distance") is None
    return [
        _Piece(number, edges[i], edges[i + 1], at[i - 1] if i else starts_at_line, i < last and at[i])
        for i, number in enumerate(numbers)
        if edges[i + 1] > edges[i]
    ]


def _beacons_amiss(log: Log, own_s: list[float]) -> list[float]:
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


def _by_crossings(log: Log, times: list[float], first: int, known: LineSource) -> list[_Piece]:
    """Pieces between crossings, numbered from the lap column's first number on."""
    start, end = log.span_s()
    at_line, start = _start_at_line(log, start, known)
    edges = [start, *(t for t in times if t > start + SLIVER_S), end]
    return [
        _Piece(first + i, a, b, begins=at_line or i > 0, ends=i < len(edges) - 2)
        for i, (a, b) in enumerate(itertools.pairwise(edges))
        if b > a
    ]


def told_beacons(log: Log) -> Log:
    """The log, with it told where its laps were parted or joined by the line, since a beacon was missed or false."""
    if not _tells_laps(log):
        return log
    own = [_border_s(log, *pair, NOWHERE) for pair in _changes(log.channels["lap"])]
    times = _beacons_amiss(log, own)
    if not times:
        return log
    what = "missed or false beacons: laps parted and joined where the line was crossed, and counted anew"
    return replace(log, repairs=(*log.repairs, Repair("lap", what, abs(len(times) - len(own)) or 1)))


def told_line(log: Log, known: LineSource) -> Log:
    """The log, with it told where its own laps begin elsewhere than at the line that serves all of a command."""
    log = told_beacons(log)
    own = _told_borders(log)
    off = elsewhere_m(log, own, known)
    if off == 0.0:
        return log
    where = f"{abs(off):.0f} m {'past' if off > 0.0 else 'before'}"
    told = Repair("lap", f"its own laps begin {where} the line that is used, taken from that", len(own))
    return replace(log, repairs=(*log.repairs, told))


def _first_rows(lap: Channel) -> IntArray:
    """Rows of the lap column at which its number is a new one."""
    return np.flatnonzero(np.abs(np.diff(lap.value)) > 0.5) + 1


def _changes(lap: Channel) -> list[tuple[float, float]]:
    """Times of the samples before and after each change of the lap column."""
    rows = _first_rows(lap)
    return list(zip(lap.time_s[rows - 1].tolist(), lap.time_s[rows].tolist(), strict=True))


def _border_s(log: Log, before_s: float, after_s: float, known: LineSource) -> float:
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
            return max(before_s, after_s - float(d1) / max(_speed_at(log, after_s), 1.0))
    middle = 0.5 * (before_s + after_s)
    crossing = _crossing_near(log, known, middle)
    # A column that changes a sample late does so in every lap; positions that drift cross the line anywhere.
    if crossing is None or abs(crossing - middle) > 2.0 * (after_s - before_s):
        return middle
    return min(max(crossing, before_s), after_s)


def _crossing_near(log: Log, known: LineSource, time_s: float) -> float | None:
    path = positions(log, known.origin)
    if path is None or known.line is None:
        return None
    times = crossings(log, path, known.line)
    near = times[np.abs(times - time_s) < 1.0]
    return float(near[0]) if near.size else None


def _start_at_line(log: Log, start_s: float, known: LineSource = NOWHERE) -> tuple[bool, float]:
    """Whether the log begins at the line, by its lap clock, its distance or its positions, and when it was crossed."""
    within = log.get("lap_time")
    if within is not None:
        since = float(within.value[0])
        begins = -1e-6 <= since <= 1.5 * float(np.median(np.diff(log.channels["time"].time_s)))
        return begins, start_s - since if begins else start_s
    distance = log.get("distance")
    if distance is None:
        return _start_by_position(log, start_s, known)
    first = float(distance.value[0])
    slack = max(END_SLACK_M, 1.5 * _step_m(log, start_s))
    if not 0.0 <= first <= slack:
        return False, start_s
    return True, start_s - first / max(_speed_at(log, start_s), 1.0)


def _start_by_position(log: Log, start_s: float, known: LineSource) -> tuple[bool, float]:
    """Whether the log begins at the line, and when it was crossed; where no position tells, it is taken to begin there."""
    path = positions(log, known.origin) if known.line is not None else None
    if path is None or known.line is None:
        return True, start_s
    crossing = _crossing_near(log, known, start_s)
    if crossing is not None:
        return True, crossing
    # A line where a lap column changes is itself known to a sample's step only.
    ahead_m = float(known.line.ahead_m(path[0].value[:1], path[1].value[:1])[0])
    slack = 2.0 * max(END_SLACK_M, 1.05 * _step_m(log, start_s))
    begins = 0.0 <= ahead_m <= slack
    return begins, start_s - ahead_m / max(_speed_at(log, start_s), 1.0) if begins else start_s


def _speed_at(log: Log, time_s: float) -> float:
    """Speed at a time, m/s."""
    time, distance = travelled(log)
    at = np.interp([time_s - 0.1, time_s + 0.1], time, distance)
    inside = np.clip([time_s - 0.1, time_s + 0.1], time[0], time[-1])
    return float((at[1] - at[0]) / max(inside[1] - inside[0], 1e-6))


def _step_m(log: Log, time_s: float) -> float:
    """Metres between two samples of the row clock."""
    clock = log.channels["time"].time_s
    return float(np.median(np.diff(clock))) * _speed_at(log, time_s)


def _by_reset(log: Log, known: LineSource = NOWHERE) -> list[_Piece]:
    """Pieces between the resets of the distance."""
    distance = log.channels["distance"]
    times = []
    for i in _resets(log):
        after = float(distance.time_s[i])
        times.append(
            max(float(distance.time_s[i - 1]), after - float(distance.value[i]) / max(_speed_at(log, after), 1.0))
        )
    start, end = log.span_s()
    (at_start, start), times, at = from_one_line(log, _start_at_line(log, start), times, known)
    edges = [start, *times, end]
    first = 1 if at_start else 0
    last = len(edges) - 2
    return [
        _Piece(first + i, edges[i], edges[i + 1], at[i - 1] if i else at_start, i < last and at[i])
        for i in range(len(edges) - 1)
    ]


def _by_line(log: Log, known: LineSource) -> list[_Piece]:
    """Pieces between crossings of the line; without any, the whole log is one piece."""
    start, end = log.span_s()
    path = positions(log, known.origin)
    number = _lap_number(log)
    if path is None or known.line is None:
        at_line, start = _start_at_line(log, start)
        return [_Piece(number or int(at_line), start, end, at_line, at_line and not log.has_position())]
    times = crossings(log, path, known.line)
    if times.size == 0:
        return [_Piece(number or 0, start, end, begins=False, ends=False)]
    edges = list(times)
    pieces = [_Piece(i + 1, a, b, begins=True, ends=True) for i, (a, b) in enumerate(itertools.pairwise(edges))]
    if edges[0] - start > 0.2:
        pieces.insert(0, _Piece(0, start, edges[0], begins=False, ends=True))
    if end - edges[-1] > 0.2:
        pieces.append(_Piece(len(edges), edges[-1], end, begins=True, ends=False))
    if number is not None and len(pieces) == 1:
        pieces = [replace(pieces[0], number=number)]
    return pieces


def _lap_number(log: Log) -> int | None:
    lap = log.get("lap")
    return round(float(lap.value[0])) if lap is not None and len(lap) else None


def _judge(log: Log, pieces: list[_Piece]) -> tuple[LapSpan, ...]:
    """Complete or why not; an end just short of the line is run on to it, a sliver is left out."""
    pieces = [p for p in pieces if p.end_s - p.start_s > SLIVER_S] or pieces
    time, distance = travelled(log)
    lengths = [_length(time, distance, p) for p in pieces]
    sure = {p.start_s: length for p, length in zip(pieces, lengths, strict=True) if p.begins and p.ends}
    # Without positions a log is only taken to begin at the line, so its first lap is not what others are judged by.
    seen = [length for start_s, length in sure.items() if start_s > time[0]] or list(sure.values())
    typical = float(np.median(seen)) if seen else None
    return tuple(_span(log, p, length, typical, len(seen)) for p, length in zip(pieces, lengths, strict=True))


def _length(time: FloatArray, distance: FloatArray, piece: _Piece) -> float:
    ends = [_place_at(time, distance, t) for t in (piece.start_s, piece.end_s)]
    return ends[1] - ends[0]


def _place_at(time: FloatArray, distance: FloatArray, time_s: float) -> float:
    """Distance travelled at a time, running on beyond the ends of the log."""
    if time_s < time[0]:
        return float(distance[0] + (time_s - time[0]) * end_speed(time, distance, first=True))
    if time_s > time[-1]:
        return float(distance[-1] + (time_s - time[-1]) * end_speed(time, distance, first=False))
    return float(np.interp(time_s, time, distance))


def _span(log: Log, piece: _Piece, length: float, typical: float | None, sure: int) -> LapSpan:
    """The lap that a piece is: ``typical`` is the length of ``sure`` laps that go from line to line."""
    why = None
    end, begins, ends = piece.end_s, piece.begins, piece.ends
    if typical is not None and begins and not ends:
        short = typical - length
        slack = max(END_SLACK_M, 1.05 * _step_m(log, end))
        if abs(short) <= slack:
            end, ends = end + short / max(_speed_at(log, end), 1.0), True
            length = typical
    elif typical is None and begins and not ends and not log.has_position():
        ends = True
    if not begins:
        why = "out lap: it does not begin at the line"
    elif not ends:
        why = "incomplete: it does not reach the line again"
    elif typical is not None and abs(length - typical) > 0.1 * typical:
        why = f"its length is {length:.0f} m, that of the others {typical:.0f} m"
    elif typical is not None and sure >= FEWEST_ALIKE and abs(length - typical) > OFF_SHARE * typical:
        why = f"{DOUBTFUL}: its length is {length:.0f} m, that of the others {typical:.0f} m"
    elif torn := next((t for t in log.torn if t.reaches_into(piece.start_s, end)), None):
        why = f"{DOUBTFUL}: {torn.what}"
    return LapSpan(piece.number, float(piece.start_s), float(end), float(length), why is None, why)


def require_complete(span: LapSpan, source: str) -> None:
    """Refuse a piece that is too short, or too long, to be compared at all.

    Raises:
        InputError: fewer than 100 m, or more than 100 km or two hours.
    """
    where = f"{source}, lap {span.number}"
    if span.length_m < SHORTEST_LAP_M:
        raise InputError(where, "it is shorter than 100 m.", "Choose another lap.")
    if span.length_m > LONGEST_LAP_M or span.time_s > LONGEST_LAP_S:
        what = f"{span.length_m / 1000.0:.0f} km in {span.time_s / 60.0:.0f} minutes are no lap of a circuit."
        raise InputError(where, what, "Check the units of 'time', 'speed' and 'distance'.")
