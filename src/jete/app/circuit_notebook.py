"""What is edited of a circuit: corners, landmarks, hazards.  Each is a step of undo once the library has it."""

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

    from jete.app.store import SessionStore
    from jete.app.writing_shelf import WritingShelf
    from jete.core.axis.road.corners import Corner, CornerId
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

    @property
    def as_written(self) -> _Written:
        """The same, for it to be put back."""
        return _Written(self.place, self.corners, book=self.book)


@dataclass(frozen=True)
class _Written:
    """What is written of a circuit: its corners with those that are gone or come back, or its book, or both."""

    place: Place
    corners: Corners | None = None
    gone: dict[int, int] | None = None
    noted: Noted | None = None
    book: RoadBook | None = None

    def write(self, library: Library) -> bool:
        """Put it into the library."""
        if self.corners is not None:
            library.circuits.write_corners(self.place, self.corners, self.gone, self.noted)
        if self.book is not None:
            library.circuits.write_book(self.place, self.book)
        return True


def _known(library: Library, run: int) -> _Known:
    """A run's circuit as the library has it now.

    Raises:
        InputError: none is known.
    """
    place = library.circuits.place(run)
    if place is None or place.corners is None:
        raise InputError("The run", "no circuit is known here.", "Give the run a circuit on the page Laps first.")
    return _Known(place, place.corners, library.circuits.book(place))


