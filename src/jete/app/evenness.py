"""How alike the corners of the shown run are driven, found out in the background while one looks at it."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from jete.app.follower import Follower
from jete.app.pages import shown_on
from jete.app.results import Evenness
from jete.session.operations import shown_run
from jete.session.state import Changed, Run, Session

if TYPE_CHECKING:
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks
    from jete.core.causes.verdict.result import Comparison

MEASURING = "measuring"
# Who walks through the runs does not stop at each of them.
STAYED_MS = 350
LEAST_LAPS = 3

Key = tuple[int, tuple[int, ...]]


class EvennessFinder(Follower):
    """Holds the laps of the shown run against its best and puts what it finds into the store."""

    WORKS = (MEASURING,)

    def __init__(self, store: SessionStore, tasks: Tasks, shelf: Shelf) -> None:
        super().__init__(store, tasks, shelf)
        self._known: dict[Key, Evenness | None] = {}
        self._stayed = self._waiting(STAYED_MS, self._measure)
        shelf.opened.connect(self._known.clear)
        shelf.split_anew.connect(self._on_split_anew)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if not flags & (Changed.SHELF | Changed.RUNS | Changed.PAGE):
            return
        run = shown_run(session)
        found = self._known.get(_key_of(run)) if run else None
        if self._store.evenness != found:
            self._show(found)
        if (
            session.look.page in shown_on("evenness")
            and run
            and len(run.counted) >= LEAST_LAPS
            and _key_of(run) not in self._known
        ):
            self._stayed.start()

    def _on_split_anew(self) -> None:
        self._tasks.cancel(MEASURING)
        self._known.clear()
        self._show(None)
        self._stayed.start()

    def _measure(self) -> None:
        run = shown_run(self._store.session)
        if run is None or run.best is None:
            return
        key = _key_of(run)
        load = self._shelf.alone_loader(run.number)
        if load is not None and key not in self._known and len(key[1]) >= LEAST_LAPS:
            self._tasks.start(
                MEASURING,
                lambda token: (key, _evenness(load(token))),
                self._on_measured,
                lambda _: self._on_measured((key, None)),
            )

    def _on_measured(self, result: tuple[Key, Evenness | None]) -> None:
        """Keep it; laps that can't be compared with each other have none."""
        key, found = result
        self._known[key] = found
        run = shown_run(self._store.session)
        if run is not None and _key_of(run) == key:
            self._show(found)

    def _show(self, found: Evenness | None) -> None:
        self._store.show(lambda r: replace(r, evenness=found), also=Changed.RUN_RESULT)


def _key_of(run: Run) -> Key:
    return run.number, tuple(span.number for span in run.counted)


def _evenness(comparison: Comparison) -> Evenness:
    """The corners of a run that are driven most and least alike (off the window's thread)."""
    from jete.core.run import run_of

    spread = sorted(run_of(comparison).corners, key=lambda c: c.spread_s)
    even, uneven = spread[0], spread[-1]
    return Evenness(even.corner.shown, even.spread_s, uneven.corner.shown, uneven.spread_s)
