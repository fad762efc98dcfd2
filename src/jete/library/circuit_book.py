"""The circuits of a library: which there are, the lap each is known by, and the corners that all comparisons there use."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import TYPE_CHECKING

from sqlalchemy import func, select

from jete.core.circuit.mean_path import founded, improved_by
from jete.core.circuit.numbering import corners_of, corners_on, counted_anew, extended
from jete.core.circuit.on_axis import circuit_on
from jete.core.circuit.rebase import Axis, rebased, rebased_corners
from jete.core.circuit.same_circuit import same_circuit
from jete.core.errors import InputError
from jete.core.log.lap import Lap, best_of, fastest
from jete.library import models
from jete.library.circuits import Place, free_layout, free_name, keep_corners, place_of, places, used_circuits
from jete.library.corner_notes import Noted, hand_on, noted_on, put_back
from jete.library.road_documents import book_document, book_from, road_document, road_from

if TYPE_CHECKING:
    from collections.abc import Collection, Sequence

    from jete.core.axis.road.corners import Corner, CornerId
    from jete.core.circuit.landmarks import RoadBook
    from jete.core.circuit.mean_path import CircuitRoad
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.library.storage import Storage

# So many of a run's fastest laps show the road: more of one day tell little more.
LAPS_OF_A_RUN = 8
# Runs that came in within this after a circuit's first came in one go with it.
IN_ONE_GO = timedelta(minutes=10)


class CircuitBook:
    """Reads and writes what a library knows of circuits; may be asked from any thread."""

    def __init__(self, storage: Storage) -> None:
        self._storage = storage
        self._founders: dict[tuple[int, int], Lap] = {}

    def forget_laps(self) -> None:
        """Laps are others under the same numbers now."""
        self._founders.clear()

    def places(self) -> list[Place]:
        """The circuits that have runs."""
        with self._storage.reading() as session:
            return places(session)

    def place(self, run: int) -> Place | None:
        """The circuit of a run."""
        with self._storage.reading() as session:
            event = session.get_one(models.Run, run).event
            return place_of(session, event.circuit) if event is not None and event.circuit.name else None

    def founder(self, place: Place) -> Lap | None:
        """The lap that a circuit is known by; None where there is none, or its data can't be read."""
        if place.founder is None:
            return None
        if place.founder not in self._founders:
            try:
                self._founders[place.founder] = self._storage.lap(self._storage.run(place.founder[0]), place.founder[1])
            except InputError:
                return None
        return self._founders[place.founder]

    def learn_corners(self, run: int) -> None:
        """Take the corners of a run's best lap into its circuit's list; the first run begins it."""
        record, place = self._storage.run(run), self.place(run)
        best = best_of(record.laps)
        if place is None or best is None or place.founder is None:
            return
        founder = self.founder(place)
        if founder is None:
            return
        try:
            listed = place.corners or corners_of(founder)
            if place.founder[0] != run:
                listed = extended(listed, founder, self._storage.lap(record, best.number))
                listed = counted_anew(listed) if self._is_new(place) else listed
        except InputError:
            return
        if listed != place.corners:
            with self._storage.writing() as session:
                keep_corners(session, place.id, place.founder, listed)

    def _is_new(self, place: Place) -> bool:
        """Whether a circuit's runs came in in one go, and nobody has looked at its corners yet: their numbers may move."""
        with self._storage.reading() as session:
            if session.get_one(models.Circuit, place.id).settled or any(c.name for c in place.corners or ()):
                return False
            query = select(func.min(models.Run.imported_at)).join(models.Event).where(
                models.Event.circuit_id == place.id
            )  # fmt: skip
            first = session.scalar(query)
            ids = [c.id for c in place.corners or () if c.id is not None]
            noted = noted_on(session, place.id, ids)
        if first is None or noted.rows or noted.photos:
            return False
        begun = first if first.tzinfo is not None else first.replace(tzinfo=UTC)
        return datetime.now(tz=UTC) - begun < IN_ONE_GO

    def make_whole(self) -> None:
        """Learn the corners and the road of circuits whose first run was brought in and whose learning was cut off."""
        for place in self.places():
            if place.founder is None:
                continue
            if place.corners is None:
                self.learn_corners(place.founder[0])
            if self._kept_road(place) is None:
                self.learn_road(place.founder[0])

    def learn_road(self, run: int) -> None:
        """Let the laps of a run make the road of its circuit surer; the first run lays it."""
        record, place = self._storage.run(run), self.place(run)
        founder = self.founder(place) if place is not None else None
        if place is None or founder is None:
            return
        known = self._kept_road(place)
        fastest = sorted((s for s in record.laps if s.complete), key=lambda s: s.time_s)[:LAPS_OF_A_RUN]
        laps = (self._storage.lap(record, s.number) for s in fastest)
        try:
            if known is None:
                self._lay(place, founded(founder, laps))
                return
            road = improved_by(known, founder, laps)
        except InputError:
            return
        if road.laps != known.laps:
            self._write_road(place, road)

    def road(self, place: Place) -> CircuitRoad | None:
        """The road of a circuit; laid by the run of its founder where it was not yet; None without a founder."""
        known = self._kept_road(place)
        if known is not None or place.founder is None or self._storage.read_only:
            return known if known is not None else self._road_of_founder(place)
        self.learn_road(place.founder[0])
        return self._kept_road(place)

    def _road_of_founder(self, place: Place) -> CircuitRoad | None:
        """The road by one lap alone: what a shelf that is only read can show."""
        founder = self.founder(place)
        return founded(founder) if founder is not None else None

    def _kept_road(self, place: Place) -> CircuitRoad | None:
        with self._storage.reading() as session:
            row = session.get_one(models.Circuit, place.id)
            known = row.road if row.founder_run is not None else None
        return road_from(known) if known else None

    def _lay(self, place: Place, road: CircuitRoad) -> None:
        """Keep a new axis; what people set on the one before goes with where it lies."""
        with self._storage.writing() as session:
            row = session.get_one(models.Circuit, place.id)
            if row.road and row.book:
                old = road_from(row.road)
                if not (old.schematic or road.schematic):
                    there = old.origin.carried_to(road.origin, old.path_m())
                    axes = Axis(old.circuit_m, there), Axis(road.circuit_m, road.path_m())
                    row.book = book_document(rebased(book_from(row.book), *axes))
            row.road = road_document(road)
            if place.founder is not None:
                row.founder_run, row.founder_lap = place.founder

    def _write_road(self, place: Place, road: CircuitRoad) -> None:
        with self._storage.writing() as session:
            session.get_one(models.Circuit, place.id).road = road_document(road)

    def book(self, place: Place) -> RoadBook:
        """What people know of a circuit."""
        with self._storage.reading() as session:
            return book_from(session.get_one(models.Circuit, place.id).book)

    def write_book(self, place: Place, book: RoadBook) -> None:
        """Keep what people know of a circuit."""
        with self._storage.writing() as session:
            session.get_one(models.Circuit, place.id).book = book_document(book)

    def noted_on(self, place: Place, corners: Collection[int]) -> Noted:
        """What is noted on corners (ids), to be put back with them."""
        with self._storage.reading() as session:
            return noted_on(session, place.id, corners)

    def write_corners(
        self,
        place: Place,
        corners: tuple[Corner, ...],
        gone: dict[int, int] | None = None,
        noted: Noted | None = None,
    ) -> None:
        """Keep a list of corners that a person has edited.

        Args:
            place: the circuit.
            corners: on the founder's axis.
            gone: ids that are no more, and the id that what is noted on them goes to.
            noted: what corners had noted on them, to be as it was.
        """
        if place.founder is None:
            return
        with self._storage.writing() as session:
            keep_corners(session, place.id, place.founder, corners)
            session.get_one(models.Circuit, place.id).settled = True
            for old, new in (gone or {}).items():
                hand_on(session, place.id, old, new)
            if noted is not None:
                put_back(session, place.id, noted)

    def corner_notes(self, place: Place, corner: CornerId) -> dict[str, str]:
        """What is noted on a corner (its id), by driver; under the empty name what is for all."""
        with self._storage.reading() as session:
            query = select(models.CornerNote).filter_by(circuit_id=place.id, corner=corner)
            return {row.driver: row.note for row in session.scalars(query) if row.note}

    def note_corner(self, place: Place, corner: CornerId, driver: str, note: str) -> None:
        """Put a note on a corner for one driver, or for all; an empty one takes it off."""
        with self._storage.writing() as session:
            row = session.get(models.CornerNote, (place.id, corner, driver))
            if row is None:
                row = models.CornerNote(circuit_id=place.id, corner=corner, driver=driver, note="")
                session.add(row)
            row.note = note

    def edited(self, run: int) -> tuple[CircuitRoad, tuple[Corner, ...]] | None:
        """The corners of a run's circuit that a person has edited, with the road they lie on; None where nobody did."""
        place = self.place(run)
        if place is None or place.corners is None or place.founder is None or place.founder[0] != run:
            return None
        with self._storage.reading() as session:
            row = session.get_one(models.Circuit, place.id)
            return (road_from(row.road), place.corners) if row.settled and row.road else None

    def put_back(self, run: int, old: CircuitRoad, corners: tuple[Corner, ...]) -> None:
        """Put edited corners on the axis of a founder whose laps are others now."""
        self.learn_road(run)
        place = self.place(run)
        new = self._kept_road(place) if place is not None else None
        if place is not None and new is not None and not (old.schematic or new.schematic):
            there = old.origin.carried_to(new.origin, old.founder_xy_m)
            axes = Axis(old.founder_m, there), Axis(new.founder_m, new.founder_xy_m)
            self.write_corners(place, rebased_corners(corners, *axes))

    def circuit_on(self, run: int, reference: Lap) -> CircuitOnAxis | None:
        """The circuit of a run on the axis of one of its laps; None where it has no list, or the lap lies elsewhere."""
        place = self.place(run)
        founder = self.founder(place) if place is not None else None
        if place is None or founder is None:
            return None
        road = self.road(place)
        if road is None:
            return None
        try:
            listed = place.corners or corners_of(founder)
            return circuit_on(place.name, road, self.book(place), listed, (founder, reference))
        except InputError:
            # The lap was driven elsewhere, or lies otherwise on its line: its own road decides.
            return None

    def corners_on(self, run: int, reference: Lap) -> tuple[Corner, ...] | None:
        """The corners of a run's circuit on the axis of one of its laps; None where the circuit has no list."""
        place = self.place(run)
        founder = self.founder(place) if place is not None else None
        if place is None or founder is None:
            return None
        try:
            return corners_on(place.corners or corners_of(founder), founder, reference)
        except InputError:
            # The lap was driven elsewhere, or lies otherwise on its line: its own road decides.
            return None

    def used(self) -> frozenset[int]:
        """The numbers of all circuits that have runs."""
        with self._storage.reading() as session:
            return used_circuits(session)

    def new_circuit(self) -> str:
        """A name for a circuit that nobody has named yet."""
        with self._storage.reading() as session:
            return free_name(session)

    def layout_for(self, name: str, *, known: bool) -> str:
        """The layout of a circuit's new run: its first one where nothing tells another, else a new one."""
        with self._storage.reading() as session:
            there = any(p.name == name and p.founder is not None for p in places(session))
            return free_layout(session, name) if there and not known else ""

    def strangers(self) -> list[int]:
        """Runs that nobody has looked at yet and that were driven elsewhere than their circuit says.

        Those that were looked at are marked, so that each is looked at once.
        """
        with self._storage.reading() as session:
            numbers = list(session.scalars(select(models.Run.id).where(models.Run.placed.is_(None))))
        strange = {n: self._is_strange(n) for n in numbers}
        if strange and not self._storage.read_only:
            with self._storage.writing() as session:
                for number, wrong in strange.items():
                    session.get_one(models.Run, number).placed = not wrong
        return [n for n, wrong in strange.items() if wrong]

    def _is_strange(self, number: int) -> bool:
        run, place = self._storage.run(number), self.place(number)
        best = best_of(run.laps)
        if place is None or best is None or (place.founder and place.founder[0] == number):
            return False
        founder = self.founder(place)
        try:
            return founder is not None and not same_circuit(founder, self._storage.lap(run, best.number))
        except InputError:
            return False

    def other_places(self, runs: Sequence[int]) -> dict[int, tuple[str, str]]:
        """Circuit and layout to note on runs that were driven elsewhere: a known one, else a new one for each road."""
        found: dict[int, tuple[str, str]] = {}
        begun: list[tuple[Lap, tuple[str, str]]] = []
        known = [(self.founder(p), (p.name, p.layout)) for p in self.places()]
        for number in runs:
            run = self._storage.run(number)
            lap = self._storage.lap(run, fastest(run.laps, run.source).number)
            at = next((at for f, at in [*known, *begun] if f is not None and same_circuit(f, lap)), None)
            if at is None:
                with self._storage.reading() as session:
                    at = (free_name(session, [name for _, (name, _) in begun]), "")
                begun.append((lap, at))
            found[number] = at
        return found
