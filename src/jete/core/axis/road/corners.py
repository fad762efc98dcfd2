"""Corners of a road: runs of curvature that turn the vehicle and ask for a lift."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, NewType

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.axis.road.road import Direction, Road

if TYPE_CHECKING:
    from collections.abc import Sequence

# A bend counts from 1/200 m, or from a share of the lateral acceleration the lap reaches.
TIGHT_1PM = 1.0 / 200.0
# Higher misses quick bends that ask for a lift; lower makes corners of kinks.
LATERAL_SHARE = 0.35
# A corner begins and ends where it bends by an eighth of its tightest; moves `start_m`, `end_m`.
EDGE_SHARE = 0.12
# What bends less is straight: 1500 m is beyond what sensors tell from zero.
EDGE_1PM = 1.0 / 1500.0
LEAST_TURN_RAD = np.radians(11.0)
# Two bends of one direction are one corner where so little road lies between them,
JOIN_M = 22.0
# Or where the road stays bent by this share of the lesser one: nobody straightens in between.
JOIN_SHARE = 0.25
# The same where positions alone show a short straight between two bends as a lesser bend.
BLURRED_EDGE_1PM = 1.0 / 400.0
# See JOIN_SHARE: blur fills the straight between two bends by up to a half.
BLURRED_JOIN_SHARE = 0.5


# A corner of a circuit for good, whatever becomes of its number; and its place in the order from the line, from 1.
CornerId = NewType("CornerId", int)
CornerNumber = NewType("CornerNumber", int)


@dataclass(frozen=True, kw_only=True)
class Corner:
    """Where the road turns: start, tightest point and end in metres of the reference's axis.

    ``number`` counts from the line; ``label`` is what people call it (3a), and ``id`` stays
    its own for good in its circuit's list: None where the reference alone decides.  ``name``
    is what people call it besides its number.
    """

    number: CornerNumber
    direction: Direction
    start_m: float
    apex_m: float
    end_m: float
    label: str = ""
    id: CornerId | None = None
    name: str = ""

    @property
    def lasting(self) -> CornerId:
        """Its id; where the reference alone decides, and nothing of it is kept, its number stands for it."""
        return self.id if self.id is not None else CornerId(self.number)

    @property
    def shown(self) -> str:
        """What stands on the screen for it."""
        return self.label or str(self.number)

    @property
    def called(self) -> str:
        """What it is called: its number and its name."""
        return f"{self.shown} {self.name}".rstrip()


def find_corners(road: Road) -> list[Corner]:
    """All bends of the road that may be corners, in order, numbered from 1."""
    kappa, grid = road.curvature_1pm, road.grid_m
    runs = [_trimmed(kappa, run) for run in _runs(road)]
    share = BLURRED_JOIN_SHARE if road.blurred else JOIN_SHARE
    runs = _joined([r for r in runs if _turned(road, r) >= 0.5 * LEAST_TURN_RAD], kappa, grid, share)
    kept = [r for r in runs if _turned(road, r) >= LEAST_TURN_RAD]
    return [_corner(i + 1, road, r) for i, r in enumerate(kept)]


def _runs(road: Road) -> list[tuple[int, int]]:
    """Grid ranges of one sign of curvature that reach the threshold."""
    kappa = road.curvature_1pm
    lateral = np.abs(kappa) * road.speed_mps**2
    reached = float(np.percentile(lateral, 95.0))
    bar = np.minimum(TIGHT_1PM, LATERAL_SHARE * reached / np.maximum(road.speed_mps, 5.0) ** 2)
    edge = BLURRED_EDGE_1PM if road.blurred else EDGE_1PM
    sign = np.where(np.abs(kappa) > edge, np.sign(kappa), 0.0).astype(int)
    edges = np.flatnonzero(np.diff(sign)) + 1
    starts, ends = np.concatenate([[0], edges]), np.concatenate([edges, [len(kappa)]])
    return [
        (int(a), int(b) - 1)
        for a, b in zip(starts, ends, strict=True)
        if sign[a] != 0 and np.any(np.abs(kappa[a:b]) > bar[a:b])
    ]


def _trimmed(kappa: FloatArray, run: tuple[int, int]) -> tuple[int, int]:
    """Cut the run's thin ends: below an eighth of its own peak."""
    a, b = run
    size = np.abs(kappa[a : b + 1])
    strong = np.flatnonzero(size >= EDGE_SHARE * size.max())
    return a + int(strong[0]), a + int(strong[-1])


def _turned(road: Road, run: tuple[int, int]) -> float:
    """Angle that a run turns through, radians, without sign."""
    a, b = run
    return float(abs(road.curvature_1pm[a : b + 1].sum()) * (road.grid_m[1] - road.grid_m[0]))


def _joined(runs: list[tuple[int, int]], kappa: FloatArray, grid: FloatArray, share: float) -> list[tuple[int, int]]:
    """Join neighbours of one direction with hardly any straight between them."""
    out: list[tuple[int, int]] = []
    for run in runs:
        if out and _one_corner(out[-1], run, kappa, grid, share):
            out[-1] = (out[-1][0], run[1])
        else:
            out.append(run)
    return out


def _one_corner(a: tuple[int, int], b: tuple[int, int], kappa: FloatArray, grid: FloatArray, share: float) -> bool:
    same = kappa[a[0] : a[1] + 1].sum() * kappa[b[0] : b[1] + 1].sum() > 0.0
    if not same:
        return False
    between = kappa[a[1] : b[0] + 1] * np.sign(kappa[a[1]])
    peak = min(np.abs(kappa[a[0] : a[1] + 1]).max(), np.abs(kappa[b[0] : b[1] + 1]).max())
    return bool(grid[b[0]] - grid[a[1]] < JOIN_M or between.min() > share * peak)


def _corner(number: int, road: Road, run: tuple[int, int]) -> Corner:
    a, b = run
    size = np.abs(road.curvature_1pm[a : b + 1])
    top = np.flatnonzero(size >= 0.97 * size.max())
    apex = a + round(float(top.mean())) if np.ptp(top) < 60 else a + int(np.argmax(size))
    side: Direction = "left" if road.curvature_1pm[apex] > 0.0 else "right"
    if not road.measured:
        side = "unknown"
    return Corner(
        number=CornerNumber(number),
        direction=side,
        start_m=float(road.grid_m[a]),
        apex_m=float(road.grid_m[apex]),
        end_m=float(road.grid_m[b]),
    )


def parted(road: Road, bend: Corner, cuts_m: Sequence[float]) -> list[Corner]:
    """A bend divided at places within it, in order."""
    kappa = road.curvature_1pm
    first, *cuts, last = road.grid_m.searchsorted([bend.start_m, *cuts_m, bend.end_m]).tolist()
    runs = zip([first, *cuts], [*cuts, last], strict=True)
    return [_corner(bend.number, road, _trimmed(kappa, run)) for run in runs if run[1] > run[0]]


def renumbered(corners: Sequence[Corner]) -> list[Corner]:
    """Corners numbered from 1 in order."""
    return [replace(c, number=CornerNumber(k)) for k, c in enumerate(corners, start=1)]
