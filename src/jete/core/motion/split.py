"""A log into laps: by the ``lap`` column, a distance that resets, or crossing the line.

All crossings are interpolated.  With a distance that resets, the first sample after the
reset tells how far past the line it is; with positions, the crossing is found on a curve
fitted over the samples around it, since one noisy sample would shift it by its noise.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass, replace

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.errors import InputError
from jete.core.log.lap import DOUBTFUL, LapSpan, Log
from jete.core.log.plane import positions
from jete.core.motion.beacons import crossed_instead
from jete.core.motion.borders import (
    border_s,
    changes,
    crossing_near,
    first_rows,
    line_of,
    refuse_short,
    reset_times,
    resets,
    speed_at,
    step_m,
    tells_laps,
)
from jete.core.motion.crossing import END_SLACK_M, crossings, end_speed
from jete.core.motion.motion import travelled
from jete.core.motion.one_line import NOWHERE, LineSource, from_one_line

SHORTEST_LAP_M, LONGEST_LAP_M, LONGEST_LAP_S = 100.0, 100_000.0, 7200.0
# What is left at an end of a log and shorter is no lap.
SLIVER_S = 0.3
# Of so many laps one can be told that is not as long as the others, or not timed where they are; longer or shorter by so much it
# was mended in its time, or left the road.
FEWEST_ALIKE, OFF_SHARE = 3, 0.03


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
    refuse_short(log)
    known = known or line_of(log)
    if tells_laps(log):
        pieces = _by_lap_column(log, known)
    elif resets(log).size:
        pieces = _by_reset(log, known)
    else:
        pieces = _by_line(log, known)
    return _judge(log, pieces)


def split_by_line(log: Log, line: LineSource) -> tuple[LapSpan, ...]:
    """The laps between crossings of a line, whatever the log says of laps itself."""
    return _judge(log, _by_line(log, line))


def _by_lap_column(log: Log, known: LineSource) -> list[_Piece]:
    """Pieces of equal lap number; each border is placed between its two samples."""
    lap = log.channels["lap"]
    start, end = log.span_s()
    own = [border_s(log, *pair, known) for pair in changes(lap)]
    crossed = crossed_instead(log, own)
    if crossed:
        return _by_crossings(log, crossed, round(float(lap.value[0])), known)
    (starts_at_line, start), times, at = from_one_line(log, _start_at_line(log, start, known), own, known)
    edges = [start, *times, end]
    numbers = [round(float(n)) for n in lap.value[[0, *first_rows(lap)]]]
    last = len(numbers) - 1
    if last == 1 and end - times[0] <= SLIVER_S:
        # A log of one lap, which nothing but its column tells to be one.
        starts_at_line = starts_at_line or log.get("distance") is None
    return [
        _Piece(number, edges[i], edges[i + 1], at[i - 1] if i else starts_at_line, i < last and at[i])
        for i, number in enumerate(numbers)
        if edges[i + 1] > edges[i]
    ]


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
    slack = max(END_SLACK_M, 1.5 * step_m(log, start_s))
    if not 0.0 <= first <= slack:
        return False, start_s
    return True, start_s - first / max(speed_at(log, start_s), 1.0)


def _start_by_position(log: Log, start_s: float, known: LineSource) -> tuple[bool, float]:
    """Whether the log begins at the line, and when it was crossed; where no position tells, it is taken to begin there."""
    path = positions(log, known.origin) if known.line is not None else None
    if path is None or known.line is None:
        return True, start_s
    crossing = crossing_near(log, known, start_s)
    if crossing is not None:
        return True, crossing
    # A line where a lap column changes is itself known to a sample's step only.
    ahead_m = float(known.line.ahead_m(path[0].value[:1], path[1].value[:1])[0])
    slack = 2.0 * max(END_SLACK_M, 1.05 * step_m(log, start_s))
    begins = 0.0 <= ahead_m <= slack
    return begins, start_s - ahead_m / max(speed_at(log, start_s), 1.0) if begins else start_s


def _by_reset(log: Log, known: LineSource = NOWHERE) -> list[_Piece]:
    """Pieces between the resets of the distance."""
    start, end = log.span_s()
    (at_start, start), times, at = from_one_line(log, _start_at_line(log, start), reset_times(log), known)
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
        slack = max(END_SLACK_M, 1.05 * step_m(log, end))
        if abs(short) <= slack:
            end, ends = end + short / max(speed_at(log, end), 1.0), True
            length = typical
    elif typical is None and begins and not ends and not log.has_position():
        ends = True
    if not begins:
        why = "out lap: it does not begin at the line"
    elif not ends:
        why = "incomplete: it does not reach the line again"
    elif typical is not None and abs(length - typical) > 0.1 * typical:
        why = f"another length: {length:.0f} m, that of the others {typical:.0f} m"
    elif typical is not None and sure >= FEWEST_ALIKE and abs(length - typical) > OFF_SHARE * typical:
        why = f"{DOUBTFUL}: another length, {length:.0f} m, that of the others {typical:.0f} m"
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
