"""What to try in the next run, proposed in the background where it is read; plans that are taken along, and what came of them."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import pyqtSignal

from jete.app.follower import Follower
from jete.app.pages import shown_on
from jete.app.results import PlansHere
from jete.session.state import Changed, Session

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.app.results import RunResult
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.app.tasks import Tasks
    from jete.desk.plans import RunPlan
    from jete.library.plan_records import PlanRecord

PROPOSING, LOOKING_BACK = "proposing aims", "looking back on a plan"
ABOUT = Changed.PAGE | Changed.RUN_RESULT | Changed.RESULT | Changed.CHOICE
SINCE = Changed.PAGE | Changed.RUNS | Changed.CHOICE


class PlanKeeper(Follower):
    """Follows the page Next run: proposes aims once the run's laps are compared, keeps plans, looks back on the last one."""

    WORKS = (PROPOSING, LOOKING_BACK)
    failed = pyqtSignal(object)

    def __init__(self, store: SessionStore, tasks: Tasks, shelf: Shelf) -> None:
        super().__init__(store, tasks, shelf)
        self.race = False
        self._wanted: int | None = None
        self._read: tuple[object, ...] = ()

    def _forget(self) -> None:
        self._wanted, self._read = None, ()
        if self._store.plan is not None or self._store.plans is not None:
            self._store.show(lambda r: replace(r, plan=None, plans=None), also=Changed.PLAN)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        run, plan = self._store.run, self._store.plan
        if plan is not None and (run is None or plan.comparison is not run.comparison):
            self._show(None)
        if session.look.page not in shown_on("plan"):
            return
        if flags & ABOUT and run is not None and (plan is None or plan.comparison is not run.comparison):
            self._propose(run)
        if flags & SINCE:
            self._look_back(session)

    # --- proposing

    def set_race(self, race: bool) -> None:  # noqa: FBT001 - the switch's two ends
        """Propose for a race instead of one fast lap, or back."""
        if race != self.race and self._store.run is not None:
            self.race = race
            self._propose(self._store.run)

    def _propose(self, run: RunResult) -> None:
        road, choice = self._store.road, self._store.session.choice
        circuit = road.circuit if road is not None else None
        if choice.lap is None or run.reference is None or self._shelf.location is None:
            return
        library, number, reference, race = self._shelf.library(), choice.lap.run, run.reference.run, self.race

        def work(_: object) -> RunPlan:
            from jete.desk.plan_shelf import circumstances
            from jete.desk.plans import plan_from

            given = circumstances(library, number, reference, run.comparison.corners, race=race)
            return plan_from(run.comparison, circuit, run.summary, given=given)

        self._tasks.start(PROPOSING, work, self._show, self.failed.emit)

    def _show(self, plan: RunPlan | None) -> None:
        self._store.show(lambda r: replace(r, plan=plan), also=Changed.PLAN)

    # --- looking back

    def look_back_on(self, plan: int | None) -> None:
        """Look back on a plan by its number; None: on the one that the shown run belongs to."""
        self._wanted = plan
        self._look_back(self._store.session, again=True)

    def _look_back(self, session: Session, *, again: bool = False) -> None:
        """Read the plans of the shown run's driver, and what came of the one that is looked back on."""
        lap = session.choice.lap
        if lap is None or self._shelf.location is None:
            self._read = ()
            if self._store.plans is not None:
                self._store.show(lambda r: replace(r, plans=None), also=Changed.PLAN)
            return
        # What is noted of runs decides which of them follow, and which laps count.
        about = (lap.run, self._wanted, tuple((r.number, r.sheet, r.notes) for r in session.runs))
        if about == self._read and not again:
            return
        self._read = about
        library, number, wanted = self._shelf.library(), lap.run, self._wanted

        def work(_: object) -> PlansHere:
            from jete.desk.book import book_of
            from jete.desk.plan_shelf import look_back, plan_looked_back_on, plans_of_driver
            from jete.report.review import shelf_document

            plans, records = library.plans.all(), library.runs()
            chosen = next((p for p in plans if p.id == wanted), None) or plan_looked_back_on(number, plans, records)
            back = look_back(library, chosen, self._shelf.lap_of(library)) if chosen is not None else None
            told = shelf_document(back) if back is not None and back.found is not None else None
            if back is not None and told is not None:
                plans = [replace(p, review=told) if p.id == back.plan.id else p for p in plans]
            return PlansHere(
                run=number,
                book=book_of(number, records, plans, library.corrections({r.id for r in records})),
                kept=next((p for p in reversed(plans) if p.run == number), None),
                back=back,
                told=told,
                others=plans_of_driver(number, plans, records),
                phrases=tuple(
                    dict.fromkeys(a["typed"] for p in reversed(plans) for a in p.document["aims"] if a.get("typed"))
                ),
            )

        self._tasks.start(LOOKING_BACK, work, self._on_looked_back, self.failed.emit)

    def _on_looked_back(self, here: PlansHere) -> None:
        self._store.show(lambda r: replace(r, plans=here), also=Changed.PLAN)
        back, told = here.back, here.told
        # Later runs ask for what came of a plan.
        if back is not None and told is not None and told != back.plan.review and not self._shelf.read_only:
            number = back.plan.id
            self._shelf.write("", lambda library: library.plans.note_review(number, told))

    # --- what people do with a plan

    def put(self, text: str, plan: PlanRecord) -> bool:
        """Keep a plan as it is now, as a step of undo."""
        here, number = self._store.plans, [plan.id]
        shown = [here.kept, here.back.plan if here.back is not None else None] if here is not None else []
        before = next((p for p in shown if p is not None and p.id == plan.id), None)
        undo = self._keeping(text, before, number) if before is not None else self._dropping(text, number)
        return self._step(text, undo, self._keeping(text, plan, number))

    def drop(self, text: str, plan: PlanRecord) -> bool:
        """Throw a plan away, as a step of undo."""
        number = [plan.id]
        return self._step(text, self._keeping(text, plan, number), self._dropping(text, number))

    def _step(self, text: str, undo: Callable[[], bool], do: Callable[[], bool]) -> bool:
        if not do():
            return False
        self._store.did(text, undo, do)
        return True

    def _keeping(self, text: str, plan: PlanRecord, number: list[int]) -> Callable[[], bool]:
        """Keep a plan under the number that it has by then: one that was dropped is kept under a new one."""
        return lambda: self._write(text, lambda library: library.plans.keep(replace(plan, id=number[0])).id, number)

    def _dropping(self, text: str, number: list[int]) -> Callable[[], bool]:
        return lambda: self._write(text, lambda library: library.plans.drop(number[0]), None)

    def _write(self, text: str, change: Callable[[Any], Any], number: list[int] | None) -> bool:
        def then(kept: Any) -> None:
            if number is not None:
                number[0] = kept
            self._look_back(self._store.session, again=True)

        return self._shelf.write(text, change, then=then)
