"""The lap guides of a library: made from a lap and the good laps around it, with what people wrote in their place."""

from __future__ import annotations

from dataclasses import asdict, dataclass, field, replace
from datetime import UTC, datetime
from typing import TYPE_CHECKING, Any

from sqlalchemy import delete, select

from jete.core.axis.align import identity
from jete.core.axis.laying import prepare
from jete.core.axis.road import road_of
from jete.core.compare import bends_of, compare
from jete.core.driving.passage import passage_of
from jete.core.guide.cards import FEWEST, Card, Good, cards_of, kept_of
from jete.core.guide.plans import Plan, plans_of
from jete.core.log.plane import origin_of
from jete.core.walk.rehearse import Memory
from jete.library import models
from jete.library.guide_records import OwnWords, Photo, Version

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.arrays import FloatArray
    from jete.core.axis.corners import Corner
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.log.lap import Lap
    from jete.core.passes.passes import Pass
    from jete.library.circuits import Place
    from jete.library.library import Library

# The spread is that of so many of the run's fastest laps.
GOOD_LAPS = 5


@dataclass(frozen=True, eq=False)
class Made:
    """A guide as numbers: of which lap, its cards and their plans, its circuit and path, what people wrote and put to it.

    ``laps`` is how many good laps it knows; with ``middle`` it tells the middle one of them instead of its lap.
    """

    lap: Lap
    cards: tuple[Card, ...]
    circuit: CircuitOnAxis | None
    path_m: FloatArray | None
    typed: dict[tuple[int, str], OwnWords]
    laps: int
    plans: tuple[Plan, ...] = ()
    middle: bool = False
    photos: tuple[Photo, ...] = ()


@dataclass(frozen=True)
class Others:
    """The passes of other laps, by corner (its id): of the best few, and of all of the run that count."""

    best: Mapping[int, Sequence[Pass]] = field(default_factory=dict)
    run: Mapping[int, Sequence[Pass]] = field(default_factory=dict)


def guide_of(
    lap: Lap, circuit: CircuitOnAxis | None = None, others: Others | None = None, *, middle: bool = False
) -> Made:
    """The guide of a lap, by itself or with its circuit and the passes of other laps.

    Args:
        lap: to drive by.
        circuit: on its axis.
        others: laps of its run.
        middle: tell the middle one of the best few laps, where enough of them are known.

    Raises:
        InputError: a piece that is no lap.
    """
    others = others or Others()
    prepared = prepare(lap, origin_of(lap.log))
    road = road_of(lap, prepared.motion, prepared.fixes)
    passage = passage_of(lap, prepared.motion, identity(prepared.motion))
    corners = circuit.corners if circuit is not None else tuple(bends_of(road, passage))
    laps = max((len(p) for p in others.best.values()), default=1)
    middle = middle and laps >= FEWEST
    cards = cards_of(passage, road, corners, Good(others.best, circuit, others.run, middle))
    path = road.path(road.grid_m) if road.path is not None else None
    return Made(lap, tuple(cards), circuit, path, {}, laps, tuple(plans_of(passage, road, cards)), middle)


def kept_by(made: Made, lap: Lap) -> list[dict[str, bool]]:
    """What another lap kept of each card of a guide.

    Raises:
        InputError: a lap of another circuit, layout or direction.
    """
    return kept_of(made.cards, compare(made.lap, [lap], [c.corner for c in made.cards]).laps[0])


