"""What the library hands out: runs with their laps and notes, as frozen data."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from sqlalchemy import select
from sqlalchemy.orm import aliased

from jete.core.log.lap import LapSpan, Repair
from jete.library.models import NOTED, Circuit, Event, Lap, Person, Recording, Run, SetupChange, Vehicle
from jete.notes.sheet import LapNote, LapSheet, RunSheet

if TYPE_CHECKING:
    from collections.abc import Iterable

    from sqlalchemy import Row, Select
    from sqlalchemy.orm import Session


@dataclass(frozen=True, kw_only=True)
class RunRecord:
    """One run of the library; ``damaged`` says why its channel data can't be read, None where it can."""

    id: int
    source: str
    path: str
    digest: str
    sheet: RunSheet
    laps: tuple[LapSpan, ...]
    pieces: tuple[tuple[float, ...], ...]
    notes: LapSheet
    repairs: tuple[Repair, ...]
    damaged: str | None

    @property
    def counted(self) -> tuple[LapSpan, ...]:
        """The laps that count: complete and not set aside."""
        return self.notes.counted(self.laps)


_NAMED = ("circuit", "layout", "event", "date", "driver", "coach", "vehicle", "kind")
_COACH = aliased(Person)


_LAP_COLUMNS = (
    Lap.run_id, Lap.number, Lap.start_s, Lap.end_s, Lap.length_m, Lap.complete, Lap.why, Lap.first_s, Lap.second_s, Lap.third_s,
    Lap.aside, Lap.reason, Lap.note, Lap.star,
)  # fmt: skip


def read_runs(session: Session, *, removed: bool = False, only: Iterable[int] | None = None) -> list[RunRecord]:
    """Runs in the order of circuit, date and time; those in the bin instead where ``removed``."""
    query = _runs_query(removed=removed)
    laps_query = select(*_LAP_COLUMNS).order_by(Lap.run_id, Lap.position)
    if only is not None:
        wanted = list(only)
        query, laps_query = query.where(Run.id.in_(wanted)), laps_query.where(Lap.run_id.in_(wanted))
    laps = _laps_by_run(session, laps_query)
    changes = session.execute(select(SetupChange.run_id, SetupChange.text).order_by(SetupChange.id))
    setups = {row.run_id: row.text for row in changes}
    return [_record(row, laps.get(row.id, _Laps()), setups.get(row.id, "")) for row in session.execute(query)]


def _runs_query(*, removed: bool) -> Select[Any]:
    columns = [getattr(Run, name) for name in NOTED]
    shown = Run.removed_at.is_not(None) if removed else Run.removed_at.is_(None)
    return (
        select(
            Run.id, *columns, Circuit.name.label("circuit"), Circuit.layout, Event.name.label("event"), Event.date,
            Person.name.label("driver"), _COACH.name.label("coach"), Vehicle.name.label("vehicle"), Vehicle.kind,
            Vehicle.mass_kg, Vehicle.gears, Recording.digest, Recording.source, Recording.path, Recording.repairs, Recording.damaged,
        )
        .join(Recording, Run.recording_digest == Recording.digest)
        .outerjoin(Event, Run.event_id == Event.id)
        .outerjoin(Circuit, Event.circuit_id == Circuit.id)
        .outerjoin(Person, Run.driver_id == Person.id)
        .outerjoin(_COACH, Run.coach_id == _COACH.id)
        .outerjoin(Vehicle, Run.vehicle_id == Vehicle.id)
        .where(shown)
        .order_by(Circuit.name, Circuit.layout, Event.date, Event.name, Run.time, Run.id)
    )  # fmt: skip


@dataclass
class _Laps:
    """The laps of one run as they are read."""

    spans: list[LapSpan] = field(default_factory=list)
    pieces: list[tuple[float, ...]] = field(default_factory=list)
    notes: list[tuple[int, LapNote]] = field(default_factory=list)


def _laps_by_run(session: Session, query: Select[*tuple[Any, ...]]) -> dict[int, _Laps]:
    """Laps by the number of their run; rows are taken apart by place, since there may be many."""
    found: dict[int, _Laps] = {}
    # By the connection: the session would look at each row as if it were an object.
    for run, number, *span, first, second, third, aside, reason, note, star in (
        session.connection().execute(query).all()
    ):
        laps = found.get(run)
        if laps is None:
            laps = found[run] = _Laps()
        laps.spans.append(LapSpan(number, *span))
        laps.pieces.append(() if first is None else (first, second, third))
        if aside or reason or note or star:
            laps.notes.append((number, LapNote(aside, reason, note, star)))
    return found


def _record(row: Row[Any], laps: _Laps, setup: str) -> RunRecord:
    values: dict[str, Any] = {n: getattr(row, n) or "" for n in _NAMED}
    values |= {n: getattr(row, n) for n in (*NOTED, "mass_kg", "gears")}
    sheet = RunSheet(**values, setup=setup)
    return RunRecord(
        id=row.id, source=row.source, path=row.path, digest=row.digest, sheet=sheet, laps=tuple(laps.spans), pieces=tuple(laps.pieces), notes=LapSheet(tuple(laps.notes)),
        repairs=tuple(Repair(*r) for r in row.repairs), damaged=row.damaged,
    )  # fmt: skip
