"""Stretches of each window, between marks: where on the road a cause costs its seconds.

|  approach  | braking |   | hold |  wait  | feeding |     drive out     |
start      brake      slowed   pick-up   pick-up                        end
                               of either  of both
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray, IntArray
    from jete.core.causes.profiles.cells import Cells


@dataclass(frozen=True, eq=False)
class Stretches:
    """S stretches of each of c windows; ``ends`` (c, S + 1) the first cell of each, and one past the last.

    A stretch between two marks at one place has no cell and no seconds.
    """

    cells: Cells
    ends: IntArray

    @classmethod
    def between(cls, cells: Cells, marks_m: FloatArray) -> Stretches:
        """Stretches between marks (c, S − 1) of each window; marks out of order or outside collapse."""
        order = np.maximum.accumulate(marks_m, axis=1)
        since = (order - cells.edges_m[cells.first][:, None]) / cells.width_m[:, None]
        inner = np.clip(np.round(since).astype(np.intp), 0, cells.counts[:, None]) + cells.first[:, None]
        last = (cells.first + cells.counts)[:, None]
        return cls(cells, np.concatenate([cells.first[:, None], inner, last], axis=1))

    @cached_property
    def edges_m(self) -> FloatArray:
        """Places of the ends, (c, S + 1)."""
        return np.asarray(self.cells.edges_m[self.ends])

    def sum_up(self, values: FloatArray, index: IntArray) -> FloatArray:
        """Sums over each stretch, (…, c, S), of values (…, m) at the cells ``index`` (m,), increasing."""
        total = np.zeros((*values.shape[:-1], values.shape[-1] + 1))
        np.cumsum(values, axis=-1, out=total[..., 1:])
        at = np.searchsorted(index, self.ends)
        return np.asarray(total[..., at[:, 1:]] - total[..., at[:, :-1]])
