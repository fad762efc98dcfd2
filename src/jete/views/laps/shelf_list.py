"""The left of the Laps page: all runs by circuit and day, and the search among them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QItemSelection, QItemSelectionModel, QModelIndex, Qt, QTimer
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QLineEdit, QTreeView, QVBoxLayout, QWidget

from jete.app.actions import key_hint
from jete.app.theme import SPACE
from jete.session import operations as ops
from jete.session.state import Changed, Session
from jete.views.following import Following
from jete.views.labels import plain
from jete.views.laps.tree import RUN, FoundRuns

if TYPE_CHECKING:
    from jete.app.store import SessionStore
    from jete.session.state import Run

SEARCH_MS = 120
OPEN_MOST = 60
NARROWEST_PX = 190
DROP_HERE = "Drop logs or folders anywhere here."


class ShelfList(QWidget):
    """Selecting a run shows its laps; several can be chosen, to be noted at once."""

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self.runs, self.tree, self.search = FoundRuns(), QTreeView(), QLineEdit()
        self.count = plain(small=True, muted=True)
        self._listed: tuple[Run, ...] | None = None
        self._looked_for = ""
        self._following = False
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(SEARCH_MS)
        self._later.timeout.connect(self._on_search)
        self._build()
        Following(self, store, self._on_changed)
        self._fill()

    def _build(self) -> None:
        self.setMinimumWidth(NARROWEST_PX)
        self.search.setPlaceholderText("Search the shelf")
        self.search.setClearButtonEnabled(True)
        self.search.setAccessibleName("Search the shelf")
        self.search.setToolTip(key_hint("search"))
        self.search.setObjectName("search")
        self.search.textEdited.connect(self._on_typed)
        self.tree.setModel(self.runs)
        self.tree.setObjectName("runs")
        self.tree.setAccessibleName("Runs by circuit and event")
        self.tree.setHeaderHidden(True)
        self.tree.setIndentation(12)
        self.tree.setUniformRowHeights(True)
        self.tree.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.tree.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.tree.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        selection = self.tree.selectionModel()
        if selection is not None:
            selection.selectionChanged.connect(self._on_selected)
        drop = plain(DROP_HERE, small=True, muted=True, wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(SPACE, SPACE, 0, SPACE)
        for widget in (self.search, self.tree, self.count, drop):
            column.addWidget(widget)

    def focus_search(self) -> None:
        """Type into the search."""
        self.search.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.search.selectAll()

    def _on_typed(self, _: str) -> None:
        self._later.start()

    def _on_search(self) -> None:
        text = self.search.text()
        self._store.look_at(lambda s: ops.search(s, text))

    def _on_selected(self, _: QItemSelection, __: QItemSelection) -> None:
        """Runs that a person chose; the one that has the focus is shown."""
        selection = self.tree.selectionModel()
        if self._following or selection is None:
            return
        numbers = tuple(sorted({int(n) for i in selection.selectedRows() if (n := i.data(RUN)) is not None}))
        current = self.tree.currentIndex().siblingAtColumn(0).data(RUN)
        if numbers:
            shown = int(current) if current in numbers else numbers[0]
            self._store.look_at(lambda s: ops.choose_runs(s, numbers, shown))

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if flags & (Changed.RUNS | Changed.SHELF | Changed.CHOICE):
            if self.search.text() != session.look.search and not self._later.isActive():
                self.search.setText(session.look.search)
            self._fill()

    def _fill(self) -> None:
        """The runs that the search holds, all open where they are few."""
        session = self._store.session
        runs, wanted = session.runs, session.look.search
        if runs is not self._listed or wanted != self._looked_for:
            self._following = True
            self.runs.show(runs, wanted, changed=runs is not self._listed)
            self._listed, self._looked_for = runs, wanted
            self._size_columns()
            self._span_branches(QModelIndex())
            if self.runs.shown <= OPEN_MOST:
                self.tree.expandAll()
            total = len(runs)
            self.count.setText(f"{self.runs.shown} of {total} runs" if wanted else f"{total} runs")
            self._following = False
        self._follow_runs()

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

    def _follow_runs(self) -> None:
        """Select the shown and the chosen runs without saying so again."""
        selection = self.tree.selectionModel()
        session = self._store.session
        run = ops.shown_run(session)
        if selection is None:
            return
        wanted = set(session.look.chosen) or ({run.number} if run else set())
        shown = {int(n) for i in selection.selectedRows() if (n := i.data(RUN)) is not None}
        if shown == wanted:
            return
        self._following = True
        selection.clearSelection()
        rows = QItemSelectionModel.SelectionFlag.Select | QItemSelectionModel.SelectionFlag.Rows
        for number in wanted:
            index = self.runs.index_of(number)
            if index is not None:
                selection.select(index, rows)
                if run is not None and number == run.number:
                    selection.setCurrentIndex(index, QItemSelectionModel.SelectionFlag.NoUpdate)
                    self.tree.scrollTo(index)
        self._following = False
