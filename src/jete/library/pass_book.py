"""The passes of a library: kept as numbers, and which are to be made, also anew where the method or the circuit has changed."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from typing import TYPE_CHECKING

from sqlalchemy import delete, select

from jete.core.passes.passes import VERSION, Pass
from jete.library import models
from jete.library.records import read_runs

if TYPE_CHECKING:
    from collections.abc import Collection, Sequence

    from jete.core.axis.road.corners import Corner, CornerId
    from jete.library.circuits import Place
    from jete.library.storage import Storage

NO_CORNER = 0


@dataclass(frozen=True)
class KeptPass:
    """A pass with the run and lap it is of, and what is noted on it."""

    run: int
    lap: int
    numbers: Pass
    tag: str = ""
    note: str = ""


class PassBook:
    """Reads and writes the passes of a library; may be asked from any thread."""

    def __init__(self, storage: Storage) -> None:
        self._storage = storage

    def of_corner(self, place: Place, corner: CornerId, runs: Collection[int] | None = None) -> list[KeptPass]:
        """The passes of a corner of a circuit that are made, by run and lap."""
        p, n = models.Pass, models.PassNote
        query = (
            select(p.run_id, p.lap, p.numbers, n.tag, n.note)
            .outerjoin(n, (n.run_id == p.run_id) & (n.lap == p.lap) & (n.corner == p.corner))
            .join(models.Run, models.Run.id == p.run_id)
            .join(models.Event, models.Run.event_id == models.Event.id)
            .where(models.Event.circuit_id == place.id, p.corner == corner, models.Run.removed_at.is_(None))
            .order_by(p.run_id, p.lap)
        )
        if runs is not None:
            query = query.where(p.run_id.in_(list(runs)))
        with self._storage.reading() as session:
            rows = session.connection().execute(query).all()
        return [KeptPass(run, lap, _pass(numbers), tag or "", note or "") for run, lap, numbers, tag, note in rows]

    def missing(self, place: Place) -> dict[int, list[int]]:
        """Laps by run whose passes are not made yet, or were made by another method or for another list of corners."""
        p, made_by = models.Pass, mark_of(place.corners or ())
        here = select(models.Run.id).join(models.Event).where(models.Event.circuit_id == place.id)
        with self._storage.reading() as session:
            runs = list(session.scalars(here))
            made = session.execute(select(p.run_id, p.lap).where(p.made_by == made_by, p.run_id.in_(runs)))
            have = {(run, lap) for run, lap in made}
            records = read_runs(session, only=runs)
        wanted = {
            r.id: [s.number for s in r.counted if (r.id, s.number) not in have] for r in records if r.damaged is None
        }
        return {run: laps for run, laps in wanted.items() if laps}

    def keep(self, run: int, laps: Sequence[int], found: Sequence[tuple[Pass, ...]], corners: Sequence[Corner]) -> None:
        """Keep the passes of a run's laps, (laps,), that were made for a list of corners."""
        p, made_by = models.Pass, mark_of(corners)
        with self._storage.writing() as session:
            session.execute(delete(p).where(p.run_id == run, p.lap.in_(list(laps))))
            session.add_all(
                p(run_id=run, lap=lap, corner=x.corner, made_by=made_by, numbers=json.dumps(asdict(x)))
                for lap, passes in zip(laps, found, strict=True)
                for x in passes
            )
            # What was looked at and lies elsewhere is not looked at again.
            session.add_all(
                p(run_id=run, lap=lap, corner=NO_CORNER, made_by=made_by, numbers="")
                for lap, passes in zip(laps, found, strict=True)
                if not passes
            )

    def note(self, run: int, lap: int, corner: CornerId, tag: str, note: str) -> None:
        """Put a tag and words on a pass; both empty takes them off."""
        with self._storage.writing() as session:
            row = session.get(models.PassNote, (run, lap, corner))
            if not tag and not note:
                if row is not None:
                    session.delete(row)
                return
            if row is None:
                row = models.PassNote(run_id=run, lap=lap, corner=corner)
                session.add(row)
            row.tag, row.note = tag, note


def mark_of(corners: Sequence[Corner]) -> str:
    """What made a pass: the method's number, and the corners it was made for."""
    ends = ",".join(f"{c.id}:{c.start_m:.0f}-{c.end_m:.0f}" for c in corners)
    return f"{VERSION}|{ends}"


def _pass(numbers: str) -> Pass:
    values = json.loads(numbers)
    return Pass(**{**values, "causes": tuple((k, s) for k, s in values["causes"])})
