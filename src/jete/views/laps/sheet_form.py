"""What is noted about a run, to be typed: each field is saved when it is left."""

from __future__ import annotations

from itertools import groupby
from typing import TYPE_CHECKING

from PyQt6.QtCore import QStringListModel, Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QCompleter, QGridLayout, QLabel, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from jete.app.theme import SMALL_PX, SPACE, font
from jete.core.errors import InputError
from jete.core.sheet import FIELDS, Field, RunSheet, with_value
from jete.session import operations as ops
from jete.session.state import Changed, Session

if TYPE_CHECKING:
    from jete.app.store import SessionStore

LABEL_PX = 92
KNOWN = ("circuit", "layout", "event", "driver", "coach", "vehicle", "group", "tyres", "wind")


class SheetForm(QScrollArea):
    """Fields of the shown run; hands over a sheet when one was changed."""

    typed = pyqtSignal(int, object)
    refused = pyqtSignal(object)

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self.fields: dict[str, QLineEdit | QComboBox] = {}
        self._known: dict[str, QStringListModel] = {}
        self._run: int | None = None
        # While a field takes a key, its open suggestions still hold a row of their list: it changes afterwards.
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.timeout.connect(self._offer)
        self.setObjectName("sheet")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setWidget(self._form())
        store.changed.connect(self._on_changed)
        self._fill()

    def _form(self) -> QWidget:
        form = QWidget()
        column = QVBoxLayout(form)
        column.setContentsMargins(0, 0, SPACE, 0)
        column.setSpacing(SPACE)
        for title, fields in groupby(FIELDS, lambda f: f.group):
            head = QLabel(title)
            head.setProperty("muted", True)
            head.setFont(font(SMALL_PX))
            grid = QGridLayout()
            grid.setVerticalSpacing(3)
            grid.setColumnMinimumWidth(0, LABEL_PX)
            for row, field in enumerate(fields):
                label = QLabel(f"{field.title} {field.unit}".strip())
                editor = self._editor(field)
                label.setBuddy(editor)
                grid.addWidget(label, row, 0)
                grid.addWidget(editor, row, 1)
            column.addWidget(head)
            column.addLayout(grid)
        column.addStretch(1)
        return form

    def _editor(self, field: Field) -> QLineEdit | QComboBox:
        editor: QLineEdit | QComboBox
        if field.holds == "choice":
            editor = QComboBox()
            editor.addItems(list(field.choices))
            editor.activated.connect(self._on_left)
        else:
            editor = QLineEdit()
            editor.editingFinished.connect(self._on_left)
            if field.name in KNOWN:
                self._known[field.name] = _suggest(editor)
        editor.setAccessibleName(f"{field.title} {field.unit}".strip())
        editor.setObjectName(f"sheet-{field.name}")
        self.fields[field.name] = editor
        return editor

    def _on_left(self) -> None:
        """A field was left: what changed is handed over; what is no number is told and put back."""
        sender = self.sender()
        name = next((n for n, e in self.fields.items() if e is sender), None)
        run = self._store.session.run(self._run) if self._run is not None else None
        if name is None or run is None:
            return
        editor = self.fields[name]
        text = editor.currentText() if isinstance(editor, QComboBox) else editor.text()
        if text.strip() == shown(run.sheet, name):
            return
        try:
            sheet = with_value(run.sheet, name, text)
        except InputError as error:
            self._fill()
            self.refused.emit(error)
            return
        if isinstance(editor, QLineEdit):
            editor.setModified(False)
        self.typed.emit(run.number, sheet)

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.RUNS | Changed.SHELF | Changed.CHOICE):
            self._fill()

    def _fill(self) -> None:
        """The shown run's fields; one that is being typed into stays as it is."""
        session = self._store.session
        run = ops.shown_run(session)
        other = run is None or run.number != self._run
        self._run = run.number if run else None
        sheet = run.sheet if run else RunSheet()
        for name, editor in self.fields.items():
            editor.setEnabled(run is not None)
            text = shown(sheet, name)
            if isinstance(editor, QComboBox):
                editor.setCurrentText(text)
            elif other or not (editor.hasFocus() and editor.isModified()):
                editor.setText(text)
                editor.setCursorPosition(0)
        self._later.start()

    def _offer(self) -> None:
        """Names that were typed before are offered again."""
        for name, known in self._known.items():
            words = sorted({str(getattr(r.sheet, name)) for r in self._store.session.runs} - {""})
            if known.stringList() != words:
                known.setStringList(words)


def _suggest(editor: QLineEdit) -> QStringListModel:
    """Give a field its one completer; returns the list of what is suggested."""
    known = QStringListModel(editor)
    completer = QCompleter(known, editor)
    completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
    editor.setCompleter(completer)
    return known


def shown(sheet: RunSheet, name: str) -> str:
    """A field's value as text: numbers without idle zeros."""
    value = getattr(sheet, name)
    return "" if value is None else f"{value:g}" if isinstance(value, float) else str(value)
