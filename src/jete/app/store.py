"""The one writer of the session state, with undo, and one signal for all views."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from jete.app.results import KnownLap, PlansHere, Results
from jete.session.state import Changed, Choice, Session, difference

if TYPE_CHECKING:
    from jete.app.results import CornerPasses, Evenness, RunResult
    from jete.core.causes.verdict.result import Comparison, CornerLoss
    from jete.desk.guide import Made
    from jete.desk.plans import RunPlan
    from jete.desk.road import RoadBeside
    from jete.desk.targets import WayToTarget
    from jete.desk.team import TeamTable
    from jete.library.film_book import FilmRecord

    Operation = Callable[[Session], Session]
    Showing = Callable[[Results], Results]

LONGEST_UNDO = 100


@dataclass(frozen=True)
class Step:
    """One thing that was done: its name, and how it is taken back and done again; ``choice`` is what it chose.

    Both return False where they could not be done.
    """

    text: str
    back: Callable[[], object]
    again: Callable[[], object]
    choice: Choice | None = None


class SessionStore(QObject):
    """Holds the session; ``do`` is undoable, ``look_at`` is not; equal states say nothing.

    A change made while views are being told is queued, so that every view sees the
    states in the same order.
    """

    changed = pyqtSignal(object, object)

    def __init__(self, session: Session | None = None) -> None:
        super().__init__()
        self._session = session or Session()
        self._undo: deque[Step] = deque(maxlen=LONGEST_UNDO)
        self._redo: list[Step] = []
        self._queue: deque[tuple[Operation, Changed, Showing]] = deque()
        self._telling = False
        self._held = False
        self._results = Results()

    @property
    def refused(self) -> str:
        """Why the chosen pair can't be compared; empty where it can."""
        return self._results.refused

    @property
    def comparison(self) -> Comparison | None:
        """The comparison that is shown."""
        return self._results.comparison

    @property
    def run(self) -> RunResult | None:
        """What the laps of the compared lap's run have in common."""
        return self._results.run

    @property
    def evenness(self) -> Evenness | None:
        """How alike the corners of the shown run are driven."""
        return self._results.evenness

    @property
    def corner(self) -> CornerLoss | None:
        """The selected corner of the comparison's first lap."""
        comparison, number = self._results.comparison, self._session.look.corner
        found = comparison.laps[0].corners if comparison is not None else ()
        return next((c for c in found if c.corner.number == number), None)

    @property
    def road(self) -> RoadBeside | None:
        """The circuit on the reference's axis, and what each corner is worth."""
        return self._results.road

    @property
    def passes(self) -> CornerPasses | None:
        """The passes that are kept of the shown corner."""
        return self._results.passes

    @property
    def plan(self) -> RunPlan | None:
        """What is proposed for the next run."""
        return self._results.plan

    @property
    def plans(self) -> PlansHere | None:
        """The plans that the shown run has to do with."""
        return self._results.plans

    @property
    def team(self) -> TeamTable | None:
        """The coach's table, as it was made last."""
        return self._results.team

    @property
    def target(self) -> WayToTarget | None:
        """The time to reach of the shown run, and the way to it."""
        return self._results.target

    @property
    def what_if(self) -> KnownLap | None:
        """What changes of the compared lap are worked out with."""
        return self._results.what_if

    @property
    def guide(self) -> Made | None:
        """The lap guide of the reference."""
        return self._results.guide

    @property
    def films(self) -> tuple[FilmRecord | None, FilmRecord | None]:
        """The films of the reference's run and of the lap's."""
        return self._results.films

    @property
    def session(self) -> Session:
        """The present state."""
        return self._session

    def do(self, text: str, operation: Operation) -> None:
        """Change the state in a way that can be undone, under a name for the menu."""
        before = self._session.choice
        self.look_at(operation)
        after = self._session.choice
        if after != before:
            self._remember(Step(text, lambda: self._choose(before), lambda: self._choose(after), after))

    def did(self, text: str, back: Callable[[], object], again: Callable[[], object]) -> None:
        """Remember what was done, so that it can be taken back; both return False where they can't be done."""
        self._remember(Step(text, back, again))

    def _remember(self, step: Step) -> None:
        self._undo.append(step)
        self._redo.clear()
        self._tell_undo()

    def _tell_undo(self) -> None:
        self.look_at(lambda s: s, also=Changed.UNDO)

    def hold(self, held: bool) -> None:  # noqa: FBT001 - the switch's two ends
        """Undo nothing while what was done is still on its way to the shelf, or undo again."""
        if held != self._held:
            self._held = held
            self._tell_undo()

    def forget(self) -> None:
        """Forget what could be undone: it was about another shelf."""
        self._undo.clear()
        self._redo.clear()
        self._tell_undo()

    def refuse(self, choice: Choice, instead: Choice) -> None:
        """Take back a choice that turned out to be none, as if it had never been made."""
        if self._undo and self._undo[-1].choice == choice:
            self._undo.pop()
        self.look_at(lambda s: replace(s, choice=instead) if s.choice == choice else s, also=Changed.UNDO)

    def show(self, showing: Showing, operation: Operation = lambda s: s, also: Changed = Changed.RESULT) -> None:
        """Change the results and the state that goes with them at once, so that no view sees one without the other."""
        self._put(operation, also, showing)

    def _choose(self, choice: Choice) -> None:
        self.look_at(lambda s: replace(s, choice=choice))

    def look_at(self, operation: Operation, also: Changed = Changed.NOTHING) -> None:
        """Change the state without a step of undo; ``also`` is told in any case."""
        self._put(operation, also, lambda r: r)

    def _put(self, operation: Operation, also: Changed, showing: Showing) -> None:
        self._queue.append((operation, also, showing))
        if self._telling:
            return
        self._telling = True
        try:
            while self._queue:
                self._apply(*self._queue.popleft())
        finally:
            self._telling = False

    def _apply(self, operation: Operation, also: Changed, showing: Showing) -> None:
        old, self._session = self._session, operation(self._session)
        self._results = showing(self._results)
        flags = difference(old, self._session) | also
        if flags:
            self.changed.emit(self._session, flags)

    @property
    def undo_text(self) -> str | None:
        """What would be undone, or None."""
        return self._undo[-1].text if self._undo and not self._held else None

    @property
    def redo_text(self) -> str | None:
        """What would be done again, or None."""
        return self._redo[-1].text if self._redo and not self._held else None

    def undo(self) -> None:
        """Take back the last thing that was done; the look stays.  What can't be taken back stays the last thing."""
        if self._undo and not self._held:
            step = self._undo.pop()
            if step.back() is False:
                self._undo.append(step)
            else:
                self._redo.append(step)
            self._tell_undo()

    def redo(self) -> None:
        """Do again what was undone."""
        if self._redo and not self._held:
            step = self._redo.pop()
            if step.again() is False:
                self._redo.append(step)
            else:
                self._undo.append(step)
            self._tell_undo()
