"""Which circuit a log was driven on: the one whose start line its path passes."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np
from sqlalchemy import select

from jete.core.plane import Origin, StartLine, positions
from jete.core.split import LineSource
from jete.library.models import Circuit

if TYPE_CHECKING:
    from sqlalchemy.orm import Session

    from jete.core.lap import Log

NEAR_M = 30.0
AHEAD = 0.5


def line_document(source: LineSource | None) -> dict[str, Any] | None:
    """A start line as it is kept; None without one, or on a plane that has no place on earth."""
    if source is None or source.line is None or source.origin is None or source.origin.latitude_deg is None:
        return None
    line, origin = source.line, source.origin
    return {
        "latitude_deg": origin.latitude_deg, "longitude_deg": origin.longitude_deg,
        "x_m": line.x_m, "y_m": line.y_m, "heading_rad": line.heading_rad,
    }  # fmt: skip


def line_from(document: dict[str, Any]) -> LineSource:
    """A start line from what was kept."""
    origin = Origin(document["latitude_deg"], document["longitude_deg"])
    return LineSource(origin, StartLine(document["x_m"], document["y_m"], document["heading_rad"]))


def circuit_of(session: Session, log: Log) -> tuple[str, str, LineSource] | None:
    """Name, layout and line of the known circuit whose line the log passes in its direction."""
    for circuit in session.scalars(select(Circuit).where(Circuit.line.is_not(None), Circuit.name != "")):
        if circuit.line and passes(log, source := line_from(circuit.line)):
            return circuit.name, circuit.layout, source
    return None


def passes(log: Log, source: LineSource) -> bool:
    """Whether a log's path goes over a line in its direction."""
    path = positions(log, source.origin)
    if path is None or source.line is None or len(path[0]) < 4:
        return False
    x, y = path[0].value, path[1].value
    away = np.hypot(x - source.line.x_m, y - source.line.y_m)
    near = np.flatnonzero(away[1:-1] < NEAR_M) + 1
    if near.size == 0:
        return False
    steps = np.stack([x[near + 1] - x[near - 1], y[near + 1] - y[near - 1]])
    along = steps[0] * np.cos(source.line.heading_rad) + steps[1] * np.sin(source.line.heading_rad)
    return bool(np.mean(along / np.maximum(np.hypot(*steps), 1e-9)) > AHEAD)
