"""Profiles of one corner drawn by hand: an even approach, an even slowing, a hold, an even drive out."""

from __future__ import annotations

import numpy as np

from jete.core.causes.hybrids.source import Source
from jete.core.causes.profiles.anchors import Anchors
from jete.core.causes.profiles.cells import Cells
from jete.core.causes.profiles.profile import Profile
from jete.core.driving.windows import Span

WINDOW = Span(0.0, 400.0)
# E on arrival and at the slow point, m²/s²: 50 m/s, and 20 m/s.
FAST, SLOW = 1250.0, 200.0
BRAKING, DRIVING = 10.5, 4.0


def drawn(
    brake_m: float = 100.0,
    *,
    slow: float = SLOW,
    released_m: float | None = None,
    pickup_m: float = 230.0,
    lift_m: float | None = None,
    rolls_at: float = 0.0,
    **anchors: float,
) -> Profile:
    """A lap that arrives at 50 m/s, slows to ``slow`` by 10.5 m/s², holds that and drives on from ``pickup_m``.

    Args:
        brake_m: its brake point.
        slow: E where the slowing ends.
        released_m: where it leaves the brake; None for the end of the slowing.
        pickup_m: where it picks up.
        lift_m: where it lifts; None for the brake point.
        rolls_at: by how much it slows in the roll from lift to brake and in the hold, m/s².
        anchors: what else is known of it.
    """
    cells = Cells.over([WINDOW])
    at = cells.table.at_m
    lift = brake_m if lift_m is None else lift_m
    at_brake = FAST - rolls_at * (brake_m - lift)
    slowed = brake_m + (at_brake - slow) / BRAKING
    held = slow - rolls_at * (pickup_m - slowed)
    energy = np.interp(
        at, [lift, brake_m, slowed, pickup_m, pickup_m + 200.0], [FAST, at_brake, slow, held, held + 200.0 * DRIVING]
    )
    own = Anchors(
        lift_m=lift, brake_m=brake_m, released_m=slowed if released_m is None else released_m, slowed_m=slowed,
        pickup_m=pickup_m, fed_m=pickup_m, least=slow, braking_mps2=BRAKING, rolls_in=False, **anchors,
    )  # fmt: skip
    flat = np.ones_like(energy)
    return Profile(cells.table, energy, np.zeros_like(energy), flat, flat, (own,))


def source(*args: float, **known: float) -> Source:
    """The same as a source of hybrids."""
    return Source.of(drawn(*args, **known))
