"""Both laps' profiles of all corners: cut at their anchors, corners taken without slowing divided like the other lap's, own dips taken out."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from jete.core.causes.profiles.anchors import anchors_of
from jete.core.causes.profiles.dips import Dip, deficit_of, dips_of, own_dips
from jete.core.causes.profiles.profile import Profile
from jete.core.causes.profiles.rolls import LEAST_WAIT_M, ended_by_roll

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.road import Road
    from jete.core.causes.profiles.cells import Cells
    from jete.core.driving.marks import Marks
    from jete.core.driving.passage import Passage
    from jete.core.driving.vehicle import Drive
    from jete.core.driving.windows import Span

# A table runs on beyond its window as its last 30 m did.
RUN_ON_CELLS = 8
# A foot that is slower in a bend has grip left, and takes so much of it: at 0.3 and at 1 sides of trades came out wrong more often.
GIVEN_BACK = 0.6


def profiles_of(
    passages: tuple[Passage, Passage],
    marks: tuple[Sequence[Marks], Sequence[Marks]],
    windows: Sequence[Span],
    cells: Cells,
    drive: Drive,
    road: Road,
) -> tuple[Profile, Profile]:
    """Take both laps apart.  The mean E of each cell follows from the exact time it took.

    A dip of the throttle that the other lap has at the same place is the road's, not the
    driver's, and is left in.
    """
    kappa = road.curvature_at(cells.table.at_m)
    waits = _waits_from(marks[0], marks[1]), _waits_from(marks[1], marks[0])
    alone = [_profile(p, m, w, windows, cells, drive, kappa) for p, m, w in zip(passages, marks, waits, strict=True)]
    plain = [
        _slowed_like(alone[0], alone[1], marks[0], marks[1]),
        _slowed_like(alone[1], alone[0], marks[1], marks[0]),
    ]
    plain = [ended_by_roll(plain[0], plain[1]), ended_by_roll(plain[1], plain[0])]
    dips = [[dips_of(p, a, w) for a, w in zip(m, windows, strict=True)] for p, m in zip(passages, marks, strict=True)]
    own = [
        [own_dips(a, b, passages[k], passages[1 - k]) for a, b in zip(dips[k], dips[1 - k], strict=True)]
        for k in range(len(dips))
    ]
    return _without_dips(plain[0], plain[1], own[0], dips[1]), _without_dips(plain[1], plain[0], own[1], dips[0])


def _waits_from(own: Sequence[Marks], theirs: Sequence[Marks]) -> FloatArray:
    """The place from which a lap's foot only waits at each corner, metres, (c,): off the brake, where the other lap picks up; ∞ where it does not.

    Who picks up 10 m later and meanwhile rolls loses 2 km/h: that is the late throttle's, not an
    overslowing.  What the brake does is the slowing's, however late.
    """
    out = []
    for m, t in zip(own, theirs, strict=True):
        picked = (m.throttle_on_m, t.throttle_on_m)
        from_m = max(picked[1] or 0.0, m.brake_off_m or 0.0)
        late = picked[0] is not None and picked[1] is not None and picked[0] > from_m + LEAST_WAIT_M
        out.append(from_m if late else np.inf)
    return np.array(out)


def _slowed_like(profile: Profile, other: Profile, own: Sequence[Marks], theirs: Sequence[Marks]) -> Profile:
    """A profile whose corners taken without slowing are divided where the other lap slows.

    A lap that neither lifts nor brakes has no places of its own to be taken apart at.
    """
    anchors = list(profile.anchors)
    at, driven = profile.grid.at_m, profile.driven
    for corner, (m, t) in enumerate(zip(own, theirs, strict=True)):
        if m.slowing_m is None and t.slowing_m is not None:
            part, like = profile.grid.part(corner), other.anchors[corner]
            slow = (at[part] >= like.slowed_m - profile.grid.width_m[corner]) & (at[part] <= like.pickup_m)
            least = float(driven[part][slow].min()) if slow.any() else anchors[corner].least
            anchors[corner] = replace(like, least=least, rolls_in=False, own_dips=0)
    return replace(profile, anchors=tuple(anchors))


def _without_dips(profile: Profile, other: Profile, own: list[list[Dip]], theirs: list[list[Dip]]) -> Profile:
    """A profile with its own dips of the throttle taken out, (c,); ``theirs`` are all of the other lap, (c,)."""
    if not any(own):
        return profile
    deficit = np.zeros_like(profile.energy)
    for corner, found in enumerate(own):
        if found:
            part = profile.grid.part(corner)
            energies = (profile.energy[part], other.energy[part])
            deficit[part] = deficit_of(profile.grid.at_m[part], energies, found, theirs[corner], profile.fade[part])
    anchors = tuple(replace(a, own_dips=len(d)) for a, d in zip(profile.anchors, own, strict=True))
    return replace(profile, energy=profile.energy + deficit, deficit=deficit, anchors=anchors)


def _profile(
    passage: Passage,
    marks: Sequence[Marks],
    waits_m: FloatArray,
    windows: Sequence[Span],
    cells: Cells,
    drive: Drive,
    kappa: FloatArray,
) -> Profile:
    """A lap's profile with its dips left in; from ``waits_m`` (c,) its foot waits; ``kappa`` (k,) is the road's curvature."""
    grid = cells.table
    energy = _energy(passage, cells)
    full = np.array(
        [w.end_m if m.full_throttle_m is None else m.full_throttle_m for m, w in zip(marks, windows, strict=True)]
    )
    step = grid.width_m[grid.of]
    power = drive.fade_1pm(np.sqrt(2.0 * energy))
    grip = drive.grip_fade_1pm(energy, kappa)
    by_foot = -GIVEN_BACK * drive.driving_mps2 * grip
    fade = np.exp(grid.sum_up(np.where(grid.at_m > full[grid.of], power, by_foot) * step))
    fade_back = np.exp(grid.sum_up(drive.braking_mps2 * grip * step))
    anchors = anchors_of(passage, marks, waits_m, windows, grid, energy)
    return Profile(grid, energy, np.zeros_like(energy), fade, fade_back, anchors)


def _energy(passage: Passage, cells: Cells) -> FloatArray:
    """E of the table's entries, (k,): of the cells, and a straight run beyond both ends of each window."""
    grid, width = cells.table, cells.width_m[cells.of]
    took = np.diff(passage.time_at(cells.edges_m))
    energy = 0.5 * (width / np.maximum(took, 1e-4)) ** 2
    last = cells.first + cells.counts - 1
    reach = np.minimum(RUN_ON_CELLS, cells.counts - 1)
    rise_in = (energy[cells.first + reach] - energy[cells.first]) / reach
    rise_out = (energy[last] - energy[last - reach]) / reach
    place = np.clip(grid.position, 0, cells.counts[grid.of] - 1)
    beyond = grid.position - place
    rise = np.where(beyond < 0, rise_in[grid.of], rise_out[grid.of])
    run_on = energy[cells.first[grid.of] + place] + beyond * rise
    return np.asarray(np.where(beyond == 0, run_on, np.maximum(run_on, 1.0)))
