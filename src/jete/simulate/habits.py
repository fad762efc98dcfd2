"""What human feet do at one corner, drawn from a seed: shapes and levels, not a speed profile.

A plan says where the brake is to be done and the throttle to be picked up; habits say how.
Two laps of one driver share their habits, so that only what was planned otherwise differs.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Habits:
    """How one driver's feet go about one corner.

    Attributes:
        hardest: share of the grip used by the hardest braking.
        build_s: from nothing to there.
        bleed: share of the needed deceleration that is braked more at first and less at the end, 0 for an even one.
        second_m: the second stage: metres before the end over which a light brake is kept on; 0 for none.
        change_s: from one pedal to the other.
        rolls: whether the foot rests between release and pick-up, else it balances the vehicle.
        step: share of the throttle that is given at once.
        feed_s: from there to full.
        feed: exponent of the feeding: below 1 quick at first, above 1 at the end.
        hunting: how much the foot trembles at the limit of grip, share.
        apex_share: of the bend's grip that is used where it is slowest.
        early: where along the bend's tightest part the slowing ends, 0 to 1.
        holds_s: from there to the pick-up.
    """

    hardest: float = 0.85
    build_s: float = 0.2
    bleed: float = 0.3
    second_m: float = 0.0
    change_s: float = 0.15
    rolls: bool = False
    step: float = 0.4
    feed_s: float = 0.7
    feed: float = 1.0
    hunting: float = 0.03
    apex_share: float = 0.9
    early: float = 0.4
    holds_s: float = 0.4


def draw_habits(seed: int, corner: int, level: float = 0.9) -> Habits:
    """The habits of one driver at one corner; ``level`` is the share of the grip he knows how to use."""
    rng = np.random.default_rng([seed, corner, 4711])
    return Habits(
        hardest=level * float(rng.uniform(0.84, 0.96)),
        build_s=float(rng.uniform(0.08, 0.4)),
        bleed=float(rng.uniform(0.0, 0.6)),
        second_m=float(rng.choice([0.0, 0.0, rng.uniform(8.0, 25.0)])),
        change_s=float(rng.uniform(0.06, 0.25)),
        rolls=bool(rng.random() < 0.4),
        step=float(rng.uniform(0.15, 0.7)),
        feed_s=float(rng.uniform(0.25, 1.4)),
        feed=float(rng.uniform(0.6, 1.8)),
        hunting=float(rng.uniform(0.0, 0.06)),
        apex_share=level * float(rng.uniform(0.95, 1.02)),
        early=float(rng.uniform(0.15, 0.7)),
        holds_s=float(rng.uniform(0.1, 0.7)),
    )
