"""The Laps page: the shelf of runs, the laps of one, what is noted, what is compared with what."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import (
    QInputDialog,
    QMenu,
    QSplitter,
    QStackedLayout,
    QVBoxLayout,
)

from jete.core.errors import InputError
from jete.notes.sheet import ASIDE_WORDS, LapNote
from jete.report.targets import seconds_of
from jete.report.words import lap_time
from jete.session import operations as ops
from jete.session.state import IDEAL, Changed, LapKey, Session
from jete.views.following import Following
from jete.views.laps.empty import EmptyShelf
from jete.views.laps.imported import ImportedPanel
from jete.views.laps.run_panel import RunPanel
from jete.views.laps.shelf_list import ShelfList
from jete.views.laps.side import SidePanel
from jete.views.page import Page

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.app.parts import Parts
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore

SIZES = [262, 768, 250]
NO_LAP = "No lap is selected: click one in the table of the run first, or go there by Tab and the arrow keys."


def make(parts: Parts) -> LapsPage:
    """The page on what stands behind the window."""
    page = LapsPage(parts.store, parts.shelf)
    page.target_wanted.connect(parts.targets.set)
    parts.targets.failed.connect(parts.shelf.failed)
    page.imported.columns_wanted.connect(parts.imports.columns_wanted)
    return page


class LapsPage(Page):
    """Reads the store; asks the shelf to note things down, and the window to open files or the demo."""

    target_wanted = pyqtSignal(object)

    def __init__(self, store: SessionStore, shelf: Shelf) -> None:
        super().__init__()
        self._store, self._shelf = store, shelf
        self.list, self.run, self.side, self.imported = (
            ShelfList(store), RunPanel(store), SidePanel(store), ImportedPanel()
        )  # fmt: skip
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self._empty = EmptyShelf(store)
        self._stack = QStackedLayout()
        self._build()
        self._connect()
        self._fill()

    def _build(self) -> None:
        for part in (self.list, self.run, self.side):
            self.split.addWidget(part)
        self.split.setSizes(SIZES)
        self.split.setStretchFactor(1, 1)
        self.split.setHandleWidth(1)
        self.split.setChildrenCollapsible(False)
        self._stack.addWidget(self._empty)
        self._stack.addWidget(self.split)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.imported)
        column.addLayout(self._stack, 1)

    def _connect(self) -> None:
        Following(self, self._store, self._on_changed)
        self.run.model.note_typed.connect(self._on_note)
        self.run.lap_wanted.connect(self._choose_lap)
        self.run.menu_wanted.connect(self.choose_aside)
        self.side.sheet.typed.connect(self._shelf.notebook.note_runs)
        self.side.sheet.refused.connect(self._shelf.failed)
        self.side.reference.dropped.connect(self._choose_reference)
        self.side.lap.dropped.connect(self._choose_lap)
        self.side.wanted.connect(self.wanted)
        self._empty.wanted.connect(self.wanted)
        self.imported.noted.connect(self._on_asked)
        self.imported.guessed.connect(self._on_guessed)

    # --- what the actions of the window ask for

    def handlers(self) -> dict[str, Callable[[], object]]:
        """What the actions of the table do here."""
        return {
            "reference": self.hold_reference, "compare": self.hold_lap, "ideal": self.hold_ideal, "over": self.lay_over,
            "pin": self.pin, "star": self.star, "note": self.type_note, "aside": self.choose_aside, "remove": self.remove_run,
            "search": self.search, "target": self.ask_for_target,
        }  # fmt: skip

    def ask_for_target(self) -> None:
        """Ask for the time that the shown run's driver wants to reach; nothing typed drops it."""
        run, way = ops.shown_run(self._store.session), self._store.target
        if run is None:
            return
        text, sure = QInputDialog.getText(
            self, "A time to reach",
            f"{' · '.join(x for x in (run.sheet.driver, run.sheet.circuit, run.sheet.group) if x)} (empty: none):",
            text=lap_time(way.target.time_s) if way is not None else "",
        )  # fmt: skip
        if not sure:
            return
        try:
            self.target_wanted.emit(seconds_of(text) if text.strip() else None)
        except InputError as error:
            self._shelf.failed.emit(error)

    def splits(self) -> dict[str, QSplitter]:
        """Shelf, run and sheet."""
        return {"laps": self.split}

    def selected(self) -> LapKey | None:
        """The lap that is selected in the table."""
        return self.run.selected()

    def _wanted(self) -> LapKey | None:
        """The selected lap; where there is none, that is told, and how to select one."""
        key = self.selected()
        if key is None:
            self._shelf.told.emit(NO_LAP)
        return key

    def hold_reference(self) -> None:
        """Use the selected lap as the reference."""
        key = self._wanted()
        if key is not None:
            self._choose_reference(key)

    def hold_ideal(self) -> None:
        """Use the lap joined from the shown run's best passes as the reference."""
        run = ops.shown_run(self._store.session)
        if run is not None:
            self._choose_reference(LapKey(run.number, IDEAL))

    def hold_lap(self) -> None:
        """Compare the selected lap with the reference."""
        key = self._wanted()
        if key is not None:
            self._choose_lap(key)

    def _choose_reference(self, key: LapKey) -> None:
        if not self._refused(key):
            self._store.do("choice of the reference", lambda s: ops.choose_reference(s, key))

    def _choose_lap(self, key: LapKey) -> None:
        if not self._refused(key):
            self._store.do("choice of the lap", lambda s: ops.choose_lap(s, key))

    def _refused(self, key: LapKey) -> bool:
        """Whether a lap can't be compared; then that is told, and nothing changes."""
        session = self._store.session
        why = ops.why_not(session, key)
        if why is not None:
            self._shelf.failed.emit(InputError(session.label(key), why, "Choose a complete lap."))
        return why is not None

    def lay_over(self) -> None:
        """Lay the selected lap over the traces, or take it off."""
        key = self._wanted()
        if key is not None and not self._refused(key):
            self._store.do("laps laid over", lambda s: ops.lay_over(s, key))

    def pin(self) -> None:
        """Pin the selected lap as the reference of its circuit and class, or no longer."""
        key = self._wanted()
        if key is not None and not self._refused(key):
            self._shelf.notebook.pin(key)

    def star(self) -> None:
        """Star the selected lap, or take the star off."""
        self._change_note(lambda n: replace(n, star=not n.star))

    def type_note(self) -> None:
        """Type a note on the selected lap."""
        self.run.type_note()

    def choose_aside(self) -> None:
        """Choose why the selected lap does not count."""
        at = self.run.below_selected()
        if at is not None:
            self._aside_menu().popup(at)

    def set_aside(self, why: str) -> None:
        """Let the selected lap not count, for a reason, or count again."""
        self._change_note(lambda n: replace(n, aside=why))

    def remove_run(self) -> None:
        """Put the shown run into the bin."""
        run = ops.shown_run(self._store.session)
        if run is not None:
            self._shelf.notebook.remove(run.number)

    def search(self) -> None:
        """Go here and type into the search."""
        self._store.look_at(lambda s: ops.go_to_page(s, "laps"))
        self.list.focus_search()

    def _change_note(self, change: Callable[[LapNote], LapNote]) -> None:
        key = self._wanted()
        run = self._store.session.run(key.run) if key else None
        if key is not None and run is not None:
            self._shelf.notebook.note_lap(key, change(run.notes.of(key.lap)))

    def _aside_menu(self) -> QMenu:
        menu = QMenu(self)
        menu.setObjectName("aside-menu")
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for text, why in (("It counts", ""), *((f"Does not count: {w}", k) for k, w in ASIDE_WORDS.items())):
            action = QAction(text, menu)
            action.setData(why)
            action.triggered.connect(self._on_aside)
            menu.addAction(action)
        return menu

    def _on_aside(self) -> None:
        sender = self.sender()
        if isinstance(sender, QAction):
            self.set_aside(str(sender.data()))

    def _on_note(self, key: LapKey, text: str) -> None:
        run = self._store.session.run(key.run)
        old = run.notes.of(key.lap) if run else LapNote()
        self._shelf.notebook.note_lap(key, replace(old, note=text))

    def _on_asked(self, runs: list[int], answers: dict[str, str]) -> None:
        """Note on all new runs what was answered."""
        sheets = ops.with_answers(self._store.session, runs, answers)
        self._shelf.notebook.note_runs(sheets)

    def _on_guessed(self, answers: dict[int, dict[str, str]]) -> None:
        """Note on each new run what was guessed and agreed to, as one step."""
        session = self._store.session
        sheets = {n: s for n, found in answers.items() for s in ops.with_answers(session, [n], found).values()}
        self._shelf.notebook.note_runs(sheets)

    # --- what the state says

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & Changed.RUNS:
            self._fill()

    def _fill(self) -> None:
        self._stack.setCurrentIndex(1 if self._store.session.runs else 0)
