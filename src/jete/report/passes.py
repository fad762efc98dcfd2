"""Passes in words: what their numbers are called, whose passes are meant, what tells two ways apart, and what came of it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

import numpy as np

from jete.report.units import KMH, SPEEDS, Units, plain
from jete.report.words import difference

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.passes.passes import Pass
    from jete.core.passes.trends import Trend
    from jete.core.passes.two_ways import TwoWays
    from jete.library.pass_book import KeptPass

# Name of the number, what it is called, what it is in.
NUMBERS: Final = {
    "brake_on_m": ("brake point", "m"), "brake_peak": ("hardest press", "bar"), "turn_in_m": ("turn-in", "m"),
    "slow_point_m": ("slow point", "m"), "min_speed_kmh": ("lowest speed", "km/h"), "throttle_on_m": ("pick-up", "m"),
    "full_throttle_m": ("flat out", "m"), "exit_speed_kmh": ("exit speed", "km/h"),
    "window_s": ("time in the corner", "s"), "whole_s": ("time with the straight", "s"),
}  # fmt: skip
SCOPES: Final = {
    "run": "this run",
    "day": "this day",
    "driver": "this driver",
    "season": "all drivers",
    "class": "all of the class",
}
WAYS: Final = {
    "gear": "gear at the slow point", "brushes": "brake once or again", "apex": "apex early or late",
    "exit": "exit tight or wide", "tag": "by tag",
}  # fmt: skip
# Two apexes nearer than this are neither early nor late against each other.
LATER: Final = "later on"


def number_of(one: Pass, name: str, units: Units) -> float | None:
    """A number of a pass in the chosen unit."""
    value = getattr(one, name)
    if value is None:
        return None
    unit = NUMBERS[name][1]
    if unit == "km/h":
        return float(value) / KMH * SPEEDS[units.speed]
    return units.length_of(value) if unit == "m" else float(value)


def title_of(name: str, units: Units) -> str:
    """What a number is called, with its unit."""
    title, unit = NUMBERS[name]
    shown = {"km/h": units.speed, "m": units.length}.get(unit, unit)
    return f"{title}, {shown}"


def way_of(kept: KeptPass, ways: str, median: float | None) -> str | None:
    """Which way a pass was driven, in a word; None where it can't be told.

    Args:
        kept: the pass.
        ways: what tells two ways apart.
        median: middle of the slow points, or of the offsets at the exit, of all passes.
    """
    one = kept.numbers
    if ways == "gear":
        return None if one.gear is None else f"gear {one.gear}"
    if ways == "brushes":
        return None if not one.brushes else "braked once" if one.brushes == 1 else "braked again"
    if ways == "tag":
        return kept.tag or None
    value = one.slow_point_m if ways == "apex" else one.exit_off_m
    if value is None or median is None:
        return None
    return (
        ("late" if value > median else "early")
        if ways == "apex"
        else ("left of the middle" if value > median else "right of it")
    )


def middle_of(passes: Sequence[KeptPass], ways: str) -> float | None:
    """What early and late, or tight and wide, are told from."""
    values = [p.numbers.slow_point_m if ways == "apex" else p.numbers.exit_off_m for p in passes]
    known = [v for v in values if v is not None]
    return float(np.median(known)) if known else None


def trend_sentence(trend: Trend, units: Units) -> str:
    """What a step of a mark goes with.

    >>> from jete.core.passes.trends import Trend
    >>> from jete.report.units import METRIC
    >>> trend_sentence(Trend(mark="throttle_on_m", step=5.0, passes=24, seconds=0.03, low_s=0.01, high_s=0.05, told=True), METRIC)
    'pick-up: +0.030 s per 5 m later (+0.010 to +0.050)'
    """
    title, unit = NUMBERS[trend.mark]
    if not trend.told:
        return f"{title}: no gain seen"
    step, more = trend.step, "later" if unit == "m" else "more"
    shown = f"{plain(step, 0)} {unit}"
    factor = 1.0
    if unit == "m":
        shown, factor = f"5 {units.length}", 5.0 / units.length_of(step)
    elif unit == "km/h":
        shown, factor = f"1 {units.speed}", KMH / SPEEDS[units.speed]
    low, high = (difference(v * factor) for v in (trend.low_s, trend.high_s))
    return f"{title}: {difference(trend.seconds * factor)} s per {shown} {more} ({low} to {high})"


def ways_sentence(found: TwoWays, names: tuple[str, str]) -> str:
    """Which of two ways is faster, or that nobody can tell yet.

    >>> from jete.core.passes.two_ways import TwoWays
    >>> ways_sentence(TwoWays(passes=(24, 24), means_s=(20.1, 20.0), difference_s=-0.1, low_s=-0.13, high_s=-0.07, verdict="told", more=0), ("gear 2", "gear 3"))
    'Gear 3 is faster here by 0.100 s (0.070 to 0.130), straight included.'
    """
    fast = names[1] if found.difference_s < 0.0 else names[0]
    size, bounds = abs(found.difference_s), sorted(abs(b) for b in (found.low_s, found.high_s))
    if found.verdict == "told":
        return f"{fast[:1].upper()}{fast[1:]} is faster here by {size:.3f} s ({bounds[0]:.3f} to {bounds[1]:.3f}), straight included."
    between = f"the difference lies between {difference(found.low_s)} and {difference(found.high_s)} s"
    if found.verdict == "alike":
        return f"Both are alike here: {between}. Drive the one that is calmer."
    return f"Not enough passes to tell: {between}. About {found.more} more of each would tell."
