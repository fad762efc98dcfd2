"""What came of an import, in one place: counts, what was refused and why, and who drove the new runs."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from jete.app.theme import SPACE
from jete.notes.sheet import BY_NAME
from jete.report.shelf import guess_words
from jete.views.labels import plain, tip

if TYPE_CHECKING:
    from jete.app.imports import Import, Outcome
    from jete.notes.guess import Guess

ASKED = ("circuit", "driver", "vehicle", "kind")
MOST_ROWS = 6
ROW_PX = 24


class ImportedPanel(QWidget):
    """Shown until it is closed, or what it asks is answered."""

    noted = pyqtSignal(object, object)
    guessed = pyqtSignal(object)
    columns_wanted = pyqtSignal(object, object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("imported")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        self.summary = plain()
        self.table = QTableWidget(0, 3)
        self.fields: dict[str, QLineEdit | QComboBox] = {}
        self.note, self.close_button = QPushButton(), QPushButton("Close")
        self.map_columns = QPushButton("Say what the columns are…")
        self._who, self._guesses = QWidget(), QWidget()
        self.told, self.agree = plain(wrap=True), QPushButton("Note these")
        self._guessed: dict[int, dict[str, Guess]] = {}
        self._import: Import | None = None
        self._build()
        self.hide()

    def _build(self) -> None:
        self.summary.setAccessibleName("What came of the import")
        self.close_button.setAccessibleName("Close the summary of the import")
        self.close_button.clicked.connect(self.hide)
        self.note.clicked.connect(self._on_note)
        self.map_columns.setAccessibleName(self.map_columns.text())
        self.map_columns.clicked.connect(self._on_columns)
        self._set_up_table()
        head = QHBoxLayout()
        head.addWidget(self.summary, 1)
        head.addWidget(self.map_columns)
        head.addWidget(self.close_button)
        column = QVBoxLayout(self)
        column.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        column.addLayout(head)
        column.addWidget(self.table)
        column.addWidget(self._guessing())
        column.addWidget(self._asking())

    def _set_up_table(self) -> None:
        self.table.setAccessibleName("Files that did not come in")
        self.table.setHorizontalHeaderLabels(["file", "what is wrong", "what would mend it"])
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setShowGrid(False)
        self.table.setTabKeyNavigation(False)
        self.table.setWordWrap(False)
        rows, titles = self.table.verticalHeader(), self.table.horizontalHeader()
        if rows is not None and titles is not None:
            rows.hide()
            rows.setDefaultSectionSize(ROW_PX)
            titles.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
            titles.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)

    def _guessing(self) -> QWidget:
        """What names of files and folders say, to be confirmed for all at once."""
        row = QHBoxLayout(self._guesses)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.told, 1)
        row.addWidget(self.agree)
        self.agree.setAccessibleName("Note what the names of the files say")
        self.agree.clicked.connect(self._on_agree)
        return self._guesses

    def _on_agree(self) -> None:
        self.guessed.emit({run: {n: g.value for n, g in found.items()} for run, found in self._guessed.items()})
        self._guesses.hide()
        if self._import is not None and not self._import.of("refused", "unknown columns"):
            self.hide()

    def _asking(self) -> QWidget:
        """The fields for who drove, and what."""
        row = QHBoxLayout(self._who)
        row.setContentsMargins(0, 0, 0, 0)
        for name in ASKED:
            field = BY_NAME[name]
            editor: QLineEdit | QComboBox
            if field.holds == "choice":
                editor = QComboBox()
                editor.addItems([c or field.title for c in field.choices])
            else:
                editor = QLineEdit()
                editor.setPlaceholderText(field.title)
                editor.returnPressed.connect(self._on_note)
            editor.setObjectName(f"asked-{name}")
            editor.setAccessibleName(f"{field.title} of the new runs")
            self.fields[name] = editor
            row.addWidget(editor, 1)
        row.addWidget(self.note)
        return self._who

    def show_import(self, done: Import, circuit: str, guesses: dict[int, dict[str, Guess]] | None = None) -> None:
        """Show what came of an import.

        Args:
            done: the import.
            circuit: of its new runs where they share one that a person has yet to name; it is asked for then.
            guesses: what names say of the new runs, by run and field.
        """
        self._guessed = guesses or {}
        self.told.setText(guess_words(self._guessed))
        self._guesses.setVisible(bool(self._guessed))
        self._import = done
        self.summary.setText(done.summary)
        self._fill(done.of("refused", "unknown columns"))
        new = done.runs("in")
        self._who.setVisible(bool(new) and not done.noted)
        self.fields["circuit"].setVisible(bool(circuit))
        for name, editor in self.fields.items():
            if isinstance(editor, QLineEdit):
                editor.clear()
                if name == "circuit":
                    editor.setPlaceholderText(f"name of {circuit}")
            else:
                editor.setCurrentIndex(0)
        self.note.setText("Note this" if len(new) == 1 else f"Note this on {len(new)} runs")
        self.note.setAccessibleName(self.note.text())
        self.map_columns.setVisible(bool(done.of("unknown columns")))
        self.show()

    def _fill(self, outcomes: list[Outcome]) -> None:
        self.table.setVisible(bool(outcomes))
        self.table.setRowCount(len(outcomes))
        for row, outcome in enumerate(outcomes):
            for column, text in enumerate((outcome.path.name, outcome.why, outcome.mend)):
                item = QTableWidgetItem(text)
                item.setToolTip(tip(text))
                item.setData(Qt.ItemDataRole.UserRole, outcome)
                self.table.setItem(row, column, item)
        self.table.setFixedHeight(ROW_PX * (min(len(outcomes), MOST_ROWS) + 1) + 12)

    def answers(self) -> dict[str, str]:
        """What was typed, by field."""
        out = {}
        for name, editor in self.fields.items():
            text = editor.currentText() if isinstance(editor, QComboBox) else editor.text().strip()
            if text and not (isinstance(editor, QComboBox) and editor.currentIndex() == 0):
                out[name] = text
        return out

    def _on_note(self) -> None:
        """Hand over what was typed for all new runs."""
        answers = self.answers()
        if self._import is not None and answers:
            self.noted.emit(self._import.runs("in"), answers)
        self._who.hide()
        if self._import is not None and not self._import.of("refused", "unknown columns"):
            self.hide()

    def _on_columns(self) -> None:
        """Ask for the columns of the selected file, or of the first one that has unknown ones."""
        item = self.table.currentItem()
        chosen = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        unknown = self._import.of("unknown columns") if self._import is not None else []
        outcome = chosen if chosen in unknown else unknown[0] if unknown else None
        if outcome is not None:
            self.columns_wanted.emit(outcome.path, outcome.error)
