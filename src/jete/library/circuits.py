"""Circuits as they are kept: name, layout, start line, the lap they are known by, the list of corners."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from sqlalchemy import select

from jete.core.axis.road.corners import Corner
from jete.core.log.plane import Origin, StartLine, positions
from jete.core.motion.one_line import LineSource
from jete.library.models import Circuit, Event, Lap, Run

if TYPE_CHECKING:
    from collections.abc import Collection

    from sqlalchemy.orm import Session

    from jete.core.log.lap import Log

NEAR_M = 30.0
AHEAD = 0.5


@dataclass(frozen=True)
class Place:
    """A circuit in one layout; ``founder`` are run and lap that it is known by, None where no lap is complete."""

    id: int
    name: str
    layout: str
    line: LineSource | None
    founder: tuple[int, int] | None
    corners: tuple[Corner, ...] | None


def line_document(source: LineSource | None) -> dict[str, Any] | None:
    """A start line as it is kept; None without one."""
    if source is None or source.line is None or source.origin is None:
        return None
    line, origin = source.line, source.origin
    return {
        "latitude_deg": origin.latitude_deg, "longitude_deg": origin.longitude_deg,
        "x_m": line.x_m, "y_m": line.y_m, "heading_rad": line.heading_rad, "guessed": source.guessed,
    }  # fmt: skip


def line_from(document: dict[str, Any]) -> LineSource:
    """A start line from what was kept."""
    origin = Origin(document["latitude_deg"], document["longitude_deg"])
    line = StartLine(document["x_m"], document["y_m"], document["heading_rad"])
    return LineSource(origin, line, guessed=document.get("guessed", False))


def places(session: Session) -> list[Place]:
    """All circuits that have runs, the longest known first."""
    return [place_of(session, session.get_one(Circuit, k)) for k in sorted(used_circuits(session))]


def used_circuits(session: Session) -> frozenset[int]:
    """The numbers of all circuits that have runs."""
    used = select(Event.circuit_id).join(Run, Run.event_id == Event.id).where(Event.circuit_id.is_not(None))
    return frozenset(session.scalars(used.distinct()))


def place_of(session: Session, circuit: Circuit) -> Place:
    """A circuit as data; where no lap is known as its founder yet, the first complete one is."""
    founder = (circuit.founder_run, circuit.founder_lap)
    known = (
        (founder[0], founder[1]) if founder[0] is not None and founder[1] is not None else _first_lap(session, circuit)
    )
    corners = tuple(Corner(**c) for c in circuit.corners) if circuit.corners else None
    return Place(
        circuit.id, circuit.name, circuit.layout, line_from(circuit.line) if circuit.line else None, known, corners
    )


def _first_lap(session: Session, circuit: Circuit) -> tuple[int, int] | None:
    """Run and number of the fastest lap of the circuit's first run with a complete lap."""
    query = (
        select(Lap.run_id, Lap.number)
        .join(Run, Run.id == Lap.run_id)
        .join(Event, Run.event_id == Event.id)
        .where(Event.circuit_id == circuit.id, Lap.complete, Lap.aside == "", Run.placed.is_not(False))
        .order_by(Lap.run_id, Lap.end_s - Lap.start_s)
    )
    found = session.execute(query).first()
    return (found[0], found[1]) if found else None


def keep_corners(session: Session, circuit: int, founder: tuple[int, int], corners: tuple[Corner, ...]) -> None:
    """Keep a circuit's founder and its corners."""
    row = session.get_one(Circuit, circuit)
    row.founder_run, row.founder_lap = founder
    row.corners = [asdict(c) for c in corners]


def forget_corners(session: Session, run: int) -> None:
    """Let the circuit of a founder's run be known anew: its laps are others now."""
    for row in session.scalars(select(Circuit).where(Circuit.founder_run == run)):
        row.founder_run = row.founder_lap = row.corners = None


def free_name(session: Session, begun: Collection[str] = ()) -> str:
    """A name for a circuit that nobody has named yet, and that is not among those about to be."""
    taken = {*session.scalars(select(Circuit.name)), *begun}
    return next(f"Circuit {k}" for k in range(1, len(taken) + 2) if f"Circuit {k}" not in taken)


def free_layout(session: Session, name: str) -> str:
    """A name for one more layout of a circuit."""
    taken = set(session.scalars(select(Circuit.layout).where(Circuit.name == name)))
    return next(f"layout {k}" for k in range(2, len(taken) + 3) if f"layout {k}" not in taken)


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
