"""The small pictures of a corner in the guide: the piece of road from above, and what the lap did over it.

Numbers only: what draws them on paper or in a page lies elsewhere.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.road import Road
    from jete.core.driving.passage import Passage
    from jete.core.guide.cards import Card

STEP_M = 4.0
# A plan begins so far before anything happens, and ends so far after the corner.
BEFORE_M, AFTER_M = 25.0, 60.0
# Feet as shares of their travel: a press this hard is the lap's hardest.
HARDEST = 1e-3


@dataclass(frozen=True, eq=False, kw_only=True)
class Plan:
    """A corner's piece of the lap, (n,) each: places of its axis, path (n, 2) or None, speed, brake and throttle as shares.

    ``brake_m`` and ``pickup_m`` are where the lap brakes and picks up, None where it doesn't; ``apex_m`` the tightest point.
    """

    place_m: FloatArray
    path_m: FloatArray | None
    speed_kmh: FloatArray
    brake: FloatArray | None
    throttle: FloatArray | None
    apex_m: float
    brake_m: float | None
    pickup_m: float | None


def plans_of(passage: Passage, road: Road, cards: Sequence[Card]) -> list[Plan]:
    """The plans of a lap's corners, on its own axis.

    Args:
        passage: of the lap.
        road: its road.
        cards: of its guide.
    """
    return [_plan(passage, road, card) for card in cards]


def _plan(passage: Passage, road: Road, card: Card) -> Plan:
    first = card.brake_m or card.lift_m
    begins = min(card.corner.start_m, first.value if first is not None else card.corner.start_m) - BEFORE_M
    places = np.arange(max(begins, 0.0), min(card.corner.end_m + AFTER_M, road.length_m), STEP_M)
    times = passage.time_at(places)
    hardest = max(float(passage.brake.value.max()), HARDEST)
    return Plan(
        place_m=places,
        path_m=road.path(places) if road.path is not None else None,
        speed_kmh=3.6 * np.interp(times, passage.motion.time_s, passage.motion.speed_mps),
        brake=None if passage.brake.inferred else np.clip(passage.brake.at(times) / hardest, 0.0, 1.0),
        throttle=None if passage.throttle.inferred else np.clip(passage.throttle.at(times), 0.0, 1.0),
        apex_m=card.corner.apex_m,
        brake_m=card.brake_m.value if card.brake_m is not None else None,
        pickup_m=card.pickup_m.value if card.pickup_m is not None else None,
    )
