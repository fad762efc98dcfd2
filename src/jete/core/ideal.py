"""A lap joined from the best pass of each corner of a run, with its seams told.

A pass runs from where a corner's window begins to the beginning of the next one.  Where
two passes of different laps meet, the second begins at another speed than the first
ended with.  What the vehicle can make up within a short stretch is no seam; what it can't
is one: that lap could not be driven just so, and it is said by how much.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.driving.vehicle import Drive, drive_of
from jete.core.errors import InputError
from jete.core.log.lap import Channel, Lap, LapSpan, Log
from jete.core.run import borders_m, set_aside

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.axis.road.corners import CornerNumber
    from jete.core.causes.verdict.result import Comparison
    from jete.core.driving.passage import Passage

# Within this stretch a difference of speed may be made up.
SEAM_M = 25.0
# No seam is blamed for less: noise of a logged speed.
LEAST_JUMP_MPS = 0.3
# Samples that lie on a seam belong to one piece only.
STEP_S = 1e-4
NOT_JOINED = ("time", "lap", "distance", "lap_time", "beacon", "speed")


@dataclass(frozen=True)
class Seam:
    """Where two passes meet: corner that begins there, laps on either side, jump of speed; ``honest`` if it can be driven."""

    corner: CornerNumber
    place_m: float
    from_lap: int
    to_lap: int
    jump_mps: float
    honest: bool


@dataclass(frozen=True, eq=False)
class IdealLap:
    """The joined lap, the lap that each corner is from, and the seams between different laps."""

    lap: Lap
    laps: tuple[int, ...]
    seams: tuple[Seam, ...]


@dataclass(frozen=True, eq=False, kw_only=True)
class _JoinedPiece:
    """Passes of one lap in a row: the first corner, whose, from and to (metres), its own times, when it begins in the joined lap."""

    corner: CornerNumber
    passage: Passage
    start_m: float
    end_m: float
    start_s: float
    end_s: float
    begins_s: float

    @property
    def shift_s(self) -> float:
        """The seconds from the lap's own time to that of the joined lap."""
        return self.begins_s - self.start_s


def ideal_lap(comparison: Comparison, name: str, counted: Sequence[int] | None = None) -> IdealLap:
    """Join the best passes of a run.

    Args:
        comparison: laps of one run against one of them, whose axis the joined lap is on.
        name: what the joined lap's log is called.
        counted: places in ``comparison.laps`` that may be taken from; by default those that
            do not stray from the run.  The reference always may.

    Raises:
        InputError: there is nothing to join.
    """
    borders = borders_m(comparison)
    passages = [comparison.reference, *(lap.passage for lap in comparison.laps)]
    took = np.array([np.diff(p.time_at(borders)) for p in passages])
    allowed = [0, *(i + 1 for i in _counted(comparison, took, counted))]
    if len(allowed) < 2:
        raise InputError(name, "an ideal lap needs at least two laps that count.", "Drive another one.")
    owners = np.asarray(allowed)[np.argmin(took[allowed], axis=0)]
    pieces = _pieces([passages[k] for k in owners], borders, [c.number for c in comparison.corners])
    drive = drive_of(comparison.reference, comparison.road)
    seams = _seams(pieces, drive)
    log = _log(pieces, name, seams)
    span = LapSpan(
        0, 0.0, pieces[-1].begins_s + pieces[-1].end_s - pieces[-1].start_s, float(borders[-1]), complete=True
    )
    return IdealLap(Lap(log, span), tuple(p.passage.lap.span.number for p in pieces), seams)


def _counted(comparison: Comparison, took: FloatArray, counted: Sequence[int] | None) -> list[int]:
    if counted is not None:
        return list(counted)
    return [i for i, why in enumerate(set_aside(took[1:] - took[0], comparison.corners)) if why is None]


