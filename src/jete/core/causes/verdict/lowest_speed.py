"""The difference of two laps' lowest speeds in a corner, and what it is called."""

from __future__ import annotations

from math import sqrt
from typing import TYPE_CHECKING

from jete.core.causes.kinds import Factor, Kind
from jete.core.causes.verdict.pair import LEAST_MOVE_M, Moved

if TYPE_CHECKING:
    from jete.core.causes.verdict.pair import Pair

# A lowest speed to half a km/h.
LEAST_SLOW_KMH = 0.4
# A place at which a speed is reached to a metre.
LEAST_DOWN_M = 1.0
# Where a line was inferred, or seen by positions whose error lasts, the logged speeds must show this share of what it makes of them.
LOGGED_SHARE = 0.3


def slowed_by_kmh(pair: Pair) -> float:
    """The lap's speed at the end of its slowing over the reference's, km/h; 0 where there is no difference to speak of.

    What only waits for the pick-up is not slowed any more, so two laps are held against each
    other before it.  A line that was only inferred must not make most of a difference.
    """
    change = _change_kmh(pair)
    logged = 3.6 * (pair.anchors[1].logged_mps - pair.anchors[0].logged_mps)
    seen = pair.line == "seen" or logged * change >= LOGGED_SHARE * change**2
    return change if seen and abs(change) >= LEAST_SLOW_KMH else 0.0


def slowest(pair: Pair) -> Moved:
    """Lowest speed, as anybody reads it off the marks.

    Where a foot that waits takes the difference away again, the marks have no lower or higher
    speed to show: then it was slow too early, or later, than the reference.
    """
    change, sigma = _change_kmh(pair), pair.doubt.pace * pair.marks[0].min_speed_kmh
    kinds, measure, beyond_scatter = _read_off(pair, change, sigma) or _slowed(pair, change)
    return Moved(
        kinds[0] if change < 0.0 else kinds[1],
        pair.marks[1].slow_point_m,
        measure,
        sigma,
        beyond_scatter=beyond_scatter and slowed_by_kmh(pair) != 0.0,
        shown=change,
        factor=Factor.SLOWEST,
    )


_Told = tuple[tuple[Kind, Kind], float, bool]


def _read_off(pair: Pair, change_kmh: float, sigma_kmh: float) -> _Told | None:
    """A lower or higher lowest speed as it stands in every table, if both odometers show it; None where they don't."""
    scaled, logged = pair.faster_kmh("min_speed_kmh")
    least = max(LEAST_SLOW_KMH, sigma_kmh)
    if any(kmh * change_kmh <= 0.0 or abs(kmh) < least for kmh in (scaled, logged)):
        return None
    return (Kind.OVERSLOWING, Kind.MORE_SPEED), logged, True


def _slowed(pair: Pair, change_kmh: float) -> _Told:
    """Slow too early or later: by the brake point where that has moved so, else by where the lap was down to speed."""
    apart, down = pair.brakes_apart_m, pair.down_shift_m
    if apart is not None and apart * change_kmh > 0.0 and abs(apart) > max(LEAST_MOVE_M, pair.doubt.brake_m):
        return (Kind.EARLY_BRAKING, Kind.LATE_BRAKING), apart, True
    return (Kind.SLOWED_EARLY, Kind.SLOWED_LATE), down, down * change_kmh > 0.0 and abs(down) >= LEAST_DOWN_M


def _change_kmh(pair: Pair) -> float:
    return 3.6 * (sqrt(2.0 * pair.anchors[1].least) - sqrt(2.0 * pair.anchors[0].least))
