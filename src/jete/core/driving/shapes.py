"""The shape of a press of the brake, of a fed throttle, and of the grip that is used: what a coach looks at."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import numpy as np

from jete.core.driving.braking import STEP_S, build_s
from jete.core.motion.pace import SLOWEST_MPS

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.road import Road
    from jete.core.driving.marks import Marks
    from jete.core.driving.passage import Passage
    from jete.core.driving.pedals import Pedal

# What is shown before a mark and after its end.
BEFORE_S, AFTER_S = 0.2, 0.4
# A throttle that is not full by then is fed no more.
LONGEST_FEED_S = 4.0
# Fed back by this share of its travel a throttle was taken back.
TAKEN_BACK = 0.1
# Directions in which grip is told apart, and the share of samples that make what was shown.
SECTORS, SHOWN = 48, 0.98


# From these shares of the hardest press on, drivers call a press hard, or firm.
HARD_PRESS, FIRM_PRESS = 0.85, 0.6

Hardness = Literal["light", "firm", "hard"]


@dataclass(frozen=True, eq=False)
class Shape:
    """A pedal over time since its mark: seconds (n,) and share of its travel (n,)."""

    time_s: FloatArray
    share: FloatArray


@dataclass(frozen=True)
class PressFigures:
    """A press in figures, as shares of the log's hardest: its peak, the peak of the first press where there are several, seconds until that is built, share on turning in; trail."""

    peak: float
    first: float
    build_s: float
    at_turn_in: float | None
    trail_m: float | None


def hardness_of(peak: float) -> Hardness:
    """How hard a press is in a word, by its share of the log's hardest.

    >>> hardness_of(0.95), hardness_of(0.7), hardness_of(0.3)
    ('hard', 'firm', 'light')
    """
    return "hard" if peak > HARD_PRESS else "firm" if peak > FIRM_PRESS else "light"


@dataclass(frozen=True)
class FeedFigures:
    """A feeding in figures: share given within 0.15 s, seconds to full (None where it is not reached), the most taken back."""

    step: float
    full_s: float | None
    taken_back: float


def press_of(passage: Passage, marks: Marks) -> tuple[Shape, PressFigures] | None:
    """The press of the brake at a corner; None where nobody brakes or the pedal was not logged."""
    if marks.brake_on_m is None or marks.brake_off_m is None or passage.brake.inferred:
        return None
    on, off = passage.time_of(marks.brake_on_m), passage.time_of(marks.brake_off_m)
    shape = _shape(passage.brake, on, off + AFTER_S)
    hardest = max(float(passage.brake.value.max()), 1e-3)
    shape = Shape(shape.time_s, shape.share / hardest)
    built = build_s(passage.brake, on, off)
    if built is None:
        return None
    peak = float(shape.share[(shape.time_s >= 0.0) & (shape.time_s <= off - on)].max())
    turn, trail = None, None
    if marks.turn_in_m is not None:
        turn = max(float(passage.brake.at(np.array([passage.time_of(marks.turn_in_m)]))[0]) / hardest, 0.0)
        trail = max(marks.brake_off_m - marks.turn_in_m, 0.0)
    return shape, PressFigures(peak, built[1] / hardest, built[0], turn, trail)


def feed_of(passage: Passage, marks: Marks) -> tuple[Shape, FeedFigures] | None:
    """The throttle from the pick-up on; None where nobody picks it up or the pedal was not logged."""
    if marks.throttle_on_m is None or passage.throttle.inferred:
        return None
    on = passage.time_of(marks.throttle_on_m)
    full = passage.time_of(marks.full_throttle_m) if marks.full_throttle_m is not None else None
    end = min(on + LONGEST_FEED_S, full if full is not None else np.inf)
    shape = _shape(passage.throttle, on, end + AFTER_S)
    after = shape.share[shape.time_s >= 0.0]
    if after.size < 3:
        return None
    back = float(np.max(np.maximum.accumulate(after) - after))
    step = float(np.interp(0.15, shape.time_s, shape.share))
    return shape, FeedFigures(step, None if full is None else full - on, back if back >= TAKEN_BACK else 0.0)


def _shape(pedal: Pedal, on_s: float, end_s: float) -> Shape:
    time = np.arange(-BEFORE_S, end_s - on_s, STEP_S)
    return Shape(time, pedal.at(on_s + time))


@dataclass(frozen=True, eq=False)
class Grip:
    """Lateral (left positive) and longitudinal acceleration, m/s², (n,) both."""

    lateral_mps2: FloatArray
    longitudinal_mps2: FloatArray

    @property
    def size_mps2(self) -> FloatArray:
        """How much grip is used, (n,)."""
        return np.hypot(self.lateral_mps2, self.longitudinal_mps2)

    @property
    def angle_rad(self) -> FloatArray:
        """The direction of each, radians, (n,)."""
        return np.arctan2(self.longitudinal_mps2, self.lateral_mps2)


def grip_of(passage: Passage, road: Road, start_m: float, end_m: float) -> Grip:
    """The acceleration of a lap between two places, by its speed and the road's bend (no sensor's tilt is in it)."""
    place = passage.alignment.place_m
    inside = (place >= start_m) & (place <= end_m)
    speed = np.maximum(passage.motion.quiet_mps[inside], SLOWEST_MPS)
    return Grip(speed**2 * road.curvature_at(place[inside]), passage.acceleration_mps2[inside])


def shown_grip(passages: Sequence[Passage], road: Road) -> tuple[FloatArray, FloatArray]:
    """What laps have shown in each direction: angles (s,), and the grip that all but two in a hundred samples stay within, m/s², (s,)."""
    parts = [grip_of(p, road, 0.0, road.length_m) for p in passages]
    size, angle = (np.concatenate([getattr(g, n) for g in parts]) for n in ("size_mps2", "angle_rad"))
    edges = np.linspace(-np.pi, np.pi, SECTORS + 1)
    sector = np.clip(np.digitize(angle, edges) - 1, 0, SECTORS - 1)
    reach = np.array(
        [np.quantile(size[sector == k], SHOWN) if np.count_nonzero(sector == k) > 3 else 0.0 for k in range(SECTORS)]
    )
    return 0.5 * (edges[1:] + edges[:-1]), reach


def used_share(grip: Grip, shown: tuple[FloatArray, FloatArray]) -> float:
    """The mean share of what was shown that is used over a piece, 0 to about 1."""
    angle, reach = shown
    able = np.interp(grip.angle_rad, angle, reach, period=2.0 * np.pi)
    usable = able > 0.3 * float(reach.max())
    return float(np.mean(np.minimum(grip.size_mps2[usable] / able[usable], 1.2))) if usable.any() else 0.0
