"""A folder that is watched: a new log is told when nothing has been written to it for a moment."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jete.core.errors import InputError

if TYPE_CHECKING:
    from watchdog.observers.api import BaseObserver

LOOK_MS = 500
STEADY_LOOKS = 2


class Watch(QObject):
    """Tells files that come into a folder and stay as they are for a second."""

    came = pyqtSignal(object)
    _seen = pyqtSignal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._observer: BaseObserver | None = None
        self._sizes: dict[Path, tuple[int, int]] = {}
        self.folder: Path | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK_MS)
        self._timer.timeout.connect(self._look)
        self._seen.connect(self._on_seen)

    def start(self, folder: Path | None) -> None:
        """Watch a folder and those in it from now on; None for none.

        Raises:
            InputError: a folder that is not there.
        """
        self.stop()
        if folder is None:
            return
        if not folder.is_dir():
            raise InputError(str(folder), "the watched folder is not there.", "Choose another one.")
        from watchdog.events import FileSystemEventHandler
        from watchdog.observers import Observer

        seen = self._seen

        class Handler(FileSystemEventHandler):
            def on_any_event(self, event: Any) -> None:
                if not event.is_directory and event.event_type in ("created", "modified", "moved", "closed"):
                    seen.emit(str(event.dest_path or event.src_path))

        self.folder = folder
        self._observer = Observer()
        self._observer.schedule(Handler(), str(folder), recursive=True)
        self._observer.start()

    def stop(self) -> None:
        """Watch nothing."""
        self._timer.stop()
        self._sizes.clear()
        self.folder = None
        if self._observer is not None:
            self._observer.stop()
            self._observer.join()
            self._observer = None

    def _on_seen(self, name: str) -> None:
        path = Path(name)
        if self.folder is None or path.name.startswith(".") or path.suffix in (".part", ".tmp", ".unfinished"):
            return
        self._sizes.setdefault(path, (-1, 0))
        self._timer.start()

    def _look(self) -> None:
        """Tell the files whose size has not changed for a while."""
        for path, (size, looks) in list(self._sizes.items()):
            try:
                now = path.stat().st_size
            except OSError:
                del self._sizes[path]
                continue
            if now != size or now == 0:
                self._sizes[path] = (now, 0)
            elif looks + 1 >= STEADY_LOOKS:
                del self._sizes[path]
                self.came.emit(path)
            else:
                self._sizes[path] = (now, looks + 1)
        if not self._sizes:
            self._timer.stop()
