"""The plans of a library: what was to be tried in a next run, and what came of it."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import TYPE_CHECKING, Any

from sqlalchemy import select

from jete.library import models
from jete.library.plan_records import PlanRecord

if TYPE_CHECKING:
    from jete.library.storage import Storage


class PlanBook:
    """Keeps plans; may be asked from any thread."""

    def __init__(self, storage: Storage) -> None:
        self._storage = storage

    def all(self) -> list[PlanRecord]:
        """The plans of runs that are on the shelf, in the order they were made."""
        p = models.NextPlan
        query = select(p).join(models.Run).where(models.Run.removed_at.is_(None)).order_by(p.made_at, p.id)
        with self._storage.reading() as session:
            return [_record(row) for row in session.scalars(query)]

    def keep(self, plan: PlanRecord) -> PlanRecord:
        """Keep a plan as it is now; one that was thrown away comes back under its number."""
        with self._storage.writing() as session:
            row = session.get(models.NextPlan, plan.id) if plan.id else None
            if row is None:
                row = models.NextPlan(id=plan.id or None, run_id=plan.run, made_at=datetime.now(tz=UTC))
                session.add(row)
            row.document, row.answers = plan.document, dict(plan.answers)
            row.judged_by = list(plan.judged_by) if plan.judged_by is not None else None
            row.review = plan.review
            session.flush()
            return _record(row)

    def drop(self, number: int) -> None:
        """Throw a plan away."""
        with self._storage.writing() as session:
            row = session.get(models.NextPlan, number)
            if row is not None:
                session.delete(row)

    def note_review(self, number: int, review: dict[str, Any]) -> None:
        """Note what came of a plan; of one that is gone meanwhile nothing is noted."""
        with self._storage.writing() as session:
            row = session.get(models.NextPlan, number)
            if row is not None:
                row.review = review


def _record(row: models.NextPlan) -> PlanRecord:
    return PlanRecord(
        id=row.id,
        run=row.run_id,
        document=row.document,
        answers=dict(row.answers or {}),
        judged_by=tuple(row.judged_by) if row.judged_by is not None else None,
        review=row.review,
    )
