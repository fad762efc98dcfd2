"""The right half of the page Next run: what came of the last plan, aim by aim."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from jete.app.theme import LEAD_PX, SMALL_PX, SPACE, font
from jete.desk.plans import MOST_AIMS
from jete.views.labels import plain
from jete.views.next.outcome import OutcomeCard

if TYPE_CHECKING:
    from jete.app.results import PlansHere
    from jete.desk.plan_shelf import PlanOnShelf
    from jete.report.units import Units
    from jete.session.state import Session


class LookingBack(QWidget):
    """Tells which plan is to be looked back on, by which runs it is to be judged, and what was tried."""

    chosen = pyqtSignal(int)
    judged_by = pyqtSignal(object)
    answered = pyqtSignal(int, int)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("looking-back")
        self.title, self.of_what, self.why = plain("What came of it"), plain(wrap=True, muted=True), plain(wrap=True)
        self.plans, self.runs = QComboBox(), QPushButton("Judged by…")
        self.menu = QMenu(self.runs)
        self.cards = tuple(OutcomeCard(k) for k in range(1, MOST_AIMS + 1))
        self._back: PlanOnShelf | None = None
        self._build()

    def _build(self) -> None:
        self.title.setFont(font(LEAD_PX, bold=True))
        self.plans.setAccessibleName("The plan that is looked back on")
        self.plans.activated.connect(self._on_plan)
        self.runs.setFont(font(SMALL_PX))
        self.runs.setToolTip("The runs that the plan is judged by.")
        self.runs.setMenu(self.menu)
        head = QHBoxLayout()
        for widget, stretch in ((self.title, 1), (self.plans, 0), (self.runs, 0)):
            head.addWidget(widget, stretch)
        column = QVBoxLayout(self)
        column.setContentsMargins(SPACE, SPACE, 0, SPACE)
        column.setSpacing(SPACE)
        column.addLayout(head)
        column.addWidget(self.of_what)
        column.addWidget(self.why)
        for card in self.cards:
            card.answered.connect(self.answered)
            column.addWidget(card)
        column.addStretch(1)

    def show_back(self, here: PlansHere, session: Session, units: Units) -> None:
        """Show the plan that is looked back on; the widget is hidden without one."""
        back = here.back
        self._back = back
        self.setVisible(back is not None)
        if back is None:
            return
        self._show_plans(here, back, session)
        self._show_runs(back, session)
        self.of_what.setText(_of_what(back, session))
        self.why.setText(back.why)
        self.why.setVisible(bool(back.why))
        told = back.found.aims if back.found is not None else ()
        for k, card in enumerate(self.cards):
            card.setVisible(k < len(told))
            if back.found is not None and k < len(told):
                card.show_outcome(back, back.found, told[k], units)

    def _show_plans(self, here: PlansHere, back: PlanOnShelf, session: Session) -> None:
        plans = here.others if any(p.id == back.plan.id for p in here.others) else (*here.others, back.plan)
        self.plans.clear()
        for plan in reversed(plans):
            run = session.run(plan.run)
            self.plans.addItem(f"after {_when(run.name if run else '?', run.sheet.date if run else '')}", plan.id)
        self.plans.setCurrentIndex(self.plans.findData(back.plan.id))
        self.plans.setVisible(len(plans) > 1)

    def _show_runs(self, back: PlanOnShelf, session: Session) -> None:
        """All runs that may be meant, with what is not clear of them."""
        self.menu.clear()
        why = dict(back.follow.asked)
        known = {*back.runs, *why, *([back.follow.after] if back.follow.after is not None else [])}
        for run in (r for r in session.runs if r.number in known):
            unclear = f" ({why[run.number]})" if run.number in why else ""
            action = QAction(f"{_when(run.name, run.sheet.date)}{unclear}", self.menu)
            action.setCheckable(True)
            action.setChecked(run.number in back.runs)
            action.setData(run.number)
            action.toggled.connect(self._on_runs)
            self.menu.addAction(action)
        self.runs.setVisible(bool(known))

    def _on_runs(self) -> None:
        self.judged_by.emit(tuple(a.data() for a in self.menu.actions() if a.isChecked()))

    def _on_plan(self, index: int) -> None:
        self.chosen.emit(self.plans.itemData(index))


def _when(name: str, date: str) -> str:
    return f"{name}, {date}" if date else name


def _of_what(back: PlanOnShelf, session: Session) -> str:
    chosen = session.run(back.plan.run)
    made = f"Chosen after {_when(chosen.name, chosen.sheet.date)}" if chosen is not None else ""
    runs = [run for n in back.runs if (run := session.run(n)) is not None]
    if not runs:
        return made
    laps = len(back.found.laps_after()) if back.found is not None else 0
    return f"{made} · judged by {', '.join(_when(r.name, r.sheet.date) for r in runs)}: {laps} laps that count"
