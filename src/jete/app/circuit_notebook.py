"""What is edited of a circuit: corners, landmarks, hazards.  Written in the library first, and each is a step of undo."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from jete.core.circuit import editing
from jete.core.circuit.landmarks import Hazard, Landmark, RoadBook
from jete.core.errors import InputError
from jete.session.state import Changed

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.core.axis.corners import Corner
    from jete.library.circuits import Place
    from jete.library.corner_notes import Noted
    from jete.library.library import Library

    Corners = tuple[Corner, ...]


@dataclass(frozen=True)
class _Known:
    """A circuit as the library has it: corners on the founder's axis, the book on the circuit's."""

    place: Place
    corners: Corners
    book: RoadBook


class CircuitNotebook:
    """Edits the circuit of the compared lap; places are given on the reference's axis."""

    def __init__(self, store: SessionStore, shelf: Shelf) -> None:
        self._store, self._shelf = store, shelf

    # --- corners

    def split(self, corner: int, place_m: float) -> bool:
        """Split a corner (its id) at a place."""
        return self._edit("corner split", lambda k, at, t: editing.split(k.corners, corner, at(place_m), t))

    def merge(self, corner: int) -> bool:
        """Merge a corner with the one after it; what is noted on that one goes to it."""
        known = self._known()
        after = None
        if known is not None:
            mine = next((c for c in known.corners if c.id == corner), None)
            after = next((c.id for c in known.corners if mine is not None and c.start_m > mine.start_m), None)
        gone = {after: corner} if after is not None else {}
        return self._edit("corners merged", lambda k, _, t: editing.merged(k.corners, corner, t), gone)

    def move_ends(self, corner: int, start_m: float, end_m: float) -> bool:
        """Let a corner begin and end elsewhere."""
        return self._edit(
            "ends of the corner", lambda k, at, t: editing.moved(k.corners, corner, at(start_m), at(end_m), t)
        )

    def call(self, corner: int, label: str, name: str) -> bool:
        """Give a corner a number and a name."""
        return self._edit("name of the corner", lambda k, *_: editing.called(k.corners, corner, label, name))

    def _edit(
        self, text: str, change: Callable[[_Known, Callable[[float], float], editing.Tightest], Corners], gone: dict[int, int] | None = None
    ) -> bool:  # fmt: skip
        known, tools = self._known(), self._tools()
        if known is None or tools is None:
            return False
        try:
            corners = change(known, *tools)
        except InputError as error:
            self._shelf.failed.emit(error)
            return False
        if corners == known.corners:
            return False
        noted = self._noted_on(known.place, {*(gone or {}), *(gone or {}).values()})
        done = self._put_corners(known.place, corners, gone)
        if done:
            self._store.did(
                text,
                lambda: self._put_corners(known.place, known.corners, noted=noted),
                lambda: self._put_corners(known.place, corners, gone),
            )
        return done

    def _noted_on(self, place: Place, corners: set[int]) -> Noted | None:
        """What is noted on corners that are to become one."""
        return self._shelf.library().circuits.noted_on(place, corners) if corners else None

    def _put_corners(
        self, place: Place, corners: Corners, gone: dict[int, int] | None = None, noted: Noted | None = None
    ) -> bool:
        return self._shelf.change_circuit(lambda x: x.circuits.write_corners(place, corners, gone, noted))

    # --- landmarks and hazards

    def put_landmark(self, landmark: Landmark, place_m: float) -> bool:
        """Put a landmark (a new one with the id 0) at a place."""
        text = "landmark" if landmark.id else "new landmark"
        return self._note(text, lambda book, at: book.with_landmark(
            replace(landmark, id=landmark.id or book.next_id, circuit_m=at(place_m))
        ))  # fmt: skip

    def put_hazard(self, text: str, start_m: float, end_m: float) -> bool:
        """Note a hazard over a piece of the road."""

        def change(book: RoadBook, at: Callable[[float], float]) -> RoadBook:
            hazard = Hazard(book.next_id, at(start_m), at(end_m), text.strip())
            return replace(book, hazards=(*book.hazards, hazard))

        return self._note("hazard", change)

    def take_off(self, number: int) -> bool:
        """Take a landmark or a hazard off."""
        return self._note("landmark taken off", lambda book, _: book.without(number))

    def put_rules(self, rules: tuple[str, ...]) -> bool:
        """Note the local rules."""
        return self._note("local rules", lambda book, _: replace(book, rules=rules))

    def _note(self, text: str, change: Callable[[RoadBook, Callable[[float], float]], RoadBook]) -> bool:
        known, road = self._known(), self._store.road
        if known is None or road is None or road.circuit is None:
            return False
        book = change(known.book, road.circuit.to_circuit)
        if book == known.book or not self._put_book(known.place, book):
            return False
        self._store.did(
            text, lambda: self._put_book(known.place, known.book), lambda: self._put_book(known.place, book)
        )
        return True

    def _put_book(self, place: Place, book: RoadBook) -> bool:
        return self._shelf.change_circuit(lambda x: x.circuits.write_book(place, book))

    def note_corner(self, corner: int, driver: str, note: str) -> bool:
        """Put a note on a corner for one driver, or (an empty name) for all."""
        known, kept = self._known(), self._store.passes
        if known is None:
            return False
        before = dict(kept.notes).get(driver, "") if kept is not None and kept.corner == corner else ""
        if before == note or not self._put_corner_note(known.place, corner, (driver, note)):
            return False
        self._store.did(
            "note on the corner",
            lambda: self._put_corner_note(known.place, corner, (driver, before)),
            lambda: self._put_corner_note(known.place, corner, (driver, note)),
        )
        return True

    def _put_corner_note(self, place: Place, corner: int, words: tuple[str, str]) -> bool:
        done = self._shelf.write(lambda x: x.circuits.note_corner(place, corner, *words))
        if done:
            self._store.look_at(lambda s: s, also=Changed.RUNS)
        return done

    # --- handing on

    def take_in(self, path: Path) -> bool:
        """Take in what a file knows of the circuit."""
        from jete.formats import geojson
        from jete.library.exchange import take_in

        known = self._known()
        if known is None:
            return False
        place = known.place

        def bring(library: Library) -> None:
            take_in(library, place, geojson.read(path))

        done = self._shelf.change_circuit(bring)
        after = self._known() if done else None
        if after is not None:
            self._store.did("circuit taken in", lambda: self._put_back(known), lambda: self._put_back(after))
        return done

    def _put_back(self, known: _Known) -> bool:
        def write(library: Library) -> None:
            library.circuits.write_corners(known.place, known.corners)
            library.circuits.write_book(known.place, known.book)

        return self._shelf.change_circuit(write)

    def hand_out(self, path: Path) -> bool:
        """Write the circuit as a file."""
        from jete.formats import geojson
        from jete.library.exchange import hand_out

        known = self._known()
        if known is None:
            return False
        try:
            geojson.write(path, hand_out(self._shelf.library(), known.place))
        except InputError as error:
            self._shelf.failed.emit(error)
            return False
        self._shelf.told.emit(f"The circuit is in {path.name}.")
        return True

    def _known(self) -> _Known | None:
        """The compared lap's circuit as the library has it now."""
        lap = self._store.session.choice.lap
        if lap is None or self._shelf.location is None:
            return None
        library = self._shelf.library()
        place = library.circuits.place(lap.run)
        if place is None or place.corners is None:
            self._shelf.told.emit("No circuit is known here: give the run a circuit on the page Laps first.")
            return None
        return _Known(place, place.corners, library.circuits.book(place))

    def _tools(self) -> tuple[Callable[[float], float], editing.Tightest] | None:
        """From a place of the reference to one of the founder, and what finds an apex there."""
        road = self._store.road
        if road is None or road.circuit is None:
            return None
        circuit, known = road.circuit, road.circuit.road

        def at(place_m: float) -> float:
            return float(known.to_founder(np.array([circuit.to_circuit(place_m)]))[0])

        return at, editing.tightest_at(known.founder_m, known.bend_1pm)
