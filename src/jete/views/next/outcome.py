"""What came of one aim: the outcome large, its laps as a strip, how far, what it did to the corner, and what to do now."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout

from jete.app.theme import LEAD_PX, SPACE, font
from jete.report.plan import corner_title, measured
from jete.report.review import PROPOSALS, detail_words, outcome_words, told_of
from jete.views.labels import plain
from jete.views.next.strip import Strip
from jete.views.switch import Switch

if TYPE_CHECKING:
    from jete.desk.plan_shelf import PlanOnShelf
    from jete.desk.reviews import AimReviewed, PlanReviewed
    from jete.report.units import Units

ANSWERS = ("not said", "tried", "not tried")


class OutcomeCard(QFrame):
    """Tells whether a person said that the aim was tried."""

    answered = pyqtSignal(int, int)

    def __init__(self, number: int) -> None:
        super().__init__()
        self.setObjectName(f"outcome-{number}")
        self.setFrameShape(QFrame.Shape.NoFrame)
        self._aim = number
        self.title, self.outcome = plain(wrap=True, small=True, muted=True), plain(wrap=True)
        self.strip, self.details, self.why = Strip(), plain(wrap=True, small=True), plain(wrap=True, small=True)
        self.proposal = plain(wrap=True)
        self.proposal.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop)
        self.tried = Switch(
            f"Aim {number}: did you try it?", ANSWERS, "Not tried, and tried in vain, look alike in data."
        )
        self.outcome.setFont(font(LEAD_PX, bold=True))
        self.proposal.setFont(font(LEAD_PX))
        self.tried.moved.connect(self._on_moved)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, SPACE, SPACE)
        column.setSpacing(SPACE // 2)
        told, asked = QHBoxLayout(), QHBoxLayout()
        told.addWidget(self.outcome, 3)
        told.addWidget(self.proposal, 1)
        asked.addWidget(self.strip, 1)
        asked.addWidget(plain("Did you try it?", small=True))
        asked.addWidget(self.tried)
        column.addWidget(self.title)
        column.addLayout(told)
        column.addLayout(asked)
        for widget in (self.details, self.why):
            column.addWidget(widget)

    def _on_moved(self, end: int) -> None:
        self.answered.emit(self._aim, end)

    def show_outcome(self, back: PlanOnShelf, found: PlanReviewed, one: AimReviewed, units: Units) -> None:
        """Show what came of an aim of the plan that is looked back on."""
        self._aim = one.aim.number
        title = corner_title(one.corner) if one.corner is not None else f"corner {one.aim.corner}"
        self.title.setText(f"{one.aim.number}   {title} · {one.aim.words}")
        self.outcome.setText(outcome_words(found, one, back.conditions))
        laps = found.laps_after()
        judge = one.aim.judge
        values = [measured(judge.measure, v, units) if v is not None and judge is not None else "" for v in one.values]
        self.strip.show_laps(
            [(lap.span.number, state, value) for lap, state, value in zip(laps, one.states, values, strict=False)]
        )
        self.details.setText("\n".join(f"{line[:1].upper()}{line[1:]}." for line in detail_words(one, units)))
        told = told_of(found, one, back.conditions)
        self.why.setText(f"May explain it: {'; '.join(told['explained_by'])}." if told["explained_by"] else "")
        self.why.setVisible(bool(self.why.text()))
        answer = back.plan.answers.get(str(one.aim.number))
        self.tried.show_at(0 if answer is None else 1 if answer else 2)
        self.proposal.setText(self._proposal(told["proposal"], answer))
        self.setAccessibleName(f"{title}: {self.outcome.text()} {self.proposal.text()}")

    @staticmethod
    def _proposal(proposal: str, answer: bool | None) -> str:  # noqa: FBT001 - as it was answered
        if answer is False and proposal in ("wait", "keep"):
            return "Now: try it in the next run."
        return f"Now: {PROPOSALS[proposal][:1].lower()}{PROPOSALS[proposal][1:]}."
