"""Circuits as GeoJSON (RFC 7946), to be handed on and drawn by other tools.  Properties are told in docs/geojson.md.

In degrees where the circuit lies on the earth, else in metres on a local plane, which the file
says of itself (``jete:plane``); RFC 7946, § 4 leaves other systems to those who agree on them.
"""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass, replace
from functools import cached_property
from itertools import pairwise
from math import isfinite
from typing import TYPE_CHECKING, Any

import numpy as np

from jete.core.axis.road.corners import Corner, CornerId, CornerNumber, renumbered
from jete.core.circuit.landmarks import SEEN, SIDES, Hazard, Landmark, LandmarkKind, RoadBook
from jete.core.errors import InputError
from jete.core.log.plane import Origin

if TYPE_CHECKING:
    from collections.abc import Sequence
    from pathlib import Path

    from jete.core.arrays import FloatArray
    from jete.core.circuit.mean_path import CircuitRoad

SCHEMA = "jete.circuit/1"
# Seven decimals of a degree are a centimetre.
DEGREE_DIGITS, METRE_DIGITS = 7, 2
# What a circuit can be: bytes of its file, features, points of its path; its length; a lap of 25 km has 200 corners.
LARGEST, MOST_FEATURES, MOST_POINTS = 4_000_000, 3_000, 20_000
SHORTEST_M, LONGEST_M, MOST_CORNERS = 100.0, 100_000.0, 400
MOST_RULES, MOST_SECTORS, MOST_EDGES = 200, 60, 20_000
MEND = "Write it again from the program, or see docs/geojson.md."


@dataclass(frozen=True, eq=False)
class CircuitFile:
    """A circuit as it is handed on: its axis (places and points, (n,) and (n, 2) metres), corners and book on the axis."""

    name: str
    layout: str
    origin: Origin
    axis_m: FloatArray
    path_m: FloatArray
    corners: tuple[Corner, ...]
    book: RoadBook


def circuit_file(name: str, layout: str, road: CircuitRoad, corners: tuple[Corner, ...], book: RoadBook) -> CircuitFile:
    """A circuit to be handed on; its corners come on the founder's axis and leave on the circuit's."""

    def at(place: float) -> float:
        return float(road.to_circuit(np.array([place]))[0])

    moved = tuple(replace(c, start_m=at(c.start_m), apex_m=at(c.apex_m), end_m=at(c.end_m)) for c in corners)
    return CircuitFile(name, layout, road.origin, road.circuit_m, road.path_m(), moved, book)


def document(circuit: CircuitFile) -> dict[str, Any]:
    """The feature collection of a circuit: its path, then corners as pieces of it, landmarks as points, hazards as pieces."""
    earth = circuit.origin.latitude_deg is not None
    features = [
        _line(
            circuit,
            0.0,
            float(circuit.axis_m[-1]),
            {"jete:what": "path", "axis_m": np.round(circuit.axis_m, METRE_DIGITS).tolist()},
        )
    ]
    for c in circuit.corners:
        told = {
            "id": c.id,
            "number": c.shown,
            "name": c.name,
            "direction": c.direction,
            "circuit_m": round(c.apex_m, 2),
        }
        features.append(_line(circuit, c.start_m, c.end_m, {"jete:what": "corner", **told}))
    features += [_point(circuit, m.circuit_m, {"jete:what": "landmark", **asdict(m)}) for m in circuit.book.landmarks]
    for hazard in circuit.book.hazards:
        told = {"id": hazard.id, "text": hazard.text, "side": hazard.side}
        features.append(_line(circuit, hazard.start_m, hazard.end_m, {"jete:what": "hazard", **told}))
    return {
        "type": "FeatureCollection",
        "jete:schema": SCHEMA, "jete:name": circuit.name, "jete:layout": circuit.layout,
        "jete:plane": None if earth else "metres east and north of a place that nobody knows",
        "jete:rules": list(circuit.book.rules), "jete:sectors_m": list(circuit.book.sectors_m),
        "jete:edges": [list(e) for e in circuit.book.edges],
        "features": features,
    }  # fmt: skip


def write(path: Path, circuit: CircuitFile) -> None:
    """Write a circuit as one file, wholly or not at all.

    Raises:
        InputError: a place that can't be written to.
    """
    from jete.formats.whole_file import written_wholly

    text = json.dumps(document(circuit), ensure_ascii=False, indent=1)
    try:
        with written_wholly(path) as part:
            part.write_text(text, encoding="utf-8")
    except OSError as error:
        raise InputError(str(path), f"it can't be written ({error.strerror}).", "Name another place.") from error


def read(path: Path) -> CircuitFile:
    """Read a circuit.

    Raises:
        InputError: no file, no GeoJSON, or one that is no circuit of ours; says what and where.
    """
    try:
        if path.stat().st_size > LARGEST:
            raise InputError(path.name, "it is too large for a circuit.", MEND)
        data = json.loads(path.read_text(encoding="utf-8"))
    except OSError as error:
        raise InputError(str(path), f"it can't be read ({error.strerror}).", "Check the name.") from error
    except (ValueError, RecursionError) as error:
        raise InputError(path.name, "it is no JSON.", MEND) from error
    return parsed(data, path.name)


