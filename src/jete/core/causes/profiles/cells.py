"""Windows cut into cells, all of a lap in one row, and tables over them.

Everything that is worked out for every corner lies side by side in flat arrays, since a
few calls on long arrays are quicker than many on short ones.  A table holds each window
with some cells before and after it; tables of neighbours overlap on the road and are told
apart by the number of their corner.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray, IntArray
    from jete.core.driving.windows import Span

# A tenth of a second at 35 m/s: finer cells cost time and change a share by less than a millisecond.
CELL_M = 3.5
# A window of a short link still has its parts.
FEWEST = 8
# A hybrid may reach so far beyond its window on either side.
PAST_M = 60.0
# Tables of different corners lie this far apart; more than a table reaches past its window.
APART_M = 4.0 * PAST_M


@dataclass(frozen=True, eq=False)
class Cells:
    """The cells of c windows that tile an axis, n in all.

    ``edges_m`` (n + 1,); ``of`` (n,) the corner of each cell; ``first`` (c,) the first
    cell of each corner; ``width_m`` (c,).
    """

    edges_m: FloatArray
    of: IntArray
    first: IntArray
    width_m: FloatArray

    @classmethod
    def over(cls, windows: Sequence[Span]) -> Cells:
        """Even cells of about 3.5 m in each window; the windows touch."""
        starts = np.array([w.start_m for w in windows])
        lengths = np.array([w.end_m for w in windows]) - starts
        counts = np.maximum(FEWEST, np.round(lengths / CELL_M).astype(np.intp))
        first = np.concatenate([[0], np.cumsum(counts)[:-1]])
        of = np.repeat(np.arange(len(counts)), counts)
        width = lengths / counts
        edges = starts[of] + (np.arange(len(of)) - first[of]) * width[of]
        return cls(np.concatenate([edges, [windows[-1].end_m]]), of, first, width)

    @cached_property
    def middles_m(self) -> FloatArray:
        """Middles of the cells, (n,)."""
        return np.asarray(self.edges_m[:-1] + 0.5 * self.width_m[self.of])

    @cached_property
    def counts(self) -> IntArray:
        """Cells of each corner, (c,)."""
        return np.diff(self.first, append=len(self.of))

    @cached_property
    def table(self) -> TableGrid:
        """The grid of tables over the windows and 60 m to either side."""
        past = (PAST_M / self.width_m).astype(np.intp)
        sizes = self.counts + 2 * past
        first = np.concatenate([[0], np.cumsum(sizes)[:-1]])
        of = np.repeat(np.arange(len(sizes)), sizes)
        position = np.arange(len(of)) - first[of] - past[of]
        at = self.middles_m[self.first][of] + position * self.width_m[of]
        return TableGrid(at, of, first, position, self.width_m)


@dataclass(frozen=True, eq=False)
class TableGrid:
    """Places of k table entries: ``at_m`` (k,), the corner ``of`` each (k,), ``first`` of each corner (c,).

    ``position`` (k,) counts cells from the window's first; ``width_m`` (c,).
    """

    at_m: FloatArray
    of: IntArray
    first: IntArray
    position: IntArray
    width_m: FloatArray

    @cached_property
    def _apart(self) -> FloatArray:
        """Places of the entries with the tables apart, (k,), increasing."""
        return np.asarray(self.at_m + APART_M * self.of)

    @cached_property
    def _ends(self) -> tuple[FloatArray, FloatArray]:
        """First and last place of each table, (c,)."""
        last = np.concatenate([self.first[1:], [len(self.of)]]) - 1
        return self.at_m[self.first], self.at_m[last]

    def look_up(self, values: FloatArray, places_m: FloatArray, of: IntArray) -> FloatArray:
        """Values (k,) interpolated at places (…, m) of the corners ``of`` (m,); beyond a table its end values."""
        low, high = self._ends
        inside = np.minimum(np.maximum(places_m, low[of]), high[of])
        return np.asarray(np.interp(inside + APART_M * of, self._apart, values))

    def part(self, corner: int) -> slice:
        """The entries of one corner."""
        end = self.first[corner + 1] if corner + 1 < len(self.first) else len(self.of)
        return slice(int(self.first[corner]), int(end))

    def sum_up(self, steps: FloatArray) -> FloatArray:
        """Running sums (k,) that begin anew with each table."""
        total = np.cumsum(steps)
        before = total[self.first] - steps[self.first]
        return np.asarray(total - before[self.of])
