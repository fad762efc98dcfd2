"""The circuits of a library: which there are, the lap each is known by, and the corners that all comparisons there use."""

from __future__ import annotations

from typing import TYPE_CHECKING

from sqlalchemy import select

from jete.core.circuit.numbering import corners_of, corners_on, extended
from jete.core.circuit.same_circuit import same_circuit
from jete.core.errors import InputError
from jete.core.log.lap import Lap, best_of, fastest
from jete.library import models
from jete.library.circuits import Place, free_layout, free_name, keep_corners, place_of, places

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.axis.corners import Corner
    from jete.library.library import Library


class CircuitBook:
    """Reads and writes what a library knows of circuits; may be asked from any thread."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self._founders: dict[tuple[int, int], Lap] = {}

    def forget_laps(self) -> None:
        """Laps are others under the same numbers now."""
        self._founders.clear()

    def places(self) -> list[Place]:
        """The circuits that have runs."""
        with self._library.reading() as session:
            return places(session)

    def place(self, run: int) -> Place | None:
        """The circuit of a run."""
        with self._library.reading() as session:
            event = session.get_one(models.Run, run).event
            return place_of(session, event.circuit) if event is not None and event.circuit.name else None

    def founder(self, place: Place) -> Lap | None:
        """The lap that a circuit is known by; None where there is none, or its data can't be read."""
        if place.founder is None:
            return None
        if place.founder not in self._founders:
            try:
                self._founders[place.founder] = self._library.lap(self._library.run(place.founder[0]), place.founder[1])
            except InputError:
                return None
        return self._founders[place.founder]

    def learn_corners(self, run: int) -> None:
        """Take the corners of a run's best lap into its circuit's list; the first run begins it."""
        record, place = self._library.run(run), self.place(run)
        best = best_of(record.laps)
        if place is None or best is None or place.founder is None:
            return
        founder = self.founder(place)
        if founder is None:
            return
        try:
            listed = place.corners or corners_of(founder)
            if place.founder[0] != run:
                listed = extended(listed, founder, self._library.lap(record, best.number))
        except InputError:
            return
        if listed != place.corners:
            with self._library.writing() as session:
                keep_corners(session, place.id, place.founder, listed)

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

    def new_circuit(self) -> str:
        """A name for a circuit that nobody has named yet."""
        with self._library.reading() as session:
            return free_name(session)

    def layout_for(self, name: str, *, known: bool) -> str:
        """The layout of a circuit's new run: its first one where nothing tells another, else a new one."""
        with self._library.reading() as session:
            there = any(p.name == name and p.founder is not None for p in places(session))
            return free_layout(session, name) if there and not known else ""

    def strangers(self) -> list[int]:
        """Runs that nobody has looked at yet and that were driven elsewhere than their circuit says.

        Those that were looked at are marked, so that each is looked at once.
        """
        with self._library.reading() as session:
            numbers = list(session.scalars(select(models.Run.id).where(models.Run.placed.is_(None))))
        strange = {n: self._is_strange(n) for n in numbers}
        if strange and not self._library.read_only:
            with self._library.writing() as session:
                for number, wrong in strange.items():
                    session.get_one(models.Run, number).placed = not wrong
        return [n for n, wrong in strange.items() if wrong]

    def _is_strange(self, number: int) -> bool:
        run, place = self._library.run(number), self.place(number)
        best = best_of(run.laps)
        if place is None or best is None or (place.founder and place.founder[0] == number):
            return False
        founder = self.founder(place)
        try:
            return founder is not None and not same_circuit(founder, self._library.lap(run, best.number))
        except InputError:
            return False

    def other_places(self, runs: Sequence[int]) -> dict[int, tuple[str, str]]:
        """Circuit and layout to note on runs that were driven elsewhere: a known one, else a new one for each road."""
        found: dict[int, tuple[str, str]] = {}
        begun: list[tuple[Lap, tuple[str, str]]] = []
        known = [(self.founder(p), (p.name, p.layout)) for p in self.places()]
        for number in runs:
            run = self._library.run(number)
            lap = self._library.lap(run, fastest(run.laps, run.source).number)
            at = next((at for f, at in [*known, *begun] if f is not None and same_circuit(f, lap)), None)
            if at is None:
                with self._library.reading() as session:
                    at = (free_name(session, [name for _, (name, _) in begun]), "")
                begun.append((lap, at))
            found[number] = at
        return found
