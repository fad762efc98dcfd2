"""One lap as a source of pieces for hybrids, and the cells that a piece is worked out on."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from jete.core.arrays import FloatArray, IntArray
from jete.core.causes.profiles.profile import Profile

# A hold whose E rises by a quarter (speed by an eighth) is no hold any more: the vehicle drives in between.
HELD_RISE = 1.25


@dataclass(frozen=True, eq=False, kw_only=True)
class Source:
    """One lap's profile with its anchors as arrays over the corners, (c,)."""

    profile: Profile
    lift_m: FloatArray
    brake_m: FloatArray
    released_m: FloatArray
    slowed_m: FloatArray
    pickup_m: FloatArray
    fed_m: FloatArray
    least: FloatArray
    braking_mps2: FloatArray
    rolls_in: FloatArray
    rolled_s: FloatArray

    @classmethod
    def of(cls, profile: Profile) -> Source:
        """A profile with its anchors laid out."""
        names = list(cls.__dataclass_fields__)[1:]
        return cls(profile=profile, **{n: profile.each(n) for n in names})

    @cached_property
    def all(self) -> IntArray:
        """Every corner, (c,)."""
        return np.arange(len(self.least))

    def driven_at(self, places_m: FloatArray, of: IntArray) -> FloatArray:
        """E as driven at places (…, m) of the corners ``of`` (m,)."""
        return self.profile.grid.look_up(self.profile.driven, places_m, of)

    def smooth_at(self, places_m: FloatArray, of: IntArray) -> FloatArray:
        """E without the dips at places (…, m) of the corners ``of`` (m,)."""
        return self.profile.grid.look_up(self.profile.energy, places_m, of)

    def deficit_at(self, places_m: FloatArray, of: IntArray) -> FloatArray:
        """What the dips took from E at places (…, m) of the corners ``of`` (m,)."""
        return self.profile.grid.look_up(self.profile.deficit, places_m, of)

    def fade_at(self, places_m: FloatArray, of: IntArray) -> FloatArray:
        """Share of a difference in E that is left at places (…, m), relative within a corner."""
        return self.profile.grid.look_up(self.profile.fade, places_m, of)

    def fade_back_at(self, places_m: FloatArray, of: IntArray) -> FloatArray:
        """The same backwards along the slowing, (…, m)."""
        return self.profile.grid.look_up(self.profile.fade_back, places_m, of)


@dataclass(frozen=True, eq=False)
class Piece:
    """Piece of the cells, at least the first two of each corner, m in all.

    ``of`` (m,) the corner of each; ``first`` (c,) the first of each corner; ``floor`` (m,)
    the E that no hybrid goes below.
    """

    d: FloatArray
    of: IntArray
    first: IntArray
    width_m: FloatArray
    floor: FloatArray
    index: IntArray


def left_in_hold(source: Source, places: FloatArray, of: IntArray) -> FloatArray:
    """How much of a lower speed is still there later in a hold, as shares of E at places (…, m).

    All of it while the speed is held; where the vehicle drives in between, what the drive leaves of it.
    """
    grid, energy = source.profile.grid, source.profile.energy
    inside = (grid.at_m >= source.slowed_m[grid.of]) & (grid.at_m <= source.pickup_m[grid.of])
    top = np.maximum.reduceat(np.where(inside, energy, 0.0), grid.first)
    fades = top >= HELD_RISE * source.least
    begun = source.fade_at(source.slowed_m, source.all)
    return np.where(fades[of], source.fade_at(places, of) / begun[of], 1.0)
