"""The marks of one lap at each corner: brake point to full throttle.

Events are found on native samples with hysteresis and a least duration, then placed
between samples.  Places are on the reference's axis.  What each pedal does is read in
:mod:`jete.core.driving.braking` and :mod:`jete.core.driving.throttle`.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from jete.core.axis.road.corners import Corner
from jete.core.driving.braking import begun_like, brake_marks, chain_of, with_later
from jete.core.driving.passage import Passage
from jete.core.driving.pedals import Spell, brake_spells
from jete.core.driving.slow import BEFORE_SLOW_M, Zone, valley, zones_of
from jete.core.driving.throttle import coasting_s, dips, drive, drive_from, lift
from jete.core.driving.turning import turn_in

if TYPE_CHECKING:
    from collections.abc import Sequence


@dataclass(frozen=True, kw_only=True)
class Marks:
    """What one lap did at one corner; None where there is no such mark.

    ``brake_peak`` in ``brake_unit`` above rest; ``coast_s`` on neither pedal from the
    lift to the pick-up; ``throttle_dips`` between the pick-up and full throttle.
    """

    brake_on_m: float | None
    brake_peak: float | None
    brake_unit: str | None
    brake_off_m: float | None
    lift_m: float | None
    turn_in_m: float | None
    slow_point_m: float
    min_speed_kmh: float
    throttle_on_m: float | None
    full_throttle_m: float | None
    exit_speed_kmh: float
    coast_s: float
    throttle_dips: int
    gear: int | None

    @property
    def slowing_m(self) -> float | None:
        """The first of lift and brake point: where the corner begins for this lap."""
        known = [m for m in (self.lift_m, self.brake_on_m) if m is not None]
        return min(known) if known else None

    @property
    def onset_m(self) -> float | None:
        """The brake point, or the lift where there is none."""
        return self.brake_on_m if self.brake_on_m is not None else self.lift_m


def marks_of(passage: Passage, corners: Sequence[Corner], like: Sequence[Marks] | None = None) -> list[Marks]:
    """Marks of a lap at all corners, in order.

    Args:
        passage: the lap on the reference's axis.
        corners: of the road.
        like: the reference's marks: where a corner has two apexes that are as slow within
            0.5 m/s, the slow point is the one at the apex where the reference has it, and of several
            presses of the brake the corner's first is the one that begins where the reference's does.
    """
    brakes = brake_spells(passage.brake)
    zones = zones_of(passage, corners, None if like is None else [m.slow_point_m for m in like])
    begins = [None] * len(zones) if like is None else [m.brake_on_m for m in like]
    events = [_events(passage, zone, brakes, begin) for zone, begin in zip(zones, begins, strict=True)]
    # Places and speeds of all corners are looked up at once: many calls for one number each take longer.
    times = np.array(
        [(*e.known, e.valley_s[0], e.valley_s[1], z.end_s) for e, z in zip(events, zones, strict=True)], float
    )
    places: list[list[float]] = passage.place_at(times).tolist()
    leaving: list[float] = np.interp(times[:, -1], passage.motion.time_s, passage.motion.quiet_mps).tolist()
    return [_marks(passage, *each) for each in zip(zones, events, places, leaving, strict=True)]


@dataclass(frozen=True)
class _Events:
    """What one lap did at one corner by its clock, seconds; None where it did not.

    ``known`` are brake on and off, lift, turn-in, pick-up and full throttle; ``valley_s``
    from when to when it is slowest.
    """

    known: tuple[float | None, ...]
    peak: float | None
    valley_s: tuple[float, float]
    least_mps: float
    coast_s: float
    dips: int


def _events(passage: Passage, zone: Zone, brakes: list[Spell], like_m: float | None) -> _Events:
    """All that happened at one corner, where the other lap begins to brake at ``like_m``."""
    chain = begun_like(passage, chain_of(passage, zone, brakes), like_m)
    on_s, off_s, peak = brake_marks(passage.brake, chain)
    lift_s = lift(passage, zone, on_s)
    later = with_later(passage, zone, chain, brakes)
    pick_s, full_s = drive(passage, zone, drive_from(passage, zone, later, lift_s))
    if pick_s is None and len(later) > len(chain):
        # The later brake was for what comes next: nobody drove on after it.
        pick_s, full_s = drive(passage, zone, drive_from(passage, zone, chain, lift_s))
    *ends, least = valley(passage, zone.slow_s)
    known = (on_s, off_s, lift_s, turn_in(passage, zone), pick_s, full_s)
    rolled_s = coasting_s(passage, lift_s if lift_s is not None else on_s, pick_s)
    return _Events(known, peak, (ends[0], ends[1]), least, rolled_s, dips(passage.throttle, pick_s, full_s))


def _marks(passage: Passage, zone: Zone, events: _Events, places_m: list[float], leaving_mps: float) -> Marks:
    """The marks of one corner from what happened there and the places at which it did."""
    on, off, lifted, turned, picked, full = (
        None if time_s is None else place for time_s, place in zip(events.known, places_m, strict=False)
    )
    corner, reach = zone.corner, 0.25 * (zone.corner.end_m - zone.corner.start_m)
    slow_m = 0.5 * (places_m[6] + places_m[7])
    return Marks(
        brake_on_m=on,
        brake_peak=passage.brake.logged(events.peak) if events.peak is not None else None,
        brake_unit=passage.brake.unit if events.peak is not None else None,
        brake_off_m=off,
        lift_m=lifted,
        turn_in_m=turned if turned is not None else corner.start_m,
        slow_point_m=min(max(slow_m, corner.start_m - BEFORE_SLOW_M), corner.end_m + reach),
        min_speed_kmh=events.least_mps * 3.6,
        throttle_on_m=picked,
        full_throttle_m=full,
        exit_speed_kmh=leaving_mps * 3.6,
        coast_s=events.coast_s,
        throttle_dips=events.dips,
        gear=_gear(passage, zone.slow_s),
    )


def _gear(passage: Passage, slow_s: float) -> int | None:
    gear = passage.lap.get("gear")
    if gear is None or len(gear) == 0:
        return None
    at = min(int(gear.time_s.searchsorted(slow_s)), len(gear) - 1)
    return round(float(gear.value[at]))
