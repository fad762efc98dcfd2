"""What was worked out for the present state: shown by the store together with the state it belongs to."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from jete.core.axis.road.corners import CornerId
    from jete.core.causes.verdict.losses import Held
    from jete.core.causes.verdict.result import Comparison
    from jete.core.run import RunSummary
    from jete.core.whatif.worked_out import KnownVehicle
    from jete.desk.book import Book
    from jete.desk.guide import Made
    from jete.desk.plan_shelf import PlanOnShelf
    from jete.desk.plans import RunPlan
    from jete.desk.road import RoadBeside
    from jete.desk.targets import WayToTarget
    from jete.desk.team import TeamTable
    from jete.library.film_book import FilmRecord
    from jete.library.pass_book import KeptPass
    from jete.library.plan_records import PlanRecord
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
class CornerPasses:
    """All passes that are kept of one corner (its id); ``left`` laps of its circuit are not taken apart yet.

    ``notes`` are what is noted on the corner, by driver; under the empty name what is for all.
    """

    corner: CornerId
    passes: tuple[KeptPass, ...]
    left: int = 0
    notes: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True, eq=False)
class KnownLap:
    """The compared lap on its own axis, and what its run tells of the vehicle: what changes are worked out with."""

    key: LapKey
    held: Held
    vehicle: KnownVehicle


@dataclass(frozen=True, eq=False)
class PlansHere:
    """The plans that a run has to do with.

    Attributes:
        run: that is shown.
        kept: the plan that was made on it; None where none was.
        back: the one that is looked back on, with what came of it.
        told: what came of it, as it is to be kept; None where nothing can be told.
        others: all of the same driver, vehicle and circuit, the last one last.
        book: the driver's logbook there.
        phrases: cues that people wrote over the program's own, to be offered again.
    """

    run: int
    kept: PlanRecord | None
    back: PlanOnShelf | None
    told: dict[str, Any] | None
    others: tuple[PlanRecord, ...]
    phrases: tuple[str, ...]
    book: Book


@dataclass(frozen=True, eq=False)
class Results:
    """All that is shown; None for what is not there.

    ``films`` are those of the reference's run and of the lap's; ``refused`` says why the chosen pair can't be compared.
    """

    comparison: Comparison | None = None
    run: RunResult | None = None
    evenness: Evenness | None = None
    road: RoadBeside | None = None
    passes: CornerPasses | None = None
    guide: Made | None = None
    what_if: KnownLap | None = None
    plan: RunPlan | None = None
    plans: PlansHere | None = None
    team: TeamTable | None = None
    target: WayToTarget | None = None
    films: tuple[FilmRecord | None, FilmRecord | None] = (None, None)
    refused: str = ""
