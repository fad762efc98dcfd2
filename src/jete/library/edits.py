"""Writing down what is noted: names become rows of their own, once each."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import TYPE_CHECKING, Any, TypeVar

from sqlalchemy import select

from jete.library.models import NOTED, Base, Circuit, Event, Lap, Person, Run, SetupChange, Vehicle

if TYPE_CHECKING:
    from sqlalchemy.orm import Session

    from jete.notes.sheet import LapNote, RunSheet

    Line = dict[str, Any]

Named = TypeVar("Named", bound=Base)


def write_sheet(session: Session, run: Run, sheet: RunSheet) -> None:
    """Put a sheet on a run; a changed set-up is a new dated change, the ones before it stay."""
    for name in NOTED:
        setattr(run, name, getattr(sheet, name))
    run.event = _event(session, run, sheet)
    run.driver = _named(session, Person, sheet.driver)
    run.coach = _named(session, Person, sheet.coach)
    # What is typed of a vehicle without a name is kept under what is known of it.
    known = sheet.kind or ("vehicle" if sheet.mass_kg is not None or sheet.gears is not None else "")
    run.vehicle = _named(session, Vehicle, sheet.vehicle or known)
    if run.vehicle is not None:
        run.vehicle.kind, run.vehicle.mass_kg, run.vehicle.gears = sheet.kind, sheet.mass_kg, sheet.gears
    if sheet.setup and sheet.setup != (run.changes[-1].text if run.changes else ""):
        run.changes.append(SetupChange(made_at=datetime.now(tz=UTC), text=sheet.setup))


def _named(session: Session, kind: type[Named], name: str) -> Named | None:
    """The row of a name, made where there is none; None for no name."""
    return _one(session, kind, name=name) if name else None


def _one(session: Session, kind: type[Named], **values: Any) -> Named:
    found = session.scalars(select(kind).filter_by(**values)).first()
    if found is None:
        found = kind(**values)
        session.add(found)
        session.flush()
    return found


def _event(session: Session, run: Run, sheet: RunSheet) -> Event:
    """The event of a sheet; a circuit that gets another name keeps its start line and its corners."""
    circuit = _one(session, Circuit, name=sheet.circuit, layout=sheet.layout)
    before = run.event.circuit if run.event is not None else None
    if before is not None and circuit.line is None and circuit.corners is None:
        for name in ("line", "founder_run", "founder_lap", "corners", "settled", "road", "book"):
            setattr(circuit, name, getattr(before, name))
    return _one(session, Event, circuit_id=circuit.id, name=sheet.event, date=sheet.date)


def write_line(session: Session, name: str, layout: str, line: Line | None) -> None:
    """Keep a circuit's start line; None where it has none any more."""
    _one(session, Circuit, name=name, layout=layout).line = line


def write_lap_note(session: Session, run: int, lap: int, note: LapNote) -> None:
    """Put a note on a lap."""
    for row in session.scalars(select(Lap).where(Lap.run_id == run, Lap.number == lap)):
        row.aside, row.reason, row.note, row.star = note.aside, note.reason, note.note, note.star
