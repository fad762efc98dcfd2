"""What the positions of a log are worth, in one line."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.report.units import METRIC, Units

if TYPE_CHECKING:
    from jete.core.axis.worth import Worth
    from jete.core.log.lap import PositionsMade

FILLED = {
    "none": "",
    "linear": ", filled in by straight lines",
    "cubic": ", filled in by cubics",
    "smoothed": ", smoothed",
}
# A drift of less is within what a circuit's map and an odometer make of it.
LEAST_DRIFT_M = 0.5


def positions_words(worth: Worth, made: PositionsMade, units: Units = METRIC) -> str:
    """How often positions came, what was made up between them, and what each is off by.

    >>> from jete.core.axis.worth import Worth
    >>> from jete.core.log.lap import PositionsMade
    >>> drifting = Worth(0.12, 0.8, 8.0, 10.0, 0.1, by_speed=True, fix_hz=10.0)
    >>> positions_words(drifting, PositionsMade("linear", 0.2))
    '10 times a second, filled in by straight lines, 0.20 s late; each off by 0.1 m, drift about 0.8 m'
    """
    rate = f"{worth.fix_hz:.0f} times a second" if worth.fix_hz >= 1.5 else "once a second"
    late = f", {made.lag_s:.2f} s late" if made.lag_s > 0.0 else ""
    off = f"each off by {units.length_text(worth.white_m, 1)}"
    drift = f", drift about {units.length_text(worth.drift_m, 1)}" if worth.drift_m >= LEAST_DRIFT_M else ""
    return f"{rate}{FILLED[made.filled]}{late}; {off}{drift}"
