"""Dialogs that tell what went wrong, where, and how to go on."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QLabel, QMessageBox, QWidget

if TYPE_CHECKING:
    from pathlib import Path

    from jete.core.errors import InputError


def tell_input_error(parent: QWidget | None, error: InputError) -> QMessageBox:
    """Say what can't be used and what would mend it; what is open stays."""
    mend = f"{error.mend}\n\n" if error.mend else ""
    return _show(
        parent,
        "This can't be used",
        f"{error.where}\n{error.what[:1].upper()}{error.what[1:]}",
        f"{mend}What is open stays as it is.",
    )


def tell_unforeseen(error: BaseException, log: Path) -> QMessageBox | None:
    """Say that something unforeseen failed and where it is logged."""
    app = QApplication.instance()
    if app is None:
        return None
    return _show(
        QApplication.activeWindow(),
        "Something unforeseen went wrong",
        f"{type(error).__name__}: {error}",
        f"Nothing that is open was lost, and you can go on. Details are in\n{log}",
    )


def tell_crash(log: Path) -> QMessageBox:
    """Say that the program ended without warning last time, and where what is known of it stands."""
    return _show(
        QApplication.activeWindow(),
        "Jete ended without warning last time",
        "Jete ended without warning last time.",
        f"What had been noted is on the shelf. Details are in\n{log}",
    )


def tell_found(parent: QWidget | None, found: list[tuple[str, str, str]]) -> QMessageBox:
    """Say what the check of the shelf found, and what was done about it."""
    lines = [f"{what[:1].upper()}{what[1:]}:\n{where}\n{done}." for what, where, done in found[:6]]
    more = f"\n\nand {len(found) - 6} more" if len(found) > 6 else ""
    return _show(parent, "The shelf was checked", "\n\n".join(lines) + more, "The rest of the shelf is as it was.")


def tell(parent: QWidget | None, title: str, text: str, more: str) -> QMessageBox:
    """Say something that is no failure, with more about it."""
    return _show(parent, title, text, more)


def ask(parent: QWidget | None, title: str, text: str, more: str, yes: str) -> QMessageBox:
    """Ask whether to do the one thing that can be done; ``accepted`` is emitted for yes."""
    box = _show(parent, title, text, more)
    box.setStandardButtons(QMessageBox.StandardButton.Cancel)
    box.addButton(yes, QMessageBox.ButtonRole.AcceptRole)
    return box


def _show(parent: QWidget | None, title: str, text: str, more: str) -> QMessageBox:
    box = QMessageBox(parent)
    box.setObjectName("error-dialog")
    box.setWindowTitle(title)
    box.setText(text)
    box.setInformativeText(more)
    box.setTextFormat(Qt.TextFormat.PlainText)
    more_label = box.findChild(QLabel, "qt_msgbox_informativelabel")
    if more_label is not None:
        more_label.setTextFormat(Qt.TextFormat.PlainText)
    box.setIcon(QMessageBox.Icon.NoIcon)
    box.setStandardButtons(QMessageBox.StandardButton.Ok)
    box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    if parent is None:
        # Nothing else holds a box without a window: it would be gone before it is seen.
        _ALONE.add(box)
        box.finished.connect(_let_go)
    box.open()
    return box


_ALONE: set[QMessageBox] = set()


def _let_go() -> None:
    """Forget boxes that have been answered."""
    _ALONE.difference_update([box for box in _ALONE if not box.isVisible()])
