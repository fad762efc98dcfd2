"""What to try in the next run, proposed in the background where it is read: from the shown run's laps against the reference."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal

from jete.app.follower import Follower
from jete.app.pages import shown_on
from jete.session.state import Changed, Session

if TYPE_CHECKING:
    from jete.app.results import RunResult
    from jete.desk.plans import RunPlan

PROPOSING = "proposing aims"
ABOUT = Changed.PAGE | Changed.RUN_RESULT | Changed.RESULT | Changed.CHOICE


class PlanKeeper(Follower):
    """Follows the page Next run: proposes aims once the run's laps are compared."""

    WORKS = (PROPOSING,)
    failed = pyqtSignal(object)

    def _forget(self) -> None:
        if self._store.plan is not None:
            self._show(None)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        run, plan = self._store.run, self._store.plan
        if plan is not None and (run is None or plan.comparison is not run.comparison):
            self._show(None)
        if session.look.page not in shown_on("plan") or not flags & ABOUT:
            return
        if run is not None and (plan is None or plan.comparison is not run.comparison):
            self._propose(run, rider=self._rides(session))

    def _rides(self, session: Session) -> bool:
        lap = session.choice.lap
        run = session.run(lap.run) if lap is not None else None
        return run is not None and run.sheet.kind == "motorcycle"

    def _propose(self, run: RunResult, *, rider: bool) -> None:
        road = self._store.road
        circuit = road.circuit if road is not None else None

        def work(_: object) -> RunPlan:
            from jete.desk.plans import plan_from

            return plan_from(run.comparison, circuit, run.summary, rider=rider)

        self._tasks.start(PROPOSING, work, self._show, self.failed.emit)

    def _show(self, plan: RunPlan | None) -> None:
        self._store.show(lambda r: replace(r, plan=plan), also=Changed.PLAN)
