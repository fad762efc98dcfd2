"""A circuit's road, and what people know of it, as they are kept: JSON of plain numbers and words."""

from __future__ import annotations

from dataclasses import asdict, fields
from typing import TYPE_CHECKING, Any

import numpy as np

from jete.core.circuit.landmarks import Hazard, Landmark, LandmarkKind, RoadBook
from jete.core.circuit.mean_path import CircuitRoad
from jete.core.log.plane import Origin

if TYPE_CHECKING:
    from collections.abc import Mapping

# A centimetre; bends to a radius of 100 km.
DIGITS = {"bend_1pm": 6}


def road_document(road: CircuitRoad) -> dict[str, Any]:
    """A road as it is kept."""
    out: dict[str, Any] = {}
    for f in fields(road):
        value = getattr(road, f.name)
        out[f.name] = np.round(value, DIGITS.get(f.name, 3)).tolist() if isinstance(value, np.ndarray) else value
    return {**out, "origin": asdict(road.origin)}


def road_from(document: Mapping[str, Any]) -> CircuitRoad:
    """A road from what was kept."""
    values: dict[str, Any] = {k: np.array(v) if isinstance(v, list) else v for k, v in document.items()}
    return CircuitRoad(**{**values, "origin": Origin(**document["origin"])})


def book_document(book: RoadBook) -> dict[str, Any]:
    """What people know, as it is kept."""
    return asdict(book)


def book_from(document: Mapping[str, Any] | None) -> RoadBook:
    """What people know, from what was kept; nothing where nothing was."""
    if not document:
        return RoadBook()
    return RoadBook(
        tuple(Landmark(**{**x, "kind": LandmarkKind(x["kind"])}) for x in document.get("landmarks", ())),
        tuple(Hazard(**x) for x in document.get("hazards", ())),
        tuple(document.get("rules", ())),
        tuple(document.get("sectors_m", ())),
        tuple((float(a), float(b), float(c)) for a, b, c in document.get("edges", ())),
    )