class CircuitNotebook:
    """Edits the circuit of the compared lap; places are given on the reference's axis."""

    def __init__(self, store: SessionStore, shelf: WritingShelf) -> None:
        self._store, self._shelf = store, shelf

    # --- corners

    def split(self, corner: CornerId, place_m: float) -> bool:
        """Split a corner (its id) at a place."""
        return self._edit("corner split", lambda k, at, t: editing.split(k.corners, corner, at(place_m), t))

    def merge(self, corner: CornerId) -> bool:
        """Merge a corner with the one after it; what is noted on that one goes to it."""

        def gone(known: _Known) -> dict[int, int]:
            mine = next((c for c in known.corners if c.id == corner), None)
            after = next((c.id for c in known.corners if mine is not None and c.start_m > mine.start_m), None)
            return {after: corner} if after is not None else {}

        return self._edit("corners merged", lambda k, _, t: editing.merged(k.corners, corner, t), gone)

    def move_ends(self, corner: CornerId, start_m: float, end_m: float) -> bool:
        """Let a corner begin and end elsewhere."""
        return self._edit(
            "ends of the corner", lambda k, at, t: editing.moved(k.corners, corner, at(start_m), at(end_m), t)
        )

    def call(self, corner: CornerId, label: str, name: str) -> bool:
        """Give a corner a number and a name."""
        typed = f"{label} {name}".strip()
        return self._edit(
            "name of the corner", lambda k, *_: editing.called(k.corners, corner, label, name), typed=typed
        )

    def _edit(
        self,
        text: str,
        change: Callable[[_Known, Callable[[float], float], editing.Tightest], Corners],
        gone_of: Callable[[_Known], dict[int, int]] = lambda _: {},
        typed: str = "",
    ) -> bool:
        run, tools = self._run(), self._tools()
        if run is None or tools is None:
            return False

        def write(library: Library) -> tuple[_Written, _Written] | None:
            known = _known(library, run)
            corners, gone = change(known, *tools), gone_of(known)
            if corners == known.corners:
                return None
            # What is noted on corners that are to become one.
            noted = library.circuits.noted_on(known.place, {*gone, *gone.values()}) if gone else None
            written = _Written(known.place, corners, gone)
            written.write(library)
            return _Written(known.place, known.corners, noted=noted), written

        return self._write(text, typed, write)

    def _write(self, text: str, typed: str, write: Callable[[Library], tuple[_Written, _Written] | None]) -> bool:
        """Write something of a circuit as a step of undo: ``write`` says what stood there and what does now, None for no change."""

        def did(steps: tuple[_Written, _Written]) -> None:
            back, again = (lambda w=w: self._shelf.change_circuit(text, w.write) for w in steps)
            self._store.did(text, back, again)

        return self._shelf.change_circuit(f'{text} "{typed}"' if typed else text, write, did)

    # --- landmarks and hazards

    def put_landmark(self, landmark: Landmark, place_m: float) -> bool:
        """Put a landmark (a new one with the id 0) at a place."""
        text = "landmark" if landmark.id else "new landmark"
        return self._note(text, lambda book, at: book.with_landmark(
            replace(landmark, id=landmark.id or book.next_id, circuit_m=at(place_m))
        ), landmark.text)  # fmt: skip

    def put_hazard(self, text: str, start_m: float, end_m: float) -> bool:
        """Note a hazard over a piece of the road."""

        def change(book: RoadBook, at: Callable[[float], float]) -> RoadBook:
            hazard = Hazard(book.next_id, at(start_m), at(end_m), text.strip())
            return replace(book, hazards=(*book.hazards, hazard))

        return self._note("hazard", change, text.strip())

    def take_off(self, number: int) -> bool:
        """Take a landmark or a hazard off."""
        return self._note("landmark taken off", lambda book, _: book.without(number))

    def put_rules(self, rules: tuple[str, ...]) -> bool:
        """Note the local rules."""
        return self._note("local rules", lambda book, _: replace(book, rules=rules), "; ".join(rules))

    def _note(
        self, text: str, change: Callable[[RoadBook, Callable[[float], float]], RoadBook], typed: str = ""
    ) -> bool:
        run, road = self._run(), self._store.road
        circuit = road.circuit if road is not None else None
        if run is None or circuit is None:
            return False

        def write(library: Library) -> tuple[_Written, _Written] | None:
            known = _known(library, run)
            book = change(known.book, circuit.to_circuit)
            if book == known.book:
                return None
            written = _Written(known.place, book=book)
            written.write(library)
            return _Written(known.place, book=known.book), written

        return self._write(text, typed, write)

    def note_corner(self, corner: CornerId, driver: str, note: str) -> bool:
        """Put a note on a corner for one driver, or (an empty name) for all."""
        run, kept = self._run(), self._store.passes
        before = dict(kept.notes).get(driver, "") if kept is not None and kept.corner == corner else ""
        if run is None or before == note:
            return False

        def put(words: str, did: Callable[[], object] = lambda: None) -> bool:
            def then(_: object) -> None:
                self._store.look_at(lambda s: s, also=Changed.RUNS)
                did()

            def write(library: Library) -> None:
                library.circuits.note_corner(_known(library, run).place, corner, driver, words)

            return self._shelf.write(f'note on the corner "{words}"', write, then=then)

        return put(note, lambda: self._store.did("note on the corner", lambda: put(before), lambda: put(note)))

    # --- handing on

    def take_in(self, path: Path) -> bool:
        """Take in what a file knows of the circuit."""
        from jete.formats import geojson
        from jete.library.exchange import take_in

        run, text = self._run(), "circuit taken in"
        if run is None:
            return False

        def bring(library: Library) -> tuple[_Written, _Written]:
            before = _known(library, run)
            take_in(library, before.place, geojson.read(path))
            return before.as_written, _known(library, run).as_written

        return self._write(text, "", bring)

    def hand_out(self, path: Path) -> bool:
        """Write the circuit as a file."""
        from jete.formats import geojson
        from jete.library.exchange import hand_out

        run = self._run()
        if run is None:
            return False
        try:
            library = self._shelf.library()
            geojson.write(path, hand_out(library, _known(library, run).place))
        except InputError as error:
            self._shelf.failed.emit(error)
            return False
        self._shelf.told.emit(f"The circuit is in {path.name}.")
        return True

    def _run(self) -> int | None:
        """The run of the compared lap."""
        lap = self._store.session.choice.lap
        return lap.run if lap is not None else None

    def _tools(self) -> tuple[Callable[[float], float], editing.Tightest] | None:
        """From a place of the reference to one of the founder, and what finds an apex there."""
        road = self._store.road
        if road is None or road.circuit is None:
            return None
        circuit, known = road.circuit, road.circuit.road

        def at(place_m: float) -> float:
            return float(known.to_founder(np.array([circuit.to_circuit(place_m)]))[0])

        return at, editing.tightest_at(known.founder_m, known.bend_1pm)
