"""A finding as a sentence, made once and with its units: the core gives kind and measure, the words stand here."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.core.causes.kinds import Kind
from jete.core.causes.pair import LEAST_MOVE_M
from jete.core.causes.trades import both_ways
from jete.report.read_off import as_read
from jete.report.units import METRIC, Units
from jete.report.words import difference

if TYPE_CHECKING:
    from jete.core.causes.findings import Finding
    from jete.core.causes.result import CornerLoss
    from jete.core.causes.trades import Trade


# What rounds to nothing at three decimals is neither lost nor gained.
EVEN_S = 0.0005


def sentence(kind: Kind, measure: float, units: Units = METRIC) -> str:
    """One sentence on what the lap did, for people; sizes without sign.

    Args:
        kind: of the finding.
        measure: in the unit of its kind (m, km/h, g, s, times).
        units: that it is told in.

    >>> sentence(Kind.EARLY_BRAKING, -9.04), sentence(Kind.EARLY_BRAKING, -9.04, Units("mph", "ft", "psi"))
    ('Braked 9 m before the reference.', 'Braked 30 ft before the reference.')
    """
    size = abs(measure)
    more = measure > 0.0
    length, speed = units.length_text(size), units.speed_text(size)
    return {
        Kind.CARRIED_SPEED: f"Arrived {speed} {'faster' if more else 'slower'} from the exit before.",
        Kind.EARLY_BRAKING: _braked(units, measure, "before", "slow too early"),
        Kind.LATE_BRAKING: _braked(units, -measure, "past", "slow later"),
        Kind.SOFT_BRAKING: f"Braked softer by {size:.2f} g over the braking.",
        Kind.HARD_BRAKING: f"Braked harder by {size:.2f} g over the braking.",
        Kind.OVERSLOWING: f"Slowed {speed} more than the reference.",
        Kind.MORE_SPEED: f"Kept {speed} more at the slow point.",
        Kind.COASTING: f"On neither pedal {size:.2f} s {'longer' if more else 'less'}.",
        Kind.LATE_THROTTLE: f"Picked up the throttle {length} later.",
        Kind.EARLY_THROTTLE: f"Picked up the throttle {length} earlier.",
        Kind.THROTTLE_HESITATION: _dips_sentence(measure),
        Kind.SLOW_EXIT: f"Left {speed} slower, for another cause than the pick-up.",
        Kind.FAST_EXIT: f"Left {speed} faster, for another cause than the pick-up.",
    }[kind]


def finding_sentence(finding: Finding, units: Units = METRIC) -> str:
    """A finding as one sentence; with what it gained and lost again where it did both.

    >>> from jete.core.causes.findings import Finding
    >>> phases = (("braking", -0.19), ("exit", 0.25))
    >>> finding_sentence(Finding(Kind.LATE_BRAKING, 0.06, 100.0, 5.2, "m", 0.9, phases))
    'Braked 5 m past the reference: won 0.190 s on the way in, lost 0.250 s on the way out.'
    """
    told, both = sentence(finding.kind, finding.measure, units), both_ways_words(finding)
    return f"{told.rstrip('.')}: {both}." if both else told


def both_ways_words(finding: Finding) -> str:
    """What a cause won and lost again, or lost and won back; empty where it only did one of them."""
    both = both_ways(finding)
    if both is None:
        return ""
    first, then = ("won", "lost") if both.in_s < 0.0 else ("lost", "won")
    return f"{first} {abs(both.in_s):.3f} s on the way in, {then} {abs(both.out_s):.3f} s on the way out"


def _braked(units: Units, against_m: float, side: str, but: str) -> str:
    """Where the lap braked, by metres against the side that its kind has; what came of it where the place alone would say otherwise.

    >>> _braked(METRIC, 9.0, "before", "slow too early"), _braked(METRIC, -0.4, "before", "slow too early")
    ('Braked 9 m past the reference, but was slow too early.', 'Braked where the reference does, but was slow too early.')
    """
    length = units.length_text(abs(against_m))
    if abs(against_m) < LEAST_MOVE_M:
        return f"Braked where the reference does, but was {but}."
    if against_m < 0.0:
        return f"Braked {length} {side} the reference."
    other = "past" if side == "before" else "before"
    return f"Braked {length} {other} the reference, but was {but}."


def trade_sentence(trade: Trade, units: Units = METRIC, *, both: bool = False) -> str:
    """Both sides of a trade with their seconds, and the balance; if asked for, what a side won and lost again."""
    sides = []
    for finding, verb in ((trade.lost, "lost"), (trade.gained, "gained")):
        told, words = sentence(finding.kind, finding.measure, units).rstrip("."), both_ways_words(finding)
        sides.append(f"{told}: {verb} {abs(finding.loss_s):.3f} s{f' ({words})' if both and words else ''}")
    second = sides[1][0].lower() + sides[1][1:]
    paid = (
        "it came out even"
        if abs(trade.balance_s) < EVEN_S
        else "it paid"
        if trade.balance_s < 0.0
        else "it did not pay"
    )
    return f"{sides[0]}; {second}. Balance {difference(trade.balance_s)} s: {paid}."


def bargains(loss: CornerLoss, units: Units = METRIC) -> list[str]:
    """What was given at a corner for something else there: the trade, and causes that won and lost again."""
    loss = as_read(loss, units)
    trade = loss.trade
    traded = [] if trade is None else [trade_sentence(trade, units, both=True)]
    alone = [f for f in loss.findings if trade is None or f not in (trade.lost, trade.gained)]
    return traded + [finding_sentence(f, units) for f in alone if both_ways(f) is not None]


def _dips_sentence(measure: float) -> str:
    count = round(abs(measure))
    times = "once" if count == 1 else f"{count} times"
    return (
        f"Came off the throttle again {times}."
        if measure > 0
        else f"Fed the throttle without {count} of the reference's lifts."
    )
