"""Trades: what a lap lost at one corner by one thing, and gained there by another.

Slow in and fast out, or fast in and slow out: two findings of one corner with costs of
different signs.  A trade restates them; it adds nothing to the sums.  One cause can be both:
who brakes later and is slow later for it gains on the way in and pays on the way out.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from jete.core.causes.kinds import Kind

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.causes.verdict.findings import Finding

# Less is no side of a trade, nor is what is less than this share of the other side.
LEAST_SIDE_S = 0.03
# A fifth: less beside it is no bargain.
LEAST_SHARE = 0.2
# The phases after the slow point.
WAY_OUT = ("exit", "straight")


@dataclass(frozen=True)
class Trade:
    """The dearest loss and the largest gain of one corner."""

    lost: Finding
    gained: Finding

    @property
    def balance_s(self) -> float:
        """What the trade cost, seconds; negative where it paid."""
        return self.lost.loss_s + self.gained.loss_s


@dataclass(frozen=True)
class BothWays:
    """What one cause made of the way in, up to the slow point, and of the way out, seconds, of different signs."""

    in_s: float
    out_s: float


def both_ways(finding: Finding) -> BothWays | None:
    """What a cause gained and lost again, or lost and gained; None where it only did one of them.

    >>> from jete.core.causes.verdict.findings import Finding
    >>> phases = (("braking", -0.19), ("turning", 0.01), ("exit", 0.21), ("straight", 0.05))
    >>> both_ways(Finding(kind=Kind.LATE_BRAKING, loss_s=0.08, at_m=100.0, measure=5.0, unit="m", confidence=0.9, phases=phases))
    BothWays(in_s=-0.18, out_s=0.26)
    """
    sides = [sum(s for p, s in finding.phases if (p in WAY_OUT) is out) for out in (False, True)]
    both = sides[0] * sides[1] < 0.0 and _are_sides(*(abs(s) for s in sides))
    return BothWays(*sides) if both else None


def _are_sides(one_s: float, other_s: float) -> bool:
    return min(one_s, other_s) >= max(LEAST_SIDE_S, LEAST_SHARE * max(one_s, other_s))


def trade_of(findings: Sequence[Finding]) -> Trade | None:
    """The trade among the findings of a corner; None where nothing was given for something else.

    What an earlier corner left is no side of it.

    >>> from jete.core.causes.verdict.findings import Finding
    >>> lost = Finding(kind=Kind.EARLY_BRAKING, loss_s=0.75, at_m=100.0, measure=-17.0, unit="m", confidence=0.9)
    >>> gained = Finding(kind=Kind.EARLY_THROTTLE, loss_s=-0.21, at_m=160.0, measure=-9.0, unit="m", confidence=0.9)
    >>> trade = trade_of([lost, gained])
    >>> trade is not None and round(trade.balance_s, 2)
    0.54
    """
    own = [f for f in findings if f.kind is not Kind.CARRIED_SPEED]
    lost, gained = (max(own, key=lambda f, s=side: s * f.loss_s, default=None) for side in (1.0, -1.0))  # type: ignore[misc]
    if lost is None or gained is None:
        return None
    return Trade(lost, gained) if _are_sides(lost.loss_s, -gained.loss_s) else None
