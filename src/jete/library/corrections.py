"""Keeps what notes said before they were corrected."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import TYPE_CHECKING

from sqlalchemy import select

from jete.library import models
from jete.notes.corrections import Correction, corrected, goes_on

if TYPE_CHECKING:
    from collections.abc import Collection

    from sqlalchemy.orm import Session

    from jete.notes.sheet import LapNote, RunSheet


def write_corrections(
    session: Session, run: int, lap: int | None, change: tuple[RunSheet | LapNote, RunSheet | LapNote]
) -> None:
    """Keep what a change of a run's sheet, or of a lap's note, made other.

    What goes on with a change of a moment ago is one with it; what takes it back leaves nothing.
    """
    now, c = datetime.now(tz=UTC), models.Correction
    for field, before, after in corrected(*change):
        query = select(c).filter_by(run_id=run, lap=lap, field=field).order_by(c.id.desc()).limit(1)
        last = session.scalars(query).first()
        if last is None or not goes_on(_record(last), before, now):
            session.add(c(run_id=run, lap=lap, field=field, before=before, after=after, made_at=now))
        elif last.before == after:
            session.delete(last)
        else:
            last.after, last.made_at = after, now


def read_corrections(session: Session, runs: Collection[int]) -> dict[int, tuple[Correction, ...]]:
    """The corrections of runs, by run, oldest first."""
    out: dict[int, tuple[Correction, ...]] = {}
    for row in session.scalars(select(models.Correction).order_by(models.Correction.id)):
        if row.run_id in runs:
            out[row.run_id] = (*out.get(row.run_id, ()), _record(row))
    return out


def _record(row: models.Correction) -> Correction:
    # A database without time zones hands back what it was given, in UTC.
    return Correction(row.field, row.lap, row.before, row.after, row.made_at.replace(tzinfo=UTC))
