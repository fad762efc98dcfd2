"""The road of a circuit, from the lines that are driven there: its axis, its mean path, and how far lines spread.

    founder's lap ──path──> axis (circuit_m, laid once)
    every lap ──laid on the founder, path──> offset beside it ──sums──> mean path, spread, edges

Places are told along the mean path of the founder's own run.  Laps that are driven later make
the path surer and the edges wider; the axis itself stays, so that nothing that a person has put
on it moves.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

import numpy as np

from jete.core.axis.place.align import Alignment, identity
from jete.core.axis.place.laying import Prepared, laid, prepare
from jete.core.axis.road.road import Road, road_of
from jete.core.axis.road.sensor_path import led_path
from jete.core.circuit.height import Rise, risen
from jete.core.circuit.schematic import schematic
from jete.core.driving.passage import passage_of
from jete.core.errors import InputError
from jete.core.log.plane import Origin, origin_of

if TYPE_CHECKING:
    from collections.abc import Iterable

    from jete.core.arrays import FloatArray
    from jete.core.log.lap import Lap

# A line moves sideways by less than a hand's breadth over this length of road.
GRID_M = 5.0
# Smoothed over a bend's length, the white error of ten fixes a second shrinks to about a third.
WHITE_LEFT = 0.35
# A lap that leaves the others by more than a road's width was driven beside it.
ASTRAY_M = 15.0
# Beyond the mean of the lines by two spreads hardly a lap is driven.
EDGE_SPREADS = 2.0


@dataclass(frozen=True, eq=False, kw_only=True)
class CircuitRoad:
    """A circuit's road at even places of its founder's lap; all arrays (n,), ``founder_xy_m`` (n, 2).

    ``circuit_m`` is the axis.  ``mean_m`` is how far left of the founder's path the laps were
    driven on average, ``squares_m2`` the sum of their squared deviations, ``left_m`` and
    ``right_m`` the outermost of them, ``doubt_m`` what one lap's line is off by.  Without
    positions the path is a ``schematic`` and there are no lines.  ``origin`` is that of the plane.  ``rise`` is how
    the road rises and leans, where laps show it.
    """

    founder_m: FloatArray
    circuit_m: FloatArray
    founder_xy_m: FloatArray
    bend_1pm: FloatArray
    laps: int
    mean_m: FloatArray
    squares_m2: FloatArray
    left_m: FloatArray
    right_m: FloatArray
    doubt_m: float
    schematic: bool = False
    origin: Origin = field(default_factory=Origin)
    rise: Rise | None = None

    @property
    def length_m(self) -> float:
        """Length of the axis."""
        return float(self.circuit_m[-1])

    def to_circuit(self, founder_m: FloatArray) -> FloatArray:
        """Places of the axis (m,) for places of the founder's lap (m,)."""
        return np.interp(founder_m, self.founder_m, self.circuit_m)

    def to_founder(self, circuit_m: FloatArray) -> FloatArray:
        """Places of the founder's lap (m,) for places of the axis (m,)."""
        return np.interp(circuit_m, self.circuit_m, self.founder_m)

    def path_m(self) -> FloatArray:
        """The mean path, (n, 2)."""
        return np.asarray(self.founder_xy_m + self.mean_m[:, None] * normals(self.founder_xy_m))

    def spread_m(self) -> FloatArray:
        """Standard deviation of the lines that were driven, without what positions are off by, (n,)."""
        if self.laps < 2:
            return np.zeros_like(self.mean_m)
        return np.sqrt(np.maximum(self.squares_m2 / (self.laps - 1) - self.doubt_m**2, 0.0))

    def driven_edges_m(self) -> tuple[FloatArray, FloatArray]:
        """Road that was surely used, to the left and to the right of the mean path, (n,) both, metres.

        The outermost line, but no farther out than two spreads: one lap of many with a wrong
        position is no road.
        """
        reach = EDGE_SPREADS * np.sqrt(self.squares_m2 / max(self.laps - 1, 1))
        return (
            np.minimum(self.left_m - self.mean_m, np.maximum(reach, 0.0)),
            np.minimum(self.mean_m - self.right_m, np.maximum(reach, 0.0)),
        )


def normals(path_m: FloatArray) -> FloatArray:
    """Unit vectors to the left of a path (n, 2), (n, 2)."""
    step = np.gradient(path_m, axis=0)
    step = step / np.maximum(np.hypot(step[:, 0], step[:, 1]), 1e-9)[:, None]
    return np.stack([-step[:, 1], step[:, 0]], axis=1)


def left_of_m(line_m: FloatArray, path_m: FloatArray) -> FloatArray:
    """How far a line lies left of a path, point by point: both (n, 2) metres at the same places, (n,) metres."""
    return np.asarray(np.sum((line_m - path_m) * normals(path_m), axis=1))


