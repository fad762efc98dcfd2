r"""One lap's speed over the windows of all corners, taken apart between its marks.

All speeds are handled as E = v²/2, whose slope along the road is the acceleration:

    E |  approach ...       lift
      |           ''''.__.  brake point
      |                  \\
      |                   \\  braking          .---  drive out
      |                    \\__ coasting    .-'
      |                        '---------'
      |                       end of the   pick-up
      |                       slowing
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from jete.core.causes.profiles.anchors import Anchors

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.causes.profiles.cells import TableGrid


@dataclass(frozen=True, eq=False)
class Profile:
    """One lap over all windows; tables (k,) on ``grid``, E in m²/s².

    ``energy`` is E without any dip of the throttle in the drive out, ``deficit`` what the
    dips took; ``fade`` is the share of a difference in E at the pick-up that is left
    further on (only ratios within a corner count), ``fade_back`` the same backwards along
    the slowing.  ``anchors`` has one entry for each corner.
    """

    grid: TableGrid
    energy: FloatArray
    deficit: FloatArray
    fade: FloatArray
    fade_back: FloatArray
    anchors: tuple[Anchors, ...]

    @cached_property
    def driven(self) -> FloatArray:
        """E as driven, (k,)."""
        return self.energy - self.deficit

    def each(self, name: str) -> FloatArray:
        """One field of the anchors for all corners, (c,)."""
        return np.array([getattr(a, name) for a in self.anchors], dtype=float)

    def falls_to_m(self, level: FloatArray) -> FloatArray:
        """The last place before the end of the slowing at which E is still above ``level`` (c,), (c,)."""
        slowed = self.each("slowed_m")
        grid, driven = self.grid, self.driven
        above = (grid.at_m <= slowed[grid.of]) & (driven > level[grid.of])
        last = np.maximum.reduceat(np.where(above, np.arange(len(above)), -1), grid.first)
        k = np.clip(last, 0, len(above) - 2)
        share = (driven[k] - level) / np.maximum(driven[k] - driven[k + 1], 1e-9)
        return np.where(last < 0, slowed, np.minimum(grid.at_m[k] + share * grid.width_m, slowed))
