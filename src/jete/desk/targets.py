"""A driver's way to a time: the best so far, and where the rest could come from, by what the shelf holds."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from jete.core.axis.road.corners import CornerId
from jete.core.errors import InputError
from jete.core.passes.target import split_of
from jete.desk.passes import counted_passes
from jete.desk.plan_shelf import taken_aims

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.axis.road.corners import Corner
    from jete.core.passes.target import TargetSplit
    from jete.library.library import Library
    from jete.library.records import RunRecord
    from jete.library.target_records import TargetRecord


@dataclass(frozen=True, eq=False, kw_only=True)
class WayToTarget:
    """What a target asks for.

    Attributes:
        target: the time to reach.
        best: run and lap of the best lap so far of those it holds for; None where there is none.
        best_s: its time.
        split: where the rest could come from; None where no passes are made of that lap.
        corners: of the circuit.
        days: best of each day, in order of time: date and seconds.
        groups: classes that it holds for, where there is more than one: a time of one class says little of another.
    """

    target: TargetRecord
    best: tuple[int, int] | None
    best_s: float | None
    split: TargetSplit | None
    corners: tuple[Corner, ...]
    days: tuple[tuple[str, float], ...]
    groups: tuple[str, ...] = ()


def share_of_best(library: Library, sheet: TargetRecord, percent: float) -> float:
    """A time as a percentage of the best lap so far of those that a target holds for, whoever drove it.

    Raises:
        InputError: there is none.
    """
    anybody = replace(sheet, driver="")
    laps = [s.time_s for r in library.runs() if anybody.holds_for(r.sheet) for s in r.counted]
    if not laps:
        raise InputError(sheet.circuit, "no lap that counts there gives a best time.", "Write the target as a time.")
    return min(laps) * percent / 100.0


def way_to(library: Library, target: TargetRecord) -> WayToTarget:
    """The best lap that counts and where the rest could come from; laps that were set aside never count."""
    records = library.runs()
    runs = [r for r in records if target.holds_for(r.sheet)]
    laps = sorted((s.time_s, r.id, s.number) for r in runs for s in r.counted)
    if not laps:
        return WayToTarget(target=target, best=None, best_s=None, split=None, corners=(), days=())
    best_s, run, lap = laps[0]
    groups = sorted({r.sheet.group for r in runs if r.sheet.group})
    corners, split = _split(library, records, (run, lap), best_s - target.time_s)
    return WayToTarget(
        target=target, best=(run, lap), best_s=best_s, split=split, corners=corners, days=_days(runs), groups=tuple(groups) if len(groups) > 1 else (),
    )  # fmt: skip


def _days(runs: list[RunRecord]) -> tuple[tuple[str, float], ...]:
    best: dict[str, float] = {}
    for run in runs:
        for span in run.counted:
            if run.sheet.date:
                best[run.sheet.date] = min(best.get(run.sheet.date, span.time_s), span.time_s)
    return tuple(sorted(best.items()))


def _split(
    library: Library, records: Sequence[RunRecord], best: tuple[int, int], missing_s: float
) -> tuple[tuple[Corner, ...], TargetSplit | None]:
    """Where the rest could come from, by the passes that are made."""
    place = library.circuits.place(best[0])
    if place is None or not place.corners:
        return (), None
    runs = {r.id: r for r in records if (r.sheet.circuit, r.sheet.layout) == (place.name, place.layout)}
    chosen = runs[best[0]]
    alike = [r for r in runs.values() if r.sheet.group == chosen.sheet.group]
    on_best: dict[CornerId, float] = {}
    own: dict[CornerId, list[float]] = defaultdict(list)
    others: dict[str, dict[CornerId, list[float]]] = defaultdict(lambda: defaultdict(list))
    for kept in counted_passes(library, place, alike):
        driver, corner, whole_s = runs[kept.run].sheet.driver, kept.numbers.corner, kept.numbers.whole_s
        if (kept.run, kept.lap) == best:
            on_best[corner] = whole_s
        if driver == chosen.sheet.driver:
            own[corner].append(whole_s)
        elif driver:
            others[driver][corner].append(whole_s)
    if not on_best:
        return place.corners, None
    return place.corners, split_of(missing_s, on_best, own, others, _aimed(library, runs, chosen))


def _aimed(library: Library, runs: dict[int, RunRecord], chosen: RunRecord) -> dict[CornerId, float]:
    """Seconds that the open aims of the driver's last plan promise, by corner."""
    his = [p for p in library.plans.all() if p.run in runs and runs[p.run].sheet.driver == chosen.sheet.driver]
    if not his or not chosen.sheet.driver:
        return {}
    out: dict[CornerId, float] = {}
    for aim in taken_aims(his[-1]):
        if aim.id is not None and aim.gain is not None:
            out[CornerId(aim.id)] = max(-aim.gain[0], 0.0)
    return out
