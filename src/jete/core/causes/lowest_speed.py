"""By how much two laps' lowest speeds in a corner differ."""

from __future__ import annotations

from math import sqrt
from typing import TYPE_CHECKING

from jete.core.causes.kinds import Kind
from jete.core.causes.pair import Moved

if TYPE_CHECKING:
    from jete.core.causes.pair import Pair

# A lowest speed to half a km/h,
LEAST_SLOW_KMH = 0.4
# Where a line was inferred, or seen by positions whose error lasts, the logged speeds must show this share of what it makes of them.
LOGGED_SHARE = 0.3


def slowest(pair: Pair) -> Moved:
    """Lowest speed.  A line that was only inferred must not make most of a difference.

    What only waits for the pick-up is not slowed any more, so two laps are held against each
    other before it; told is the difference that anybody reads off the marks.
    """
    change = 3.6 * (sqrt(2.0 * pair.anchors[1].least) - sqrt(2.0 * pair.anchors[0].least))
    logged = 3.6 * (pair.anchors[1].logged_mps - pair.anchors[0].logged_mps)
    seen = pair.line == "seen" or logged * change >= LOGGED_SHARE * change**2
    read = pair.marks[1].min_speed_kmh * pair.scale - pair.marks[0].min_speed_kmh
    return Moved(
        Kind.OVERSLOWING if change < 0.0 else Kind.MORE_SPEED,
        pair.marks[1].slow_point_m,
        read if read * change > 0.0 and not pair.anchors[1].rolls_below else change,
        pair.doubt.pace * pair.marks[0].min_speed_kmh,
        really=seen and abs(change) >= LEAST_SLOW_KMH,
    )