def founded(founder: Lap, laps: Iterable[Lap] = ()) -> CircuitRoad:
    """The road as the founder's lap and others of its run show it.

    Args:
        founder: the lap that the circuit is known by.
        laps: further ones; what can't be laid on the founder is left out.

    Raises:
        InputError: a founder that is no lap.
    """
    prepared, road = _own(founder)
    count = max(round(road.length_m / GRID_M), 2) + 1
    grid = np.linspace(0.0, road.length_m, count)
    drawn = _path_at(prepared, grid)
    path = drawn if drawn is not None else schematic(grid, road.curvature_at(grid))
    zero = np.zeros(count)
    doubt = _doubt_m(prepared)
    made = CircuitRoad(
        founder_m=grid, circuit_m=grid, founder_xy_m=path, bend_1pm=road.curvature_at(grid), laps=1, mean_m=zero, squares_m2=zero, left_m=zero, right_m=zero, doubt_m=doubt, schematic=drawn is None,
        origin=origin_of(founder.log) or Origin(),
        rise=risen(None, passage_of(founder, prepared.motion, identity(prepared.motion)), grid),
    )  # fmt: skip
    made = _with_laps(made, (founder, road), laps)
    return replace(made, circuit_m=grid if made.schematic else _along(made.path_m()))


def improved(known: CircuitRoad, founder: Lap, lap: Lap) -> CircuitRoad:
    """The road with one more lap; as it was where the lap has no line on it."""
    return improved_by(known, founder, (lap,))


def improved_by(known: CircuitRoad, founder: Lap, laps: Iterable[Lap]) -> CircuitRoad:
    """The road with more laps; those that have no line on it are left out."""
    return known if known.schematic else _with_laps(known, (founder, _own(founder)[1]), laps)


def _with_laps(known: CircuitRoad, on: tuple[Lap, Road], laps: Iterable[Lap]) -> CircuitRoad:
    for lap in laps:
        if not known.schematic and not _is(on[0], lap):
            known = _with_lap(known, on, lap)
    return known


def _with_lap(known: CircuitRoad, on: tuple[Lap, Road], lap: Lap) -> CircuitRoad:
    """The road with a lap's line, and with how it rose and leaned there."""
    found = _laid_on(on, lap)
    if found is None:
        return known
    prepared, alignment = found
    wider = _with_line(known, _line_offset_m(known, prepared, alignment))
    if wider is known:
        return known
    return replace(wider, rise=risen(known.rise, passage_of(lap, prepared.motion, alignment), known.founder_m))


def _with_line(known: CircuitRoad, offset: FloatArray | None) -> CircuitRoad:
    if offset is None or float(np.max(np.abs(offset - known.mean_m))) > ASTRAY_M:
        return known
    # Welford (1962), Technometrics 4:419: mean and squares without keeping the laps.
    laps = known.laps + 1
    off = offset - known.mean_m
    mean = known.mean_m + off / laps
    return replace(
        known, laps=laps, mean_m=mean, squares_m2=known.squares_m2 + off * (offset - mean),
        left_m=np.maximum(known.left_m, offset), right_m=np.minimum(known.right_m, offset),
    )  # fmt: skip


def _is(founder: Lap, lap: Lap) -> bool:
    return founder.span == lap.span and founder.log.source == lap.log.source


def _own(founder: Lap) -> tuple[Prepared, Road]:
    prepared = prepare(founder, origin_of(founder.log))
    return prepared, road_of(founder, prepared.motion, prepared.fixes)


def _laid_on(on: tuple[Lap, Road], lap: Lap) -> tuple[Prepared, Alignment] | None:
    """A lap laid on the founder and its road; None where it lies elsewhere."""
    founder, road = on
    try:
        prepared = prepare(lap, origin_of(founder.log))
        return prepared, laid(prepared, road)
    except InputError:
        return None


def _line_offset_m(known: CircuitRoad, prepared: Prepared, on: Alignment) -> FloatArray | None:
    """Metres to the left of the founder's path at its places, (n,), of a lap that is laid on it: on the founder's map."""
    drawn = _path_at(prepared, np.interp(known.founder_m, on.place_m, prepared.motion.distance_m))
    return None if drawn is None else left_of_m(drawn - np.array(on.map_step_m), known.founder_xy_m)


def _path_at(prepared: Prepared, own_m: FloatArray) -> FloatArray | None:
    """A lap's own path at its distances (n,), (n, 2); None without positions."""
    if prepared.fixes is None:
        return None
    return led_path(prepared.lap, prepared.motion, prepared.fixes)(own_m)


def _doubt_m(prepared: Prepared) -> float:
    """What a lap's line is off by: its drift, and what smoothing leaves of its white error."""
    if prepared.fixes is None:
        return 0.0
    worth = prepared.fixes.errors
    return float(np.hypot(worth.drift_m, WHITE_LEFT * worth.white_m))


def _along(path_m: FloatArray) -> FloatArray:
    return np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path_m, axis=0).T))])
