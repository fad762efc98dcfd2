"""Files and folders: opening and writing them, other shelves, the bin, a folder that is watched."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QApplication

from jete.app import demo, settings
from jete.app.dialogs import ask, tell_found
from jete.app.watch import Watch
from jete.core.errors import InputError
from jete.formats.table import read_filter, written_filter
from jete.report.units import units_of
from jete.session import operations as ops
from jete.session.state import Changed, Choice, LapKey, Session
from jete.views.asked_file import ask_folder, ask_open, ask_open_many, ask_save
from jete.views.parcels import HandOnDialog, TakeInDialog
from jete.views.shelf_dialogs import BinDialog, ServerDialog

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from PyQt6.QtWidgets import QWidget

    from jete.app.copies import Copies
    from jete.app.imports import ImportQueue
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.core.arrays import FloatArray
    from jete.core.log.lap import Channel
    from jete.core.motion.one_line import LineSource
    from jete.formats.parcel import Parcel
    from jete.library.check import Finding
    from jete.library.parcels import Brings

PARCELS = "Handed on (*.zip)"


class ShelfFiles(QObject):
    """Asks for places, and hands them to the shelf."""

    first_wanted = pyqtSignal(object)

    def __init__(
        self, window: QWidget, store: SessionStore, shelf: Shelf, imports: ImportQueue, copies: Copies
    ) -> None:
        super().__init__(window)
        self._window, self._store, self._shelf = window, store, shelf
        self._imports, self._copies = imports, copies
        imports.columns_wanted.connect(self.ask_for_columns)
        self.watch = Watch(self)
        self._demo = False
        shelf.found.connect(self._on_found)
        shelf.refused_newer.connect(self._on_newer)
        shelf.refused_damaged.connect(self._on_damaged)
        shelf.strangers.connect(self._on_strangers)
        store.changed.connect(self._on_changed)
        self.watch.came.connect(self._on_came)

    def handlers(self, selected: Callable[[], LapKey | None]) -> dict[str, Callable[[], object]]:
        """What the actions of the table ask for; ``selected`` tells the lap that is meant."""
        self._selected = selected
        return {
            "open": self.ask_for_files, "folder": self.ask_for_folder, "demo": self.open_demo, "home": self.go_home,
            "shelf": self.ask_for_shelf, "backup": self.ask_for_backup, "restore": self.ask_for_restore, "bin": self.show_bin, "watch": self.ask_for_watch,
            "export": self.ask_for_export, "export:pair": self.ask_for_pair, "report": self.ask_for_report, "line": self.ask_for_line, "server": self.ask_for_server,
            "parcel:out": self.ask_for_parcel, "parcel:in": self.ask_what_came,
        }  # fmt: skip

    def close(self) -> None:
        """Stop watching."""
        self.watch.stop()

    def ask_for_files(self) -> None:
        """Choose logs to bring in."""
        names = ask_open_many(self._window, "Open logs", read_filter())
        if names:
            self._imports.open_files([Path(n) for n in names])

    def ask_for_folder(self) -> None:
        """Choose a folder whose logs are brought in."""
        name = ask_folder(self._window, "Open a folder of logs")
        if name:
            self._imports.open_files([Path(name)])

    def ask_for_watch(self) -> None:
        """Choose a folder from which new logs come in by themselves; cancelled, none is watched."""
        name = ask_folder(self._window, "Watch a folder for new logs")
        self.watch_folder(Path(name) if name else None)

    def watch_folder(self, folder: Path | None) -> None:
        """Watch a folder from now on, or none."""
        self.watch.start(folder)
        settings.save_watched(folder)
        self._shelf.told.emit(f"New logs in {folder} come in by themselves." if folder else "No folder is watched.")

    def resume_watch(self) -> None:
        """Go on watching the folder of the last time; one that is gone is told and forgotten."""
        folder = settings.watched()
        if folder is None:
            return
        try:
            self.watch.start(folder)
        except InputError as error:
            settings.save_watched(None)
            self._shelf.failed.emit(error)

    def ask_for_shelf(self) -> None:
        """Choose the folder of another library."""
        name = ask_folder(self._window, "Open another shelf: choose its folder")
        if name:
            self.open_shelf(name)

    def ask_for_server(self) -> ServerDialog:
        """Ask for a database server and the folder that goes with it."""
        dialog = ServerDialog(*settings.shelf_place(), self._window)
        dialog.chosen.connect(self.open_shelf)
        dialog.show()
        return dialog

    def open_shelf(self, place: str, folder: str = "") -> None:
        """Open the shelf at a place from now on; a place that does not name one is told."""
        from jete.library.location import location_named

        try:
            location = location_named(place, folder)
        except InputError as error:
            self._shelf.failed.emit(error)
            return
        self.leave_fields()
        self._shelf.open(location, then=lambda: self._on_shelf_opened(place, folder))

    def _on_shelf_opened(self, place: str, folder: str) -> None:
        """Only a shelf that opened is the one of the next start."""
        self._demo = False
        settings.save_shelf_place(place, folder)

    def leave_fields(self) -> None:
        """What is being typed is noted on the shelf it was typed on."""
        focus = QApplication.focusWidget()
        if focus is not None:
            focus.clearFocus()

    def ask_for_backup(self) -> None:
        """Choose where the backup is written."""
        name, _ = ask_save(self._window, "Back up the shelf", "jete-backup.zip", "Backup (*.zip)")
        if name:
            self._copies.back_up(Path(name))

    def ask_for_restore(self) -> None:
        """Choose a backup that is put in the place of this shelf."""
        name = ask_open(self._window, "Restore the shelf from a backup", "Backup (*.zip)")
        if name:
            box = ask(
                self._window, "Restore the shelf", f"Put {Path(name).name} in the place of this shelf?",
                "What is on the shelf now goes into its folder 'quarantine'; nothing is deleted.", "Restore",
            )  # fmt: skip
            box.accepted.connect(lambda: self._copies.restore(Path(name)))

    def ask_for_export(self) -> None:
        """Choose where the selected lap is written."""
        key = self._selected()
        if key is None:
            return
        label = self._store.session.label(key).replace(" · ", "-").replace(" ", "-").replace(":", "")
        name, _ = ask_save(self._window, "Write this lap", f"{label}.csv", written_filter())
        if name:
            self._copies.export_lap(key, Path(name))

    def ask_for_pair(self) -> None:
        """Choose where the compared laps are written, side by side on the reference's axis."""
        comparison = self._store.comparison
        name, _ = ask_save(self._window, "Write the comparison", "comparison.csv", written_filter())
        if name and comparison is not None:
            self._copies.export_pair(comparison, Path(name))

    def ask_for_report(self) -> None:
        """Choose where a debrief is written: of the run where the ledger shows the run, else of the lap."""
        name, _ = ask_save(self._window, "Write a debrief", "debrief.pdf", "PDF (*.pdf);;A page for a browser (*.html)")
        if name:
            self.write_report(Path(name))

    def write_report(self, path: Path) -> None:
        """Write the debrief of what is compared."""
        from jete.report.debrief import Debrief, conditions_of

        session, store = self._store.session, self._store
        whole = session.display.whole_run and store.run is not None
        comparison = store.run.comparison if whole and store.run is not None else store.comparison
        if comparison is None:
            return
        keys = (session.choice.reference, session.choice.lap)
        runs = [session.run(key.run) if key is not None else None for key in keys]
        told = Debrief(
            comparison=comparison,
            circuit=store.road.circuit if store.road is not None else None,
            run=store.run.summary if whole and store.run is not None else None,
            plan=store.plan if whole else None,
            names=(runs[0].name if runs[0] else "", runs[1].name if runs[1] else ""),
            conditions=conditions_of(runs[0].sheet if runs[0] else None, runs[1].sheet if runs[1] else None),
        )
        self._copies.write_debrief(told, path, units_of(session.display))

    def open_dropped(self, paths: Sequence[Path]) -> None:
        """Open what was dropped on the window: logs, and laps that were handed on."""
        from jete.formats.parcel import is_parcel

        parcels = [p for p in paths if p.suffix.casefold() == ".zip" and is_parcel(p)]
        for path in parcels:
            self.take_in(path)
        logs = [p for p in paths if p not in parcels]
        if logs:
            self._imports.open_files(logs)

    def ask_for_parcel(self) -> HandOnDialog | None:
        """Ask what goes along with the lap that is shown when it is handed on: on the page Guide that is the reference."""
        session = self._store.session
        key = session.choice.reference if session.look.page == "guide" else self._selected()
        if key is None or self._store.session.span(key) is None:
            self._shelf.told.emit("Choose a lap of a run on the page Laps (Ctrl+1) to hand on.")
            return None
        dialog = HandOnDialog(self._store.session.label(key), self._window)
        dialog.chosen.connect(lambda names, notes: self._write_parcel(key, names=names, notes=notes))
        dialog.show()
        return dialog

    def _write_parcel(self, key: LapKey, *, names: bool, notes: bool) -> None:
        label = self._store.session.label(key) if names else "lap"
        name = "".join(c if c.isalnum() else "-" for c in label).strip("-") + ".zip"
        chosen, _ = ask_save(self._window, "Hand this lap on", name, PARCELS)
        if chosen:
            self._copies.hand_on(key, Path(chosen), names=names, notes=notes)

    def ask_what_came(self) -> None:
        """Choose what was handed on."""
        name = ask_open(self._window, "Take in what was handed on", PARCELS)
        if name:
            self.take_in(Path(name))

    def take_in(self, path: Path) -> None:
        """Look at what was handed on, and ask before anything of it is stored."""
        self._copies.look_into(path, self._show_parcel)

    def _show_parcel(self, parcel: Parcel, brings: Brings) -> None:
        dialog = TakeInDialog(parcel, brings, self._window)
        dialog.wanted.connect(lambda circuit: self._copies.take_in(parcel, circuit=circuit))
        dialog.show()

    def go_home(self) -> None:
        """Back to the usual shelf, from the demo or from another place."""
        from jete.library.location import usual_location

        self.leave_fields()
        place, folder = settings.shelf_place() if self._demo else ("", "")
        try:
            location = usual_location(place, folder)
        except InputError as error:
            self._shelf.failed.emit(error)
            return
        self._shelf.open(location, then=lambda: self._on_shelf_opened(place, folder))

    def open_demo(self) -> None:
        """Open the demo's shelf and go to the ledger."""
        self.leave_fields()
        location = demo.demo_location()
        if not self._store.session.runs:
            self.first_wanted.emit(location)
        self._shelf.open(location, then=self._fill_demo)

    def open_own(self) -> None:
        """Open the shelf of the last time, at a start."""
        from jete.library.location import usual_location

        try:
            location = usual_location(*settings.shelf_place())
        except InputError as error:
            self._shelf.failed.emit(error)
            return
        self.first_wanted.emit(location)
        self._shelf.open(location)

    def _fill_demo(self) -> None:
        self._demo = True
        self._store.look_at(lambda s: ops.go_to_page(s, "ledger"))
        known = {Path(r.path).stem for r in self._store.session.runs}
        for name in demo.RUNS:
            if name not in known:
                self._imports.open_files([demo.file_of(name)], demo.RUNS[name])
        self._on_changed(self._store.session, Changed.RUNS)
        if not known:
            self._imports.ended.connect(self._know_demo_circuit)
        else:
            self._show_demo_films()

    def _know_demo_circuit(self) -> None:
        """What the demo's team knows of its circuit, and its tags, once its runs are there."""
        self._imports.ended.disconnect(self._know_demo_circuit)
        if self._demo:
            self._shelf.change_behind(demo.note_circuit_and_guide, self._show_demo_films)

    def _show_demo_films(self) -> None:
        """The films that ship with the demo; where nothing reads films, the demo is whole without."""
        self._shelf.change_behind(
            demo.note_films,
            lambda: None,
            lambda error: self._shelf.told.emit(str(error)),
        )

    def _on_changed(self, session: Session, flags: Changed) -> None:
        """The demo begins with the pair that its guide speaks of."""
        if not self._demo or Changed.RUNS not in flags or session.settled:
            return
        runs = [next((r for r in session.runs if Path(r.path).stem == name), None) for name in demo.PAIR]
        best = [LapKey(r.number, r.best.number) for r in runs if r is not None and r.best is not None]
        if len(best) == len(demo.PAIR):
            self._store.look_at(lambda s: ops.settle(s, Choice(best[0], best[1])))

    def _on_came(self, path: Path) -> None:
        self._imports.open_files([path])

    def _on_found(self, found: Sequence[Finding]) -> None:
        tell_found(self._window, [(f.what, f.where, f.done) for f in found])

    def _on_newer(self, error: InputError) -> None:
        """A library of a newer version: it may be looked at."""
        box = ask(self._window, "A newer shelf", f"{error.where}\n{error.what}", error.mend, "Open to read only")
        box.accepted.connect(self._open_read_only)

    def _open_read_only(self) -> None:
        self._shelf.open(read_only=True)

    def _on_damaged(self, error: InputError) -> None:
        """A damaged database: it stays until a person says that a snapshot is to take its place."""
        more = "The damaged database goes into the folder 'quarantine'; its newest sound copy takes its place."
        box = ask(self._window, "The shelf is damaged", f"{error.where}\n{error.what}", more, "Mend it")
        box.accepted.connect(self._mend)

    def _mend(self) -> None:
        self._shelf.open(mend=True)

    def _on_strangers(self, runs: list[int]) -> None:
        """Runs that an earlier version noted under a circuit they were not driven on."""
        count = f"{len(runs)} runs are" if len(runs) > 1 else "One run is"
        names = [r.name for n in runs if (r := self._store.session.run(n)) is not None]
        box = ask(
            self._window, "Another circuit", f"{count} noted under a circuit that their path does not follow.",
            f"{', '.join(names[:8])}{' and others' if len(names) > 8 else ''}\n\n"
            "They can be put under circuits of their own. That can be undone.", "Part them",
        )  # fmt: skip
        box.accepted.connect(lambda: self._shelf.other_places(runs, self._shelf.notebook.part))

    def ask_for_columns(self, path: Path, error: object) -> None:
        """Ask what the columns of a file are."""
        from jete.views.mapping import MappingSheet

        sheet = MappingSheet(path, error, self._store.session.display.theme, self._window)  # type: ignore[arg-type]
        sheet.chosen.connect(self._imports.read_again)
        sheet.show()

    def ask_for_line(self) -> None:
        """Show the start line of the shown run on its path, to be moved."""
        run = ops.shown_run(self._store.session)
        if run is not None:
            self._shelf.path_of(run.number, self._show_line)

    def _show_line(self, loaded: tuple[int, tuple[tuple[Channel, Channel], FloatArray] | None, LineSource]) -> None:
        run, path, line = loaded
        if path is None:
            self._shelf.told.emit("This run has no positions: its laps are told by their numbers or distances.")
            return
        from jete.views.start_line import StartLineDialog

        dialog = StartLineDialog(run, *path, line, self._store.session.display.theme, self._window)
        dialog.chosen.connect(self._shelf.notebook.split_again)
        dialog.show()

    def show_bin(self) -> BinDialog:
        """The runs in the bin, to be taken out again."""
        dialog = BinDialog(self._shelf, self._window)
        dialog.show()
        return dialog
