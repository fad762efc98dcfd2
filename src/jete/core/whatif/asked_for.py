"""What can be changed at a corner, and what stays then."""

from __future__ import annotations

from dataclasses import dataclass
from math import isnan
from typing import TYPE_CHECKING, Final, Literal

from jete.core.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Sequence

What = Literal["brake_on_m", "min_speed_kmh", "throttle_on_m", "feed"]
Keep = Literal["slow_point_m", "braking", "brake_on_m", "feed", "throttle_on_m"]

# What may stay when something is changed, the default first; and the unit of the change.
STAYS: Final[dict[What, tuple[Keep, ...]]] = {
    "brake_on_m": ("slow_point_m", "braking"),
    "min_speed_kmh": ("braking", "brake_on_m"),
    "throttle_on_m": ("feed",),
    "feed": ("throttle_on_m",),
}
UNITS: Final[dict[What, str]] = {"brake_on_m": "m", "min_speed_kmh": "km/h", "throttle_on_m": "m", "feed": "share"}
# Larger changes are no small step, and nothing that a lap could tell of.
LARGEST: Final[dict[What, float]] = {"brake_on_m": 60.0, "min_speed_kmh": 25.0, "throttle_on_m": 60.0, "feed": 2.0}


@dataclass(frozen=True)
class SetTo:
    """One thing changed by so much, in its unit; ``keep`` is what stays."""

    what: What
    delta: float
    keep: Keep


@dataclass(frozen=True)
class AskedChange:
    """What is to be changed at a corner; ``corner`` counts from the line, from 1."""

    corner: int
    sets: tuple[SetTo, ...]

    def delta(self, what: What) -> float:
        """By how much one thing is changed; 0 where it is not."""
        return sum(s.delta for s in self.sets if s.what == what)

    def keeps(self, keep: Keep) -> bool:
        """Whether one thing stays."""
        return any(s.keep == keep for s in self.sets)

    def sets_one(self, what: What) -> bool:
        """Whether one thing is changed."""
        return any(s.what == what for s in self.sets)


def asked_change(corner: int, sets: Sequence[str], keeps: Sequence[str] = ()) -> AskedChange:
    """A change from ``WHAT=DELTA`` as people type them, and what is to stay.

    Raises:
        InputError: no such thing, no number, a step that is no small one, or something that can't stay.

    >>> asked_change(3, ["brake_on_m=+5"], ["braking"]).sets
    (SetTo(what='brake_on_m', delta=5.0, keep='braking'),)
    """
    parsed = [_parsed(text) for text in sets]
    if len({what for what, _ in parsed}) < len(parsed):
        raise InputError(" ".join(sets), "it changes one thing twice.", "Give each WHAT once for a corner.")
    left = list(keeps)
    out = []
    for what, delta in parsed:
        keep = next((k for k in left if k in STAYS[what]), None)
        if keep is not None:
            left.remove(keep)
        out.append(SetTo(what, delta, STAYS[what][0] if keep is None else _keep(what, keep)))
    if left:
        can = "; ".join(f"with {what}: {', '.join(STAYS[what])}" for what, _ in parsed)
        raise InputError(f"--keep {left[0]}", "that can't stay with these changes.", f"What can: {can}.")
    return AskedChange(corner, tuple(out))


def _keep(what: What, text: str) -> Keep:
    return next(k for k in STAYS[what] if k == text)


def _parsed(text: str) -> tuple[What, float]:
    name, equals, number = text.partition("=")
    what = next((w for w in STAYS if w == name.strip()), None)
    try:
        delta = float(number.replace(",", ".").replace("\N{MINUS SIGN}", "-"))
    except ValueError:
        delta = float("nan")
    if what is None or not equals or isnan(delta):
        names = ", ".join(STAYS)
        raise InputError(f"'{text}'", "this is no change.", f"Write WHAT=DELTA with one of {names}, as brake_on_m=+5.")
    least = -0.9 if what == "feed" else -LARGEST[what]
    if not least <= delta <= LARGEST[what]:
        mend = f"Stay between {least:g} and {LARGEST[what]:g} {UNITS[what]}."
        raise InputError(f"'{text}'", "that is no small step.", mend)
    return what, delta
