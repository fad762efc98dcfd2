"""The time to reach of the shown run's driver, class and circuit, and where it could come from; set and dropped as steps of undo."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import pyqtSignal

from jete.app.follower import Follower
from jete.app.pages import shown_on
from jete.library.target_records import TargetRecord
from jete.session.operations import shown_run
from jete.session.state import Changed, Session

if TYPE_CHECKING:
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks
    from jete.desk.targets import WayToTarget

FINDING = "finding the way to a target"
# Who walks through the runs does not stop at each of them.
STAYED_MS = 200


class TargetKeeper(Follower):
    """Follows the page Laps: reads the target that is meant for the shown run."""

    WORKS = (FINDING,)
    failed = pyqtSignal(object)

    def __init__(self, store: SessionStore, tasks: Tasks, shelf: Shelf) -> None:
        super().__init__(store, tasks, shelf)
        self._stayed = self._waiting(STAYED_MS, self.read_again)

    def _forget(self) -> None:
        self._show(None)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if session.look.page in shown_on("target") and flags & (Changed.SHELF | Changed.RUNS | Changed.PAGE):
            self._stayed.start()

    def read_again(self) -> None:
        """Find the way to the target as the shelf has it now."""
        run = shown_run(self._store.session)
        if run is None or self._shelf.location is None:
            return
        library, sheet = self._shelf.library(), run.sheet

        def work(_: object) -> WayToTarget | None:
            from jete.desk.targets import way_to

            target = library.targets.of_run(sheet)
            return way_to(library, target) if target is not None else None

        self._tasks.start(FINDING, work, self._show, self.failed.emit)

    def _show(self, way: WayToTarget | None) -> None:
        if way is not self._store.target:
            self._store.show(lambda r: replace(r, target=way), also=Changed.RUN_RESULT)

    def set(self, time_s: float | None) -> bool:
        """Set the time that the shown run's driver wants to reach there in this class; None drops it."""
        run, way = shown_run(self._store.session), self._store.target
        if run is None:
            return False
        sheet, before = run.sheet, way.target if way is not None else None
        after = None
        if time_s is not None:
            after = replace(before, time_s=time_s) if before is not None else TargetRecord(
                circuit=sheet.circuit, layout=sheet.layout, driver=sheet.driver, group=sheet.group, time_s=time_s
            )  # fmt: skip
        if after == before:
            return False
        if not self._put(after, before):
            return False
        self._store.did("target", lambda: self._put(before, after), lambda: self._put(after, before))
        return True

    def _put(self, target: TargetRecord | None, instead: TargetRecord | None) -> bool:
        def change(library: Any) -> None:
            if target is not None:
                library.targets.keep(target)
            elif instead is not None:
                for kept in library.targets.all():
                    if replace(kept, id=0) == replace(instead, id=0):
                        library.targets.drop(kept.id)

        return self._shelf.write("target", change, then=lambda _: self.read_again())
