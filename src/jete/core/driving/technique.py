"""How one lap drove a corner, beyond its marks: pedals, gears and hands.

The build-up and the release of the brake, trail braking, both pedals at once, downshifts,
corrections of the steering.  These name a habit, not a mistake: what it costs stands in
the findings.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import numpy as np

from jete.core.driving.braking import build_s
from jete.core.driving.pedals import brake_spells

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner
    from jete.core.driving.marks import Marks
    from jete.core.driving.passage import Passage
    from jete.core.driving.pedals import Pedal, Spell

Release = Literal["one stage", "two stages", "dropped"]

# A release begins at nine tenths of the peak.
BUILT = 0.9
# Quicker from four fifths to a tenth, it is dropped and not let go.
DROP_S = 0.15
# Held for so long,
HOLD_S = 0.18
# To within this share of the peak, a release has two stages.
HOLD_SHARE = 0.08
# A pedal pressed by less is only touched.
BOTH = 0.05
# Steered against the bend by this share of the lock used there.
COUNTER_SHARE = 0.08
# A foot needs this to change over.
SHORTEST_S = 0.05


@dataclass(frozen=True, kw_only=True)
class Technique:
    """How a lap drove one corner; None where it can't be told.

    ``brake_build_s``: from the brake point until the first press is built.  ``release``: how the
    last pressure was let go.  ``trail_m``: braked past the turn-in.
    ``brake_applications``: 2 is braked, let go and braked again.  ``overlap_s``: on both
    pedals up to the pick-up; ``left_over_brake_s``: on the brake still after it.
    ``downshift_m``: places of the downshifts.  ``countersteer_s``: steered against the bend
    between the slow point and the end of the exit.
    """

    brake_build_s: float | None
    release: Release | None
    trail_m: float | None
    brake_applications: int
    overlap_s: float
    left_over_brake_s: float
    downshift_m: tuple[float, ...]
    countersteer_s: float | None


def technique_of(passage: Passage, corner: Corner, marks: Marks) -> Technique:
    """Read a corner's technique from the pedals, the gear and the steering about its marks."""
    times = [None if m is None else passage.time_of(m) for m in (marks.brake_on_m, marks.brake_off_m)]
    slow_s = passage.time_of(marks.slow_point_m)
    pick_s = passage.time_of(marks.throttle_on_m) if marks.throttle_on_m is not None else slow_s
    exit_s = passage.time_of(marks.full_throttle_m if marks.full_throttle_m is not None else corner.end_m)
    on, off = times
    begin = (
        on if on is not None else passage.time_of(marks.slowing_m if marks.slowing_m is not None else corner.start_m)
    )
    # What the foot did can't be told from what the vehicle did.
    braked = on is not None and off is not None and not passage.brake.inferred
    return Technique(
        brake_build_s=_build_s(passage.brake, on, off) if braked else None,  # type: ignore[arg-type]
        release=_release(passage.brake, on, off) if braked else None,  # type: ignore[arg-type]
        trail_m=_trail_m(marks) if braked else None,
        brake_applications=len(_applied(passage.brake, on, off)) if braked else 0,  # type: ignore[arg-type]
        overlap_s=_both_s(passage, begin, pick_s),
        left_over_brake_s=_both_s(passage, pick_s, exit_s),
        downshift_m=_downshifts(passage, begin, slow_s),
        countersteer_s=_countersteer_s(passage, slow_s, max(exit_s, passage.time_of(corner.end_m))),
    )


def _part(pedal: Pedal, start_s: float, end_s: float) -> tuple[FloatArray, FloatArray]:
    """Samples of a pedal between two times."""
    lo, hi = pedal.time_s.searchsorted([start_s, end_s])
    return pedal.time_s[lo:hi], pedal.value[lo:hi]


def _build_s(brake: Pedal, on_s: float, off_s: float) -> float | None:
    built = build_s(brake, on_s, off_s)
    return None if built is None else built[0]


def _release(brake: Pedal, on_s: float, off_s: float) -> Release | None:
    """Dropped: from four fifths to a tenth within 0.15 s.  Two stages: held for a while in between."""
    applied = _applied(brake, on_s, off_s)
    last_s = float(brake.time_s[applied[-1].first]) if applied else on_s
    t, value = _part(brake, last_s, off_s + SHORTEST_S)
    if len(value) < 4:
        return None
    share = value / value.max()
    first = int(np.flatnonzero(share >= BUILT)[-1])
    high, low = np.flatnonzero(share[first:] < 0.8), np.flatnonzero(share[first:] < 0.1)
    if high.size == 0:
        return None
    end = first + int(low[0]) if low.size else len(share) - 1
    if t[end] - t[first + int(high[0])] <= DROP_S:
        return "dropped"
    between = slice(first + int(high[0]), end + 1)
    level, at = share[between], t[between]
    later = np.interp(at + HOLD_S, at, level)
    held = (level < 0.8) & (level > 0.2) & (level - later < HOLD_SHARE) & (at + HOLD_S < at[-1])
    return "two stages" if held.any() else "one stage"


def _trail_m(marks: Marks) -> float | None:
    if marks.brake_off_m is None or marks.turn_in_m is None:
        return None
    return max(marks.brake_off_m - marks.turn_in_m, 0.0)


def _applied(brake: Pedal, on_s: float, off_s: float) -> list[Spell]:
    """Spells of the brake that lie between brake point and release."""
    return [s for s in brake_spells(brake) if on_s - SHORTEST_S <= brake.time_s[s.peak] <= off_s + SHORTEST_S]


def _both_s(passage: Passage, start_s: float, end_s: float) -> float:
    """Seconds with both pedals on between two times."""
    if end_s - start_s < SHORTEST_S or passage.brake.inferred or passage.throttle.inferred:
        return 0.0
    clock = np.arange(start_s, end_s, 0.01)
    on = [p.at(clock) > max(BOTH, 4.0 * p.noise) for p in (passage.brake, passage.throttle)]
    both = float(np.count_nonzero(on[0] & on[1])) * 0.01
    # The foot that changes over touches both for an instant; that is no habit.
    return both if both > SHORTEST_S else 0.0


def _downshifts(passage: Passage, start_s: float, end_s: float) -> tuple[float, ...]:
    gear = passage.lap.get("gear")
    if gear is None or len(gear) < 2:
        return ()
    down = np.flatnonzero((np.diff(gear.value) < -0.5) & (gear.value[1:] >= 0.5)) + 1
    times = gear.time_s[down]
    inside = times[(times >= start_s) & (times <= end_s)]
    return tuple(float(p) for p in passage.place_at(inside))


def _countersteer_s(passage: Passage, start_s: float, end_s: float) -> float | None:
    centred = passage.centred_steering
    if centred is None:
        return None
    t, angle = centred
    lo, hi = t.searchsorted([start_s - 1.0, end_s])
    if hi - lo < 4:
        return None
    near = angle[lo:hi]
    top = float(near[int(np.argmax(np.abs(near)))])
    against = (t[lo:hi] >= start_s) & (near * np.sign(top) < -COUNTER_SHARE * abs(top))
    seconds = float(np.count_nonzero(against)) * float(np.median(np.diff(t[lo:hi])))
    return seconds if seconds > SHORTEST_S else 0.0
