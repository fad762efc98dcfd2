"""The Laps page: the shelf of runs, the laps of one, what is noted, what is held against what."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import QItemSelectionModel, QModelIndex, QPoint, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QSplitter,
    QStackedLayout,
    QTableView,
    QTreeView,
    QVBoxLayout,
    QWidget,
)

from jete.app.actions import key_hint
from jete.app.theme import SMALL_PX, SPACE, TITLE_PX, font, scale
from jete.core.sheet import ASIDE, LapNote
from jete.session import operations as ops
from jete.session.state import IDEAL, Changed, LapKey, Session
from jete.views import tables
from jete.views.laps.chart import RunChart, words_of
from jete.views.laps.delegate import LAP_PX, LapsDelegate
from jete.views.laps.held import HeldLap
from jete.views.laps.model import FIRST, HOLD, LAP, NOTE, SECOND, STATE, THIRD, TIME, TO_BEST, LapsModel, rows_of
from jete.views.laps.sheet_form import SheetForm
from jete.views.laps.tree import RUN, FoundRuns

if TYPE_CHECKING:
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.session.state import Run

EMPTY = "Nothing is on the shelf yet."
EMPTY_HOW = (
    "Drop logs or whole folders on this window, or open them: CSV, Parquet, Arrow, MDF 4, GPX, NMEA, JSON Lines, packed or not. "
    "They stay on the shelf. To look around first, open the demo: a club team's car and a motorcycle at Kestrel Sands."
)
SEARCH_MS = 120
WIDTHS = {HOLD: 114, LAP: 40, TIME: 78, TO_BEST: 74, FIRST: 68, SECOND: 64, THIRD: 64, STATE: 100}


class LapsPage(QWidget):
    """Reads the store; asks the shelf to note things down, and the window to open files or the demo."""

    open_wanted = pyqtSignal()
    demo_wanted = pyqtSignal()

    def __init__(self, store: SessionStore, shelf: Shelf) -> None:
        super().__init__()
        self._store, self._shelf = store, shelf
        self.model, self.runs = LapsModel(), FoundRuns()
        self.table, self.tree, self.search = QTableView(), QTreeView(), QLineEdit()
        self.title, self.words, self.notes, self.count = QLabel(), QLabel(), QLabel(), QLabel()
        self.chart, self.sheet = RunChart(store), SheetForm(store)
        self.reference, self.lap = HeldLap("reference"), HeldLap("lap")
        self._delegate = LapsDelegate(self._theme_name)
        self._listed: tuple[Run, ...] | None = None
        self._looked_for = ""
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(SEARCH_MS)
        self._stack = QStackedLayout(self)
        self._stack.addWidget(self._empty())
        self._stack.addWidget(self._full())
        self._connect()
        self._fill_tree()
        self._fill()

    def _theme_name(self) -> str:
        return self._store.session.display.theme

    def _connect(self) -> None:
        self._store.changed.connect(self._on_changed)
        self._later.timeout.connect(self._on_search)
        self.search.textEdited.connect(self._on_typed)
        self.model.note_typed.connect(self._on_note)
        self.sheet.typed.connect(self._shelf.notebook.note_run)
        self.sheet.refused.connect(self._shelf.failed)
        self.reference.dropped.connect(self._hold_as_reference)
        self.lap.dropped.connect(self._hold_as_lap)

    def _empty(self) -> QWidget:
        """What to do next, when nothing is on the shelf."""
        page = QWidget()
        title, how = QLabel(EMPTY), QLabel(EMPTY_HOW)
        title.setFont(font(TITLE_PX, bold=True))
        how.setWordWrap(True)
        how.setMaximumWidth(460)
        buttons = QHBoxLayout()
        for text, action, signal in (
            ("Open logs…", "open", self.open_wanted),
            ("Open the demo", "demo", self.demo_wanted),
        ):
            button = QPushButton(text)
            button.setToolTip(key_hint(action))
            button.setAccessibleName(text)
            button.clicked.connect(signal)
            buttons.addWidget(button)
        buttons.addStretch(1)
        column = QVBoxLayout(page)
        column.setContentsMargins(120, 90, 40, 40)
        column.setSpacing(2 * SPACE)
        column.addWidget(title)
        column.addWidget(how)
        column.addLayout(buttons)
        column.addStretch(1)
        return page

    def _full(self) -> QWidget:
        """The shelf to the left, the run in the middle, what is held and noted to the right."""
        split = QSplitter(Qt.Orientation.Horizontal)
        for part in (self._left(), self._middle(), self._right()):
            split.addWidget(part)
        split.setSizes([262, 768, 250])
        split.setStretchFactor(1, 1)
        split.setHandleWidth(1)
        split.setChildrenCollapsible(False)
        return split

    def _left(self) -> QWidget:
        part = QWidget()
        column = QVBoxLayout(part)
        column.setContentsMargins(SPACE, SPACE, 0, SPACE)
        self.search.setPlaceholderText("Search the shelf")
        self.search.setClearButtonEnabled(True)
        self.search.setAccessibleName("Search the shelf")
        self.search.setToolTip(key_hint("search"))
        self.search.setObjectName("search")
        self.tree.setModel(self.runs)
        self.tree.setObjectName("runs")
        self.tree.setAccessibleName("Runs by circuit and event")
        self.tree.setHeaderHidden(True)
        self.tree.setIndentation(12)
        self.tree.setUniformRowHeights(True)
        self.tree.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.tree.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        selection = self.tree.selectionModel()
        if selection is not None:
            selection.currentChanged.connect(self._on_run)
        self.count.setProperty("muted", True)
        self.count.setFont(font(SMALL_PX))
        for widget in (self.search, self.tree, self.count):
            column.addWidget(widget)
        return part

    def _middle(self) -> QWidget:
        part = QWidget()
        column = QVBoxLayout(part)
        column.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        self.title.setFont(font(TITLE_PX, bold=True))
        self.title.setObjectName("run-title")
        self.words.setObjectName("run-words")
        self.words.setWordWrap(True)
        self.notes.setProperty("muted", True)
        self.notes.setFont(font(SMALL_PX))
        self.notes.setWordWrap(True)
        self._set_up_table()
        column.addWidget(self.title)
        column.addWidget(self.words)
        column.addWidget(self.table, 1)
        column.addWidget(self.chart)
        column.addWidget(self.notes)
        return part

    def _right(self) -> QWidget:
        part = QWidget()
        column = QVBoxLayout(part)
        column.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        column.setSpacing(SPACE)
        column.addWidget(self.lap)
        column.addWidget(self.reference)
        actions = (
            ("Hold against it", "compare", self.hold_lap), ("As reference", "reference", self.hold_reference),
            ("Ideal lap of the run as reference", "ideal", self.hold_ideal),
            ("See where the time goes", "page:ledger", self._to_ledger),
        )  # fmt: skip
        row = QHBoxLayout()
        column.addLayout(row)
        for text, action, slot in actions:
            button = QPushButton(text)
            button.setToolTip(key_hint(action))
            button.setAccessibleName(text)
            button.clicked.connect(slot)
            if action in ("compare", "reference"):
                row.addWidget(button)
            else:
                column.addWidget(button)
        column.addSpacing(SPACE)
        column.addWidget(self.sheet, 1)
        return part

    def _set_up_table(self) -> None:
        self.table.setObjectName("laps")
        self.table.setModel(self.model)
        self.table.setItemDelegate(self._delegate)
        self.table.activated.connect(self._on_activated)
        self.table.setDragEnabled(True)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.doubleClicked.connect(self._on_double_click)
        self.table.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.table.customContextMenuRequested.connect(self._on_menu)
        tables.set_up(self.table, "Laps of the run", WIDTHS, NOTE, round(LAP_PX * scale()))

    # --- what the actions of the window ask for

    def selected(self) -> LapKey | None:
        """The lap that is selected in the table."""
        row = self.table.currentIndex().row()
        return self.model.rows[row].key if 0 <= row < len(self.model.rows) else None

    def hold_reference(self) -> None:
        """Hold the selected lap as the reference."""
        key = self.selected()
        if key is not None:
            self._hold_as_reference(key)

    def hold_ideal(self) -> None:
        """Hold the lap joined from the shown run's best passes as the reference."""
        run = ops.shown_run(self._store.session)
        if run is not None:
            self._hold_as_reference(LapKey(run.number, IDEAL))

    def hold_lap(self) -> None:
        """Hold the selected lap against the reference."""
        key = self.selected()
        if key is not None:
            self._hold_as_lap(key)

    def _hold_as_reference(self, key: LapKey) -> None:
        self._store.do("choice of the reference", lambda s: ops.choose_reference(s, key))

    def _hold_as_lap(self, key: LapKey) -> None:
        self._store.do("choice of the lap", lambda s: ops.choose_lap(s, key))

    def lay_over(self) -> None:
        """Lay the selected lap over the traces, or take it off."""
        key = self.selected()
        if key is not None:
            self._store.do("laps laid over", lambda s: ops.lay_over(s, key))

    def pin(self) -> None:
        """Always hold the selected lap against its circuit and class, or no longer."""
        key = self.selected()
        if key is not None:
            self._shelf.notebook.pin(key)

    def star(self) -> None:
        """Star the selected lap, or take the star off."""
        self._change_note(lambda n: replace(n, star=not n.star))

    def type_note(self) -> None:
        """Type a note on the selected lap."""
        index = self.table.currentIndex()
        if index.isValid():
            self.table.edit(self.model.index(index.row(), NOTE))

    def choose_aside(self) -> None:
        """Choose why the selected lap does not count."""
        index = self.table.currentIndex()
        viewport = self.table.viewport()
        if index.isValid() and viewport is not None:
            self._aside_menu().popup(viewport.mapToGlobal(self.table.visualRect(index).bottomLeft()))

    def set_aside(self, why: str) -> None:
        """Set the selected lap aside, or let it count again."""
        self._change_note(lambda n: replace(n, aside=why))

    def remove_run(self) -> None:
        """Put the shown run into the bin."""
        run = ops.shown_run(self._store.session)
        if run is not None:
            self._shelf.notebook.remove(run.number)

    def focus_search(self) -> None:
        """Type into the search."""
        self.search.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.search.selectAll()

    def _change_note(self, change: object) -> None:
        key = self.selected()
        run = self._store.session.run(key.run) if key else None
        if key is not None and run is not None:
            self._shelf.notebook.note_lap(key, change(run.notes.of(key.lap)))  # type: ignore[operator]

    def _aside_menu(self) -> QMenu:
        menu = QMenu(self)
        menu.setObjectName("aside-menu")
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for text, why in (("It counts", ""), *((f"Set aside: {w}", w) for w in ASIDE)):
            action = QAction(text, menu)
            action.setData(why)
            action.triggered.connect(self._on_aside)
            menu.addAction(action)
        return menu

    def _on_aside(self) -> None:
        sender = self.sender()
        if isinstance(sender, QAction):
            self.set_aside(str(sender.data()))

    def _on_menu(self, at: QPoint) -> None:
        index = self.table.indexAt(at)
        if index.isValid():
            self.table.setCurrentIndex(index)
            self.choose_aside()

    def _on_note(self, key: LapKey, text: str) -> None:
        run = self._store.session.run(key.run)
        old = run.notes.of(key.lap) if run else LapNote()
        self._shelf.notebook.note_lap(key, replace(old, note=text))

    def _on_activated(self, index: QModelIndex) -> None:
        if index.column() != NOTE:
            self._hold_as_lap(self.model.rows[index.row()].key)

    def _on_double_click(self, index: QModelIndex) -> None:
        if index.column() == NOTE:
            self.table.edit(index)

    def _to_ledger(self) -> None:
        self._store.look_at(lambda s: ops.go_to_page(s, "ledger"))

    def _on_typed(self, _: str) -> None:
        self._later.start()

    def _on_search(self) -> None:
        text = self.search.text()
        self._store.look_at(lambda s: ops.search(s, text))

    def _on_run(self, current: QModelIndex, _: QModelIndex) -> None:
        number = current.siblingAtColumn(0).data(RUN)
        shown = ops.shown_run(self._store.session)
        if number is not None and (shown is None or number != shown.number):
            self._store.look_at(lambda s: ops.select_run(s, int(number)))

    # --- what the state says

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.RUNS | Changed.SHELF):
            self._fill_tree()
        if flags & (
            Changed.RUNS | Changed.CHOICE | Changed.DISPLAY | Changed.RESULT | Changed.RUN_RESULT | Changed.SHELF
        ):
            self._fill()

    def _fill_tree(self) -> None:
        """The runs that the search holds, all open where they are few."""
        session = self._store.session
        runs, wanted = session.runs, session.look.search
        if runs is not self._listed or wanted != self._looked_for:
            self.runs.show(runs, wanted, changed=runs is not self._listed)
            self._listed, self._looked_for = runs, wanted
            self._size_columns()
            self._span_branches(QModelIndex())
            if self.runs.shown <= OPEN_MOST:
                self.tree.expandAll()
            total = len(runs)
            self.count.setText(f"{self.runs.shown} of {total} runs" if wanted else f"{total} runs")
        self._follow_run()

    def _size_columns(self) -> None:
        """The best times keep their width, the names take what is left."""
        header = self.tree.header()
        if header is not None and self.runs.columnCount() > 1:
            header.setStretchLastSection(False)
            header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
            header.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)

    def _span_branches(self, parent: QModelIndex) -> None:
        """Circuits and events go over both columns."""
        for row in range(self.runs.rowCount(parent)):
            index = self.runs.index(row, 0, parent)
            if self.runs.rowCount(index):
                self.tree.setFirstColumnSpanned(row, parent, True)
                self._span_branches(index)

    def _follow_run(self) -> None:
        """Select the shown run without saying so again."""
        run = ops.shown_run(self._store.session)
        index = self.runs.index_of(run.number if run else None)
        selection = self.tree.selectionModel()
        if index is not None and selection is not None and selection.currentIndex() != index:
            selection.setCurrentIndex(index, QItemSelectionModel.SelectionFlag.ClearAndSelect)
            self.tree.scrollTo(index)

    def _fill(self) -> None:
        session = self._store.session
        run = ops.shown_run(session)
        self._stack.setCurrentIndex(1 if session.runs else 0)
        self.model.show(rows_of(session, run))
        sheet = run.sheet if run else None
        self.title.setText(" · ".join(p for p in ((run.name if run else ""), sheet.vehicle if sheet else "") if p))
        self.words.setText(words_of(run) + _alike(self._store) if run else "")
        self.notes.setText(_notes_text(session))
        self.notes.setVisible(bool(self.notes.text()))
        ideal = session.choice.reference is not None and session.choice.reference.lap == IDEAL
        compared = self._store.comparison if ideal else None
        self.reference.show_lap(
            session, session.choice.reference, compared.reference.lap.span.time_s if compared else None
        )
        self.lap.show_lap(session, session.choice.lap)
        if not self.table.currentIndex().isValid():
            self._select(session.choice.lap)

    def _select(self, key: LapKey | None) -> None:
        row = next((i for i, r in enumerate(self.model.rows) if r.key == key and key is not None), None)
        if row is not None:
            self.table.setCurrentIndex(self.model.index(row, 0))


OPEN_MOST = 60


def _alike(store: SessionStore) -> str:
    """The corners that are driven most and least alike, once that has been found out."""
    found = store.evenness
    if found is None:
        return ""
    return (
        f" · most alike corner {found.even} ±{found.even_s:.3f} s, least corner {found.uneven} ±{found.uneven_s:.3f} s"
    )


def _notes_text(session: Session) -> str:
    """What is wrong with the run's data, what was mended on reading, and what is pinned: quietly."""
    run = ops.shown_run(session)
    if run is None:
        return ""
    lines = [f"Its channel data {run.damaged}: import the log again, or restore a backup."] if run.damaged else []
    if run.repairs:
        lines.append(
            "Mended on reading: " + "; ".join(f"{r.channel}: {r.what} ({r.count})" for r in run.repairs[:8]) + "."
        )
    pinned = session.pin_of(run)
    if pinned is not None:
        lines.append(f"Always held against: {session.label(pinned)}.")
    return "\n".join(lines)
