"""What people have noted on a circuit's corners: handed on where one is merged away, and put back by undo.

Notes and tags on passes, notes on corners, own words and pictures of the guide go along; how well a person knows a corner
that is no more is forgotten, since another corner has to be learnt.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from sqlalchemy import delete, select

from jete.library.models import CardPhoto, CornerNote, Event, GuideField, PassNote, Rehearsed, Run

if TYPE_CHECKING:
    from collections.abc import Collection

    from sqlalchemy.orm import Session

TABLES = (PassNote, CornerNote, GuideField, Rehearsed)


@dataclass(frozen=True)
class Noted:
    """What is noted on some corners (ids): rows by table, as they are, and the corner of each picture (its id)."""

    corners: frozenset[int]
    rows: tuple[tuple[str, dict[str, Any]], ...]
    photos: tuple[tuple[int, int], ...]


def noted_on(session: Session, circuit: int, corners: Collection[int]) -> Noted:
    """What is noted on corners of a circuit."""
    rows = [
        (table.__tablename__, {c.name: getattr(row, c.name) for c in table.__table__.columns})
        for table in TABLES
        for row in session.scalars(select(table).where(*_of(table, circuit, corners)))
    ]
    photos = session.execute(
        select(CardPhoto.id, CardPhoto.corner).where(CardPhoto.circuit_id == circuit, CardPhoto.corner.in_(corners))
    )
    return Noted(frozenset(corners), tuple(rows), tuple((number, corner) for number, corner in photos))


def put_back(session: Session, circuit: int, noted: Noted) -> None:
    """Let corners have what was noted on them, and nothing else."""
    for table in TABLES:
        session.execute(delete(table).where(*_of(table, circuit, noted.corners)))
    by_name = {t.__tablename__: t for t in TABLES}
    session.add_all(by_name[name](**values) for name, values in noted.rows)
    for number, corner in noted.photos:
        photo = session.get(CardPhoto, number)
        if photo is not None:
            photo.corner = corner


def hand_on(session: Session, circuit: int, old: int, new: int) -> None:
    """Let what is noted on a corner that is no more go to another one; where both have notes, they stand side by side."""
    for note in session.scalars(select(PassNote).where(*_of(PassNote, circuit, [old]))).all():
        there = session.get(PassNote, (note.run_id, note.lap, new)) or PassNote(
            run_id=note.run_id, lap=note.lap, corner=new, tag="", note=""
        )
        there.tag, there.note = there.tag or note.tag, _both(there.note, note.note)
        session.add(there)
        session.delete(note)
    for kept in session.scalars(select(CornerNote).where(*_of(CornerNote, circuit, [old]))).all():
        beside = session.get(CornerNote, (circuit, new, kept.driver)) or CornerNote(
            circuit_id=circuit, corner=new, driver=kept.driver, note=""
        )
        beside.note = _both(beside.note, kept.note)
        session.add(beside)
        session.delete(kept)
    for words in session.scalars(select(GuideField).where(*_of(GuideField, circuit, [old]))).all():
        mine = session.get(GuideField, (circuit, new, words.field)) or GuideField(
            circuit_id=circuit, corner=new, field=words.field, text="", over="", made_at=words.made_at
        )
        mine.text = _both(mine.text, words.text)
        session.add(mine)
        session.delete(words)
    for photo in session.scalars(select(CardPhoto).filter_by(circuit_id=circuit, corner=old)):
        photo.corner = new
    session.execute(delete(Rehearsed).where(*_of(Rehearsed, circuit, [old])))


def _of(table: Any, circuit: int, corners: Collection[int]) -> tuple[Any, ...]:
    """What holds for the rows of a table that are about corners of a circuit."""
    if table is PassNote:
        runs = select(Run.id).join(Event, Run.event_id == Event.id).where(Event.circuit_id == circuit)
        return (PassNote.run_id.in_(runs), PassNote.corner.in_(corners))
    return (table.circuit_id == circuit, table.corner.in_(corners))


def _both(first: str, second: str) -> str:
    return " · ".join(x for x in (first, second) if x)
