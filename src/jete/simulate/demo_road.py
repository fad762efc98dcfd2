"""What the demo's team has noted about Kestrel Sands: names, boards, cones, kerbs, a gantry, fences, patches, hazards.

Marrow Fen has none of it: a person makes it there.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

import numpy as np

from jete.core.axis.road.corners import Corner, CornerId, CornerNumber
from jete.core.axis.road.road import Direction
from jete.core.circuit.landmarks import Hazard, Landmark, LandmarkKind, RoadBook, Seen, Side
from jete.core.log.plane import Origin
from jete.formats.geojson import CircuitFile

if TYPE_CHECKING:
    from jete.simulate.circuit import Circuit, RoadCorner

# A place in the open ocean: nobody's circuit.
SEA_LATITUDE_DEG: Final = 41.2500
SEA_LONGITUDE_DEG: Final = -31.5000
# Half of the road's width, from the middle.
HALF_WIDTH_M: Final = 5.5
# Number on the circuit and name of each bend as built; the kink has none of its own.
NAMES: Final = {
    1: ("1", "Harbour"), 2: ("2", "Marram"), 3: ("3", "Marram Gate"), 4: ("4", "Marram Rise"), 5: ("5", "Lighthouse"),
    6: ("6", "Groyne"), 8: ("7", "Tideline"), 9: ("8", "Shingle"), 10: ("9", "Breakwater"), 11: ("10", "Slipway"),
    12: ("11", "Saltpan"), 13: ("12", "Homeward"),
}  # fmt: skip
_K = LandmarkKind
# Bend as built, metres from its beginning (negative before it), kind, words, side, how well it is seen, from how far.
_SEEN: Final[tuple[tuple[int, float, LandmarkKind, str, Side, Seen, float], ...]] = (
    (1, -200.0, _K.BOARD, "200", "left", "well", 160.0), (1, -150.0, _K.BOARD, "150", "left", "well", 150.0),
    (1, -100.0, _K.BOARD, "100", "left", "well", 130.0), (1, -50.0, _K.BOARD, "50", "left", "well", 100.0),
    (1, 36.0, _K.KERB_BEGINS, "", "right", "well", 60.0), (1, 92.0, _K.KERB_BEGINS, "exit kerb", "left", "fairly", 40.0),
    (2, -42.0, _K.CONE, "first cone", "right", "well", 70.0), (2, -14.0, _K.CONE, "second cone", "right", "well", 70.0),
    (2, 46.0, _K.KERB_BEGINS, "", "left", "fairly", 40.0),
    (3, 6.0, _K.STATE, "wheel straight between the bends", "", "fairly", 0.0), (3, 38.0, _K.KERB_BEGINS, "", "right", "fairly", 40.0),
    (4, 44.0, _K.KERB_BEGINS, "", "left", "fairly", 40.0), (4, 104.0, _K.KERB_ENDS, "", "right", "well", 80.0),
    (5, -100.0, _K.BOARD, "100", "right", "well", 140.0), (5, -50.0, _K.BOARD, "50", "right", "well", 110.0),
    (5, 10.0, _K.PATCH, "dark patch", "", "fairly", 50.0), (5, 122.0, _K.BUILDING, "lighthouse ahead", "left", "well", 300.0),
    (5, 178.0, _K.KERB_BEGINS, "exit kerb", "left", "well", 60.0),
    (6, -90.0, _K.POST, "post 4", "right", "well", 150.0), (6, -45.0, _K.CONE, "", "right", "well", 80.0),
    (6, 36.0, _K.KERB_BEGINS, "", "left", "well", 50.0),
    (7, 10.0, _K.STATE, "top of the sandbank", "", "fairly", 0.0),
    (8, -100.0, _K.BOARD, "100", "left", "well", 130.0), (8, -50.0, _K.BOARD, "50", "left", "well", 110.0),
    (8, 44.0, _K.KERB_BEGINS, "", "right", "well", 50.0), (8, 104.0, _K.KERB_ENDS, "", "left", "well", 60.0),
    (9, -60.0, _K.BRIDGE, "footbridge", "over", "well", 250.0), (9, -16.0, _K.TYRES, "", "left", "well", 90.0),
    (10, -100.0, _K.BOARD, "100", "left", "well", 120.0), (10, -50.0, _K.BOARD, "50", "left", "well", 100.0),
    (10, 16.0, _K.KERB_BEGINS, "raised kerb", "right", "well", 40.0),
    (11, -20.0, _K.SURFACE, "new tarmac", "", "fairly", 50.0), (11, 10.0, _K.KERB_BEGINS, "", "left", "fairly", 30.0),
    (12, -72.0, _K.POST, "post 8", "left", "well", 120.0), (12, -36.0, _K.MARK, "white arrow on the road", "", "fairly", 50.0),
    (12, 28.0, _K.KERB_BEGINS, "", "right", "well", 40.0),
    (13, -100.0, _K.BOARD, "100", "left", "well", 130.0), (13, -50.0, _K.BOARD, "50", "left", "well", 110.0),
    (13, 50.0, _K.KERB_BEGINS, "", "right", "well", 60.0), (13, 108.0, _K.KERB_ENDS, "exit kerb", "left", "well", 70.0),
    (13, 190.0, _K.PIT, "", "right", "well", 200.0), (13, 380.0, _K.GANTRY, "", "over", "well", 400.0),
)  # fmt: skip
# Bend as built, from and to in metres from its beginning, words, side.
_HAZARDS: Final[tuple[tuple[int, float, float, str, Side], ...]] = (
    (1, 90.0, 150.0, "the harbour wall is close on the way out", "left"),
    (5, 120.0, 180.0, "sand blows onto the road with wind from the sea", "right"),
    (9, -20.0, 60.0, "tyre stack at the outside", "right"),
    (10, 10.0, 60.0, "wet patch after rain or high tide", "left"),
    (11, 0.0, 30.0, "raised kerb: it throws a car off its wheels", "left"),
    (12, 50.0, 110.0, "the grass drops away", "left"),
)
RULES: Final = (
    "Closed circuit; marshals and their flags come first.",
    "No overtaking between Breakwater and Saltpan in practice.",
    "Leave the road for the pits right of the white line only.",
)


def kestrel_sands_file(circuit: Circuit) -> CircuitFile:
    """Kestrel Sands to be handed on, along the middle of the road."""
    begins = {c.number: float(c.start_m) for c in circuit.corners}
    named = [c for c in circuit.corners if c.number in NAMES]
    corners = tuple(_corner(k, c) for k, c in enumerate(named, start=1))
    landmarks = tuple(
        sorted(
            (
                Landmark(id=k, kind=kind, circuit_m=begins[bend] + at, text=words, side=side, seen=seen, from_m=from_m)
                for k, (bend, at, kind, words, side, seen, from_m) in enumerate(_SEEN, start=1)
            ),
            key=lambda x: x.circuit_m,
        )
    )
    hazards = tuple(
        Hazard(100 + k, begins[bend] + start, begins[bend] + end, words, side)
        for k, (bend, start, end, words, side) in enumerate(_HAZARDS)
    )
    thirds = (round(circuit.length_m / 3.0, 1), round(2.0 * circuit.length_m / 3.0, 1))
    edges = tuple((float(s), HALF_WIDTH_M, HALF_WIDTH_M) for s in np.linspace(0.0, circuit.length_m, 40))
    axis = np.append(circuit.station_m, circuit.length_m)[::4]
    path = np.stack([np.append(v, v[0])[::4] for v in (circuit.x_m, circuit.y_m)], axis=1)
    book = RoadBook(landmarks, hazards, RULES, thirds, edges)
    origin = Origin(SEA_LATITUDE_DEG, SEA_LONGITUDE_DEG)
    return CircuitFile(circuit.name, "", origin, axis, path, corners, book)


def _corner(number: int, built: RoadCorner) -> Corner:
    """A bend as built, with its number and name."""
    side: Direction = "left" if built.direction == "left" else "right"
    label, name = NAMES[built.number]
    return Corner(
        number=CornerNumber(number),
        direction=side,
        start_m=float(built.start_m),
        apex_m=float(built.apex_m),
        end_m=float(built.end_m),
        label=label,
        id=CornerId(number),
        name=name,
    )
