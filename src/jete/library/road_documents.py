"""A circuit's road, and what people know of it, as they are kept: JSON of plain numbers and words."""

from __future__ import annotations

from dataclasses import asdict, fields
from typing import TYPE_CHECKING, Any

import numpy as np

from jete.core.circuit.height import Rise
from jete.core.circuit.landmarks import Hazard, Landmark, LandmarkKind, RoadBook
from jete.core.circuit.mean_path import CircuitRoad
from jete.core.log.plane import Origin

if TYPE_CHECKING:
    from collections.abc import Mapping

# A centimetre; bends to a radius of 100 km; slopes and leans to a hundredth of a per cent.
DIGITS = {"bend_1pm": 6, "slope": 4, "leans_rad": 4}


def road_document(road: CircuitRoad) -> dict[str, Any]:
    """A road as it is kept."""
    out: dict[str, Any] = {}
    for f in fields(road):
        out[f.name] = _plain(f.name, getattr(road, f.name))
    return {**out, "origin": asdict(road.origin), "rise": _rise_document(road.rise)}


def _plain(name: str, value: Any) -> Any:
    return np.round(value, DIGITS.get(name, 3)).tolist() if isinstance(value, np.ndarray) else value


def _rise_document(rise: Rise | None) -> dict[str, Any] | None:
    return None if rise is None else {f.name: _plain(f.name, getattr(rise, f.name)) for f in fields(rise)}


def road_from(document: Mapping[str, Any]) -> CircuitRoad:
    """A road from what was kept."""
    rise = document.get("rise")
    known = Rise(**_arrays(rise)) if rise else None
    return CircuitRoad(**{**_arrays(document), "origin": Origin(**document["origin"]), "rise": known})


def _arrays(document: Mapping[str, Any]) -> dict[str, Any]:
    return {k: np.array(v) if isinstance(v, list) else v for k, v in document.items()}


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
