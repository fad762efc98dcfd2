"""One aim as a card: the corner, the cue in large type, what it may be worth, why, how far, and what to be careful of."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout

from jete.app.theme import SMALL_PX, SPACE, TITLE_PX, font
from jete.report.plan import cue_words, gain_of, leave_words, reason_words, risks_at, target_words
from jete.report.what_if import seconds_words
from jete.views.labels import colour, plain

if TYPE_CHECKING:
    from jete.desk.plans import AimWithGain, RunPlan
    from jete.report.units import Units

CUE_PX = 20


class AimCard(QFrame):
    """Tells which corner is to be looked at."""

    asked = pyqtSignal(int)

    def __init__(self, number: int) -> None:
        super().__init__()
        self.setObjectName(f"aim-{number}")
        self.setFrameShape(QFrame.Shape.NoFrame)
        self._number, self._corner = number, 0
        self.title, self.cue, self.gain = plain(small=True, muted=True), plain(wrap=True), plain(wrap=True)
        self.why, self.target, self.leave = plain(wrap=True), plain(wrap=True, small=True), plain(wrap=True, small=True)
        self.care = plain(wrap=True, small=True)
        self.see = QPushButton("See the corner")
        self.cue.setFont(font(CUE_PX, bold=True))
        self.gain.setFont(font(TITLE_PX))
        self.see.setFont(font(SMALL_PX))
        self.see.clicked.connect(self._on_see)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, SPACE, 0)
        column.setSpacing(SPACE)
        for label in (self.title, self.cue, self.gain, self.why, self.target, self.leave, self.care):
            column.addWidget(label)
        column.addWidget(self.see, 0, Qt.AlignmentFlag.AlignLeft)
        column.addStretch(1)

    def _on_see(self) -> None:
        self.asked.emit(self._corner)

    def show_aim(self, plan: RunPlan, one: AimWithGain, units: Units) -> None:
        """Show an aim."""
        corner = plan.comparison.corners[one.aim.corner - 1]
        self._corner = one.aim.corner
        told, risks = gain_of(one), risks_at(plan.circuit, corner)
        self.title.setText(f"{self._number}   corner {corner.shown} {corner.name}".rstrip())
        cue = cue_words(one.aim, plan.circuit, units)
        self.cue.setText(f"{cue[0].upper()}{cue[1:]}")
        self.gain.setText(f"{seconds_words(told)} a lap" if told is not None else "what it is worth is not known")
        colour(self.gain, "gain" if told is not None and told[0] < 0.0 else "")
        self.why.setText(reason_words(plan, one.aim))
        self.target.setText(target_words(one.aim, units))
        self.leave.setText(leave_words(one.aim))
        self.care.setText(" ".join(risks))
        self.care.setVisible(bool(risks))
        self.setAccessibleName(f"Aim {self._number}: corner {corner.shown}: {cue}")
