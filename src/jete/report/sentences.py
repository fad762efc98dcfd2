"""A finding as a sentence, made once and with its units: the core gives kind and measure, the words stand here."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.core.causes.kinds import CAUSES, Kind, Unit
from jete.core.causes.verdict.pair import LEAST_MOVE_M
from jete.core.causes.verdict.trades import both_ways
from jete.report.read_off import apart_m, as_read
from jete.report.units import METRIC, Units
from jete.report.words import cause_words, difference

if TYPE_CHECKING:
    from jete.core.causes.verdict.findings import Finding
    from jete.core.causes.verdict.result import CornerLoss
    from jete.core.causes.verdict.trades import Trade
    from jete.core.driving.marks import Marks


# What rounds to nothing at three decimals is neither lost nor gained.
EVEN_S = 0.0005
# Brake points, and trails, that part by less are not worth a word beside another cause.
LEAST_TOLD_M, LEAST_TRAIL_M = 3.0, 5.0
# As one reads it.
SAME_KMH = 0.05


def sentence(kind: Kind, measure: float, units: Units = METRIC, marks: tuple[Marks, Marks] | None = None) -> str:
    """One sentence on what the lap did, for people; sizes without sign.

    Args:
        kind: of the finding.
        measure: in the unit of its kind (m, km/h, g, s, times).
        units: that it is told in.
        marks: of the reference and the lap, for what else a driver did with the brake; None for the measure alone.

    >>> sentence(Kind.EARLY_BRAKING, -9.04), sentence(Kind.EARLY_BRAKING, -9.04, Units("mph", "ft", "psi"))
    ('Braked 9 m before the reference.', 'Braked 30 ft before the reference.')
    """
    cause, more = CAUSES[kind], measure > 0.0
    return cause.said.format(
        size=_size_text(cause.unit, abs(measure), units),
        faster="faster" if more else "slower",
        longer="longer" if more else "less",
        slowed=slowed_words(kind, measure, units, marks),
        brake=_brake_moved(kind, units, marks),
        where=_where(measure, marks),
        dips=_dips_sentence(measure),
    )


def _size_text(unit: Unit, size: float, units: Units) -> str:
    """How much of a cause's measure there is, with its unit."""
    if unit in ("m", "km/h"):
        return units.length_text(size) if unit == "m" else units.speed_text(size)
    return f"{size:.2f} {unit}"


def finding_sentence(finding: Finding, units: Units = METRIC, marks: tuple[Marks, Marks] | None = None) -> str:
    """A finding as one sentence; with what it gained and lost again where it did both.

    >>> from jete.core.causes.verdict.findings import Finding
    >>> phases = (("braking", -0.19), ("exit", 0.25))
    >>> finding_sentence(Finding(kind=Kind.LATE_BRAKING, loss_s=0.06, at_m=100.0, measure=5.2, unit="m", confidence=0.9, phases=phases))
    'Braked 5 m past the reference: won 0.190 s on the way in, lost 0.250 s on the way out.'
    """
    told, both = sentence(finding.kind, finding.measure, units, marks), both_ways_words(finding)
    return f"{told.rstrip('.')}: {both}." if both else told


def both_ways_words(finding: Finding) -> str:
    """What a cause won and lost again, or lost and won back; empty where it only did one of them."""
    both = both_ways(finding)
    if both is None:
        return ""
    first, then = ("won", "lost") if both.in_s < 0.0 else ("lost", "won")
    return f"{first} {abs(both.in_s):.3f} s on the way in, {then} {abs(both.out_s):.3f} s on the way out"


def slowed_words(kind: Kind, measure_m: float, units: Units, marks: tuple[Marks, Marks] | None) -> str:
    """Where a lap was down to speed, and what its brake did instead; what to do otherwise, where the trail shows it.

    >>> slowed_words(Kind.SLOWED_EARLY, -20.0, METRIC, None)
    'Was down to speed 20 m too soon'
    """
    early = kind is Kind.SLOWED_EARLY
    down = f"down to speed {units.length_text(abs(measure_m))} {'too soon' if early else 'later'}"
    moved = onset_moved_m(marks, units)
    if moved is None or (moved < -LEAST_MOVE_M if early else moved > LEAST_MOVE_M):
        return f"Was {down}"
    if abs(moved) < LEAST_MOVE_M:
        return f"Braked where the reference does, but was {down}{_trail_words(marks, units)}"
    side = "later" if moved > 0.0 else "earlier"
    return f"On the brake {units.length_text(abs(moved))} {side}, but {'harder' if early else 'softer'}: {down}{_trail_words(marks, units)}"


