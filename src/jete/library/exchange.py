"""Circuits handed on: out of a library as a file, and what a file knows into a library's circuit."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from jete.core.axis.road.corners import CornerId
from jete.core.circuit.numbering import same_corner
from jete.core.circuit.rebase import Axis, rebased, rebased_corners
from jete.core.errors import InputError
from jete.formats.geojson import CircuitFile, circuit_file

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.axis.road.corners import Corner
    from jete.core.circuit.mean_path import CircuitRoad
    from jete.library.circuits import Place
    from jete.library.library import Library

# A path that lies farther from the circuit than this, on average, is another circuit's.
ELSEWHERE_M = 25.0


def hand_out(library: Library, place: Place) -> CircuitFile:
    """A circuit of a library to be handed on.

    Raises:
        InputError: no lap shows its road yet.
    """
    road = library.circuits.road(place)
    if road is None:
        raise InputError(place.name or "circuit", "no complete lap shows its road yet.", "Bring one in first.")
    return circuit_file(place.name, place.layout, road, place.corners or (), library.circuits.book(place))


def take_in(library: Library, place: Place, file: CircuitFile) -> dict[CornerId, CornerId]:
    """Take what a file knows into a circuit: corners with their numbers and names, landmarks, hazards, rules, sectors.

    Everything goes to where it lies on the road, and a corner that is known keeps its id.  Returns the ids here by
    the file's.

    Raises:
        InputError: the file is of another circuit, or on a plane of its own.
    """
    road = library.circuits.road(place)
    refuse_elsewhere(road, place.name, file)
    assert road is not None
    xy = file.origin.carried_to(road.origin, file.path_m)
    theirs = Axis(file.axis_m, xy)
    library.circuits.write_book(place, rebased(file.book, theirs, Axis(road.circuit_m, road.path_m())))
    corners = rebased_corners(file.corners, theirs, Axis(road.founder_m, road.founder_xy_m))
    mine = _with_known_ids(corners, place.corners or ())
    if mine:
        library.circuits.write_corners(place, mine)
    return _ids(corners, mine)


def refuse_elsewhere(road: CircuitRoad | None, name: str, file: CircuitFile) -> None:
    """Refuse a file that is of another circuit than the one it is to be taken into.

    Raises:
        InputError: so it is, or nothing tells where one of them lies.
    """
    if road is None or road.schematic:
        raise InputError(
            file.name or "circuit", "nothing tells where it lies: no lap here has positions.", "Bring one in first."
        )
    if (road.origin.latitude_deg is None) != (file.origin.latitude_deg is None):
        raise InputError(
            file.name or "circuit",
            "it lies on a plane of its own, the circuit here does not.",
            "Write it again with degrees.",
        )
    xy = file.origin.carried_to(road.origin, file.path_m)
    away = np.hypot(*(road.founder_xy_m[:, None, :] - xy[None, ::4, :]).transpose(2, 0, 1)).min(axis=1)
    if float(away.mean()) > ELSEWHERE_M:
        raise InputError(
            file.name or "circuit",
            f"its path does not follow {name or 'this circuit'}.",
            "Choose the circuit that it is of.",
        )


def same_corners(library: Library, place: Place, file: CircuitFile) -> dict[CornerId, CornerId]:
    """The ids that a file's corners have here, for those that are known; nothing is changed."""
    road = library.circuits.road(place)
    if road is None or road.schematic:
        return {}
    theirs = Axis(file.axis_m, file.origin.carried_to(road.origin, file.path_m))
    corners = rebased_corners(file.corners, theirs, Axis(road.founder_m, road.founder_xy_m))
    known = {c.id for c in place.corners or ()}
    mine = _with_known_ids(corners, place.corners or ())
    return {theirs: here for theirs, here in _ids(corners, mine).items() if here in known}


def _ids(theirs: Sequence[Corner], mine: Sequence[Corner]) -> dict[CornerId, CornerId]:
    pairs = zip(theirs, mine, strict=True)
    return {a.id: b.id for a, b in pairs if a.id is not None and b.id is not None}


def _with_known_ids(corners: Sequence[Corner], known: Sequence[Corner]) -> tuple[Corner, ...]:
    """Corners of a file under the ids that the same corners have here; the others under new ones."""
    free = 1 + max((c.id or 0 for c in known), default=0)
    out: list[Corner] = []
    for corner in corners:
        taken = {c.id for c in out}
        there = next((c for c in known if c.id not in taken and same_corner(corner, c)), None)
        out.append(replace(corner, id=there.id if there is not None else CornerId(free)))
        free += there is None
    return tuple(out)
