"""The window: pages in the order of the work, the ribbon under every page, menus and keys."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QIcon, QKeySequence
from PyQt6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QProgressBar,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from jete.app import settings, theme
from jete.app.actions import ACTIONS, MENUS, Action, key_hint
from jete.app.dialogs import tell_input_error, tell_unforeseen
from jete.app.errors import write_log
from jete.app.film_keeper import FilmKeeper
from jete.app.player import Player
from jete.app.rehearsal import Rehearsal
from jete.core.errors import InputError
from jete.session import operations as ops
from jete.session.state import PAGES, Changed, Session
from jete.views.as_left import AsLeft
from jete.views.circuit import CircuitEditing
from jete.views.corner.page import CornerPage
from jete.views.files import ShelfFiles
from jete.views.guide.page import GuidePage
from jete.views.keys import KeysDialog
from jete.views.labels import ElidedLabel, plain
from jete.views.laps.page import LapsPage
from jete.views.ledger.page import LedgerPage
from jete.views.pair import PairLabel
from jete.views.ribbon import Ribbon
from jete.views.traces.corner import CornerTraces
from jete.views.traces.panels_dialog import PanelsDialog
from jete.views.traces.widget import Traces
from jete.views.unsaved import UnsavedMark
from jete.views.walk.page import WalkPage

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.app.analysis import Analyst
    from jete.app.copies import Copies
    from jete.app.guide_keeper import GuideKeeper
    from jete.app.imports import Import, ImportQueue, Outcome
    from jete.app.pass_keeper import PassKeeper
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks

PAGE_TITLES = {"laps": "Laps", "ledger": "Ledger", "corner": "Corner", "walk": "Walk", "guide": "Guide"}
TOLD_MS = 8000


class Window(QMainWindow):
    """Frame, menus and the things no page can do by itself."""

    def __init__(
        self,
        store: SessionStore,
        shelf: Shelf,
        imports: ImportQueue,
        copies: Copies,
        analyst: Analyst,
        passes: PassKeeper,
        guides: GuideKeeper,
        tasks: Tasks,
    ) -> None:
        super().__init__()
        self._store, self._shelf, self._analyst, self._tasks = store, shelf, analyst, tasks
        self._imports, self._copies, self._guides = imports, copies, guides
        self.actions_by_id: dict[str, QAction] = {}
        self.setWindowTitle("Jete")
        self.setWindowIcon(QIcon(str(theme.ASSETS / "jete.svg")))
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.laps = LapsPage(store, shelf)
        self.files = ShelfFiles(self, store, shelf, imports, copies)
        self.traces = Traces(store)
        self.ledger = LedgerPage(store, self.traces)
        self.corner_traces = CornerTraces(store)
        self.corner_page = CornerPage(store, shelf, passes, self.corner_traces)
        player = Player(store, tasks)
        films = FilmKeeper(store, tasks, shelf, player)
        self.walk_page = WalkPage(store, player, Rehearsal(store, tasks, shelf), films)
        self.guide_page = GuidePage(store, guides, films)
        self.circuit = CircuitEditing(self, store, shelf, passes)
        self.ribbon = Ribbon(store)
        self._pages = QStackedWidget()
        # In the order of PAGES.
        for page in (self.laps, self.ledger, self.corner_page, self.walk_page, self.guide_page):
            self._pages.addWidget(page)
        self._page_buttons: dict[str, QPushButton] = {}
        self.pair = PairLabel(store)
        self.told = ElidedLabel()
        self._told_until = QTimer(self)
        self._told_until.setSingleShot(True)
        self._told_until.timeout.connect(self.told.clear)
        self.unsaved = UnsavedMark(shelf.writer)
        self._progress_row = QWidget()
        self._progress_text, self._progress = plain(), QProgressBar()
        self._as_left = AsLeft(self, store, shelf, self._splits())
        self._handlers = self._all_handlers()
        self._closed = False
        self._build()
        self._connect()
        self._as_left.take_up()
        self._show_page(store.session.look.page)
        self._enable(store.session)

    def _splits(self) -> dict[str, QSplitter]:
        """The splitters of the pages, by the names under which their sizes are kept."""
        return {
            "laps": self.laps.split, "ledger": self.ledger.split, "corner": self.corner_page.split, "corner-right": self.corner_page.right, "walk": self.walk_page.split, "guide": self.guide_page.split,
        }  # fmt: skip

    def _all_handlers(self) -> dict[str, Callable[[], object]]:
        """What each action of the table does that is no look at the session."""
        return {
            "cancel": self._imports.cancel,
            **self.files.handlers(self.laps.selected),
            **self.circuit.handlers(),
            "quit": self.close,
            "undo": self._store.undo,
            "redo": self._store.redo,
            "reference": self.laps.hold_reference,
            "compare": self.laps.hold_lap,
            "ideal": self.laps.hold_ideal,
            "over": self.laps.lay_over,
            "pin": self.laps.pin,
            "star": self.laps.star,
            "note": self.laps.type_note,
            "aside": self.laps.choose_aside,
            "remove": self.laps.remove_run,
            "search": self._search,
            "origin": self._go_to_origin,
            **{name: self._on_walk(act) for name, act in self.walk_page.handlers().items()},
            **self.guide_page.handlers(),
            "guide:write": lambda: self._write_guide(bag=False),
            "guide:bag": lambda: self._write_guide(bag=True),
            "panels": self.show_panels,
            "keys": self.show_keys,
        }

    def _build(self) -> None:
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(self._head())
        column.addWidget(self._pages, 1)
        column.addWidget(self._progress_bar())
        column.addWidget(self.ribbon)
        self.setCentralWidget(body)
        self._build_menus()

    def _head(self) -> QHBoxLayout:
        """Pages to the left, the pair in comparison to the right."""
        head = QHBoxLayout()
        head.setContentsMargins(theme.SPACE, 4, 2 * theme.SPACE, 0)
        for page in PAGES:
            button = QPushButton(PAGE_TITLES[page])
            button.setCheckable(True)
            button.setProperty("page", True)
            button.setAccessibleName(f"Page {PAGE_TITLES[page]}")
            button.setToolTip(key_hint(f"page:{page}"))
            button.setObjectName(f"page-{page}")
            button.clicked.connect(self._on_page_button)
            self._page_buttons[page] = button
            head.addWidget(button)
        self.told.setObjectName("told")
        self.told.setAccessibleName("What was just done")
        self.told.setProperty("muted", True)
        self.told.setAlignment(Qt.AlignmentFlag.AlignVCenter)
        head.addSpacing(2 * theme.SPACE)
        head.addWidget(self.told, 1)
        head.addWidget(self.unsaved)
        head.addSpacing(theme.SPACE)
        head.addWidget(self.pair)
        return head

    def _progress_bar(self) -> QWidget:
        row = QHBoxLayout(self._progress_row)
        row.setContentsMargins(2 * theme.SPACE, 4, 2 * theme.SPACE, 4)
        stop = QPushButton("Stop")
        stop.setToolTip(key_hint("cancel"))
        stop.setAccessibleName("Stop reading")
        stop.clicked.connect(self._imports.cancel)
        self._progress.setTextVisible(False)
        self._progress.setAccessibleName("Reading")
        for widget in (self._progress_text, self._progress, stop):
            row.addWidget(widget)
        self._progress_row.hide()
        return self._progress_row

    def _build_menus(self) -> None:
        bar = self.menuBar()
        if bar is None:
            return
        menus = {name: QMenu(name, self) for name in MENUS}
        for menu in menus.values():
            bar.addMenu(menu)
        for action in ACTIONS:
            item = QAction(action.text, self)
            item.setShortcuts([QKeySequence(k) for k in action.keys])
            item.setData(action)
            item.setCheckable(action.checked is not None)
            # A key that is held down turns a switch once.
            item.setAutoRepeat(action.checked is None)
            item.triggered.connect(self._on_action)
            menus[action.menu].addAction(item)
            self.actions_by_id[action.id] = item

    def _connect(self) -> None:
        self._store.changed.connect(self._on_changed)
        self.files.first_wanted.connect(self._as_left.show_last_view)
        self._shelf.take_up = self._as_left.take_up_shelf
        self._analyst.failed.connect(self._on_failed)
        self.walk_page.films.failed.connect(self._on_failed)
        self._guides.failed.connect(self._on_failed)
        for part in (self._shelf, self._imports, self._copies):
            part.failed.connect(self._on_failed)
        for part in (self._imports, self._copies):
            part.progress.connect(self._on_progress)
        for part in (self._shelf, self._copies):
            part.told.connect(self._on_told)
        self._imports.ended.connect(self._on_imported)
        self.laps.imported.columns_wanted.connect(self.files.ask_for_columns)
        self.ribbon.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.ribbon.customContextMenuRequested.connect(self._on_ribbon_menu)
        self.laps.open_wanted.connect(self.files.ask_for_files)
        self.laps.demo_wanted.connect(self.files.open_demo)

    def _on_action(self) -> None:
        sender = self.sender()
        if isinstance(sender, QAction):
            self.run_action(sender.data())

    def run_action(self, action: Action) -> None:
        """Do what an action of the table says."""
        if action.look is not None:
            self._store.look_at(action.look)
        else:
            self._handlers[action.id]()
        self._enable(self._store.session)

    def _on_page_button(self) -> None:
        sender = self.sender()
        page = next((p for p, b in self._page_buttons.items() if b is sender), "laps")
        self._store.look_at(lambda s: ops.go_to_page(s, page))
        self._show_page(self._store.session.look.page)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if Changed.PAGE in flags:
            self._show_page(session.look.page)
            self._enable(session)
        if Changed.DISPLAY in flags:
            self._show_display(session)
        if Changed.UNDO in flags:
            self._enable(session)
        if flags & (Changed.CHOICE | Changed.RESULT | Changed.RUNS | Changed.DISPLAY):
            self._enable(session)

    def _show_display(self, session: Session) -> None:
        app = QApplication.instance()
        if isinstance(app, QApplication):
            theme.apply(app, theme.THEMES[session.display.theme])
        settings.save(session.display)

    def _show_page(self, page: str) -> None:
        self._pages.setCurrentIndex(PAGES.index(page))
        for name, button in self._page_buttons.items():
            button.setChecked(name == page)

    def _enable(self, session: Session) -> None:
        """Actions that can't be done now are greyed; undo says what it undoes."""
        for action in ACTIONS:
            item = self.actions_by_id[action.id]
            item.setEnabled(action.enabled(session))
            if action.checked is not None:
                item.setChecked(action.checked(session))
        for name, text in (("undo", self._store.undo_text), ("redo", self._store.redo_text)):
            self.actions_by_id[name].setEnabled(text is not None)
            self.actions_by_id[name].setText(f"{name.capitalize()} {text}" if text else name.capitalize())

    def _on_failed(self, error: Exception) -> None:
        if isinstance(error, InterruptedError):
            return
        if isinstance(error, InputError):
            tell_input_error(self, error)
            return
        tell_unforeseen(error, write_log(error))

    def _on_progress(self, name: str, done: int, total: int) -> None:
        self._progress_row.setVisible(bool(name))
        self._progress_text.setText(f"Reading {name}")
        self._progress.setRange(0, total)
        self._progress.setValue(done)

    def _on_imported(self, done: Import) -> None:
        """One answer to an import: a box for one file that can't be used, a line for one that was known, else the summary."""
        if len(done.outcomes) == 1 and done.outcomes[0].fate != "in":
            self._tell_outcome(done.outcomes[0])
        elif done.noted and not done.of("refused", "unknown columns"):
            self._on_told(done.summary)
        else:
            self.laps.imported.show_import(done, ops.unnamed_circuit(self._store.session, done.runs("in")))
            if done.of("refused", "unknown columns"):
                self._store.look_at(lambda s: ops.go_to_page(s, "laps"))

    def _tell_outcome(self, outcome: Outcome) -> None:
        if outcome.fate == "known":
            self._on_told(f"{outcome.path.name} is on the shelf already.")
        elif outcome.fate == "unknown columns":
            self.files.ask_for_columns(outcome.path, outcome.error)
        elif isinstance(outcome.error, InputError):
            tell_input_error(self, outcome.error)

    def open_demo(self) -> None:
        """Open the demo and go to its ledger."""
        self.files.open_demo()

    def _on_walk(self, act: Callable[[], object]) -> Callable[[], object]:
        """An act of the page Walk, which is gone to first."""

        def run() -> None:
            self._store.look_at(lambda s: ops.go_to_page(s, "walk"))
            act()

        return run

    def _write_guide(self, *, bag: bool) -> None:
        """Write the guide, or its page for the helmet bag; it is looked at first."""
        if self._store.session.look.page != "guide":
            self._store.look_at(lambda s: ops.go_to_page(s, "guide"))
        self.guide_page.ask_where_to(bag=bag)

    def _on_ribbon_menu(self, at: QPoint) -> None:
        """The circuit is edited on the ribbon too: the place goes there, and what can be done with it is offered."""
        if self._store.session.lay.length_m <= 0.0:
            return
        place = self.ribbon.place(float(at.x()))
        self._store.look_at(lambda s: ops.go_to(s, place))
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.addActions([self.actions_by_id[a.id] for a in ACTIONS if a.menu == "Circuit"])
        menu.popup(self.ribbon.mapToGlobal(at))

    def _go_to_origin(self) -> None:
        """To the corner where the selected one's loss began."""
        origin = self.ledger.origin()
        if origin is None:
            self._on_told("Nothing was carried into this corner: what it cost began here.")
            return
        self._store.look_at(lambda s: ops.select_corner(s, origin))

    def _search(self) -> None:
        self._store.look_at(lambda s: ops.go_to_page(s, "laps"))
        self.laps.focus_search()

    def _on_told(self, text: str) -> None:
        """Something quiet to know, for a few seconds; a window that has closed says nothing any more."""
        if self._closed:
            return
        self.told.setText(text)
        self._told_until.start(TOLD_MS)

    def show_keys(self) -> None:
        """The list of keys."""
        self._show_dialog(KeysDialog(self))

    def show_panels(self) -> None:
        """Which panels are shown."""
        self._show_dialog(PanelsDialog(self._store, self))

    def _show_dialog(self, dialog: KeysDialog | PanelsDialog) -> None:
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.show()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:  # noqa: N802 - Qt's name
        """Files may be dropped anywhere."""
        data = event.mimeData() if event else None
        if event and data and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:  # noqa: N802 - Qt's name
        """Open what was dropped."""
        data = event.mimeData() if event else None
        if data:
            self.files.open_dropped([Path(u.toLocalFile()) for u in data.urls() if u.isLocalFile()])

    def closeEvent(self, event: QCloseEvent | None) -> None:  # noqa: N802 - Qt's name
        """Save what is being typed, remember where one was, and stop background work before the window goes."""
        self.files.leave_fields()
        if not self._shelf.writer.settle() and event is not None:
            event.ignore()
            self.unsaved.ask_before_closing(self)
            return
        self._closed = True
        self._as_left.remember()
        self.files.close()
        self._tasks.close()
        for timer in self.findChildren(QTimer):
            timer.stop()
        location = self._shelf.location
        self._shelf.close()
        self._shelf.writer.close()
        self._as_left.keep_view(location)
        super().closeEvent(event)
