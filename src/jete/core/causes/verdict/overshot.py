r"""A lap that missed the apex: still fast where the reference is slowest, and slowest far beyond.

Who comes in too fast runs on past the apex, is slow there, and picks up late from a wide line.  What follows
belongs to that one thing; a balance of more speed on the way in against a slow exit would call it a technique.

    speed  \ \
            \ '.        the reference is slowest at its apex
             \  '.    .-
              '-.--'.-'  the lap is still fast there, and slowest far beyond
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.core.causes.kinds import Factor, Kind
from jete.core.causes.verdict.pair import Moved

if TYPE_CHECKING:
    from collections.abc import Mapping

    from jete.core.causes.verdict.pair import Pair

# Two apexes lie closer together, and so do slow points of one line.
LEAST_PAST_M = 15.0
# And by so many standard deviations of a distance between marks.
PAST_SIGMAS = 3.0
# Still faster than the reference at its slow point by so much, and by this share.
STILL_FASTER_MPS, STILL_FASTER_SHARE = 2.0, 0.08
# Who loses less by it than this, or gains, went in later by choice.
LEAST_LOST_S = 0.05


def overshot(pair: Pair) -> Moved | None:
    """How far past the reference's slow point the lap was slowest, where it ran on past the apex; None where it did not."""
    ours, lap = pair.marks
    past = lap.slow_point_m - ours.slow_point_m
    sigma = pair.doubt.pickup_m
    least = ours.min_speed_kmh / 3.6
    faster = pair.driven.at_slow_mps - least >= max(STILL_FASTER_MPS, STILL_FASTER_SHARE * least)
    if not faster or past < max(LEAST_PAST_M, PAST_SIGMAS * sigma):
        return None
    return Moved(Kind.OVERSHOT, ours.slow_point_m, past, sigma, beyond_scatter=True)


def with_overshot(moved: Mapping[Factor, Moved], ran_on: Moved) -> dict[Factor, Moved]:
    """The marks of a lap that ran on past the apex: all but how it arrived goes along with that."""
    out = {
        f: m if f is Factor.ARRIVAL else m._replace(beyond_scatter=False, goes_with=(Factor.BRAKE_POINT,))
        for f, m in moved.items()
    }
    return out | {Factor.BRAKE_POINT: ran_on}