def _trail_words(marks: tuple[Marks, Marks] | None, units: Units) -> str:
    """That the brake was let go sooner, or later, by both trails, where they part; else nothing."""
    trails = trails_m(marks)
    if trails is None or abs(trails[1] - trails[0]) < LEAST_TRAIL_M:
        return ""
    how = "let go sooner" if trails[1] < trails[0] else "held it longer"
    return f"; {how} (trail {units.length_text(trails[1])}, reference {units.length_text(trails[0])})"


def trails_m(marks: tuple[Marks, Marks] | None) -> tuple[float, float] | None:
    """How far the reference and the lap trailed the brake into the turn, metres; None where that is not seen of both."""
    known = [(m.brake_off_m, m.turn_in_m) for m in marks or ()]
    trails = [max(off - turn_in, 0.0) for off, turn_in in known if off is not None and turn_in is not None]
    return (trails[0], trails[1]) if len(trails) == 2 else None


def onset_moved_m(marks: tuple[Marks, Marks] | None, units: Units) -> float | None:
    """How far the lap's brake point lies past the reference's, as one reads it off; None where that is not seen."""
    if marks is None or marks[0].brake_on_m is None or marks[1].brake_on_m is None:
        return None
    return apart_m(marks[0].brake_on_m, marks[1].brake_on_m, units)


def _brake_moved(kind: Kind, units: Units, marks: tuple[Marks, Marks] | None) -> str:
    """That a softer braking began so much earlier, or a harder one later, to stand before it; else nothing."""
    moved, side = onset_moved_m(marks, units), 1.0 if kind is Kind.HARD_BRAKING else -1.0
    if moved is None or moved * side < LEAST_TOLD_M:
        return ""
    return f"{units.length_text(abs(moved))} {'later' if side > 0.0 else 'earlier'} and "


def _where(measure_kmh: float, marks: tuple[Marks, Marks] | None) -> str:
    """Where an exit's speed is told: at the exit where it is the exit speed's, else at the straight's end."""
    return "at the exit" if marks is not None and told_at_exit(measure_kmh, marks) else "at the straight's end"


def told_at_exit(measure_kmh: float, marks: tuple[Marks, Marks]) -> bool:
    """Whether an exit is told by the exit speed, since speeds have met again by the straight's end."""
    return abs(marks[1].exit_speed_kmh - marks[0].exit_speed_kmh - measure_kmh) < SAME_KMH


def short_words(finding: Finding, marks: tuple[Marks, Marks], units: Units = METRIC, ahead: str = "") -> str:
    """A cause in a few words for a row: with where the brake was, where that is the other half of it.

    Args:
        finding: of the corner.
        marks: of the reference and the lap.
        units: that it is told in.
        ahead: label of the corner before, where there is one.
    """
    if finding.kind in (Kind.SOFT_BRAKING, Kind.HARD_BRAKING):
        moved = _brake_moved(finding.kind, units, marks).removesuffix(" and ")
        how = "softer" if finding.kind is Kind.SOFT_BRAKING else "harder"
        return f"braked {moved}, {how}" if moved else cause_words(finding.kind, finding.loss_s)
    if finding.kind in (Kind.SLOWED_EARLY, Kind.SLOWED_LATE):
        early = finding.kind is Kind.SLOWED_EARLY
        return f"slowed {units.length_text(abs(finding.measure))} {'too soon' if early else 'later'}"
    return cause_words(finding.kind, finding.loss_s, ahead)


def trade_sentence(
    trade: Trade, units: Units = METRIC, marks: tuple[Marks, Marks] | None = None, *, both: bool = False
) -> str:
    """Both sides of a trade with their seconds, and the balance; if asked for, what a side won and lost again."""
    sides = []
    for finding, verb in ((trade.lost, "lost"), (trade.gained, "gained")):
        told, words = sentence(finding.kind, finding.measure, units, marks).rstrip("."), both_ways_words(finding)
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
    traded = [] if trade is None else [trade_sentence(trade, units, loss.marks, both=True)]
    alone = [f for f in loss.findings if trade is None or f not in (trade.lost, trade.gained)]
    return traded + [finding_sentence(f, units, loss.marks) for f in alone if both_ways(f) is not None]


def _dips_sentence(measure: float) -> str:
    count = round(abs(measure))
    times = "once" if count == 1 else f"{count} times"
    return (
        f"Came off the throttle again {times} where the reference did not."
        if measure > 0
        else f"Fed the throttle without {count} of the reference's lifts."
    )
