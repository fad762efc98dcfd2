"""The shelf as a tree: circuit, event, run; only what the search holds."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QModelIndex, QSortFilterProxyModel, Qt
from PyQt6.QtGui import QStandardItem, QStandardItemModel

from jete.app.theme import BODY_PX, font
from jete.notes.search import holds, text_of
from jete.report.words import counted, lap_time
from jete.views.labels import tip

if TYPE_CHECKING:
    from jete.session.state import Run

RUN = Qt.ItemDataRole.UserRole + 1
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
NO_CIRCUIT = "circuit not known"


class RunTree(QStandardItemModel):
    """All runs; built anew when one comes, goes or takes another place."""

    def __init__(self) -> None:
        super().__init__()
        self._runs: dict[int, Run] = {}
        self._leaves: dict[int, list[QStandardItem]] = {}

    def show(self, runs: tuple[Run, ...]) -> None:
        """Take over the runs."""
        before, self._runs = self._runs, {r.number: r for r in runs}
        others = [r for r in runs if before.get(r.number) is not r]
        if before.keys() == self._runs.keys() and all(_order(r) == _order(before[r.number]) for r in others):
            for run in others:
                _write(self._leaves[run.number], run)
            return
        self._lay(runs)

    def _lay(self, runs: tuple[Run, ...]) -> None:
        self.clear()
        self._leaves.clear()
        self.setColumnCount(2)
        circuits: dict[str, QStandardItem] = {}
        events: dict[tuple[str, str], QStandardItem] = {}
        for run in sorted(runs, key=_order):
            sheet = run.sheet
            circuit = " · ".join(p for p in (sheet.circuit or NO_CIRCUIT, sheet.layout) if p)
            event = " · ".join(p for p in (sheet.date, sheet.event) if p) or "no date noted"
            if circuit not in circuits:
                circuits[circuit] = _branch(self.invisibleRootItem(), circuit, bold=True)
            if (circuit, event) not in events:
                events[circuit, event] = _branch(circuits[circuit], event)
            self._leaves[run.number] = _leaves(run)
            events[circuit, event].appendRow(self._leaves[run.number])


class FoundRuns(QSortFilterProxyModel):
    """The runs that hold what is looked for, under their circuits and events; the text of a run is made once."""

    def __init__(self) -> None:
        super().__init__()
        self._texts: dict[int, tuple[Run, str]] = {}
        self._found: set[int] | None = None
        self.tree = RunTree()
        self.shown = 0
        self.setRecursiveFilteringEnabled(True)
        self.setSourceModel(self.tree)

    def show(self, runs: tuple[Run, ...], wanted: str, *, changed: bool) -> None:
        """Take over the runs where they have changed, and keep those that hold what is looked for."""
        if changed:
            self.tree.show(runs)
        found = {r.number for r in runs if holds(self._text(r), wanted)} if wanted.strip() else None
        self.shown = len(runs) if found is None else len(found)
        if found != self._found:
            self._found = found
            self.invalidate()

    def _text(self, run: Run) -> str:
        kept = self._texts.get(run.number)
        if kept is None or kept[0] is not run:
            kept = self._texts[run.number] = (run, text_of(run.sheet, run.notes, f"{run.name} {run.path}"))
        return kept[1]

    def filterAcceptsRow(self, row: int, parent: QModelIndex) -> bool:  # noqa: N802 - Qt's name
        """Runs that were found; circuits and events follow from them."""
        if self._found is None:
            return True
        return self.tree.index(row, 0, parent).data(RUN) in self._found

    def index_of(self, number: int | None) -> QModelIndex | None:
        """Where a run stands, or None."""
        if number is None or self.rowCount() == 0:
            return None
        how = Qt.MatchFlag.MatchExactly | Qt.MatchFlag.MatchRecursive
        found = self.tree.match(self.tree.index(0, 0), RUN, number, 1, how)
        index = self.mapFromSource(found[0]) if found else QModelIndex()
        return index if index.isValid() else None


def _order(run: Run) -> tuple[object, ...]:
    """By circuit; the newest day first, within it in the order of the clock."""
    sheet = run.sheet
    newest_first = tuple(-ord(c) for c in sheet.date) or (1,)
    return sheet.circuit or "\uffff", sheet.layout, newest_first, sheet.event, sheet.time, run.number


def _branch(parent: QStandardItem | None, text: str, *, bold: bool = False) -> QStandardItem:
    item = QStandardItem(text)
    item.setEditable(False)
    item.setSelectable(False)
    if bold:
        item.setFont(font(BODY_PX, bold=True))
    if parent is not None:
        parent.appendRow(item)
    return item


def _leaves(run: Run) -> list[QStandardItem]:
    """Name and best lap time."""
    leaves = [QStandardItem(), QStandardItem()]
    for cell in leaves:
        cell.setEditable(False)
    leaves[1].setTextAlignment(RIGHT)
    leaves[0].setData(run.number, RUN)
    _write(leaves, run)
    return leaves


def _write(leaves: list[QStandardItem], run: Run) -> None:
    """What the tree says of a run."""
    best = run.best
    laps = sum(1 for s in run.laps if s.complete)
    leaves[0].setText(run.name)
    leaves[1].setText(lap_time(best.time_s) if best else "")
    parts = (
        run.path,
        run.sheet.vehicle,
        run.sheet.group,
        run.sheet.condition,
        counted(laps, "complete lap", "complete laps"),
        run.damaged,
    )
    leaves[0].setToolTip(tip("\n".join(p for p in parts if p)))
