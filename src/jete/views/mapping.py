"""The mapping sheet: what the columns of a file are that nobody has seen before."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from jete.app.dialogs import tell_input_error
from jete.app.theme import SMALL_PX, THEMES, font
from jete.core.errors import InputError
from jete.core.log.channels import CHANNELS
from jete.formats.columns import log_of
from jete.formats.guess import Guess, guess
from jete.formats.mapping import Assigned, ColumnMap, apply, from_json, to_json
from jete.formats.whole_file import written_wholly
from jete.report.words import MINUS
from jete.views.asked_file import ask_open, ask_save
from jete.views.labels import plain, tip

if TYPE_CHECKING:
    from jete.core.arrays import FloatArray
    from jete.formats.columns import UnknownColumnsError

TITLES = ("column", "looks like", "range", "is", "in", "flip sign", "offset", "why")
NAME, PLOT, RANGE, CHANNEL, UNIT, TURNED, OFFSET, WHY = range(8)
POINTS = 160
# Two lines of text: a reason is seldom shorter than its column.
ROW_PX = 42
NOTHING = "kept as it is"


class MappingSheet(QDialog):
    """One row a column of the file; hands over the map when it makes a log."""

    chosen = pyqtSignal(object, object)

    def __init__(self, path: Path, error: UnknownColumnsError, theme: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        columns = error.columns
        assert columns is not None
        self._path, self._columns = path, columns
        self.setWindowTitle(f"What are the columns of {path.name}?")
        self.setObjectName("mapping")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(1040, 560)
        self.table = QTableWidget(len(columns.names), len(TITLES))
        self.table.setAccessibleName("Columns of the file")
        self.asked = plain(f"{error.what[:1].upper()}{error.what[1:]}", wrap=True)
        self.verdict = plain(wrap=True)
        self._fill(guess(columns), theme)
        self._build()
        self._judge()

    def _build(self) -> None:
        self.table.setHorizontalHeaderLabels(list(TITLES))
        self.table.setShowGrid(False)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        header, side = self.table.horizontalHeader(), self.table.verticalHeader()
        if header is not None and side is not None:
            side.hide()
            side.setDefaultSectionSize(ROW_PX)
            for column, width in {
                NAME: 180,
                PLOT: 120,
                RANGE: 118,
                CHANNEL: 128,
                UNIT: 84,
                TURNED: 70,
                OFFSET: 62,
            }.items():
                header.resizeSection(column, width)
            header.setSectionResizeMode(WHY, QHeaderView.ResizeMode.Stretch)
        buttons = QDialogButtonBox()
        self.use = QPushButton("Use these columns")
        load, save = QPushButton("Load mapping…"), QPushButton("Save mapping…")
        buttons.addButton(self.use, QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton(load, QDialogButtonBox.ButtonRole.ActionRole)
        buttons.addButton(save, QDialogButtonBox.ButtonRole.ActionRole)
        buttons.addButton(QDialogButtonBox.StandardButton.Cancel)
        self.use.clicked.connect(self._on_use)
        load.clicked.connect(self._on_load)
        save.clicked.connect(self._on_save)
        buttons.rejected.connect(self.reject)
        body = QVBoxLayout(self)
        for widget in (self.asked, self.verdict, self.table, buttons):
            body.addWidget(widget)

    def _fill(self, guesses: list[Guess], theme: str) -> None:
        for row, (name, unit, found) in enumerate(zip(self._columns.names, self._columns.units, guesses, strict=True)):
            values = self._columns.values[row]
            self.table.setItem(row, NAME, QTableWidgetItem(f"{name} [{unit}]" if unit else name))
            self.table.setCellWidget(row, PLOT, SmallPlot(values, theme))
            self.table.setItem(row, RANGE, QTableWidgetItem(_range(values)))
            self.table.setItem(row, WHY, QTableWidgetItem(found.why))
            for column in (NAME, WHY):
                item = self.table.item(row, column)
                if item is not None:
                    item.setToolTip(tip(item.text()))
            self._put_editors(row, found)

    def _put_editors(self, row: int, found: Guess) -> None:
        name = self._columns.names[row]
        channel, unit, turned, offset = QComboBox(), QComboBox(), QCheckBox(), QLineEdit("0")
        channel.addItems([NOTHING, *CHANNELS])
        channel.setCurrentText(found.channel or NOTHING)
        for widget, what, column in (
            (channel, "channel", CHANNEL),
            (unit, "unit", UNIT),
            (turned, "flip sign", TURNED),
            (offset, "offset", OFFSET),
        ):
            widget.setAccessibleName(f"{name}: {what}")
            widget.setEnabled(self._columns.values[row] is not None)
            self.table.setCellWidget(row, column, widget)
        self._offer_units(row, found.unit)
        channel.currentTextChanged.connect(self._on_channel)
        unit.currentTextChanged.connect(self._judge)
        turned.toggled.connect(self._judge)
        offset.editingFinished.connect(self._judge)

    def _offer_units(self, row: int, wanted: str = "") -> None:
        """The units that the chosen channel may be in."""
        channel, unit = self._text(row, CHANNEL), self._combo(row, UNIT)
        unit.blockSignals(True)
        unit.clear()
        if channel in CHANNELS:
            unit.addItems([u for u in CHANNELS[channel].quantity.units if u])
            unit.setCurrentText(wanted)
        unit.blockSignals(False)

    def _on_channel(self, _: str) -> None:
        row = next((r for r in range(self.table.rowCount()) if self._combo(r, CHANNEL) is self.sender()), None)
        if row is not None:
            self._offer_units(row)
        self._judge()

    def _combo(self, row: int, column: int) -> QComboBox:
        widget = self.table.cellWidget(row, column)
        assert isinstance(widget, QComboBox)
        return widget

    def _text(self, row: int, column: int) -> str:
        return self._combo(row, column).currentText()

    def map(self) -> ColumnMap:
        """What is chosen at present."""
        out = []
        for row, name in enumerate(self._columns.names):
            channel = self._text(row, CHANNEL)
            turned, offset = self.table.cellWidget(row, TURNED), self.table.cellWidget(row, OFFSET)
            if channel in CHANNELS and isinstance(turned, QCheckBox) and isinstance(offset, QLineEdit):
                out.append(
                    Assigned(
                        name, channel, self._text(row, UNIT), -1 if turned.isChecked() else 1, _number(offset.text())
                    )
                )
        return ColumnMap(self._columns.names, tuple(out))

    def _judge(self, _: object = None) -> None:
        """Say whether what is chosen makes a log."""
        try:
            log = log_of(apply(self._columns, _refuse_twice(self._path, self.map())))
            begin, end = log.span_s()
            self.verdict.setText(f"This makes a log of {end - begin:.0f} s with {len(log.channels)} channels.")
            self.use.setEnabled(True)
        except InputError as error:
            self.verdict.setText(f"{error.what[:1].upper()}{error.what[1:]} {error.mend}")
            if hasattr(self, "use"):
                self.use.setEnabled(False)

    def _on_use(self) -> None:
        self.chosen.emit(self._path, self.map())
        self.accept()

    def _on_save(self) -> None:
        name, _ = ask_save(self, "Save mapping", "columns.json", "Map of columns (*.json)")
        if name:
            self.save(Path(name))

    def save(self, path: Path) -> None:
        """Write the map as a file."""
        try:
            with written_wholly(path) as unfinished:
                unfinished.write_text(to_json(self.map()), encoding="utf-8")
        except OSError as error:
            tell_input_error(
                self, InputError(str(path), f"it can't be written ({error.strerror}).", "Name another place.")
            )

    def _on_load(self) -> None:
        name = ask_open(self, "Load mapping", "Map of columns (*.json)")
        if name:
            self.take_over(Path(name))

    def take_over(self, path: Path) -> None:
        """Choose what a map that was handed on says, as far as the names are alike."""
        try:
            said = {a.column.casefold(): a for a in from_json(path.read_text(encoding="utf-8"), path.name).columns}
        except (InputError, OSError, UnicodeDecodeError) as error:
            tell_input_error(
                self,
                error
                if isinstance(error, InputError)
                else InputError(path.name, "it can't be read.", "Choose another file."),
            )
            return
        for row, name in enumerate(self._columns.names):
            entry = said.get(name.casefold())
            if entry is not None:
                self._choose(row, entry)
        self._judge()

    def _choose(self, row: int, entry: Assigned) -> None:
        self._combo(row, CHANNEL).setCurrentText(entry.channel)
        self._offer_units(row, entry.unit)
        turned, offset = self.table.cellWidget(row, TURNED), self.table.cellWidget(row, OFFSET)
        if isinstance(turned, QCheckBox) and isinstance(offset, QLineEdit):
            turned.setChecked(entry.sign < 0)
            offset.setText(f"{entry.offset:g}")


def _refuse_twice(path: Path, chosen: ColumnMap) -> ColumnMap:
    """The map itself.

    Raises:
        InputError: two columns are said to be one channel.
    """
    channels = [a.channel for a in chosen.columns]
    twice = next((c for c in channels if channels.count(c) > 1), None)
    if twice is not None:
        raise InputError(path.name, f"two columns are '{twice}'.", "Keep one of them.")
    return chosen


class SmallPlot(QWidget):
    """A column as a small line."""

    def __init__(self, values: FloatArray | None, theme: str) -> None:
        super().__init__()
        good = values[np.isfinite(values)] if values is not None else np.empty(0)
        self._values = good[:: max(1, len(good) // POINTS)]
        self._theme = THEMES[theme]
        self.setAccessibleName("Small plot of the column")

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """Small."""
        return QSize(110, 28)

    def paintEvent(self, _: object) -> None:  # noqa: N802 - Qt's name
        """The line between its least and greatest value."""
        if len(self._values) < 2:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(SMALL_PX))
        painter.setPen(QPen(self._theme.color("muted"), 1))
        low, span = float(self._values.min()), max(float(np.ptp(self._values)), 1e-12)
        width, height = self.width() - 8.0, self.height() - 10.0
        xs = np.linspace(4.0, 4.0 + width, len(self._values))
        ys = 5.0 + height * (1.0 - (self._values - low) / span)
        painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in zip(xs.tolist(), ys.tolist(), strict=True)]))


def _range(values: FloatArray | None) -> str:
    good = values[np.isfinite(values)] if values is not None else np.empty(0)
    return (
        "text"
        if values is None
        else f"{good.min():.4g} to {good.max():.4g}".replace("-", MINUS)
        if len(good)
        else "empty"
    )


def _number(text: str) -> float:
    try:
        number = float(text.replace(",", "."))
    except ValueError:
        return 0.0
    return number if np.isfinite(number) else 0.0
