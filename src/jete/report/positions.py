"""What the positions of a log are worth, in one line."""

from __future__ import annotations

from math import hypot
from typing import TYPE_CHECKING

from jete.report.units import METRIC, Units

if TYPE_CHECKING:
    from jete.core.axis.positions.position_errors import PositionErrors
    from jete.core.driving.passage import Passage
    from jete.core.log.lap import PositionsMade

FILLED = {
    "none": "",
    "linear": ", filled in by straight lines",
    "cubic": ", filled in by cubics",
    "smoothed": ", smoothed",
}
# A drift of less is within what a circuit's map and an odometer make of it.
LEAST_DRIFT_M = 0.5
# A lag of less moves a place by less than a metre.
LEAST_LATE_S = 0.03
# A step between two maps of less moves no line by the width of a tyre or two.
LEAST_STEP_M = 0.5


def words_of_positions(passage: Passage, units: Units = METRIC) -> str:
    """What the positions of a lap on the reference's axis are worth; empty without any."""
    alignment = passage.alignment
    if alignment.errors is None:
        return ""
    return positions_words(alignment.errors, passage.lap.log.positions, units, hypot(*alignment.map_step_m))


def positions_words(errors: PositionErrors, made: PositionsMade, units: Units = METRIC, map_step_m: float = 0.0) -> str:
    """By how much positions are off, all of them and each, how often they came, and what was made up between them: the worst first.

    >>> from jete.core.axis.positions.position_errors import PositionErrors
    >>> from jete.core.log.lap import PositionsMade
    >>> drifting = PositionErrors(white_m=0.12, drift_m=0.8, drift_s=8.0, density_m2s=10.0, bending_m2s=0.1, by_speed=True, fix_hz=10.0)
    >>> positions_words(drifting, PositionsMade("linear", 0.2))
    'each off by 0.1 m, drift about 0.8 m; 10 times a second, filled in by straight lines, 0.20 s late'
    >>> positions_words(drifting, PositionsMade("none"), map_step_m=1.4)
    "all 1.4 m beside the reference's (set right), each off by 0.1 m, drift about 0.8 m; 10 times a second"
    """
    rate = f"{errors.fix_hz:.0f} times a second" if errors.fix_hz >= 1.5 else "once a second"
    late = f", {made.lag_s:.2f} s late" if made.lag_s >= LEAST_LATE_S else ""
    off = f"each off by {units.length_text(errors.white_m, 1)}"
    drift = f", drift about {units.length_text(errors.drift_m, 1)}" if errors.drift_m >= LEAST_DRIFT_M else ""
    far = map_step_m >= LEAST_STEP_M
    beside = f"all {units.length_text(map_step_m, 1)} beside the reference's (set right), " if far else ""
    return f"{beside}{off}{drift}; {rate}{FILLED[made.filled]}{late}"