def parsed(data: Any, source: str) -> CircuitFile:
    """A circuit from a document.

    Raises:
        InputError: it is no circuit of ours; says which feature.
    """
    if not isinstance(data, dict) or data.get("type") != "FeatureCollection" or data.get("jete:schema") != SCHEMA:
        raise InputError(source, f"it is no circuit ('jete:schema' must be '{SCHEMA}').", MEND)
    features = data.get("features")
    if not isinstance(features, list):
        raise InputError(source, "'features' is no list.", MEND)
    try:
        return _circuit(data, features)
    except (KeyError, TypeError, ValueError, AttributeError, OverflowError) as error:
        raise InputError(source, f"a feature is not as it should be ({str(error)[:80]}).", MEND) from error


def _circuit(data: dict[str, Any], features: list[Any]) -> CircuitFile:
    if len(features) > MOST_FEATURES:
        message = f"more than {MOST_FEATURES} of them"
        raise ValueError(message)
    by_kind: dict[str, list[dict[str, Any]]] = {"path": [], "corner": [], "landmark": [], "hazard": []}
    for feature in features:
        what = feature["properties"].get("jete:what")
        if what in by_kind:
            by_kind[what].append(feature)
    if len(by_kind["path"]) != 1:
        message = "one path is needed"
        raise ValueError(message)
    origin, axis, path = _path(by_kind["path"][0], on_earth=data.get("jete:plane") is None)
    spots = _Spots(origin, axis, path)
    corners = sorted((_corner(f, spots) for f in by_kind["corner"]), key=lambda c: c.start_m)
    book = RoadBook(
        tuple(sorted((_landmark(f["properties"]) for f in by_kind["landmark"]), key=lambda x: x.circuit_m)),
        tuple(_hazard(f, spots) for f in by_kind["hazard"]),
        tuple(text_in(r, 500) for r in data.get("jete:rules") or ()),
        tuple(sorted(_number(s) for s in data.get("jete:sectors_m") or ())),
        tuple(sorted((_number(a), _number(b), _number(c)) for a, b, c in data.get("jete:edges") or ())),
    )
    _refuse_strange(corners, book, float(axis[-1]))
    named = tuple(renumbered(corners))
    return CircuitFile(
        text_in(data.get("jete:name"), 120),
        text_in(data.get("jete:layout"), 120),
        origin,
        axis,
        path,
        named,
        book,
    )


def _refuse_strange(corners: Sequence[Corner], book: RoadBook, length_m: float) -> None:
    """Refuse what lies off the lap, runs backwards, stands there twice, or is more than any circuit has.

    Raises:
        ValueError: so it is.
    """
    ids, numbers = [c.id for c in corners], [c.label for c in corners]
    inside = all(0.0 <= c.start_m <= c.apex_m <= c.end_m <= length_m and c.start_m < c.end_m for c in corners)
    spots = [
        *(x.circuit_m for x in book.landmarks),
        *book.sectors_m,
        *(m for h in book.hazards for m in (h.start_m, h.end_m)),
    ]
    wrong = {
        f"more than {MOST_CORNERS} corners": len(corners) > MOST_CORNERS,
        "a corner outside the lap, or backwards": not inside,
        "two corners with one id": len(set(ids)) < len(ids),
        "two corners with one number": len(set(numbers)) < len(numbers),
        "corners that lie over each other": any(b.start_m < a.apex_m for a, b in pairwise(corners)),
        "something outside the lap": any(not 0.0 <= m <= length_m for m in spots),
        "more rules, sectors or edges than a circuit has": len(book.rules) > MOST_RULES
        or len(book.sectors_m) > MOST_SECTORS
        or len(book.edges) > MOST_EDGES,
    }
    message = next((what for what, is_so in wrong.items() if is_so), None)
    if message is not None:
        raise ValueError(message)


def text_in(value: Any, longest: int) -> str:
    """Words of a file, no longer than so; halves of a pair of code units, which no file can hold, become a question mark."""
    return str(value or "")[:longest].encode("utf-8", "replace").decode("utf-8")


def _path(feature: dict[str, Any], *, on_earth: bool) -> tuple[Origin, FloatArray, FloatArray]:
    given = feature["geometry"]["coordinates"]
    if len(given) > MOST_POINTS:
        message = f"a path of more than {MOST_POINTS} points"
        raise ValueError(message)
    points = np.array(given, dtype=float)
    if on_earth and points.ndim == 2 and np.any(np.abs(points[:, :2]) > (180.0, 90.0)):
        message = "the path is not on the earth"
        raise ValueError(message)
    if points.ndim != 2 or len(points) < 3 or not np.all(np.isfinite(points)):
        message = "the path needs three points or more"
        raise ValueError(message)
    origin = Origin(float(points[0, 1]), float(points[0, 0])) if on_earth else Origin()
    xy = np.stack(origin.to_plane(points[:, 1], points[:, 0]), axis=1) if on_earth else points[:, :2]
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(xy, axis=0).T))])
    axis = np.array([_number(m) for m in feature["properties"].get("axis_m") or along])
    if axis.shape != along.shape or np.any(np.diff(axis) < 0.0):
        message = "'axis_m' does not go with the path"
        raise ValueError(message)
    if any(not SHORTEST_M <= length <= LONGEST_M for length in (float(axis[-1] - axis[0]), float(along[-1]))):
        message = f"no circuit is {axis[-1]:.3g} m long"
        raise ValueError(message)
    return origin, axis, xy


