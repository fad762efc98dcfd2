"""The laps of one run as a table."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import IntEnum
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QAbstractTableModel, QMimeData, QModelIndex, Qt, pyqtSignal

from jete.notes.sheet import ASIDE_WORDS, LapNote
from jete.report.read_off import apart
from jete.report.thousandths import adding_up
from jete.report.words import difference, lap_time
from jete.session.state import LapKey, Session
from jete.views.labels import tip

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from jete.core.log.lap import LapSpan
    from jete.session.state import Run


class Role(IntEnum):
    """What the delegate and the page read besides the text."""

    ROW = Qt.ItemDataRole.UserRole + 1


TITLES = ("role", "lap", "time", "to best s", "1st third", "2nd", "3rd", "state", "note")
HOLD, LAP, TIME, TO_BEST, FIRST, SECOND, THIRD, STATE, NOTE = range(9)
PIECES = (FIRST, SECOND, THIRD)
NUMBERS = (LAP, TIME, TO_BEST, *PIECES)
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
LAP_MIME = "application/x-jete-lap"
HOLDS = {"reference": "reference", "lap": "compared", "over": "laid over"}


@dataclass(frozen=True)
class LapRow:
    """One lap: its role in the comparison, its note, and which of its pieces are the run's best.

    ``over`` is its place among those laid over the traces, which have the colours of their lines.
    """

    key: LapKey
    span: LapSpan
    hold: str
    over: int
    to_best_s: float | None
    pieces: tuple[float, ...]
    best_pieces: tuple[bool, ...]
    note: LapNote

    @property
    def counts(self) -> bool:
        """Whether the lap is complete and not set aside."""
        return self.span.complete and not self.note.aside


def rows_of(session: Session, run: Run | None) -> list[LapRow]:
    """The laps of a run in the order they were driven."""
    if run is None:
        return []
    best, pieces = run.best, told_pieces(run)
    fastest = [min(column) for column in zip(*counted_pieces(run, pieces), strict=True)]
    rows = []
    for span, times in zip(run.laps, pieces, strict=True):
        key, note = LapKey(run.number, span.number), run.notes.of(span.number)
        to_best = apart(best.time_s, span.time_s, 3) if best and span.complete else None
        marks = tuple(not note.aside and t <= f for t, f in zip(times, fastest, strict=False))
        over = session.choice.over.index(key) if key in session.choice.over else 0
        rows.append(LapRow(key, span, _hold(session, key), over, to_best, times, marks, note))
    return rows


def told_pieces(run: Run) -> list[tuple[float, ...]]:
    """The pieces of each lap, in thousandths that add up to its time."""
    pieces = run.pieces or tuple(() for _ in run.laps)
    return [tuple(adding_up(p, span.time_s)) for span, p in zip(run.laps, pieces, strict=True)]


def counted_pieces(run: Run, pieces: Sequence[tuple[float, ...]]) -> list[tuple[float, ...]]:
    """Of the pieces of all laps those of the laps that are not set aside, where they are known."""
    return [p for s, p in zip(run.laps, pieces, strict=True) if p and not run.notes.of(s.number).aside]


def _hold(session: Session, key: LapKey) -> str:
    choice = session.choice
    if key == choice.reference:
        return "reference"
    return "lap" if key == choice.lap else "over" if key in choice.over else ""


class LapsModel(QAbstractTableModel):
    """The rows of :func:`rows_of`; the note can be typed into its cell."""

    note_typed = pyqtSignal(object, object)

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[LapRow] = []

    def show(self, rows: list[LapRow]) -> None:
        """Take over rows; the same laps keep selection and place."""
        if [r.key for r in rows] == [r.key for r in self.rows]:
            self.rows = rows
            if rows:
                self.dataChanged.emit(self.index(0, 0), self.index(len(rows) - 1, len(TITLES) - 1))
            return
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:  # noqa: N802 - Qt's name
        """Laps."""
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex | None = None) -> int:  # noqa: N802 - Qt's name
        """As many as there are titles."""
        return 0 if parent is not None and parent.isValid() else len(TITLES)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:  # noqa: N802
        """Titles, aligned as their numbers are."""
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return TITLES[section]
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.TextAlignmentRole:
            return RIGHT if section in NUMBERS else LEFT
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        """Laps can be selected and dragged, notes typed."""
        if not index.isValid():
            return Qt.ItemFlag.NoItemFlags
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsDragEnabled
        return flags | Qt.ItemFlag.ItemIsEditable if index.column() == NOTE else flags

    def mimeTypes(self) -> list[str]:  # noqa: N802 - Qt's name
        """A lap is dragged by its key."""
        return [LAP_MIME]

    def mimeData(self, indexes: Iterable[QModelIndex]) -> QMimeData:  # noqa: N802 - Qt's name
        """Run and lap number of the dragged lap."""
        key = self.rows[next(iter(indexes)).row()].key
        data = QMimeData()
        data.setData(LAP_MIME, f"{key.run}:{key.lap}".encode())
        return data

    def setData(self, index: QModelIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:  # noqa: N802 - Qt's name
        """A note that was typed; the row itself follows from the state."""
        if role != Qt.ItemDataRole.EditRole or index.column() != NOTE:
            return False
        row = self.rows[index.row()]
        self.note_typed.emit(row.key, str(value).strip())
        return True

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Text, alignment, and the row itself for the delegate."""
        row, column = self.rows[index.row()], index.column()
        if role == Role.ROW:
            return row
        made = _ROLES.get(role)
        return made(row, column) if made else None


def key_of(data: QMimeData | None) -> LapKey | None:
    """The lap that is dragged, or None."""
    if data is None or not data.hasFormat(LAP_MIME):
        return None
    run, lap = data.data(LAP_MIME).data().decode().split(":")
    return LapKey(int(run), int(lap))


def _text(row: LapRow, column: int) -> str:
    span, note = row.span, row.note
    if column in PIECES:
        place = column - FIRST
        return f"{row.pieces[place]:.3f}" if place < len(row.pieces) else ""
    to_best = "" if row.to_best_s is None else difference(row.to_best_s) if row.to_best_s else "best"
    texts = {
        HOLD: HOLDS.get(row.hold, ""), LAP: str(span.number), TIME: lap_time(span.time_s), TO_BEST: to_best,
        STATE: (span.why or "").partition(":")[0] or ASIDE_WORDS.get(note.aside, note.aside) or "complete", NOTE: note.note,
    }  # fmt: skip
    return texts[column]


def _tooltip(row: LapRow, column: int) -> str | None:
    if column == NOTE:
        return tip(row.note.note) or "Type a note (M)"
    note = row.note
    aside = f"does not count: {note.aside}{', ' + note.reason if note.reason else ''}" if note.aside else ""
    return tip(row.span.why or aside or f"{row.span.length_m:.0f} m by its own distance")


_ROLES: dict[int, Callable[[LapRow, int], Any]] = {
    Qt.ItemDataRole.DisplayRole: _text,
    Qt.ItemDataRole.EditRole: lambda row, _: row.note.note,
    Qt.ItemDataRole.TextAlignmentRole: lambda _, column: RIGHT if column in NUMBERS else LEFT,
    Qt.ItemDataRole.ToolTipRole: _tooltip,
    Qt.ItemDataRole.AccessibleTextRole: lambda row, column: (
        f"lap {row.span.number} {HOLDS.get(row.hold, '')} {_text(row, column)}"
    ),
}
