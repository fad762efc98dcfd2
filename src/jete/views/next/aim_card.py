"""One aim as a card: the corner, the cue in large type, what it may be worth, why, how far, and what to be careful of."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QBoxLayout, QCheckBox, QFrame, QHBoxLayout, QMenu, QPushButton, QVBoxLayout

from jete.app.theme import LARGE_PX, LEAD_PX, SMALL_PX, SPACE, font
from jete.report.plan import corner_title, cue_words, expected_words, leave_words, target_words, tried_words
from jete.views.labels import colour, plain
from jete.views.next.corner_picture import CornerPicture
from jete.views.next.written_over import WrittenOver

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.app.store import SessionStore
    from jete.desk.planned import PlannedAim
    from jete.desk.plans import RunPlan
    from jete.report.units import Units


class AimCard(QFrame):
    """Tells which corner is to be looked at, and what a person made of the aim."""

    asked = pyqtSignal(int)
    taken = pyqtSignal(int, bool)
    written = pyqtSignal(int, str)
    instead = pyqtSignal(int)

    def __init__(self, number: int, store: SessionStore) -> None:
        super().__init__()
        self.picture = CornerPicture(store)
        self.setObjectName(f"aim-{number}")
        self.setFrameShape(QFrame.Shape.NoFrame)
        self._number, self._corner = number, 0
        self.title, self.gain = plain(small=True, muted=True), plain()
        self.cue = WrittenOver(f"Cue {number}", font(LARGE_PX, bold=True))
        self.why, self.target = plain(wrap=True), plain(wrap=True, small=True)
        self.care = plain(wrap=True, small=True)
        self.take, self.see, self.other = QCheckBox("Take along"), QPushButton("See the corner"), QPushButton("Instead")
        self.menu = QMenu(self.other)
        self._head = QBoxLayout(QBoxLayout.Direction.TopToBottom)
        self._build()

    def set_low(self, *, low: bool, alone: bool) -> None:
        """Stand below other cards, low and wide, or beside them; only a card that is alone has room for its picture then."""
        ways = QBoxLayout.Direction
        self._head.setDirection(ways.LeftToRight if low else ways.TopToBottom)
        self.picture.setVisible(alone or not low)

    def _build(self) -> None:
        self.gain.setFont(font(LEAD_PX))
        self.take.setToolTip("What is not taken along is on no card and is not looked at after the run.")
        self.other.setToolTip("Another corner, to keep what is good, or an experiment.")
        self.other.setMenu(self.menu)
        for button in (self.see, self.other):
            button.setFont(font(SMALL_PX))
        for way in (self.see, self.picture):
            way.clicked.connect(self._on_see)
        self.take.clicked.connect(self._on_take)
        self.cue.written.connect(self._on_written)
        self.menu.aboutToShow.connect(self._on_instead)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, SPACE, SPACE)
        column.setSpacing(SPACE // 2)
        self._head.setContentsMargins(0, 0, 0, 0)
        self._head.addWidget(self.title, 1)
        self._head.addWidget(self.gain, 0)
        column.addLayout(self._head)
        for label in (self.cue, self.why, self.target, self.care):
            column.addWidget(label)
        row = QHBoxLayout()
        for widget in (self.take, self.other, self.see):
            row.addWidget(widget)
        row.addStretch(1)
        column.addLayout(row)
        column.addWidget(self.picture, 100)
        column.addStretch(1)

    def _on_see(self) -> None:
        self.asked.emit(self._corner)

    def _on_take(self, taken: bool) -> None:  # noqa: FBT001 - Qt's own
        self.taken.emit(self._number, taken)

    def _on_written(self, text: str) -> None:
        self.written.emit(self._number, text)

    def _on_instead(self) -> None:
        self.instead.emit(self._number)

    def show_aim(self, plan: RunPlan, aim: PlannedAim, units: Units, phrases: Sequence[str]) -> None:
        """Show an aim of a plan; ``phrases`` are own words of before, to be offered again."""
        corner = aim.corner_in(plan.comparison.corners)
        self._corner = corner.number if corner is not None else 0
        self.see.setEnabled(corner is not None)
        self.picture.show_corner(corner.number if corner is not None else None)
        title = corner_title(corner) if corner is not None else "its corner is no more"
        self.title.setText(f"{self._number}   {title}")
        moves = aim.judge is not None and aim.judge.step != 0.0
        cue = cue_words(aim.kind, aim.judge, plan, units) if aim.judge is not None and moves else aim.cue
        self.cue.show_words(cue, aim.typed, phrases)
        self.gain.setText(expected_words(aim))
        self.gain.setVisible(bool(self.gain.text()))
        colour(self.gain, "gain" if aim.gain is not None and aim.gain[0] < 0.0 else "")
        self.why.setText(f"{aim.reason[:1].upper()}{aim.reason[1:]}")
        target = target_words(aim.judge, units, plan.circuit) if aim.judge is not None else ""
        leave = f"; {leave_words(aim.judge.measure)}" if aim.judge is not None and moves else ""
        tried = tried_words(aim)
        self.target.setText(f"{target[:1].upper()}{target[1:]}{leave}{f'. {tried}' if tried else ''}")
        self.care.setText(" ".join(aim.risks))
        for label in (self.target, self.care):
            label.setVisible(bool(label.text()))
        self.take.setChecked(aim.taken)
        self.setAccessibleName(f"Aim {self._number}: {title}: {aim.words}")