class GuideBook:
    """Makes guides of a library's laps and keeps what people write; may be asked from any thread."""

    def __init__(self, library: Library) -> None:
        self._library = library

    def guide(self, run: int, lap: Lap, *, middle: bool = False) -> Made:
        """The guide of one of a run's laps, or of the middle one of its best few.

        Raises:
            InputError: a piece that is no lap.
        """
        circuit, place = self._library.circuits.circuit_on(run, lap), self._library.circuits.place(run)
        if circuit is None or place is None:
            return guide_of(lap)
        made = guide_of(lap, circuit, self._others(run, place, circuit.corners), middle=middle)
        return replace(made, typed=self.typed(place), photos=self.photos(place))

    def _others(self, run: int, place: Place, corners: Sequence[Corner]) -> Others:
        """Passes of the run's laps, as far as they are made."""
        record = self._library.run(run)
        counted = [s for s in record.laps if s.complete and not record.notes.of(s.number).aside]
        best = {s.number for s in sorted(counted, key=lambda s: s.time_s)[:GOOD_LAPS]}
        numbers = {s.number for s in counted}
        kept = {c.id or 0: self._library.passes.of_corner(place, c.id or 0, [run]) for c in corners}
        return Others(
            {corner: [p.numbers for p in passes if p.lap in best] for corner, passes in kept.items()},
            {corner: [p.numbers for p in passes if p.lap in numbers] for corner, passes in kept.items()},
        )

    # --- what people write

    def typed(self, place: Place) -> dict[tuple[int, str], OwnWords]:
        """What people wrote, by corner (its id) and field."""
        with self._library.reading() as session:
            rows = session.scalars(select(models.GuideField).filter_by(circuit_id=place.id))
            return {(r.corner, r.field): OwnWords(r.text, r.over) for r in rows}

    def remembered(self, place: Place, driver: str) -> dict[int, Memory]:
        """How well a person knows the corners of a circuit, by id."""
        with self._library.reading() as session:
            rows = session.scalars(select(models.Rehearsed).filter_by(circuit_id=place.id, driver=driver))
            return {r.corner: Memory(r.easiness, r.interval_days, r.row, r.due_day) for r in rows}

    def remember(self, place: Place, driver: str, memories: Mapping[int, Memory]) -> None:
        """Keep how well a person knows corners."""
        with self._library.writing() as session:
            for corner, memory in memories.items():
                session.merge(models.Rehearsed(circuit_id=place.id, driver=driver, corner=corner, **asdict(memory)))

    def write(self, place: Place, corner: int, field: str, words: OwnWords | None) -> None:
        """Put own words in the place of a measured field; none bring the measured back."""
        with self._library.writing() as session:
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
        with self._library.reading() as session:
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
        sheet = self._library.run(run).sheet
        with self._library.writing() as session:
            row = models.GuideVersion(
                id=number, circuit_id=place.id, group=sheet.group, condition=sheet.condition, author=author,
                made_at=datetime.now(tz=UTC), run_id=run, document=document,
            )  # fmt: skip
            session.add(row)
            session.flush()
            return row.id

    def put_version_back(self, place: Place, version: Version) -> None:
        """Put a version back that was thrown away."""
        with self._library.writing() as session:
            session.add(models.GuideVersion(
                id=version.id, circuit_id=place.id, group=version.group, condition=version.condition, author=version.author,
                made_at=version.made_at, run_id=version.run, document=version.document,
            ))  # fmt: skip

    def drop_version(self, number: int) -> None:
        """Throw a version away."""
        with self._library.writing() as session:
            session.execute(delete(models.GuideVersion).where(models.GuideVersion.id == number))

    # --- pictures

    def photos(self, place: Place) -> tuple[Photo, ...]:
        """The pictures on a circuit's cards, in the order in which they were put there."""
        with self._library.reading() as session:
            rows = session.scalars(
                select(models.CardPhoto).filter_by(circuit_id=place.id).order_by(models.CardPhoto.id)
            )
            return tuple(Photo(r.id, r.corner, r.caption, r.jpeg) for r in rows)

    def add_photo(self, place: Place, corner: int, caption: str, jpeg: bytes, number: int | None = None) -> int:
        """Put a picture on a card; returns its number (a given one puts a picture back that was taken off)."""
        with self._library.writing() as session:
            row = models.CardPhoto(
                id=number, circuit_id=place.id, corner=corner, caption=caption, made_at=datetime.now(tz=UTC), jpeg=jpeg
            )
            session.add(row)
            session.flush()
            return row.id

    def drop_photo(self, number: int) -> None:
        """Take a picture off its card."""
        with self._library.writing() as session:
            session.execute(delete(models.CardPhoto).where(models.CardPhoto.id == number))
