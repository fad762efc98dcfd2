"""The shape of a press, of a feeding, of steering, shifting and grip, in the coach's figures."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.report.units import plain

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.core.arrays import FloatArray
    from jete.core.axis.road.corners import Corner
    from jete.core.driving.marks import Marks
    from jete.core.driving.passage import Passage
    from jete.core.driving.shapes import FeedFigures, PressFigures


# From this share of the lesser lean on one side to the same on the other; a lesser lean is no side.
LEANED_SHARE, LEAST_LEAN_DEG = 0.7, 10.0


def press_words(press: PressFigures, length: Callable[[float], str]) -> str:
    """A press of the brake.

    >>> from jete.core.driving.shapes import PressFigures
    >>> press_words(PressFigures(0.92, 0.92, 0.15, 0.06, 38.0), lambda m: f"{m:.0f} m")
    '92 % of the hardest, built in 0.15 s, turn-in 6 %, trail 38 m'
    >>> press_words(PressFigures(0.92, 0.32, 0.15, None, None), lambda m: f"{m:.0f} m")
    '92 % of the hardest, first press 32 %, built in 0.15 s'
    """
    parts = [f"{100 * press.peak:.0f} % of the hardest"]
    if round(100 * press.first) != round(100 * press.peak):
        parts.append(f"first press {100 * press.first:.0f} %")
    parts.append(f"built in {press.build_s:.2f} s")
    if press.at_turn_in is not None:
        parts.append(f"turn-in {100 * press.at_turn_in:.0f} %")
    if press.trail_m:
        parts.append(f"trail {length(press.trail_m)}")
    return ", ".join(parts)


def feed_words(feed: FeedFigures) -> str:
    """A throttle from its pick-up on.

    >>> from jete.core.driving.shapes import FeedFigures
    >>> feed_words(FeedFigures(0.31, 1.25, 0.0)), feed_words(FeedFigures(0.31, None, 0.4))
    ('31 % at once, full after 1.25 s', '31 % at once, never full, taken back by 40 %')
    """
    full = "never full" if feed.full_s is None else f"full after {feed.full_s:.2f} s"
    back = f", taken back by {100 * feed.taken_back:.0f} %" if feed.taken_back else ""
    return f"{100 * feed.step:.0f} % at once, {full}{back}"


def steering_words(angle_deg: FloatArray, *, corrected: bool) -> str:
    """The most that is steered, and whether it was turned against the bend on the way out."""
    most = float(np.max(np.abs(angle_deg)))
    return f"up to {most:.0f}°{', corrected (shaded)' if corrected else ''}"


def lean_words(time_s: FloatArray, lean_deg: FloatArray) -> str:
    """The most that is leaned, how quickly the vehicle rolls in, and how long it takes from side to side, where it does.

    >>> t = np.linspace(0.0, 4.0, 401)
    >>> lean_words(t, 40.0 * np.sin(0.5 * np.pi * t))
    'up to 40°, rolls at 63°/s, side to side in 1.0 s'
    """
    rate = np.gradient(lean_deg, time_s)
    words = [
        f"up to {float(np.max(np.abs(lean_deg))):.0f}°",
        f"rolls at {float(np.quantile(np.abs(rate), 0.98)):.0f}°/s",
    ]
    half = LEANED_SHARE * min(float(lean_deg.max()), -float(lean_deg.min()))
    if half > LEAST_LEAN_DEG:
        side = np.where(lean_deg > half, 1, np.where(lean_deg < -half, -1, 0))
        held = np.flatnonzero(side)
        turns = np.flatnonzero(np.diff(side[held]) != 0)
        if turns.size:
            took = [float(time_s[held[k + 1]] - time_s[held[k]]) for k in turns]
            words.append(f"side to side in {min(took):.1f} s")
    return ", ".join(words)


def shift_words(passage: Passage, marks: Marks, corner: Corner) -> str:
    """The lowest gear of a corner, and where it is shifted down to and up from, in metres from the apex."""
    gear = passage.lap.get("gear")
    if gear is None or len(gear) < 2:
        return ""
    place = passage.place_at(gear.time_s)
    begin = min(x for x in (marks.slowing_m, corner.start_m) if x is not None)
    end = max(x for x in (marks.full_throttle_m, corner.end_m) if x is not None)
    inside = np.flatnonzero((place >= begin) & (place <= end + 30.0))
    if inside.size < 2:
        return ""
    gears, at = gear.value[inside], place[inside] - corner.apex_m
    low = int(np.argmin(gears))
    told = [f"down to {gears[low]:.0f} at {plain(float(at[low]), 0)} m" if low else f"in {gears[0]:.0f} throughout"]
    up = np.flatnonzero((np.arange(len(gears)) > low) & (gears > gears[low] + 0.5))
    if up.size:
        told.append(f"up at {plain(float(at[up[0]]), 0)} m")
    return ", ".join(told)


def grip_words(share: float) -> str:
    """How much of the shown grip is used in the corner."""
    return f"uses {100 * share:.0f} % of the grip shown"
