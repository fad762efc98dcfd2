"""Which run a plan is judged by: the next one of its driver, vehicle and circuit; what can't be told is asked, not guessed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterable

    from jete.library.records import RunRecord

# No more runs from before are looked at: they take time, and tell less and less of today's driving.
MOST_BEFORE = 2


@dataclass(frozen=True)
class Follow:
    """What follows a run: the next run that its plan is judged by (None where none is known), earlier ones, and what is asked.

    ``asked`` are runs that may be meant, each with why nobody can tell.
    """

    after: int | None = None
    before: tuple[int, ...] = ()
    asked: tuple[tuple[int, str], ...] = ()


def following(chosen: RunRecord, runs: Iterable[RunRecord]) -> Follow:
    """What follows the run that a plan was made on.

    Args:
        chosen: that run.
        runs: of the shelf, itself among them.
    """
    here = [r for r in runs if r.id != chosen.id and _place(r) == _place(chosen) and _may_be(r, chosen)]
    asked = tuple((r.id, why) for r in here if (why := _unclear(r, chosen)))
    known = sorted((r for r in here if not _unclear(r, chosen)), key=lambda r: (_when(r), r.id))
    later = [r.id for r in known if (_when(r), r.id) > (_when(chosen), chosen.id) and _when(r) != _when(chosen)]
    earlier = [r.id for r in known if _when(r) < _when(chosen)]
    return Follow(later[0] if later else None, tuple(earlier[-MOST_BEFORE:]), asked)


def _place(run: RunRecord) -> tuple[str, str]:
    return run.sheet.circuit, run.sheet.layout


def _when(run: RunRecord) -> tuple[str, str]:
    return run.sheet.date, run.sheet.time


def _may_be(run: RunRecord, chosen: RunRecord) -> bool:
    """Whether nothing says that another drove, or in another vehicle."""
    pairs = ((run.sheet.driver, chosen.sheet.driver), (run.sheet.vehicle, chosen.sheet.vehicle))
    return all(not a or not b or a == b for a, b in pairs)


def _unclear(run: RunRecord, chosen: RunRecord) -> str:
    """Why nobody can tell whether a run followed; empty where it can be told."""
    if not chosen.sheet.driver or not run.sheet.driver:
        return "who drove is not noted"
    if not chosen.sheet.date or not run.sheet.date:
        return "its day is not noted" if not run.sheet.date else "the day of the plan's run is not noted"
    if run.sheet.date == chosen.sheet.date and not (run.sheet.time and chosen.sheet.time):
        return "its time is not noted" if not run.sheet.time else "the time of the plan's run is not noted"
    if run.sheet.date == chosen.sheet.date and run.sheet.time == chosen.sheet.time:
        return "it is noted at the same time"
    return ""
