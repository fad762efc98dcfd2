"""The page Next run: at most three cards, one cue each; what was passed over and why; the screen for the paddock."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from jete.app.theme import SMALL_PX, SPACE, TITLE_PX, font
from jete.core.errors import InputError
from jete.desk.plans import MOST_AIMS
from jete.formats.whole_file import written_wholly
from jete.report.plan import passed_words, plan_document
from jete.report.units import units_of
from jete.report.what_if import CAUTIONS
from jete.report.words import lap_time
from jete.session import operations as ops
from jete.session.state import Changed, Session
from jete.views.following import Following
from jete.views.labels import ElidedLabel, plain
from jete.views.next.aim_card import AimCard
from jete.views.next.paddock import PaddockScreen
from jete.views.page import Page

if TYPE_CHECKING:
    from jete.app.parts import Parts
    from jete.desk.plans import RunPlan


def make(parts: Parts) -> NextPage:
    """The page on what stands behind the window."""
    return NextPage(parts)


class NextPage(Page):
    """Shows what is proposed for the next run of the driver whose lap is compared."""

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self._store, self._keeper, self._shelf = parts.store, parts.plans, parts.shelf
        self.title, self.of_what = plain("Next run"), ElidedLabel()
        self.empty, self.passed = plain(wrap=True), plain(wrap=True, small=True, muted=True)
        self.cards = tuple(AimCard(k) for k in range(1, MOST_AIMS + 1))
        self.paddock, self.save = QPushButton("Paddock screen"), QPushButton("Save plan…")
        self._why = ""
        self._build()
        self._keeper.failed.connect(self._on_failed)
        Following(self, self._store, self._on_changed)

    def _build(self) -> None:
        self.title.setFont(font(TITLE_PX, bold=True))
        self.of_what.setProperty("muted", True)
        self.empty.setObjectName("next-empty")
        self.passed.setObjectName("next-passed")
        self.paddock.setToolTip("The cues alone, to be read from three metres.")
        self.save.setToolTip("As JSON: 'jete review' says what came of it.")
        self.paddock.clicked.connect(self.show_paddock)
        self.save.clicked.connect(self._on_save)
        head = QHBoxLayout()
        for widget, stretch in ((self.title, 0), (self.of_what, 1), (self.save, 0), (self.paddock, 0)):
            head.addWidget(widget, stretch)
        inside = QWidget()
        row = QHBoxLayout(inside)
        row.setContentsMargins(0, SPACE, 0, SPACE)
        row.setSpacing(3 * SPACE)
        for card in self.cards:
            card.asked.connect(self._on_asked)
            row.addWidget(card, 1)
        scroll = QScrollArea()
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        caution = plain(" ".join(CAUTIONS), wrap=True, small=True, muted=True)
        caution.setFont(font(SMALL_PX - 1))
        outer = QVBoxLayout(self)
        outer.setContentsMargins(SPACE, 4, SPACE, 0)
        outer.addLayout(head)
        outer.addWidget(self.empty)
        outer.addWidget(scroll, 1)
        outer.addWidget(self.passed)
        outer.addWidget(caution)

    # --- what is shown

    def _on_failed(self, error: object) -> None:
        self._why = str(error)
        self._fill()

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.PLAN | Changed.RUN_RESULT | Changed.DISPLAY | Changed.CHOICE | Changed.RESULT):
            if flags & (Changed.PLAN | Changed.CHOICE):
                self._why = ""
            self._fill()

    def _fill(self) -> None:
        plan, units = self._store.plan, units_of(self._store.session.display)
        self.save.setEnabled(plan is not None and bool(plan.aims))
        self.paddock.setEnabled(plan is not None and bool(plan.aims))
        for k, card in enumerate(self.cards):
            there = plan is not None and k < len(plan.aims)
            card.setVisible(there)
            if plan is not None and there:
                card.show_aim(plan, plan.aims[k], units)
        self.empty.setText("" if plan is not None and plan.aims else self._empty_words(plan))
        self.empty.setVisible(bool(self.empty.text()))
        self.passed.setText(passed_words(plan) if plan is not None else "")
        self.passed.setVisible(bool(self.passed.text()))
        self.of_what.setText(self._of_what(plan) if plan is not None else "")

    def _empty_words(self, plan: RunPlan | None) -> str:
        if self._why:
            return self._why
        if plan is not None:
            return "Nothing to propose: no corner loses enough by a mark that could be moved."
        if self._store.comparison is None:
            return "Choose a reference and a lap on the page Laps (Ctrl+1), or open the demo (Ctrl+D): what to try next stands here then."
        return "Looking through the laps of the run …"

    def _of_what(self, plan: RunPlan) -> str:
        session = self._store.session
        reference, lap = session.choice.reference, session.choice.lap
        runs = [session.run(key.run) if key is not None else None for key in (lap, reference)]
        names = [run.name if run is not None else "" for run in runs]
        best = plan.comparison.reference.lap.span
        counted = plan.summary.counted
        return f"{names[0]}, {counted} laps · against {names[1]}, lap {best.number} ({lap_time(best.time_s)})"

    # --- what a person does

    def _on_asked(self, corner: int) -> None:
        """Show an aim's corner, asking what if."""
        self._store.look_at(
            lambda s: ops.go_to_page(ops.select_corner(ops.display(s, beside="what_if"), corner), "corner")
        )

    def show_paddock(self) -> PaddockScreen | None:
        """Open the screen for the paddock."""
        plan = self._store.plan
        if plan is None or not plan.aims:
            return None
        screen = PaddockScreen(plan, units_of(self._store.session.display), self)
        screen.show()
        return screen

    def _on_save(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save plan", "next-run.json", "Plan (*.json)")
        if name:
            self.write_plan(Path(name))

    def write_plan(self, path: Path) -> None:
        """Write the plan as JSON; a refusal is told."""
        plan, choice = self._store.plan, self._store.session.choice
        if plan is None or choice.reference is None or choice.lap is None:
            return
        laps = [c.passage.lap.span.number for c in plan.comparison.laps]
        address = f"library:{choice.reference.run}:{choice.reference.lap}"
        document = plan_document(plan, address, [(f"library:{choice.lap.run}", laps)])
        try:
            with written_wholly(path) as unfinished:
                unfinished.write_text(json.dumps(document, indent=1), encoding="utf-8")
        except OSError as error:
            self._shelf.failed.emit(
                InputError(str(path), f"it can't be written: {error.strerror or error}.", "Choose another place.")
            )
            return
        self._shelf.told.emit(f"The plan is in {path.name}.")
