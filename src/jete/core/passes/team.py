"""The drivers of a circuit side by side, corner by corner: what each loses on the quickest there, and by what.

Medians over all passes that count, with their robust spread; who is quickest at a corner is told by medians too, since a
best pass says more of luck the more passes there are.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import sqrt
from typing import TYPE_CHECKING, Final, Literal

import numpy as np

from jete.core.numeric.statistics import robust_sigma

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner, CornerId
    from jete.core.circuit.stakes import Stakes
    from jete.core.passes.passes import Pass

TeamMark = Literal["brake_on_m", "min_speed_kmh", "throttle_on_m", "exit_speed_kmh"]
# What of a mark loses time: less of it, or more.
LOSES: Final[dict[TeamMark, float]] = {
    "brake_on_m": -1.0, "min_speed_kmh": -1.0, "throttle_on_m": 1.0, "exit_speed_kmh": -1.0,
}  # fmt: skip
# A smaller difference of medians is nothing to learn from.
LEAST: Final[dict[TeamMark, float]] = {
    "brake_on_m": 3.0, "min_speed_kmh": 1.0, "throttle_on_m": 3.0, "exit_speed_kmh": 1.0,
}  # fmt: skip
# Fewer passes show no middle.
FEWEST: Final = 3
# Differences beyond this many standard errors are told.
SURE: Final = 2.0
MOST_MARKS: Final = 2
# A straight from this on tells of the car.
STRAIGHT_M: Final = 200.0
# Less than this a lap is no car's.
LEAST_CAR_S: Final = 0.1


@dataclass(frozen=True)
class MarkBehind:
    """A mark in which a driver differs to the worse from who is quickest: the difference of medians, in its unit."""

    mark: TeamMark
    difference: float


@dataclass(frozen=True, kw_only=True)
class TeamCell:
    """One driver at one corner, the straight after it included.

    Attributes:
        passes: how many there are.
        best_s: the quickest.
        median_s: of all.
        spread_s: one robust standard deviation.
        lost_s: the median on that of the quickest driver there; 0 for the quickest.
        learn_from: who is quickest there; empty for the quickest, and where the difference may be chance.
        by: the marks that differ most to the worse.
    """

    passes: int
    best_s: float
    median_s: float
    spread_s: float
    lost_s: float
    learn_from: str = ""
    by: tuple[MarkBehind, ...] = ()


@dataclass(frozen=True, kw_only=True)
class TeamRow:
    """One driver: laps, cells by corner (None where too few passes are there), and what the straights cost beside it.

    ``straights_s`` is what the driver's medians lose on long straights to those of the quickest driver of the circuit beyond what
    the exit speeds explain: the car, its fuel, a tow.  None where it may be chance.
    """

    driver: str
    laps: int
    cells: tuple[TeamCell | None, ...]
    lost_s: float
    straights_s: float | None


def team_of(
    passes: Mapping[str, Mapping[CornerId, Sequence[Pass]]],
    corners: Sequence[Corner],
    stakes: Sequence[Stakes] = (),
) -> list[TeamRow]:
    """The rows of a team, who loses least first.

    Args:
        passes: by driver and corner (its id).
        corners: of the circuit, in order.
        stakes: of the corners; without them nothing is told of the straights.
    """
    there = [[_passes(of, c) for c in corners] for of in passes.values()]
    quickest = [_quickest([row[k] for row in there]) for k in range(len(corners))]
    rows = []
    for row, driver in zip(there, passes, strict=True):
        cells = tuple(
            _cell(mine, there[q][k], "" if q is None else list(passes)[q]) if q is not None and len(mine) >= FEWEST else None
            for k, (mine, q) in enumerate(zip(row, quickest, strict=True))
        )  # fmt: skip
        rows.append(
            TeamRow(
                driver=driver,
                laps=max((len(p) for p in row), default=0),
                cells=cells,
                lost_s=sum(c.lost_s for c in cells if c is not None),
                straights_s=None,
            )
        )
    order = sorted(range(len(rows)), key=lambda k: (any(c is None for c in rows[k].cells), rows[k].lost_s))
    if not order or not stakes:
        return [rows[k] for k in order]
    first = there[order[0]]
    return [_with_straights(rows[k], there[k], first, stakes) for k in order]


def _passes(of: Mapping[CornerId, Sequence[Pass]], corner: Corner) -> Sequence[Pass]:
    return of.get(corner.id, ()) if corner.id is not None else ()


def _quickest(by_driver: Sequence[Sequence[Pass]]) -> int | None:
    """The place of the driver with the quickest median at a corner."""
    medians = {k: _median([p.whole_s for p in x]) for k, x in enumerate(by_driver) if len(x) >= FEWEST}
    return min(medians, key=lambda k: medians[k], default=None)


def _median(values: Sequence[float]) -> float:
    return float(np.median(np.array(values)))


def _cell(mine: Sequence[Pass], theirs: Sequence[Pass], name: str) -> TeamCell:
    own, other = (np.array([p.whole_s for p in x]) for x in (mine, theirs))
    lost = float(np.median(own) - np.median(other))
    sure = lost > SURE * _error(own, other)
    return TeamCell(
        passes=len(mine),
        best_s=float(own.min()),
        median_s=float(np.median(own)),
        spread_s=robust_sigma(own - np.median(own)),
        lost_s=max(lost, 0.0),
        learn_from=name if sure else "",
        by=_behind(mine, theirs) if sure else (),
    )


def _error(a: FloatArray, b: FloatArray) -> float:
    """The standard error of the difference of two medians (1.25 times that of means: Kendall & Stuart, vol. 1)."""
    parts = [robust_sigma(x - np.median(x)) ** 2 / len(x) for x in (a, b)]
    return 1.25 * sqrt(sum(parts))


def _behind(mine: Sequence[Pass], theirs: Sequence[Pass]) -> tuple[MarkBehind, ...]:
    """The marks that differ most to the worse, by how many times what is worth a word."""
    found = []
    for mark, side in LOSES.items():
        values = [np.array([v for p in x if (v := getattr(p, mark)) is not None], dtype=float) for x in (mine, theirs)]
        if min(len(v) for v in values) < FEWEST:
            continue
        difference = float(np.median(values[0]) - np.median(values[1]))
        if difference * side > max(LEAST[mark], SURE * _error(*values)):
            found.append(MarkBehind(mark, difference))
    return tuple(sorted(found, key=lambda m: -abs(m.difference) / LEAST[m.mark])[:MOST_MARKS])


def _with_straights(
    row: TeamRow, mine: Sequence[Sequence[Pass]], first: Sequence[Sequence[Pass]], stakes: Sequence[Stakes]
) -> TeamRow:
    """The row with what its straights lose beyond what its exits explain."""
    total, error = 0.0, 0.0
    for own, other, stake in zip(mine, first, stakes, strict=True):
        if stake.straight_m < STRAIGHT_M or min(len(own), len(other)) < FEWEST:
            continue
        sides = [
            np.array([p.whole_s - p.window_s + stake.exit_kmh_worth_s * p.exit_speed_kmh for p in x]) for x in (own, other)
        ]  # fmt: skip
        total += float(np.median(sides[0]) - np.median(sides[1]))
        error += _error(*sides) ** 2
    sure = abs(total) > max(LEAST_CAR_S, SURE * sqrt(error))
    return replace(row, straights_s=total if sure else None)
