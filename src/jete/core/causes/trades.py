"""Trades: what a lap lost at one corner by one thing, and gained there by another.

Slow in and fast out, or fast in and slow out: two findings of one corner with costs of
different signs.  A trade restates them; it adds nothing to the sums.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from jete.core.causes.kinds import Kind

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.causes.findings import Finding

# Less is no side of a trade, nor is what is less than this share of the other side.
LEAST_SIDE_S = 0.03
# A fifth: less beside it is no bargain.
LEAST_SHARE = 0.2


@dataclass(frozen=True)
class Trade:
    """The dearest loss and the largest gain of one corner."""

    lost: Finding
    gained: Finding

    @property
    def balance_s(self) -> float:
        """What the trade cost, seconds; negative where it paid."""
        return self.lost.loss_s + self.gained.loss_s


def trade_of(findings: Sequence[Finding]) -> Trade | None:
    """The trade among the findings of a corner; None where nothing was given for something else.

    What an earlier corner left is no side of it.

    >>> from jete.core.causes.findings import Finding
    >>> lost = Finding(Kind.EARLY_BRAKING, 0.75, 100.0, -17.0, "m", 0.9)
    >>> gained = Finding(Kind.EARLY_THROTTLE, -0.21, 160.0, -9.0, "m", 0.9)
    >>> trade = trade_of([lost, gained])
    >>> trade is not None and round(trade.balance_s, 2)
    0.54
    """
    own = [f for f in findings if f.kind is not Kind.CARRIED_SPEED]
    lost, gained = (max(own, key=lambda f, s=side: s * f.loss_s, default=None) for side in (1.0, -1.0))  # type: ignore[misc]
    if lost is None or gained is None:
        return None
    sides = lost.loss_s, -gained.loss_s
    return Trade(lost, gained) if min(sides) >= max(LEAST_SIDE_S, LEAST_SHARE * max(sides)) else None
