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
    QVBoxLayout,
    QWidget,
)

from jete.app import settings, theme
from jete.app.actions import ACTIONS, BY_ID, MENUS, Action, key_hint, submenu_of
from jete.app.dialogs import tell_input_error, tell_unforeseen
from jete.app.errors import write_log
from jete.app.help import GLOSSARY, OF_PAGE, word_in
from jete.app.pages import PAGES
from jete.core.errors import InputError
from jete.session import operations as ops
from jete.session.state import Changed, Session
from jete.views.as_left import AsLeft
from jete.views.circuit import CircuitEditing
from jete.views.files import ShelfFiles
from jete.views.help import HelpDialog, ask_about, text_under_pointer
from jete.views.keys import KeysDialog
from jete.views.labels import ElidedLabel, plain
from jete.views.laps.page import LapsPage
from jete.views.page import Page, Pages
from jete.views.pair import PairLabel
from jete.views.ribbon import Ribbon
from jete.views.tour import Tour
from jete.views.traces.panels_dialog import PanelsDialog
from jete.views.unsaved import UnsavedMark

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.app.imports import Import, Outcome
    from jete.app.parts import Parts
    from jete.session.state import LapKey

TOLD_MS = 8000


class Window(QMainWindow):
    """Frame, menus and the things no page can do by itself."""

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self._parts = parts
        self._store, self._shelf, self._tasks = parts.store, parts.shelf, parts.tasks
        self.actions_by_id: dict[str, QAction] = {}
        self.setWindowTitle("Jete")
        self.setWindowIcon(QIcon(str(theme.ASSETS / "jete.svg")))
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.files = ShelfFiles(self, parts.store, parts.shelf, parts.imports, parts.copies)
        self.circuit = CircuitEditing(self, parts.store, parts.shelf, parts.passes)
        self.ribbon = Ribbon(parts.store)
        self._page_buttons: dict[str, QPushButton] = {}
        self.pair = PairLabel(parts.store)
        self.told = ElidedLabel()
        self._told_until = QTimer(self)
        self._told_until.setSingleShot(True)
        self._told_until.timeout.connect(self.told.clear)
        self.unsaved = UnsavedMark(parts.shelf.writer)
        self._progress_row = QWidget()
        self._progress_text, self._progress = plain(), QProgressBar()
        self._as_left = AsLeft(self, parts.store, parts.shelf)
        self._pages = Pages(parts, self._on_page_made)
        self.tour = Tour(self, self._store, lambda name: self.findChild(QWidget, name))
        self._handlers = self._own_handlers()
        self._closed = False
        self._build()
        self._connect()
        self._as_left.take_up()
        self._show_page(parts.store.session.look.page)
        self._enable(parts.store.session)

    def page(self, name: str) -> Page:
        """A page as it would be seen now."""
        return self._pages.page(name)

    @property
    def laps(self) -> LapsPage:
        """The page that knows which lap is selected, and tells what an import brought."""
        page = self.page("laps")
        assert isinstance(page, LapsPage)
        return page

    def _on_page_made(self, page: Page) -> None:
        page.wanted.connect(self._on_wanted)
        self._as_left.take_up_splits(page)

    def _on_wanted(self, action: str) -> None:
        self.run_action(BY_ID[action])

    def _selected(self) -> LapKey | None:
        return self.laps.selected()

    def _own_handlers(self) -> dict[str, Callable[[], object]]:
        """What each action of the table does that is neither a look at the session nor a page's."""
        return {
            "cancel": self._parts.imports.cancel,
            **self.files.handlers(self._selected),
            **self.circuit.handlers(),
            "quit": self.close,
            "undo": self._store.undo,
            "redo": self._store.redo,
            "panels": self.show_panels,
            "keys": self.show_keys,
            "help": self.show_help,
            "glossary": lambda: ask_about(self, GLOSSARY, ""),
            "tour": self.tour.begin,
        }

    def show_help(self) -> HelpDialog:
        """The guide of the page that is seen; a word of the glossary where the pointer rests on one."""
        return ask_about(self, OF_PAGE[self._store.session.look.page], word_in(text_under_pointer()))

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
            button = QPushButton(page.title)
            button.setCheckable(True)
            button.setProperty("page", True)
            button.setAccessibleName(f"Page {page.title}")
            button.setToolTip(key_hint(f"page:{page.id}"))
            button.setObjectName(f"page-{page.id}")
            button.clicked.connect(self._on_page_button)
            self._page_buttons[page.id] = button
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
        stop.clicked.connect(self._parts.imports.cancel)
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
            self._menu_for(menus, action).addAction(item)
            self.actions_by_id[action.id] = item

    def _menu_for(self, menus: dict[str, QMenu], action: Action) -> QMenu:
        """The menu of an action, or the one in it, which is made where its first action stands."""
        name = submenu_of(action)
        if not name:
            return menus[action.menu]
        if name not in menus:
            menus[name] = QMenu(name, self)
            menus[action.menu].addMenu(menus[name])
        return menus[name]

    def _connect(self) -> None:
        self._store.changed.connect(self._on_changed)
        self.files.first_wanted.connect(self._as_left.show_last_view)
        self._shelf.take_up = self._as_left.take_up_shelf
        parts = self._parts
        for failing in (parts.analyst, parts.films, parts.guides, parts.shelf, parts.imports, parts.copies):
            failing.failed.connect(self._on_failed)
        for going in (parts.imports, parts.copies):
            going.progress.connect(self._on_progress)
        for telling in (parts.shelf, parts.copies):
            telling.told.connect(self._on_told)
        parts.imports.ended.connect(self._on_imported)
        self.ribbon.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.ribbon.customContextMenuRequested.connect(self._on_ribbon_menu)

    def _on_action(self) -> None:
        sender = self.sender()
        if isinstance(sender, QAction):
            self.run_action(sender.data())

    def run_action(self, action: Action) -> None:
        """Do what an action of the table says; what could not be seen is not done, and where it can is told."""
        page = next((p for p in PAGES if p.id == action.seen_on), None)
        if page is not None and page.id != self._store.session.look.page:
            self._on_told(f"{action.text}: on the page {page.title} ({page.key}).")
            return
        if action.look is not None:
            self._store.look_at(action.look)
        elif action.page:
            self.page(action.page).handlers()[action.id]()
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
        self._pages.show_page(page)
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
            session, new = self._store.session, done.runs("in")
            guesses = {} if done.noted else ops.guesses_for(session, done.said)
            self.laps.imported.show_import(done, ops.unnamed_circuit(session, new), guesses)
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
        self._as_left.remember(self._pages)
        self.files.close()
        self._tasks.close()
        for timer in self.findChildren(QTimer):
            timer.stop()
        location = self._shelf.location
        self._shelf.close()
        self._shelf.writer.close()
        self._as_left.keep_view(location)
        super().closeEvent(event)
