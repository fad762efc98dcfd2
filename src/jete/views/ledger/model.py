"""The ledger as a table: one row a corner, and a last row that balances."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import IntEnum
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt

from jete.core.causes.verdict.to_be_had import to_be_had
from jete.report.read_off import as_read
from jete.report.sentences import finding_sentence, short_words, trade_sentence
from jete.report.three import LEAST_S, that_matter
from jete.report.units import Units
from jete.report.words import KIND_WORDS, SURE, cause_words, difference

if TYPE_CHECKING:
    from collections.abc import Mapping

    from jete.core.axis.road.corners import CornerNumber
    from jete.core.causes.kinds import Kind
    from jete.core.causes.verdict.result import CornerLoss, LapComparison
    from jete.core.run import CornerInRun, RunSummary

UNEXPLAINED = "unexplained"
WORST = 3
IN_WORDS = 3
LEAST_TOLD_S = 0.003
LEAST_UNEXPLAINED_S = 0.005
LEAST_SPAN_S = 0.05
# Of the larger side of the bars' scale the smaller has at least this share.
LEAST_SIDE = 0.12


class Role(IntEnum):
    """What the delegates read besides the text."""

    ROW = Qt.ItemDataRole.UserRole + 1


@dataclass(frozen=True)
class Part:
    """One piece of a bar: cause (or unexplained), seconds, and how sure it is.

    ``note`` goes behind its seconds in words; ``ahead`` is the corner that left the speed that was carried in;
    ``words`` say more of it than its kind does, where one lap is told.
    """

    cause: str
    seconds: float
    confidence: float = 1.0
    note: str = ""
    ahead: str = ""
    words: str = ""

    @property
    def in_words(self) -> str:
        """The cause with its seconds."""
        words = f"{self.words or cause_words(self.cause, self.seconds, self.ahead)} {difference(self.seconds)}"
        words = f"{words} {self.note}".rstrip()
        # Of a run it tells on how many laps a cause is there, which is no doubt of it.
        return words if self.note or self.confidence >= SURE else f"possibly {words}"


@dataclass(frozen=True)
class LedgerRow:
    """One row: a corner under its label, or the sum where ``corner`` is None.

    ``last`` is what stands in the last column, ``had_s`` the time to be had there.
    """

    corner: int | None
    label: str
    direction: str
    gap_s: float
    sigma_s: float
    last: str
    parts: tuple[Part, ...]
    worst: bool
    tooltip: str
    flat: bool = False
    had_s: float = 0.0

    @property
    def told(self) -> list[Part]:
        """The two or three largest causes, or phases, that are worth a word; in the order of the bar."""
        causes = [p for p in self.parts if p.cause != UNEXPLAINED and abs(p.seconds) >= LEAST_TOLD_S]
        largest = sorted(causes, key=lambda p: -abs(p.seconds))[:IN_WORDS]
        return [p for p in causes if p in largest]

    @property
    def in_words(self) -> str:
        """The causes that are told, with their seconds."""
        return "   ".join(p.in_words for p in self.told)

    @property
    def rest(self) -> str:
        """What is said besides the causes: that the corner was flat, or what stays unexplained where that is worth a word."""
        if abs(self.unexplained_s) >= LEAST_UNEXPLAINED_S:
            return f"unexplained {difference(self.unexplained_s)}"
        return "flat" if self.flat and not self.told else ""

    @property
    def unexplained_s(self) -> float:
        """What no cause explains."""
        return sum(p.seconds for p in self.parts if p.cause == UNEXPLAINED)


@dataclass(frozen=True)
class Column:
    """Title, alignment and text of one column."""

    title: str
    align: Qt.AlignmentFlag
    tooltip: str


COLUMNS: tuple[Column, ...] = (
    Column("", Qt.AlignmentFlag.AlignLeft, "Corner"),
    Column("gap, by cause", Qt.AlignmentFlag.AlignLeft, "Loss to the right, gain to the left; hatched: unexplained"),
    Column("gap s", Qt.AlignmentFlag.AlignRight, "What the corner's window cost, with the straight after it"),
    Column("running s", Qt.AlignmentFlag.AlignRight, "Gap of the lap at the end of the window"),
)
PHASE_COLUMNS = (
    COLUMNS[0],
    Column(
        "gap, by phase", Qt.AlignmentFlag.AlignLeft, "Loss to the right, gain to the left, of each phase of the corner"
    ),
    *COLUMNS[2:],
)
RUN_COLUMNS = (
    COLUMNS[0],
    Column(
        "mean gap, by cause",
        Qt.AlignmentFlag.AlignLeft,
        "Means over the laps that count: they add up. 7\N{MULTIPLICATION SIGN}: on seven laps",
    ),
    Column("mean s", Qt.AlignmentFlag.AlignRight, "Mean of the corner's gap over the laps that count"),
    Column("median ±", Qt.AlignmentFlag.AlignRight, "Median of the corner's gap, and its robust spread"),
)
CORNER, BAR, GAP, RUNNING = range(4)


def rows_of(
    comparison: LapComparison,
    units: Units,
    often: Mapping[tuple[CornerNumber, Kind], float] | None = None,
    *,
    by_phase: bool = False,
) -> list[LedgerRow]:
    """The rows by road, the sum last; each divided by cause, or by phase; ``often`` as in :func:`to_be_had`."""
    had = to_be_had(comparison.corners, often)
    seconds, worst = {h.corner: h.seconds for h in had}, {h.corner for h in that_matter(had)}
    rows, running, ahead = [], 0.0, ""
    for c in comparison.corners:
        running += c.gap_s
        row = _row(c, running, units, ahead, worst=c.corner.number in worst)
        row = replace(row, had_s=seconds[c.corner.number])
        rows.append(replace(row, parts=_phases(c)) if by_phase else row)
        ahead = c.corner.shown
    return [*rows, _sum(comparison, rows)]


def _phases(c: CornerLoss) -> tuple[Part, ...]:
    """What each phase of a corner cost, in the order of the road."""
    return tuple(Part(p.span.phase, p.gap_s) for p in c.phases if abs(p.gap_s) >= LEAST_TOLD_S)


def _row(c: CornerLoss, running: float, units: Units, ahead: str, *, worst: bool) -> LedgerRow:
    c = as_read(c, units)
    parts = [Part(f.kind, f.loss_s, f.confidence, words=short_words(f, c.marks, units, ahead)) for f in c.findings]
    parts.append(Part(UNEXPLAINED, c.unexplained_s))
    lines = [
        f"{finding_sentence(f, units, c.marks)}  {difference(f.loss_s)} s, {_sure(f.confidence)}" for f in c.findings
    ]
    if c.trade is not None:
        lines.append(trade_sentence(c.trade, units, c.marks))
    if is_flat_in_both(c):
        lines.append("Both took it flat.")
    lines.append(f"Unexplained {difference(c.unexplained_s)} s.  The gap is known to ±{c.sigma_s:.3f} s.")
    return LedgerRow(
        c.corner.number,
        c.corner.shown,
        c.corner.direction,
        c.gap_s,
        c.sigma_s,
        difference(running),
        tuple(parts),
        worst,
        "\n".join(lines),
        flat=is_flat_in_both(c),
    )


def is_flat_in_both(c: CornerLoss) -> bool:
    """Whether neither lap braked or lifted for a corner."""
    return all(m.brake_on_m is None and m.lift_m is None for m in (c.reference_marks, c.lap_marks))


def rows_of_run(run: RunSummary) -> list[LedgerRow]:
    """The rows of a run by road, the sum of the means last."""
    worst = {
        c.corner.number
        for c in sorted(run.corners, key=lambda c: -c.mean_s)[:WORST]
        if c.mean_s >= LEAST_S and c.causes
    }
    rows, running, ahead = [], 0.0, ""
    for c in run.corners:
        running += c.mean_s
        rows.append(_row_of_run(c, run.counted, ahead, worst=c.corner.number in worst))
        ahead = c.corner.shown
    text = f"Mean gap of the {run.counted} laps that count {difference(running)} s"
    return [*rows, LedgerRow(None, "sum", "", running, 0.0, "", _totals(rows), worst=False, tooltip=text)]


def _row_of_run(c: CornerInRun, counted: int, ahead: str, *, worst: bool) -> LedgerRow:
    parts = [Part(x.kind, x.mean_s, x.laps / counted, f"{x.laps}\N{MULTIPLICATION SIGN}", ahead) for x in c.causes]
    parts.append(Part(UNEXPLAINED, c.unexplained_s))
    lines = [
        f"{KIND_WORDS[x.kind]} on {x.laps} of {counted} laps, there {difference(x.median_s)} s in the median"
        for x in c.causes
    ]
    lines.append(f"Median {difference(c.median_s)} s, spread {c.spread_s:.3f} s; best pass {difference(c.best_s)} s.")
    last = f"{difference(c.median_s)} ±{c.spread_s:.2f}"
    corner = c.corner
    return LedgerRow(
        corner.number,
        corner.shown,
        corner.direction,
        c.mean_s,
        c.spread_s,
        last,
        tuple(parts),
        worst,
        "\n".join(lines),
        had_s=sum(max(x.mean_s, 0.0) for x in c.causes),
    )


def _sum(comparison: LapComparison, rows: list[LedgerRow]) -> LedgerRow:
    """The causes of all corners added up; they balance with the lap times."""
    text = f"All corners {difference(sum(r.gap_s for r in rows))} s = gap of the lap times {difference(comparison.gap_s)} s"
    gap, sigma = comparison.gap_s, comparison.sigma_s
    return LedgerRow(None, "sum", "", gap, sigma, difference(gap), _totals(rows), worst=False, tooltip=text)


def _totals(rows: list[LedgerRow]) -> tuple[Part, ...]:
    """The parts of all corners added up by cause, the unexplained last."""
    totals: dict[str, float] = {}
    for row in rows:
        for part in row.parts:
            totals[part.cause] = totals.get(part.cause, 0.0) + part.seconds
    rest = totals.pop(UNEXPLAINED, 0.0)
    parts = [Part(k, v) for k, v in sorted(totals.items(), key=lambda kv: -abs(kv[1]))]
    return (*parts, Part(UNEXPLAINED, rest))


def _sure(confidence: float) -> str:
    """How sure a claim is, in words and per cent.

    >>> _sure(0.62), _sure(0.93)
    ('possible (62 %)', 'sure to 93 %')
    """
    share = min(round(100.0 * confidence), 99)
    return f"sure to {share} %" if confidence >= SURE else f"possible ({share} %)"


class LedgerModel(QAbstractTableModel):
    """Rows in the order of the road or of the time to be had; the sum stays last."""

    def __init__(self) -> None:
        super().__init__()
        self._rows: list[LedgerRow] = []
        self.columns: tuple[Column, ...] = COLUMNS

    def show(self, rows: list[LedgerRow], *, by_loss: bool, columns: tuple[Column, ...] = COLUMNS) -> None:
        """Take over rows and the titles they stand under."""
        body, total = rows[:-1], rows[-1:]
        ordered = (sorted(body, key=lambda r: -r.had_s) if by_loss else body) + total
        same = columns is self.columns and [r.corner for r in ordered] == [r.corner for r in self._rows]
        if same and ordered:
            self._rows = ordered
            self.dataChanged.emit(self.index(0, 0), self.index(len(ordered) - 1, len(COLUMNS) - 1))
            return
        self.beginResetModel()
        self.columns = columns
        self._rows = ordered
        self.endResetModel()

    @property
    def rows(self) -> list[LedgerRow]:
        """The rows as shown."""
        return self._rows

    def row_of(self, corner: int | None) -> int | None:
        """Row of a corner."""
        return next((i for i, r in enumerate(self._rows) if r.corner == corner and corner is not None), None)

    def span_s(self) -> tuple[float, float]:
        """How far the bars' scale reaches to either side of zero: the largest sum of gains and of losses, with room."""
        corners = [r for r in self._rows if r.corner is not None]
        gains, losses = (
            max((sum(max(side * p.seconds, 0.0) for p in r.parts) + r.sigma_s for r in corners), default=0.0)
            for side in (-1, 1)
        )
        largest = max(gains, losses, LEAST_SPAN_S)
        return max(gains, LEAST_SIDE * largest), max(losses, LEAST_SIDE * largest)

    def rowCount(self, parent: QModelIndex | None = None) -> int:  # noqa: N802 - Qt's name
        """Corners and the sum."""
        return 0 if parent is not None and parent.isValid() else len(self._rows)

    def columnCount(self, parent: QModelIndex | None = None) -> int:  # noqa: N802 - Qt's name
        """As many as there are titles."""
        return 0 if parent is not None and parent.isValid() else len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:  # noqa: N802
        """Titles, aligned as their numbers are."""
        if orientation != Qt.Orientation.Horizontal:
            return None
        column = self.columns[section]
        values = {
            Qt.ItemDataRole.DisplayRole: column.title,
            Qt.ItemDataRole.TextAlignmentRole: column.align | Qt.AlignmentFlag.AlignVCenter,
            Qt.ItemDataRole.ToolTipRole: column.tooltip,
        }
        return values.get(Qt.ItemDataRole(role))

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Text for people and screen readers; the row itself for the delegates."""
        row = self._rows[index.row()]
        if role == Role.ROW:
            return row
        if role == Qt.ItemDataRole.DisplayRole:
            return _text(row, index.column())
        if role == Qt.ItemDataRole.ToolTipRole:
            return row.tooltip
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return f"{_text(row, CORNER)}: {_text(row, index.column())}"
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return COLUMNS[index.column()].align | Qt.AlignmentFlag.AlignVCenter
        return None


def _text(row: LedgerRow, column: int) -> str:
    return (row.label, row.in_words, difference(row.gap_s), row.last)[column]
