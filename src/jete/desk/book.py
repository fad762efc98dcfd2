"""A driver's logbook on a circuit: runs in order of time with conditions, bests, aims and what came of them; which cues worked."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt
from typing import TYPE_CHECKING, Any

from jete.desk.planned import MEASURES

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.library.plan_records import PlanRecord
    from jete.library.records import RunRecord
    from jete.notes.corrections import Correction

WORKED = frozenset({"worked", "overdone"})
TOLD = frozenset({"worked", "overdone", "done_slower", "short", "not_done"})
# Both sides of a normal distribution hold nine in ten.
NINE_OF_TEN = 1.645


@dataclass(frozen=True)
class TriedAim:
    """An aim that was taken into a run: the corner's number, its cue, and what came of it (empty: not told yet)."""

    corner: str
    cue: str
    outcome: str


@dataclass(frozen=True, kw_only=True)
class BookEntry:
    """One run of the book: what is noted, its best lap, its thirds put together, what was tried in it, and what its notes said before."""

    run: RunRecord
    best_s: float | None
    together_s: float | None
    laps: int
    tried: tuple[TriedAim, ...]
    corrected: tuple[Correction, ...] = ()


@dataclass(frozen=True)
class CueCount:
    """How often a kind of cue worked, of how many that were told, with the interval of nine in ten (Wilson 1927)."""

    kind: str
    worked: int
    of: int
    low: float
    high: float


@dataclass(frozen=True, kw_only=True)
class Book:
    """A driver's runs on a circuit, the first one first, and which cues worked."""

    driver: str
    entries: tuple[BookEntry, ...]
    cues: tuple[CueCount, ...]


def book_of(
    run: int,
    records: Sequence[RunRecord],
    plans: Sequence[PlanRecord],
    corrections: Mapping[int, tuple[Correction, ...]],
) -> Book:
    """The logbook of a run's driver on its circuit.

    Args:
        run: of the driver.
        records: of the shelf.
        plans: of the shelf, with what came of them.
        corrections: of the notes, by run.
    """
    here = next((r for r in records if r.id == run), None)
    if here is None:
        return Book(driver="", entries=(), cues=())
    same = [r for r in records if _alike(r, here)]
    numbers = {r.id for r in same}
    tried = _tried_in(plans, numbers)
    entries = tuple(_entry(r, tried.get(r.id, ()), corrections.get(r.id, ())) for r in same)
    return Book(driver=here.sheet.driver, entries=entries, cues=_cues(plans, numbers))


def _alike(one: RunRecord, other: RunRecord) -> bool:
    names = ("driver", "circuit", "layout")
    return all(getattr(one.sheet, n) == getattr(other.sheet, n) for n in names)


def _entry(run: RunRecord, tried: Sequence[TriedAim], corrected: tuple[Correction, ...]) -> BookEntry:
    counted = run.counted
    pieces = [p for s, p in zip(run.laps, run.pieces, strict=False) if p and s in counted]
    return BookEntry(
        run=run,
        best_s=min((s.time_s for s in counted), default=None),
        together_s=sum(min(column) for column in zip(*pieces, strict=True)) if len(pieces) > 1 else None,
        laps=len(counted),
        tried=tuple(tried),
        corrected=corrected,
    )


def _tried_in(plans: Sequence[PlanRecord], runs: set[int]) -> dict[int, list[TriedAim]]:
    """What was tried in each run: the aims of the plan that it was judged by."""
    out: dict[int, list[TriedAim]] = {}
    for plan in plans:
        if plan.run not in runs or plan.review is None:
            continue
        aims = {a["aim"]: a for a in plan.document["aims"]}
        for after in plan.review["after"]:
            number = int(str(after["source"]).removeprefix("library:"))
            out.setdefault(number, []).extend(
                TriedAim(str(aims[r["aim"]]["number"]), aims[r["aim"]]["typed"] or aims[r["aim"]]["cue"], r["outcome"])
                for r in plan.review["aims"]
                if r["aim"] in aims
            )
    return out


def _cues(plans: Sequence[PlanRecord], runs: set[int]) -> tuple[CueCount, ...]:
    """How often cues worked, by what they begin with: a landmark, a place without one, or a speed."""
    counts: dict[str, list[int]] = {}
    for plan in plans:
        if plan.run not in runs or plan.review is None:
            continue
        outcomes = {r["aim"]: r["outcome"] for r in plan.review["aims"]}
        for aim in plan.document["aims"]:
            outcome = outcomes.get(aim["aim"])
            if outcome in TOLD and plan.answers.get(str(aim["aim"])) is not False:
                count = counts.setdefault(_kind(aim), [0, 0])
                count[0] += outcome in WORKED
                count[1] += 1
    return tuple(CueCount(kind, worked, of, *wilson(worked, of)) for kind, (worked, of) in sorted(counts.items()))


def _kind(aim: dict[str, Any]) -> str:
    if aim.get("typed"):
        return "own words"
    if aim.get("seen"):
        return "a landmark"
    if aim.get("measure") == "min_speed_kmh":
        return "a speed"
    return "a place" if str(aim.get("measure")).endswith("_m") and aim["measure"] in MEASURES else "the pedals"


def wilson(worked: int, of: int) -> tuple[float, float]:
    """The interval of nine in ten of a share (Wilson 1927, J. Am. Stat. Assoc. 22:209).

    >>> [round(x, 2) for x in wilson(4, 5)]
    [0.44, 0.95]
    """
    if of == 0:
        return 0.0, 1.0
    z2 = NINE_OF_TEN**2
    middle = (worked + z2 / 2.0) / (of + z2)
    half = NINE_OF_TEN * sqrt(worked * (of - worked) / of + z2 / 4.0) / (of + z2)
    return middle - half, middle + half
