"""The slowing of a hybrid: the approach run on, the roll after the lift, coasting and braking."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jete.core.arrays import FloatArray, IntArray
from jete.core.causes.hybrids.source import Piece, Source
from jete.core.causes.profiles.anchors import GENTLEST_MPS2

# A shorter roll between lift and brake is the foot changing over.
ROLL_M = 2.0
# The approach is read between so many metres before the lift: near enough to go on, not so near that the foot is on its way.
APPROACH_M = (18.0, 3.0)
ROLL_SHARES = np.linspace(0.0, 1.0, 12)


def approach(source: Source, piece: Piece, driven: FloatArray) -> FloatArray:
    """E of the approach, (m,), run on past the lift as if it had not come."""
    of = piece.of
    at_lift, slope = source.driven_at(source.lift_m, source.all), _rise_before_lift(source)
    past = piece.d - source.lift_m[of]
    return np.where(past <= 0.0, driven, at_lift[of] + slope[of] * past)


def _rise_before_lift(source: Source) -> FloatArray:
    """How E rises along the road before the lift, m/s², (c,): as it would have gone on without it."""
    far, near = (source.driven_at(source.lift_m - back, source.all) for back in APPROACH_M)
    return np.maximum(near - far, 0.0) / (APPROACH_M[0] - APPROACH_M[1])


def crossing(piece: Piece, approach: FloatArray, slowing: FloatArray, common_m: FloatArray) -> FloatArray:
    """Where a vehicle that runs on must begin to slow: approach and slowing (…, m) cross there, (…, c).

    Between the middles of two cells; where they never cross, at ``common_m`` (…, c).
    """
    m = len(piece.d)
    over = slowing - approach
    hit = np.where((over <= 0.0) & (piece.d <= common_m[..., piece.of]), np.arange(m), m)
    k = np.minimum.reduceat(hit, piece.first, axis=-1)
    inside = np.clip(k, piece.first + 1, np.append(piece.first[1:], m) - 1)
    before = np.take_along_axis(over, inside - 1, axis=-1)
    after = -np.take_along_axis(over, inside, axis=-1)
    share = np.clip(before / np.maximum(before + after, 1e-9), 0.0, 1.0)
    return np.where(k < m, piece.d[inside - 1] + share * piece.width_m[inside], common_m)


def slowing_curve(
    back: FloatArray,
    of: IntArray,
    coasting: tuple[Source, FloatArray],
    braking: tuple[Source, FloatArray],
    raised: FloatArray,
) -> FloatArray:
    """E ``back`` (2, 1, m) metres before where both have slowed: coasting, then braking before it.

    Both sources come with that place on their own slowing, (c,).

    The last metres, in which either lap is off the brake, are of the coasting source, be it
    with its brake on or off; the braking before them is of the other, at that place.  What E
    is above a source's own there (``raised`` (2, c), by slowest), or where the two meet,
    dies out backwards, since the bend leaves more grip for braking to who is slower in it.
    """
    (coast, coast_end), (brake, brake_end) = coasting, braking
    rolled = np.maximum(np.maximum(coast_end - coast.released_m, brake_end - brake.released_m), 0.0)
    rolled = np.minimum(rolled, np.minimum(coast_end - coast.brake_m, brake_end - brake.brake_m))
    rolled = np.maximum(rolled, 0.0)
    place = coast_end[of] - np.minimum(np.maximum(back, 0.0), rolled[of])
    base = coast.fade_back_at(coast_end, coast.all)
    tail = coast.driven_at(place, of) + raised[:, of] * (coast.fade_back_at(place, of) / base[of])
    end = brake_end - rolled
    length = np.maximum(end - brake.brake_m, 0.0)
    at = end[of] - np.minimum(np.maximum(back - rolled[of], 0.0), length[of])
    met = coast_end - rolled
    there = coast.driven_at(met, coast.all) + raised * (coast.fade_back_at(met, coast.all) / base)
    share = (there - brake.driven_at(end, brake.all)) / brake.fade_back_at(end, brake.all)
    body = brake.driven_at(at, of) + share[:, of] * brake.fade_back_at(at, of)
    steep = np.maximum(np.maximum(brake.braking_mps2, coast.braking_mps2), GENTLEST_MPS2)
    beyond = np.maximum(back - (rolled + length)[of], 0.0) * steep[of]
    return np.where(back <= rolled[of], tail, body + beyond)


@dataclass(frozen=True, eq=False)
class Roll:
    """The rolls of one lap between lift and brake point: lengths (c,), and what they took from E.

    ``loss`` (c, 12) over even shares of the length, never falling; short rolls are none.
    """

    length_m: FloatArray
    loss: FloatArray

    @classmethod
    def of(cls, source: Source) -> Roll:
        """The rolls of a lap at all corners."""
        length = source.brake_m - source.lift_m
        length = np.where(length > ROLL_M, length, 0.0)
        shares = ROLL_SHARES[:, None]
        rolled = source.driven_at(source.lift_m + shares * length, source.all)
        approach = rolled[0] + _rise_before_lift(source) * shares * length
        return cls(length, np.maximum.accumulate(np.maximum(approach - rolled, 0.0), axis=0).T)

    def lost_at(self, since_m: FloatArray, of: IntArray) -> FloatArray:
        """What is lost ``since_m`` (…, n) metres after the lift of the corners ``of`` (n,)."""
        share = np.clip(since_m / np.maximum(self.length_m, 1e-6)[of], 0.0, 1.0)
        places = np.arange(len(self.length_m))[:, None] * 2.0 + ROLL_SHARES
        return np.interp(share + 2.0 * of, places.ravel(), self.loss.ravel())
