"""What is noted about a run, read as text and typed into where it stands: each field is saved when it is left."""

from __future__ import annotations

from itertools import groupby
from typing import TYPE_CHECKING

from PyQt6.QtCore import QStringListModel, Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QCompleter,
    QGridLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from jete.app.theme import SPACE
from jete.core.errors import InputError
from jete.notes.sheet import FIELDS, Field, RunSheet
from jete.session import operations as ops
from jete.session.state import Changed, Session
from jete.views.following import Following
from jete.views.labels import plain

if TYPE_CHECKING:
    from jete.app.store import SessionStore

LABEL_PX = 92
SEVERAL = "several"
# Asked for even where nothing is noted.
ALWAYS = ("circuit", "driver", "vehicle", "condition")
KNOWN = ("circuit", "layout", "event", "driver", "coach", "vehicle", "group", "tyres", "wind")


class SheetForm(QScrollArea):
    """Fields of the shown run, or of several that are chosen; hands over their sheets when one was changed.

    Only what is filled in is seen, as text; the rest is added from a menu.
    """

    typed = pyqtSignal(object)
    refused = pyqtSignal(object)

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self.fields: dict[str, QLineEdit | QComboBox] = {}
        self._labels: dict[str, QLabel] = {}
        self._known: dict[str, QStringListModel] = {}
        self._heads: dict[str, QLabel] = {}
        self._opened: set[str] = set()
        self.add = QPushButton("Add…")
        self._menu = QMenu(self)
        self._runs: tuple[int, ...] = ()
        # While a field takes a key, its open suggestions still hold a row of their list: it changes afterwards.
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.timeout.connect(self._offer)
        self.setObjectName("sheet")
        # Tab goes from field to field; the form moves along by itself.
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setWidget(self._form())
        Following(self, store, self._on_changed)

    def _form(self) -> QWidget:
        form = QWidget()
        column = QVBoxLayout(form)
        column.setContentsMargins(0, 0, SPACE, 0)
        column.setSpacing(SPACE)
        for title, fields in groupby(FIELDS, lambda f: f.group):
            head = self._heads[title] = plain(title, small=True, muted=True)
            grid = QGridLayout()
            grid.setVerticalSpacing(0)
            grid.setColumnMinimumWidth(0, LABEL_PX)
            for row, field in enumerate(fields):
                label = plain(f"{field.title} {field.unit}".strip(), muted=True)
                editor = self._editor(field)
                label.setBuddy(editor)
                self._labels[field.name] = label
                grid.addWidget(label, row, 0)
                grid.addWidget(editor, row, 1)
            column.addWidget(head)
            column.addLayout(grid)
        self.add.setAccessibleName("Add what is not noted yet")
        self.add.setMenu(self._menu)
        self._menu.aboutToShow.connect(self._fill_menu)
        column.addWidget(self.add, 0, Qt.AlignmentFlag.AlignLeft)
        column.addStretch(1)
        return form

    def _fill_menu(self) -> None:
        """What is not noted yet, by its group."""
        self._menu.clear()
        for title, fields in groupby(FIELDS, lambda f: f.group):
            missing = [f for f in fields if self.fields[f.name].isHidden()]
            if missing:
                self._menu.addSection(title)
            for field in missing:
                action = self._menu.addAction(self._labels[field.name].text())
                if action is not None:
                    action.triggered.connect(lambda _=False, n=field.name: self.open_field(n))

    def open_field(self, name: str) -> QLineEdit | QComboBox:
        """Let a field be seen, and type into it."""
        self._opened.add(name)
        self._show_filled()
        editor = self.fields[name]
        editor.setFocus(Qt.FocusReason.OtherFocusReason)
        self.ensureWidgetVisible(editor)
        return editor

    def _show_filled(self) -> None:
        """Only what says something is seen, with what was opened to be typed into."""
        for title, fields in groupby(FIELDS, lambda f: f.group):
            seen = [f.name for f in fields if self._seen(f.name)]
            self._heads[title].setVisible(bool(seen))
        for name, editor in self.fields.items():
            for part in (editor, self._labels[name]):
                part.setVisible(self._seen(name))
        self.add.setVisible(bool(self._runs) and any(e.isHidden() for e in self.fields.values()))

    def _seen(self, name: str) -> bool:
        editor = self.fields[name]
        text = editor.currentText() if isinstance(editor, QComboBox) else editor.text() or editor.placeholderText()
        return bool(text) or name in self._opened or name in ALWAYS or editor.hasFocus()

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
        editor.setProperty("asText", True)
        editor.setObjectName(f"sheet-{field.name}")
        self.fields[field.name] = editor
        return editor

    def _on_left(self) -> None:
        """A field was left: what changed is handed over; what is no number is told and put back."""
        sender = self.sender()
        name = next((n for n, e in self.fields.items() if e is sender), None)
        session = self._store.session
        runs = [r for n in self._runs if (r := session.run(n)) is not None]
        if name is None or not runs:
            if isinstance(sender, QLineEdit):
                self._left(sender)
            return
        editor = self.fields[name]
        text = editor.currentText() if isinstance(editor, QComboBox) else editor.text()
        untouched = isinstance(editor, QLineEdit) and len(runs) > 1 and not editor.isModified()
        chosen = isinstance(editor, QComboBox) and text == SEVERAL
        if untouched or chosen or all(text.strip() == shown(r.sheet, name) for r in runs):
            self._left(editor)
            return
        try:
            sheets = ops.with_answers(session, [r.number for r in runs], {name: text})
        except InputError as error:
            self._left(editor)
            self.refused.emit(error)
            return
        if isinstance(editor, QLineEdit):
            editor.setModified(False)
        self.typed.emit(sheets)
        self._fill()

    def _left(self, editor: QLineEdit | QComboBox) -> None:
        """Nothing of a field is to be saved: it shows what is noted again."""
        if isinstance(editor, QLineEdit):
            editor.setModified(False)
        self._fill()

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.RUNS | Changed.SHELF | Changed.CHOICE):
            self._fill()

    def _is_typed_into(self) -> bool:
        """Whether words are being typed that are not saved yet."""
        return any(isinstance(e, QLineEdit) and e.hasFocus() and e.isModified() for e in self.fields.values())

    def _fill(self) -> None:
        """The runs' fields, what they have in common; one that is being typed into stays as it is."""
        if self._is_typed_into():
            # It stays with the runs that it is typed for until it is left: a log that comes in meanwhile may choose another.
            return
        runs = ops.chosen_runs(self._store.session)
        numbers = tuple(r.number for r in runs)
        other = numbers != self._runs
        self._runs = numbers
        if other:
            self._opened.clear()
        rides = bool(runs) and all(r.sheet.kind == "motorcycle" for r in runs)
        for name, editor in self.fields.items():
            editor.setEnabled(bool(runs))
            texts = {shown(r.sheet, name) for r in runs}
            text = texts.pop() if len(texts) == 1 else None
            self._labels[name].setText(self._title(name, rides=rides))
            if isinstance(editor, QComboBox):
                _show_choice(editor, text)
            elif other or not (editor.hasFocus() and editor.isModified()):
                editor.setText(text or "")
                editor.setPlaceholderText(SEVERAL if text is None and runs else "")
                editor.setCursorPosition(0)
        self._show_filled()
        self._later.start()

    @staticmethod
    def _title(name: str, *, rides: bool) -> str:
        """What a field is called; on a motorcycle one rides."""
        field = next(f for f in FIELDS if f.name == name)
        return "rider" if rides and name == "driver" else f"{field.title} {field.unit}".strip()

    def _offer(self) -> None:
        """Names that were typed before are offered again."""
        for name, known in self._known.items():
            words = sorted({str(getattr(r.sheet, name)) for r in self._store.session.runs} - {""})
            if known.stringList() != words:
                known.setStringList(words)


def _show_choice(editor: QComboBox, text: str | None) -> None:
    """Show one of the choices; for runs that differ a line that says so, which is none of them."""
    at = editor.findText(SEVERAL)
    if text is None and at < 0:
        editor.addItem(SEVERAL)
    elif text is not None and at >= 0:
        editor.removeItem(at)
    editor.setCurrentText(SEVERAL if text is None else text)


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
