"""What was worked out for the present state: shown by the store together with the state it belongs to."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from jete.core.causes.result import Comparison
    from jete.core.run import RunSummary
    from jete.session.state import LapKey


@dataclass(frozen=True, eq=False)
class RunResult:
    """The laps of a run against the reference, in the order of ``keys``, and what they have in common."""

    reference: LapKey | None
    keys: tuple[LapKey, ...]
    comparison: Comparison
    summary: RunSummary


@dataclass(frozen=True)
class Evenness:
    """The corners that are driven most and least alike, and the robust spread of the time each takes, seconds."""

    even: str
    even_s: float
    uneven: str
    uneven_s: float


@dataclass(frozen=True, eq=False)
class Results:
    """All that is shown; None for what is not there."""

    comparison: Comparison | None = None
    run: RunResult | None = None
    evenness: Evenness | None = None
