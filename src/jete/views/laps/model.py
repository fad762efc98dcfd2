"""Open runs and their laps as one table: a heading row for each run, its laps below."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt

from jete.report.words import difference, lap_time
from jete.session.state import LapKey, Session

if TYPE_CHECKING:
    from jete.core.lap import LapSpan
    from jete.session.state import Run


class Role(IntEnum):
    """What the delegate and the page read besides the text."""

    ROW = Qt.ItemDataRole.UserRole + 1


TITLES = ("", "lap", "time", "to best s", "length m", "")
HOLD, LAP, TIME, TO_BEST, LENGTH, STATE = range(6)
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter


@dataclass(frozen=True)
class LapRow:
    """A heading (without span) or a lap; ``hold`` is ``reference``, ``lap`` or nothing."""

    run: Run
    span: LapSpan | None
    hold: str
    to_best_s: float | None

    @property
    def key(self) -> LapKey | None:
        """The lap's key, None for a heading."""
        return LapKey(self.run.number, self.span.number) if self.span else None


def rows_of(session: Session) -> list[LapRow]:
    """Headings and laps in the order of opening."""
    rows = []
    for run in session.runs:
        rows.append(LapRow(run, None, "", None))
        best = run.best
        for span in run.laps:
            key = LapKey(run.number, span.number)
            hold = "reference" if key == session.choice.reference else "lap" if key == session.choice.lap else ""
            to_best = span.time_s - best.time_s if best and span.complete else None
            rows.append(LapRow(run, span, hold, to_best))
    return rows


class LapsModel(QAbstractTableModel):
    """The rows of :func:`rows_of`."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[LapRow] = []

    def show(self, rows: list[LapRow]) -> None:
        """Take over rows; the same number of rows keeps selection and place."""
        if len(rows) == len(self.rows):
            self.rows = rows
            if rows:
                self.dataChanged.emit(self.index(0, 0), self.index(len(rows) - 1, len(TITLES) - 1))
            return
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:  # noqa: N802 - Qt's name
        """Headings and laps."""
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex | None = None) -> int:  # noqa: N802 - Qt's name
        """As many as there are titles."""
        return 0 if parent is not None and parent.isValid() else len(TITLES)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:  # noqa: N802
        """Titles, aligned as their numbers are."""
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return TITLES[section]
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.TextAlignmentRole:
            return RIGHT if section in (LAP, TIME, TO_BEST, LENGTH) else LEFT
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        """Headings are not selectable."""
        if not index.isValid():
            return Qt.ItemFlag.NoItemFlags
        row = self.rows[index.row()]
        return Qt.ItemFlag.ItemIsEnabled | (Qt.ItemFlag.ItemIsSelectable if row.span else Qt.ItemFlag.NoItemFlags)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Text, alignment, and the row itself for the delegate."""
        row = self.rows[index.row()]
        if role == Role.ROW:
            return row
        if role == Qt.ItemDataRole.DisplayRole:
            return _text(row, index.column())
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return RIGHT if row.span and index.column() in (LAP, TIME, TO_BEST, LENGTH) else LEFT
        if role == Qt.ItemDataRole.ToolTipRole:
            return row.run.path if row.span is None else row.span.why
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return f"{row.run.name} {row.hold} {_text(row, LAP)} {_text(row, index.column())}"
        return None


def _text(row: LapRow, column: int) -> str:
    span = row.span
    if span is None:
        return row.run.name if column == HOLD else ""
    to_best = "" if row.to_best_s is None else difference(row.to_best_s) if row.to_best_s else "best"
    texts = {
        HOLD: {"reference": "reference", "lap": "held against it"}.get(row.hold, ""),
        LAP: str(span.number),
        TIME: lap_time(span.time_s),
        TO_BEST: to_best,
        LENGTH: f"{span.length_m:.0f}",
        STATE: span.why or "",
    }
    return texts[column]
