"""Laps laid on a reference's road: motion and positions of each, and the place of every sample."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jete.core.axis.place.align import Alignment, Unplaced, align
from jete.core.axis.positions.path import Fixes, fixes_of
from jete.core.axis.road.line_doubt import line_sigmas_m
from jete.core.axis.road.road import Road
from jete.core.axis.road.sensor_lag import sensor_in_time
from jete.core.log.lap import Lap
from jete.core.log.plane import Origin
from jete.core.motion.motion import Motion, motion_of
from jete.core.motion.split import require_complete


@dataclass(frozen=True, eq=False)
class Prepared:
    """A lap with its motion and positions on the reference's plane."""

    lap: Lap
    motion: Motion
    fixes: Fixes | None


def prepare(lap: Lap, origin: Origin | None) -> Prepared:
    """A lap ready to be laid on a road whose plane touches the earth at ``origin``.

    Raises:
        InputError: a piece that is too short or too long to be a lap.
    """
    require_complete(lap.span, lap.log.source)
    motion = motion_of(lap)
    return Prepared(lap, motion, fixes_of(lap, motion, origin))


def laid(prepared: Prepared, road: Road, *, one_log: bool = False) -> Alignment:
    """The places of a lap's samples on a road; ``one_log`` says that it is of the log that the road was driven in.

    Raises:
        InputError: a lap of another circuit, layout or direction.
    """
    lap, motion, fixes = prepared.lap, prepared.motion, prepared.fixes
    # Laps of one log have one sensor: positions need not tell whether they do.
    timed = sensor_in_time(lap, motion, None if one_log else fixes, road.sensor_moved)
    sensor = None if timed is None else timed.sensor
    found = align(Unplaced(lap.called, motion, fixes, sensor, line_sigmas_m(lap, motion, fixes)), road)
    return found if timed is None else replace(found, sensor_late_s=timed.moved.by_s)