def _pieces(owners: Sequence[Passage], borders: FloatArray, corners: Sequence[CornerNumber]) -> list[_JoinedPiece]:
    """Passes of one lap that follow each other are one piece."""
    out: list[_JoinedPiece] = []
    begins = 0.0
    for k, owner in enumerate(owners):
        start, end = float(borders[k]), float(borders[k + 1])
        from_s, to_s = owner.time_of(start), owner.time_of(end)
        if out and out[-1].passage is owner:
            last = out.pop()
            out.append(
                _JoinedPiece(
                    corner=last.corner,
                    passage=owner,
                    start_m=last.start_m,
                    end_m=end,
                    start_s=last.start_s,
                    end_s=to_s,
                    begins_s=last.begins_s,
                )
            )
        else:
            out.append(
                _JoinedPiece(
                    corner=corners[k],
                    passage=owner,
                    start_m=start,
                    end_m=end,
                    start_s=from_s,
                    end_s=to_s,
                    begins_s=begins,
                )
            )
        begins += to_s - from_s
    return out


def _seams(pieces: Sequence[_JoinedPiece], drive: Drive) -> tuple[Seam, ...]:
    """The meetings of two laps."""
    out = []
    for before, after in itertools.pairwise(pieces):
        place = after.start_m
        ends, starts = (float(p.passage.speed_at_scale(np.array([place]))[0]) for p in (before, after))
        jump = starts - ends
        able = drive.driving_mps2 if jump > 0.0 else drive.braking_mps2
        honest = abs(jump) <= max(able * SEAM_M / max(ends, 5.0), LEAST_JUMP_MPS)
        laps = (before.passage.lap.span.number, after.passage.lap.span.number)
        out.append(Seam(after.corner, place, *laps, jump, honest))
    return tuple(out)


def _log(pieces: Sequence[_JoinedPiece], name: str, seams: Sequence[Seam]) -> Log:
    """The pieces one after the other: place on the axis as distance, everything else as it was logged."""
    joined = [_motion(p, last=p is pieces[-1]) for p in pieces]
    time, place, speed = (np.concatenate([j[k] for j in joined]) for k in range(3))
    channels = {
        "time": Channel("time", "s", time, time),
        "distance": Channel("distance", "m", time, place),
        "speed": Channel("speed", "m/s", time, speed),
    }
    shared = set.intersection(*(set(p.passage.lap.log.channels) for p in pieces)) - set(NOT_JOINED)
    for channel in sorted(shared):
        found = _joined(pieces, channel)
        if found is not None:
            channels[channel] = found
    laps = ", ".join(str(n) for n in sorted({p.passage.lap.span.number for p in pieces}))
    notes = [f"joined from the best passes of laps {laps}"]
    notes += [
        f"at corner {s.corner} its speed jumps by {s.jump_mps * 3.6:+.1f} km/h, which can't be driven"
        for s in seams
        if not s.honest
    ]
    return Log(source=name, channels=channels, repairs=(), notes=tuple(notes))


def _motion(piece: _JoinedPiece, *, last: bool) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Time, place and speed (on the reference's odometer) of a piece, with its first point and, for the last, its end."""
    motion, places = piece.passage.motion, piece.passage.alignment.place_m
    inside = (motion.time_s > piece.start_s + STEP_S) & (motion.time_s < piece.end_s - STEP_S)
    ends = [piece.end_s] if last else []
    times = np.concatenate([[piece.start_s], motion.time_s[inside], ends])
    speed = np.interp(times, motion.time_s, motion.speed_mps) * piece.passage.alignment.speed_scale
    place = np.interp(times, motion.time_s, places)
    place[0] = piece.start_m
    if last:
        place[-1] = piece.end_m
    return times + piece.shift_s, place, speed


def _joined(pieces: Sequence[_JoinedPiece], name: str) -> Channel | None:
    """One channel over all pieces with its own samples; None where a piece has none."""
    times, values, unit = [], [], ""
    for piece in pieces:
        channel = piece.passage.lap.get(name)
        if channel is None or len(channel) < 2:
            return None
        inside = (channel.time_s >= piece.start_s) & (channel.time_s < piece.end_s)
        times.append(channel.time_s[inside] + piece.shift_s)
        values.append(channel.value[inside])
        unit = channel.unit
    time = np.concatenate(times)
    rising = np.concatenate([[True], np.diff(time) > 0.0])
    return Channel(name, unit, time[rising], np.concatenate(values)[rising]) if rising.sum() > 1 else None
