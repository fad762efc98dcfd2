"""GPS tracks as GPX: time and position, and a speed where the points carry one."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from jete.core.errors import InputError
from jete.formats.columns import Columns
from jete.formats.watched import UNWATCHED, Watch

if TYPE_CHECKING:
    from pathlib import Path


def read(path: Path, watch: Watch = UNWATCHED) -> Columns:
    """Read the points of all tracks, in their order.

    Raises:
        InputError: no XML, no points, or points without a time.
    """
    import gpxpy
    from gpxpy.gpx import GPXException

    try:
        with path.open(encoding="utf-8-sig") as file:
            track = gpxpy.parse(file)
    except (GPXException, UnicodeDecodeError) as error:
        raise InputError(path.name, "this GPX file is damaged.", "Export the track again.") from error
    watch.step(1.0)
    points = [p for t in track.tracks for s in t.segments for p in s.points]
    timed = [(p, p.time.timestamp()) for p in points if p.time is not None]
    if not timed:
        what = "its points have no time." if points else "it holds no track."
        raise InputError(path.name, what, "Export a track with time stamps, not a route.")
    time = np.array([t for _, t in timed])
    timed_points = [p for p, _ in timed]
    values = [
        time - time[0],
        *(np.array([getattr(p, n) for p in timed_points], dtype=float) for n in ("latitude", "longitude")),
    ]
    names, units = ["time", "latitude", "longitude"], ["s", "deg", "deg"]
    speed = np.array([_speed(p) for p in timed_points])
    if np.isfinite(speed).mean() > 0.5:
        values.append(speed)
        names.append("speed")
        units.append("m/s")
    return Columns(path.name, tuple(names), tuple(units), tuple(values), started_s=float(time[0]))


def _speed(point: Any) -> float:
    """Speed in m/s as GPX 1.0 has it, or a point's extension; NaN without."""
    if point.speed is not None:
        return float(point.speed)
    for extension in point.extensions:
        for element in extension.iter():
            if str(element.tag).rpartition("}")[2] == "speed" and element.text:
                return float(element.text)
    return float("nan")
