"""Where a file is read or written: asked in the folder that was used last, in the person's own at first."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Final

from PyQt6.QtWidgets import QFileDialog

from jete.app.settings import keep_text, kept_text

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QWidget

FILE: Final = "last-folder"


def last_folder() -> Path:
    """The folder that was used last, while it is there; else the person's own."""
    kept = Path(kept_text(FILE) or "/nowhere")
    return kept if kept.is_dir() else Path.home()


def _used(name: str, *, folder: bool = False) -> str:
    """Remember the folder of what was chosen."""
    if name:
        keep_text(FILE, str(Path(name) if folder else Path(name).parent))
    return name


def ask_open(parent: QWidget | None, title: str, kinds: str) -> str:
    """A file to read; empty where none was chosen."""
    return _used(QFileDialog.getOpenFileName(parent, title, str(last_folder()), kinds)[0])


def ask_open_many(parent: QWidget | None, title: str, kinds: str) -> list[str]:
    """Files to read."""
    names = QFileDialog.getOpenFileNames(parent, title, str(last_folder()), kinds)[0]
    _used(names[0] if names else "")
    return names


def ask_save(parent: QWidget | None, title: str, name: str, kinds: str) -> tuple[str, str]:
    """Where to write, and which of the kinds was chosen; empty where none was."""
    chosen, kind = QFileDialog.getSaveFileName(parent, title, str(last_folder() / name), kinds)
    return _used(chosen), kind


def ask_folder(parent: QWidget | None, title: str) -> str:
    """A folder; empty where none was chosen."""
    return _used(QFileDialog.getExistingDirectory(parent, title, str(last_folder())), folder=True)
