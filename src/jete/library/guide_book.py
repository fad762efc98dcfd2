"""The lap guides of a library: made from a lap and the good laps around it, with what people wrote in their place."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from typing import TYPE_CHECKING

from sqlalchemy import select

from jete.core.axis.align import identity
from jete.core.axis.laying import prepare
from jete.core.axis.road import road_of
from jete.core.compare import bends_of, compare
from jete.core.driving.passage import passage_of
from jete.core.driving.technique import technique_of
from jete.core.guide.cards import Card, Good, cards_of, keeps
from jete.core.log.plane import origin_of
from jete.core.walk.rehearse import Memory
from jete.library import models

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
    """A guide as numbers: of which lap, its cards, its circuit and path, what people wrote, how many good laps it knows."""

    lap: Lap
    cards: tuple[Card, ...]
    circuit: CircuitOnAxis | None
    path_m: FloatArray | None
    typed: dict[tuple[int, str], str]
    laps: int


def guide_of(lap: Lap, circuit: CircuitOnAxis | None = None, passes: dict[int, Sequence[Pass]] | None = None) -> Made:
    """The guide of a lap, by itself or with its circuit and the passes of good laps.

    Raises:
        InputError: a piece that is no lap.
    """
    prepared = prepare(lap, origin_of(lap.log))
    road = road_of(lap, prepared.motion, prepared.fixes)
    passage = passage_of(lap, prepared.motion, identity(prepared.motion))
    corners = circuit.corners if circuit is not None else tuple(bends_of(road, passage))
    cards = cards_of(passage, road, corners, Good(passes or {}, circuit))
    path = road.path(road.grid_m) if road.path is not None else None
    laps = max((len(p) for p in (passes or {}).values()), default=1)
    return Made(lap, tuple(cards), circuit, path, {}, laps)


def kept_by(made: Made, lap: Lap) -> list[dict[str, bool]]:
    """What another lap kept of each card of a guide.

    Raises:
        InputError: a lap of another circuit, layout or direction.
    """
    comparison = compare(made.lap, [lap], [c.corner for c in made.cards])
    against = comparison.laps[0]
    return [
        keeps(card, technique_of(against.passage, loss.corner, loss.lap_marks), loss.lap_marks)
        for card, loss in zip(made.cards, against.corners, strict=True)
    ]


class GuideBook:
    """Makes guides of a library's laps and keeps what people write; may be asked from any thread."""

    def __init__(self, library: Library) -> None:
        self._library = library

    def guide(self, run: int, lap: Lap) -> Made:
        """The guide of one of a run's laps.

        Raises:
            InputError: a piece that is no lap.
        """
        circuit, place = self._library.circuits.circuit_on(run, lap), self._library.circuits.place(run)
        if circuit is None or place is None:
            return guide_of(lap)
        made = guide_of(lap, circuit, self._good(run, place, circuit.corners))
        return Made(made.lap, made.cards, circuit, made.path_m, self.typed(place), made.laps)

    def _good(self, run: int, place: Place, corners: Sequence[Corner]) -> dict[int, Sequence[Pass]]:
        """Passes of the run's fastest laps, by corner, as far as they are made."""
        record = self._library.run(run)
        counted = [s for s in record.laps if s.complete and not record.notes.of(s.number).aside]
        best = {s.number for s in sorted(counted, key=lambda s: s.time_s)[:GOOD_LAPS]}
        out: dict[int, Sequence[Pass]] = {}
        for corner in corners:
            kept = self._library.passes.of_corner(place, corner.id or 0, [run])
            out[corner.id or 0] = [p.numbers for p in kept if p.lap in best]
        return out

    def typed(self, place: Place) -> dict[tuple[int, str], str]:
        """What people wrote, by corner (its id) and field."""
        with self._library.reading() as session:
            rows = session.scalars(select(models.GuideField).filter_by(circuit_id=place.id))
            return {(r.corner, r.field): r.text for r in rows}

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

    def write(self, place: Place, corner: int, field: str, text: str) -> None:
        """Put own words in the place of a measured field; empty ones bring the measured back."""
        with self._library.writing() as session:
            row = session.get(models.GuideField, (place.id, corner, field))
            if not text:
                if row is not None:
                    session.delete(row)
                return
            if row is None:
                row = models.GuideField(
                    circuit_id=place.id, corner=corner, field=field, text=text, made_at=datetime.now(tz=UTC)
                )
                session.add(row)
            row.text, row.made_at = text, datetime.now(tz=UTC)
