"""The circuits of a library as a table and as JSON."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from jete.report.seat import landmark_words
from jete.report.words import counted

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.circuit.landmarks import RoadBook
    from jete.core.circuit.mean_path import CircuitRoad
    from jete.library.circuits import Place

    Told = tuple[Place, CircuitRoad | None, RoadBook]

DIGITS = 2


def circuits_table(circuits: Sequence[Told]) -> str:
    """One line a circuit, and its corners and landmarks where it is one alone."""
    if not circuits:
        return "No circuit is known yet: bring a log in.\n"
    lines = [_line(*c) for c in circuits]
    place, road, book = circuits[0]
    if len(circuits) == 1 and road is not None:
        lines += _details(place, road, book)
    return "\n".join(lines) + "\n"


def _line(place: Place, road: CircuitRoad | None, book: RoadBook) -> str:
    name = " · ".join(x for x in (place.name or "no name", place.layout) if x)
    length = (
        f"{road.length_m:.0f} m, {counted(road.laps, 'lap', 'laps')}" if road is not None else "no lap shows its road"
    )
    return f"{name}: {length}, {len(place.corners or ())} corners, {len(book.landmarks)} landmarks"


def _details(place: Place, road: CircuitRoad, book: RoadBook) -> list[str]:
    rows = [(float(road.to_circuit(np.array([c.apex_m]))[0]), f"corner {c.called}") for c in place.corners or ()]
    rows += [(x.circuit_m, landmark_words(x)) for x in book.landmarks]
    rows += [(h.start_m, f"! {h.text}") for h in book.hazards]
    return [f"{at:8.0f} m  {words}" for at, words in sorted(rows)]


def circuits_document(circuits: Sequence[Told]) -> dict[str, Any]:
    """The document of ``jete circuit --json``."""
    return {"schema": "jete.circuits/1", "circuits": [_circuit(*c) for c in circuits]}


def _circuit(place: Place, road: CircuitRoad | None, book: RoadBook) -> dict[str, Any]:
    def at(founder_m: float) -> float | None:
        return None if road is None else round(float(road.to_circuit(np.array([founder_m]))[0]), DIGITS)

    return {
        "name": place.name,
        "layout": place.layout,
        "length_m": None if road is None else round(road.length_m, DIGITS),
        "laps": 0 if road is None else road.laps,
        "schematic": road is not None and road.schematic,
        "corners": [
            {"id": c.id, "number": c.shown, "name": c.name or None, "direction": c.direction, "start_circuit_m": at(c.start_m), "circuit_m": at(c.apex_m), "end_circuit_m": at(c.end_m)}
            for c in place.corners or ()
        ],
        "landmarks": [
            {"id": x.id, "kind": x.kind, "text": landmark_words(x), "circuit_m": round(x.circuit_m, DIGITS), "side": x.side, "seen": x.seen}
            for x in book.landmarks
        ],
        "hazards": [
            {"id": h.id, "text": h.text, "side": h.side, "start_circuit_m": round(h.start_m, DIGITS), "end_circuit_m": round(h.end_m, DIGITS)}
            for h in book.hazards
        ],
        "rules": list(book.rules),
    }  # fmt: skip