@dataclass(frozen=True, eq=False)
class _Spots:
    """Finds the place of the axis that a point lies at."""

    origin: Origin
    axis_m: FloatArray
    path_m: FloatArray

    @cached_property
    def _fine(self) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Places ten times as fine as the path's, (n,), and where they lie."""
        fine = np.linspace(0.0, float(self.axis_m[-1]), 10 * len(self.axis_m))
        x, y = (np.interp(fine, self.axis_m, self.path_m[:, k]) for k in (0, 1))
        return fine, x, y

    def place(self, point: Any) -> float:
        a, b = _number(point[0]), _number(point[1])
        if self.origin.latitude_deg is not None:
            east, north = self.origin.to_plane(np.array([b]), np.array([a]))
            a, b = float(east[0]), float(north[0])
        fine, x, y = self._fine
        return float(fine[int(np.argmin(np.hypot(x - a, y - b)))])


def _corner(feature: dict[str, Any], spots: _Spots) -> Corner:
    told, points = feature["properties"], feature["geometry"]["coordinates"]
    start, end = (_number(told[n]) if n in told else spots.place(points[k]) for n, k in (("start_m", 0), ("end_m", -1)))
    direction = told.get("direction")
    if direction not in ("left", "right", "unknown"):
        message = f"direction {direction!r}"
        raise ValueError(message)
    return Corner(
        number=CornerNumber(0), direction=direction, start_m=start, apex_m=_number(told["circuit_m"]), end_m=end, label=text_in(told["number"], 12), id=CornerId(int(told["id"])),
        name=text_in(told.get("name"), 80),
    )  # fmt: skip


def _landmark(told: dict[str, Any]) -> Landmark:
    side, seen = told.get("side", ""), told.get("seen", "well")
    if side not in SIDES or seen not in SEEN:
        message = f"side {side!r}, seen {seen!r}"
        raise ValueError(message)
    return Landmark(
        id=int(told["id"]), kind=LandmarkKind(told["kind"]), circuit_m=_number(told["circuit_m"]), text=text_in(told.get("text"), 80),
        side=side, seen=seen, from_m=_number(told.get("from_m", 0.0)),
    )  # fmt: skip


def _hazard(feature: dict[str, Any], spots: _Spots) -> Hazard:
    told, points = feature["properties"], feature["geometry"]["coordinates"]
    side = told.get("side", "")
    if side not in SIDES:
        message = f"side {side!r}"
        raise ValueError(message)
    start, end = (_number(told[n]) if n in told else spots.place(points[k]) for n, k in (("start_m", 0), ("end_m", -1)))
    return Hazard(int(told["id"]), start, end, text_in(told.get("text"), 200), side)


def _number(value: Any) -> float:
    number = float(value)
    if isinstance(value, bool) or not isfinite(number):
        message = f"{value!r} is no number"
        raise ValueError(message)
    return number


def _line(circuit: CircuitFile, start_m: float, end_m: float, properties: dict[str, Any]) -> dict[str, Any]:
    inside = circuit.axis_m[(circuit.axis_m > start_m) & (circuit.axis_m < end_m)]
    points = _coordinates(circuit, np.concatenate([[start_m], inside, [end_m]]))
    ends = {} if properties["jete:what"] == "path" else {"start_m": round(start_m, 2), "end_m": round(end_m, 2)}
    return {
        "type": "Feature",
        "geometry": {"type": "LineString", "coordinates": points},
        "properties": {**properties, **ends},
    }


def _point(circuit: CircuitFile, place_m: float, properties: dict[str, Any]) -> dict[str, Any]:
    point = _coordinates(circuit, np.array([place_m]))[0]
    told = {**properties, "circuit_m": round(place_m, 2)}
    return {"type": "Feature", "geometry": {"type": "Point", "coordinates": point}, "properties": told}


def _coordinates(circuit: CircuitFile, places_m: FloatArray) -> list[list[float]]:
    x, y = (np.interp(places_m, circuit.axis_m, circuit.path_m[:, k]) for k in (0, 1))
    if circuit.origin.latitude_deg is None:
        return np.round(np.stack([x, y], axis=1), METRE_DIGITS).tolist()  # type: ignore[no-any-return]
    latitude, longitude = circuit.origin.to_degrees(x, y)
    return np.round(np.stack([longitude, latitude], axis=1), DEGREE_DIGITS).tolist()  # type: ignore[no-any-return]
