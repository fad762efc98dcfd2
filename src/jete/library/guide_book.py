"""What people put to the lap guides of a library: own words, versions, pictures, and how well they know its corners."""

from __future__ import annotations

from dataclasses import asdict
from datetime import UTC, datetime
from typing import TYPE_CHECKING, Any

from sqlalchemy import delete, select

from jete.core.axis.road.corners import CornerId
from jete.core.walk.rehearse import Memory
from jete.library import models
from jete.library.guide_records import OwnWords, Photo, Version

if TYPE_CHECKING:
    from collections.abc import Mapping

    from jete.library.circuits import Place
    from jete.library.storage import Storage


class GuideBook:
    """Keeps what people write into a library's guides; may be asked from any thread."""

    def __init__(self, storage: Storage) -> None:
        self._storage = storage

    # --- what people write

    def typed(self, place: Place) -> dict[tuple[CornerId, str], OwnWords]:
        """What people wrote, by corner (its id) and field."""
        with self._storage.reading() as session:
            rows = session.scalars(select(models.GuideField).filter_by(circuit_id=place.id))
            return {(CornerId(r.corner), r.field): OwnWords(r.text, r.over) for r in rows}

    def remembered(self, place: Place, driver: str) -> dict[CornerId, Memory]:
        """How well a person knows the corners of a circuit, by id."""
        with self._storage.reading() as session:
            rows = session.scalars(select(models.Rehearsed).filter_by(circuit_id=place.id, driver=driver))
            return {CornerId(r.corner): Memory(r.easiness, r.interval_days, r.row, r.due_day) for r in rows}

    def remember(self, place: Place, driver: str, memories: Mapping[CornerId, Memory]) -> None:
        """Keep how well a person knows corners."""
        with self._storage.writing() as session:
            for corner, memory in memories.items():
                session.merge(models.Rehearsed(circuit_id=place.id, driver=driver, corner=corner, **asdict(memory)))

    def write(self, place: Place, corner: CornerId, field: str, words: OwnWords | None) -> None:
        """Put own words in the place of a measured field; none bring the measured back."""
        with self._storage.writing() as session:
            row = session.get(models.GuideField, (place.id, corner, field))
            if words is None:
                if row is not None:
                    session.delete(row)
                return
            session.merge(models.GuideField(
                circuit_id=place.id, corner=corner, field=field, text=words.text, over=words.over, made_at=datetime.now(tz=UTC)
            ))  # fmt: skip

    # --- versions

    def versions(self, place: Place) -> list[Version]:
        """The versions of a circuit's guide, the newest first."""
        v = models.GuideVersion
        with self._storage.reading() as session:
            rows = session.scalars(select(v).filter_by(circuit_id=place.id).order_by(v.made_at.desc(), v.id.desc()))
            there = set(session.scalars(select(models.Run.id).where(models.Run.removed_at.is_(None))))
            return [
                Version(r.id, r.group, r.condition, r.author, r.made_at, r.run_id, r.document, r.run_id not in there)
                for r in rows
            ]

    def keep_version(
        self, place: Place, run: int, author: str, document: dict[str, Any], number: int | None = None
    ) -> int:
        """Keep a guide as it is; returns the version's number (a given one puts a dropped version back)."""
        sheet = self._storage.run(run).sheet
        with self._storage.writing() as session:
            row = models.GuideVersion(
                id=number, circuit_id=place.id, group=sheet.group, condition=sheet.condition, author=author,
                made_at=datetime.now(tz=UTC), run_id=run, document=document,
            )  # fmt: skip
            session.add(row)
            session.flush()
            return row.id

    def put_version_back(self, place: Place, version: Version) -> None:
        """Put a version back that was thrown away."""
        with self._storage.writing() as session:
            session.add(models.GuideVersion(
                id=version.id, circuit_id=place.id, group=version.group, condition=version.condition, author=version.author,
                made_at=version.made_at, run_id=version.run, document=version.document,
            ))  # fmt: skip

    def drop_version(self, number: int) -> None:
        """Throw a version away."""
        with self._storage.writing() as session:
            session.execute(delete(models.GuideVersion).where(models.GuideVersion.id == number))

    # --- pictures

    def photos(self, place: Place) -> tuple[Photo, ...]:
        """The pictures on a circuit's cards, in the order in which they were put there."""
        with self._storage.reading() as session:
            rows = session.scalars(
                select(models.CardPhoto).filter_by(circuit_id=place.id).order_by(models.CardPhoto.id)
            )
            return tuple(Photo(r.id, CornerId(r.corner), r.caption, r.jpeg) for r in rows)

    def add_photo(self, place: Place, corner: CornerId, caption: str, jpeg: bytes, number: int | None = None) -> int:
        """Put a picture on a card; returns its number (a given one puts a picture back that was taken off)."""
        with self._storage.writing() as session:
            row = models.CardPhoto(
                id=number, circuit_id=place.id, corner=corner, caption=caption, made_at=datetime.now(tz=UTC), jpeg=jpeg
            )
            session.add(row)
            session.flush()
            return row.id

    def drop_photo(self, number: int) -> None:
        """Take a picture off its card."""
        with self._storage.writing() as session:
            session.execute(delete(models.CardPhoto).where(models.CardPhoto.id == number))
