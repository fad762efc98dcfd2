"""Laps cut from their logs, and laps side by side on the reference's distance axis, to be written."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.log.lap import Channel, Log
from jete.core.motion.motion import motion_of
from jete.formats.columns import Columns

if TYPE_CHECKING:
    from jete.core.causes.verdict.result import Comparison
    from jete.core.driving.passage import Passage
    from jete.core.log.lap import Lap

STEP_M = 1.0


def log_of_lap(lap: Lap) -> Log:
    """A lap as a log of its own: time and distance from the line.

    Its row clock begins and ends at the crossings, so that it is a complete lap by itself.
    """
    found = {
        name: c
        for name in lap.log.channels
        if name not in ("time", "lap", "distance", "lap_time", "beacon") and (c := lap.get(name)) is not None and len(c)
    }
    rows = lap.log.channels["time"].time_s - lap.span.start_s
    inside = rows[(rows > 0.0) & (rows < lap.span.time_s)]
    clock = np.concatenate([[0.0], inside, [lap.span.time_s]])
    # Not the logged distance: it may fall back to zero at the line, between two samples.
    motion = motion_of(lap)
    channels = {
        "time": Channel("time", "s", clock, clock),
        "distance": Channel("distance", "m", clock, motion.distance_at(clock)),
    }
    for name, channel in found.items():
        kept = channel.between(0.0, lap.span.time_s)
        if len(kept) >= len(inside):
            channels[name] = Channel(name, channel.unit, clock, channel.at(clock))
        else:
            within = (kept.time_s >= 0.0) & (kept.time_s <= lap.span.time_s)
            channels[name] = Channel(name, channel.unit, kept.time_s[within], kept.value[within])
    return Log(source=lap.label, channels=channels, repairs=lap.log.repairs)


def aligned_columns(comparison: Comparison) -> Columns:
    """Both laps (or all) over the reference's distance in steps of a metre, with the running gap."""
    length = comparison.reference.motion.length_m
    grid = np.append(np.arange(0.0, length, STEP_M), length)
    names, units, values = ["distance"], ["m"], [grid]
    entries: list[tuple[str, Passage, FloatArray | None]] = [("reference", comparison.reference, None)]
    entries += [
        (f"lap {c.passage.lap.span.number}", c.passage, np.interp(grid, c.trace_m, c.trace_s)) for c in comparison.laps
    ]
    for label, passage, gap in entries:
        for name, unit, column in _of(passage, grid):
            names.append(f"{name} {label}")
            units.append(unit)
            values.append(column)
        if gap is not None:
            names.append(f"gap {label}")
            units.append("s")
            values.append(gap)
    return Columns("comparison", tuple(names), tuple(units), tuple(values))


def _of(passage: Passage, grid: FloatArray) -> list[tuple[str, str, FloatArray]]:
    """Time, speed and the driver's channels of one lap at places of the axis."""
    time = passage.time_at(grid)
    out = [
        ("time", "s", time),
        ("speed", "km/h", 3.6 * np.interp(grid, passage.alignment.place_m, passage.motion.speed_mps)),
    ]
    for name, scale, unit in (
        ("throttle", 100.0, "%"),
        ("brake", 1.0, ""),
        ("steering", 180.0 / np.pi, "deg"),
        ("gear", 1.0, ""),
    ):
        channel = passage.lap.get(name)
        if channel is not None and len(channel):
            out.append((name, unit or channel.unit, scale * channel.at(time)))
    return out
