"""The times to reach of a library, by circuit, driver, class and condition."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import TYPE_CHECKING

from sqlalchemy import select

from jete.library import models
from jete.library.target_records import TargetRecord

if TYPE_CHECKING:
    from jete.library.storage import Storage
    from jete.notes.sheet import RunSheet


class TargetBook:
    """Keeps targets; may be asked from any thread."""

    def __init__(self, storage: Storage) -> None:
        self._storage = storage

    def all(self) -> list[TargetRecord]:
        """All targets, in the order they were set."""
        with self._storage.reading() as session:
            return [_record(row) for row in session.scalars(select(models.Target).order_by(models.Target.id))]

    def of_run(self, sheet: RunSheet) -> TargetRecord | None:
        """The target that is meant for a run: the narrowest, of those the one set last."""
        held = [t for t in self.all() if t.holds_for(sheet)]
        return max(held, key=lambda t: (t.narrow, t.id), default=None)

    def keep(self, target: TargetRecord) -> TargetRecord:
        """Keep a target; one for the same circuit, driver, class, condition and name makes way."""
        t = models.Target
        same = {n: getattr(target, n) for n in ("circuit", "layout", "driver", "group", "condition", "name")}
        with self._storage.writing() as session:
            row = session.scalars(select(t).filter_by(**same)).first()
            if row is None:
                row = t(id=target.id or None, **same)
                session.add(row)
            row.time_s, row.made_at = target.time_s, datetime.now(tz=UTC)
            session.flush()
            return _record(row)

    def drop(self, number: int) -> None:
        """Throw a target away."""
        with self._storage.writing() as session:
            row = session.get(models.Target, number)
            if row is not None:
                session.delete(row)


def _record(row: models.Target) -> TargetRecord:
    return TargetRecord(
        id=row.id, circuit=row.circuit, layout=row.layout, driver=row.driver, group=row.group,
        condition=row.condition, name=row.name, time_s=row.time_s,
    )  # fmt: skip
