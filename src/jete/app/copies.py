"""Files that leave the shelf, written in the background: a backup and back, a lap, a comparison."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.app.shelf import Shelf
    from jete.app.tasks import Tasks, Token
    from jete.core.causes.verdict.result import Comparison
    from jete.formats.parcel import Parcel
    from jete.library.parcels import Brings, TookIn
    from jete.report.debrief import Debrief
    from jete.report.units import Units
    from jete.session.state import LapKey

SAVING = "saving"
EXPORTING = "exporting"
LOOKING = "looking into what was handed on"


class Copies(QObject):
    """Writes what the shelf holds to places that were chosen."""

    progress = pyqtSignal(str, int, int)
    told = pyqtSignal(str)
    failed = pyqtSignal(object)

    def __init__(self, tasks: Tasks, shelf: Shelf) -> None:
        super().__init__()
        self._tasks, self._shelf = tasks, shelf

    def back_up(self, target: Path) -> None:
        """Write the whole library into one file."""
        location = self._shelf.location
        if location is None:
            return

        def work(token: Token) -> int:
            from jete.library.backup import back_up

            def step(done: int, of: int) -> None:
                if token.cancelled():
                    raise InterruptedError
                self.progress.emit(target.name, done, of)

            return back_up(location, target, step)

        self._tasks.start(SAVING, work, lambda n: self._on_backed_up(target, n), self._on_failed)

    def _on_backed_up(self, target: Path, count: int) -> None:
        self.progress.emit("", 0, 0)
        self.told.emit(f"{count} recordings and the notes are in {target.name}.")

    def restore(self, backup: Path) -> None:
        """Put a backup in the place of the shelf that is open, which goes to its quarantine."""
        location = self._shelf.location
        if location is None:
            return
        if not self._shelf.writer.settle():
            self.told.emit("Changes are still on their way to the shelf: restore once they are in.")
            return

        def work(_: Token) -> int:
            from jete.library.backup import restore

            return restore(backup, location)

        def done(count: int) -> None:
            self.told.emit(f"{count} recordings are back; what was there is in the quarantine.")
            self._shelf.open(location)

        def failed(error: Exception) -> None:
            self._on_failed(error)
            self._shelf.open(location)

        # Nothing may be written to what goes into the quarantine.
        self._shelf.close()
        self._tasks.start(SAVING, work, done, failed)

    def _on_failed(self, error: Exception) -> None:
        self.progress.emit("", 0, 0)
        self.failed.emit(error)

    def export_lap(self, key: LapKey, target: Path) -> None:
        """Write a lap as a file of its own."""
        load = self._shelf.lap_loader(key)
        if load is None:
            return

        def work(_: Token) -> None:
            from jete.formats.aligned import log_of_lap
            from jete.formats.writer import write_log

            write_log(target, log_of_lap(load()))

        self._tasks.start(EXPORTING, work, lambda _: self.told.emit(f"The lap is in {target.name}."), self.failed.emit)

    def hand_on(self, key: LapKey, target: Path, *, names: bool, notes: bool) -> None:
        """Write a lap with its circuit, guide and notes as one file."""
        load, library = self._shelf.lap_loader(key), self._shelf.library()
        if load is None:
            return

        def work(_: Token) -> None:
            from jete.desk.guide import guide_in
            from jete.library.parcels import hand_on
            from jete.report.guide import guide_document, guide_in_words

            guide = guide_document(guide_in_words(guide_in(library, key.run, load())))
            hand_on(library, key.run, key.lap, target, guide, names=names, notes=notes)

        self._tasks.start(
            EXPORTING,
            work,
            lambda _: self.told.emit(f"The lap, its circuit and its guide are in {target.name}."),
            self._on_failed,
        )

    def write_debrief(self, told: Debrief, target: Path, units: Units) -> None:
        """Write a debrief to hand out, as the ending says."""

        def work(_: Token) -> int | None:
            from jete.paper.apart import run_apart
            from jete.paper.report_files import write_report
            from jete.report.debrief import debrief_document, debrief_sections

            sections = debrief_sections(told, units)
            document = debrief_document(told, str(target), sections)
            pages: int | None = run_apart(target, write_report, sections, document)
            return pages

        self._tasks.start(
            EXPORTING, work, lambda _: self.told.emit(f"The debrief is in {target.name}."), self.failed.emit
        )

    def look_into(self, path: Path, then: Callable[[Parcel, Brings], None]) -> None:
        """Look at what was handed on, before anything of it is stored."""
        library = self._shelf.library()

        def work(_: Token) -> tuple[Parcel, Brings]:
            from jete.formats.parcel import read_parcel
            from jete.library.parcels import brings

            parcel = read_parcel(path)
            return parcel, brings(library, parcel)

        self._tasks.start(LOOKING, work, lambda found: then(*found), self._on_failed)

    def take_in(self, parcel: Parcel, *, circuit: bool) -> None:
        """Take in what was looked at."""
        library = self._shelf.library()

        def work(_: Token) -> TookIn:
            from jete.library.parcels import take_parcel

            return take_parcel(library, parcel, circuit=circuit)

        self._tasks.start(LOOKING, work, self._on_took_in, self._on_failed)

    def _on_took_in(self, took: TookIn) -> None:
        from jete.report.parcels import took_words

        self._shelf.came_in(took.run)
        self.told.emit(took_words(took))

    def export_pair(self, comparison: Comparison, target: Path) -> None:
        """Write the compared laps on the reference's distance axis."""

        def work(_: Token) -> None:
            from jete.formats.aligned import aligned_columns
            from jete.formats.writer import write_columns

            write_columns(target, aligned_columns(comparison))

        done = f"The comparison is in {target.name}."
        self._tasks.start(EXPORTING, work, lambda _: self.told.emit(done), self.failed.emit)
