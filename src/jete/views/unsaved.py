"""What waits to be saved: told at the head of the window, listed when asked for, and asked about before the window goes."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QMessageBox, QPushButton, QWidget

from jete.app.dialogs import tell
from jete.app.not_saved import keep_words, not_saved_path

if TYPE_CHECKING:
    from jete.app.writer import Writer

# A change that takes no longer is not worth a word.
QUICK_MS = 400
MOST_LISTED = 8


class UnsavedMark(QPushButton):
    """Says how many changes are not saved yet; pressed, it lists them and says why."""

    def __init__(self, writer: Writer) -> None:
        super().__init__()
        self._writer = writer
        self._leaving: QMessageBox | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(QUICK_MS)
        self._soon.timeout.connect(self._show_count)
        self.setObjectName("unsaved")
        self.hide()
        self.clicked.connect(self._on_clicked)
        writer.changed.connect(self._on_writing)

    def _waiting(self) -> list[str]:
        return [change.words for change in self._writer.pending if change.words]

    def _on_writing(self) -> None:
        if not self._waiting():
            self._soon.stop()
            self.hide()
        elif self.isVisible():
            self._show_count()
        elif not self._soon.isActive():
            self._soon.start()
        if self._leaving is not None:
            self._go_on_leaving(self._leaving)

    def _show_count(self) -> None:
        count = len(self._waiting())
        if count:
            self.setText(f"{count} change{'s' if count > 1 else ''} not saved yet")
            self.setToolTip(self._listed())
            self.setAccessibleName(f"{self.text()}: what they are, and why")
            self.show()

    def _listed(self) -> str:
        words = self._waiting()
        more = [f"and {len(words) - MOST_LISTED} more"] if len(words) > MOST_LISTED else []
        why = f"The shelf can't take them now: {self._writer.why}" if self._writer.why else "The shelf is slow."
        return "\n".join([*words[:MOST_LISTED], *more, "", f"{why} They are written as soon as it can."])

    def _on_clicked(self) -> None:
        tell(self.window(), "Not saved yet", self.text(), self._listed())

    # --- closing

    def ask_before_closing(self, window: QWidget) -> None:
        """Wait with the window's end until all is saved, unless a person says to end without."""
        if self._leaving is not None:
            return
        self._show_count()
        box = tell(window, "Not saved yet", "The window closes as soon as these changes are saved.", self._listed())
        box.setStandardButtons(QMessageBox.StandardButton.NoButton)
        stay = box.addButton("Keep the window open", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(stay)
        go = box.addButton("Close without them", QMessageBox.ButtonRole.DestructiveRole)
        assert go is not None
        go.setToolTip(f"They are kept as text in {not_saved_path()}.")
        go.clicked.connect(self._on_let_go)
        box.finished.connect(self._on_answered)
        self._leaving = box

    def _go_on_leaving(self, box: QMessageBox) -> None:
        if self._writer.pending:
            box.setInformativeText(self._listed())
        else:
            self._end()

    def _on_answered(self) -> None:
        self._leaving = None

    def _on_let_go(self) -> None:
        words = [change.words for change in self._writer.give_up() if change.words]
        try:
            path = keep_words(words)
        except OSError as error:
            tell(None, "Not saved", f"They could not be kept as text either ({error.strerror}).", "\n".join(words))
        else:
            tell(None, "Not saved", "What was not saved is kept as text.", f"{path}\n\n" + "\n".join(words))
        self._end()

    def _end(self) -> None:
        box, self._leaving = self._leaving, None
        if box is not None:
            box.close()
        window = self.window()
        if window is not None:
            # The writer is still telling what came in.
            QTimer.singleShot(0, window.close)
