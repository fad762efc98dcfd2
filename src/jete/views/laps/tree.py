"""The shelf as a tree: circuit, event, run; only what the search holds."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QModelIndex, Qt
from PyQt6.QtGui import QStandardItem, QStandardItemModel

from jete.app.theme import BODY_PX, font
from jete.core.search import holds, text_of
from jete.report.words import lap_time

if TYPE_CHECKING:
    from jete.session.state import Run

RUN = Qt.ItemDataRole.UserRole + 1
NO_CIRCUIT = "no circuit noted"


class RunTree(QStandardItemModel):
    """Built anew when the runs or the search change; the text of a run is made once."""

    def __init__(self) -> None:
        super().__init__()
        self._texts: dict[Run, str] = {}
        self.shown = 0

    def text(self, run: Run) -> str:
        """What a search looks in."""
        if run not in self._texts:
            self._texts[run] = text_of(run.sheet, run.notes, f"{run.name} {run.path}")
        return self._texts[run]

    def show(self, runs: tuple[Run, ...], wanted: str) -> None:
        """Take over the runs that hold what is looked for."""
        self._texts = (
            {r: t for r, t in self._texts.items() if r in set(runs)}
            if len(self._texts) > 2 * len(runs)
            else self._texts
        )
        found = [r for r in runs if holds(self.text(r), wanted)]
        self.shown = len(found)
        self.clear()
        self.setColumnCount(2)
        circuits: dict[str, QStandardItem] = {}
        events: dict[tuple[str, str], QStandardItem] = {}
        for run in sorted(found, key=_order):
            sheet = run.sheet
            circuit = " · ".join(p for p in (sheet.circuit or NO_CIRCUIT, sheet.layout) if p)
            event = " · ".join(p for p in (sheet.date, sheet.event) if p) or "no date noted"
            if circuit not in circuits:
                circuits[circuit] = _branch(self.invisibleRootItem(), circuit, bold=True)
            if (circuit, event) not in events:
                events[circuit, event] = _branch(circuits[circuit], event)
            events[circuit, event].appendRow(_leaves(run))

    def index_of(self, number: int | None) -> QModelIndex | None:
        """Where a run stands, or None."""
        found = (
            self.match(self.index(0, 0), RUN, number, 1, Qt.MatchFlag.MatchExactly | Qt.MatchFlag.MatchRecursive)
            if number is not None and self.rowCount()
            else []
        )
        return found[0] if found else None


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
    best = run.best
    laps = sum(1 for s in run.laps if s.complete)
    item, time = QStandardItem(run.name), QStandardItem(lap_time(best.time_s) if best else "")
    for cell in (item, time):
        cell.setEditable(False)
    time.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
    item.setData(run.number, RUN)
    parts = (run.path, run.sheet.vehicle, run.sheet.group, run.sheet.condition, f"{laps} complete laps", run.damaged)
    item.setToolTip("\n".join(p for p in parts if p))
    return [item, time]
