"""The page Next run: left what to try, at most three cards with a cue each; right what came of the last plan."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QBoxLayout,
    QHBoxLayout,
    QInputDialog,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from jete.app.theme import LEAD_PX, SMALL_PX, SPACE, font
from jete.core.errors import InputError
from jete.desk.plan_shelf import with_aim
from jete.desk.planned import aims_of
from jete.desk.plans import MOST_AIMS
from jete.formats.whole_file import written_wholly
from jete.report.plan import passed_words
from jete.report.plan_card import card_body
from jete.report.plan_draft import USUAL_TRIES, Instead, draft_of, instead_of, opened, put_instead, tried_on_odd_laps
from jete.report.units import units_of
from jete.report.what_if import CAUTIONS
from jete.report.words import lap_time
from jete.session import operations as ops
from jete.session.state import Changed, LapKey, Session
from jete.views.asked_file import ask_folder, ask_save
from jete.views.following import Following
from jete.views.labels import ElidedLabel, plain
from jete.views.next.aim_card import AimCard
from jete.views.next.book import BookView
from jete.views.next.looking_back import LookingBack
from jete.views.next.paddock import PaddockScreen
from jete.views.next.team import TeamView
from jete.views.page import Page
from jete.views.scrolled import scrolled
from jete.views.switch import Switch

if TYPE_CHECKING:
    from jete.app.parts import Parts
    from jete.desk.planned import PlannedAim
    from jete.desk.plans import RunPlan
    from jete.library.plan_records import PlanRecord

# The place of the team among the page's views.
TEAM = 1
ABOUT = Changed.PLAN | Changed.RUN_RESULT | Changed.DISPLAY | Changed.CHOICE | Changed.RESULT | Changed.RUNS


def make(parts: Parts) -> NextPage:
    """The page on what stands behind the window."""
    return NextPage(parts)


class NextPage(Page):
    """Shows what is proposed for the next run of the driver whose lap is compared, and what came of the last."""

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self._store, self._keeper, self._shelf, self._team = parts.store, parts.plans, parts.shelf, parts.team
        self.title, self.of_what = plain("What to try"), ElidedLabel()
        self.empty, self.passed = plain(wrap=True), plain(wrap=True, small=True, muted=True)
        self.hint = plain(wrap=True, small=True, muted=True)
        self.cards = tuple(AimCard(k, self._store) for k in range(1, MOST_AIMS + 1))
        self.back, self.team, self.book = LookingBack(), TeamView(), BookView()
        self.view = Switch(
            "View", ("Driver", "Team", "Book"), "One driver's next run, all drivers here, or the driver's logbook."
        )
        self.race = Switch("What for", ("One fast lap", "Race"), "For a race: what can be kept up, in smaller steps.")
        self.take = QPushButton("Take these along")
        self.paddock, self.save = QPushButton("Paddock screen"), QPushButton("Card…")
        self._one = QWidget()
        self._cards_in = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self._why = ""
        self._build()
        self._connect()
        Following(self, self._store, self._on_changed)

    def _build(self) -> None:
        self.title.setFont(font(LEAD_PX, bold=True))
        self.of_what.setProperty("muted", True)
        self.empty.setObjectName("next-empty")
        self.passed.setObjectName("next-passed")
        self.take.setToolTip("Keeps the plan: when the next run comes in, it says what came of it.")
        self.paddock.setToolTip("The cues alone, to be read from three metres.")
        self.save.setToolTip("To carry: one page as PDF or HTML, or JSON for 'jete review'.")
        head = QHBoxLayout()
        for widget, stretch in (
            (self.view, 0), (self.title, 0), (self.of_what, 1), (self.race, 0), (self.take, 0), (self.save, 0), (self.paddock, 0),
        ):  # fmt: skip
            side = Qt.AlignmentFlag.AlignLeft if widget is self.view else Qt.AlignmentFlag(0)
            head.addWidget(widget, stretch, side)
        self._cards_in.setContentsMargins(0, SPACE, 0, SPACE)
        self._cards_in.setSpacing(2 * SPACE)
        for card in self.cards:
            self._cards_in.addWidget(card, 1)
        self._cards_in.addStretch(0)
        left = QWidget()
        left.setLayout(self._cards_in)
        sides = QHBoxLayout()
        sides.setSpacing(3 * SPACE)
        sides.addWidget(scrolled(left), 1)
        self._back_scroll = scrolled(self.back)
        sides.addWidget(self._back_scroll, 1)
        caution = plain(" ".join(CAUTIONS), wrap=True, small=True, muted=True)
        caution.setFont(font(SMALL_PX))
        outer = QVBoxLayout(self)
        outer.setContentsMargins(SPACE, 4, SPACE, 0)
        outer.addLayout(head)
        outer.addWidget(self.empty)
        one = QVBoxLayout(self._one)
        one.setContentsMargins(0, 0, 0, 0)
        one.addLayout(sides, 1)
        for label in (self.passed, self.hint):
            one.addWidget(label)
        outer.addWidget(self._one, 1)
        for other in (self.team, self.book):
            other.hide()
            outer.addWidget(other, 1)
        outer.addWidget(caution)

    def _connect(self) -> None:
        for card in self.cards:
            card.asked.connect(self._on_asked)
            card.taken.connect(self._on_taken)
            card.written.connect(self._on_written)
            card.instead.connect(self._on_instead)
        self.race.turned.connect(self._keeper.set_race)
        self.view.moved.connect(self.show_view)
        self.book.wanted.connect(self._on_run_wanted)
        self.team.compared.connect(self._on_compared)
        self.team.handed_out.connect(self._on_hand_out)
        self._team.progress.connect(self.team.wait)
        self._team.failed.connect(self._shelf.failed)
        self.take.clicked.connect(self._on_take)
        self.paddock.clicked.connect(self.show_paddock)
        self.save.clicked.connect(self._on_save)
        self.back.chosen.connect(self._keeper.look_back_on)
        self.back.judged_by.connect(self._on_judged_by)
        self.back.answered.connect(self._on_answered)
        self._keeper.failed.connect(self._on_failed)

    # --- what is shown

    def _on_failed(self, error: object) -> None:
        self._why = str(error)
        self._fill()

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & ABOUT:
            if flags & (Changed.PLAN | Changed.CHOICE):
                self._why = ""
            self._fill()

    @property
    def draft(self) -> PlanRecord | None:
        """The plan that stands on the left: as it is kept, else as it is proposed."""
        plan, here, choice = self._store.plan, self._store.plans, self._store.session.choice
        if plan is None or choice.lap is None or choice.reference is None:
            return None
        if here is not None and here.run == choice.lap.run and here.kept is not None:
            return here.kept
        run = self._store.session.run(choice.lap.run)
        if run is None:
            return None
        return draft_of(plan, (run.number, run.sheet), (choice.reference.run, choice.reference.lap))

    @property
    def aims(self) -> list[PlannedAim]:
        """The aims that stand on the left."""
        draft = self.draft
        return aims_of(draft.document, "the plan") if draft is not None else []

    def _fill(self) -> None:
        plan, units, here = self._store.plan, units_of(self._store.session.display), self._store.plans
        aims = self.aims if plan is not None else []
        phrases = here.phrases if here is not None else ()
        for k, card in enumerate(self.cards):
            card.setVisible(k < len(aims))
            if plan is not None and k < len(aims):
                card.show_aim(plan, aims[k], units, phrases)
        for button in (self.save, self.paddock, self.take):
            button.setEnabled(any(aim.taken for aim in aims))
        kept = here is not None and here.kept is not None and bool(aims)
        self.take.setText("Let the plan go" if kept else "Take these along")
        self.take.setEnabled(kept or (self.take.isEnabled() and not self._shelf.read_only))
        self.race.show_end(self._keeper.race)
        self.race.setVisible(plan is not None and not kept)
        self.empty.setText("" if aims else self._empty_words(plan))
        self.empty.setVisible(bool(self.empty.text()))
        self.passed.setText(passed_words(plan) if plan is not None and not kept else "")
        self.passed.setVisible(bool(self.passed.text()))
        self.of_what.setText(self._of_what(plan) if plan is not None else "")
        for widget in (self.title, self.of_what, self.take, self.save, self.paddock):
            widget.setVisible(not self._one.isHidden())
        self.race.setVisible(self.race.isVisibleTo(self) and not self._one.isHidden())
        self._fill_back(kept=kept)
        self._fill_others()

    def show_view(self, number: int) -> None:
        """Show one driver's next run (0), all drivers of the circuit and class (1), or the driver's logbook (2)."""
        self.view.show_at(number)
        for k, widget in enumerate((self._one, self.team, self.book)):
            widget.setVisible(k == number)
        if number == TEAM:
            self._team.make()
        self._fill()

    def _on_run_wanted(self, run: int) -> None:
        self._store.look_at(lambda s: ops.go_to_page(ops.select_run(s, run), "laps"))

    def _fill_others(self) -> None:
        table, display = self._store.team, self._store.session.display
        if table is not None and not self.team.isHidden():
            self.team.show_table(table, units_of(display), display.theme)
        if self._store.plans is not None and not self.book.isHidden():
            self.book.show_book(self._store.plans.book)

    def _fill_back(self, *, kept: bool) -> None:
        here = self._store.plans
        back = here is not None and here.back is not None
        self._back_scroll.setVisible(back)
        # Beside what came of the last plan the cards stand below each other.
        ways = QBoxLayout.Direction
        self._cards_in.setDirection(ways.TopToBottom if back else ways.LeftToRight)
        low = back and len(self.aims) > 1
        for k, card in enumerate(self.cards):
            card.set_low(low=back, alone=not low)
            self._cards_in.setStretch(k, 0 if low else 1)
        self._cards_in.setStretch(len(self.cards), 1 if low else 0)
        if here is not None:
            self.back.show_back(here, self._store.session, units_of(self._store.session.display))
        waits = "Taken along: when this driver's next run comes in, it stands here what came of it." if kept else ""
        self.hint.setText("" if back else waits)
        self.hint.setVisible(bool(self.hint.text()))

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

    def _on_take(self) -> None:
        """Keep the plan that is proposed; let go of one that is kept, for another to be proposed."""
        here, draft = self._store.plans, self.draft
        if here is not None and here.kept is not None:
            self._keeper.drop("plan let go", here.kept)
        elif draft is not None:
            self._keeper.put("plan taken along", opened(draft))

    def _on_taken(self, number: int, taken: bool) -> None:  # noqa: FBT001 - as the card tells it
        draft = self.draft
        if draft is not None:
            words = "aim taken along" if taken else "aim left out"
            self._put(words, with_aim(draft, number, taken=taken))

    def _on_written(self, number: int, text: str) -> None:
        draft = self.draft
        if draft is not None:
            self._put(f'cue "{text}"', with_aim(draft, number, typed=text or None))

    def _on_instead(self, number: int) -> None:
        """Offer what may be tried instead of an aim."""
        plan, draft, menu = self._store.plan, self.draft, self.cards[number - 1].menu
        menu.clear()
        if plan is None or draft is None:
            return
        for one in instead_of(plan, draft, number):
            self._offer(number, one)
        menu.addSeparator()
        for words in USUAL_TRIES:
            self._offer(number, tried_on_odd_laps(plan, draft, number, words), "Odd laps at ")
        own = menu.addAction("Odd laps: something else…")
        if own is not None:
            own.triggered.connect(lambda: self._ask_try(number))

    def _offer(self, number: int, one: Instead, before: str = "") -> None:
        action = self.cards[number - 1].menu.addAction(f"{before}{one.title}".replace("&", "&&"))
        if action is not None:
            action.triggered.connect(lambda: self._put_instead(number, one))

    def _ask_try(self, number: int) -> None:
        text, sure = QInputDialog.getText(self, "An experiment", "On odd laps, and not on even ones:")
        plan, draft = self._store.plan, self.draft
        if sure and text.strip() and plan is not None and draft is not None:
            self._put_instead(number, tried_on_odd_laps(plan, draft, number, text.strip()))

    def _put_instead(self, number: int, one: Instead) -> None:
        draft = self.draft
        if draft is not None:
            self._put("another aim", put_instead(draft, number, one))

    def _put(self, text: str, changed: PlanRecord) -> None:
        if not self._keeper.put(text, changed):
            self._fill()

    def _on_answered(self, number: int, end: int) -> None:
        here = self._store.plans
        if here is None or here.back is None:
            return
        plan = here.back.plan
        answers = {k: v for k, v in plan.answers.items() if k != str(number)}
        if end:
            answers[str(number)] = end == 1
        self._put("whether it was tried", replace(plan, answers=answers))

    def _on_judged_by(self, runs: tuple[int, ...]) -> None:
        here = self._store.plans
        if here is not None and here.back is not None:
            self._put("runs to judge by", replace(here.back.plan, judged_by=runs))

    def _on_compared(self, row: int, corner: int) -> None:
        """Compare a driver's best pass of a corner with that of the one to learn from, on the page Corner."""
        table = self._store.team
        cell = table.rows[row].cells[corner] if table is not None else None
        if table is None or cell is None:
            return
        number = table.corners[corner].number
        keys = [table.best.get((who, number)) for who in (cell.learn_from, table.rows[row].driver)]
        if keys[0] is None or keys[1] is None:
            return
        reference, lap = LapKey(*keys[0]), LapKey(*keys[1])
        self._store.do("another pair", lambda s: ops.choose_lap(ops.choose_reference(s, reference), lap))
        self._store.look_at(lambda s: ops.go_to_page(ops.select_corner(s, number), "corner"))

    def _on_hand_out(self) -> None:
        name = ask_folder(self, "Where the drivers' cards go")
        if name:
            self._team.hand_out(Path(name), units_of(self._store.session.display))

    def show_paddock(self) -> PaddockScreen | None:
        """Open the screen for the paddock."""
        plan, aims = self._store.plan, [aim for aim in self.aims if aim.taken]
        if plan is None or not aims:
            return None
        screen = PaddockScreen(aims, plan.comparison.corners, self)
        screen.show()
        return screen

    def _on_save(self) -> None:
        kinds = "Card (*.pdf);;Card as a page (*.html);;Plan (*.json)"
        name, _ = ask_save(self, "Save the card", "next-run.pdf", kinds)
        if name:
            self.write_plan(Path(name))

    def write_plan(self, path: Path) -> None:
        """Write the card, or the plan as JSON, as the ending says; a refusal is told."""
        draft = self.draft
        if draft is None:
            return
        try:
            if path.suffix.casefold() == ".json":
                with written_wholly(path) as unfinished:
                    unfinished.write_text(json.dumps(draft.document, indent=1), encoding="utf-8")
            else:
                from jete.paper.sheet_files import write_sheet

                body = card_body(opened(draft).document, units_of(self._store.session.display))
                write_sheet(path, "Next run", body, draft.document)
        except OSError as error:
            self._shelf.failed.emit(
                InputError(str(path), f"it can't be written: {error.strerror or error}.", "Choose another place.")
            )
        except InputError as error:
            self._shelf.failed.emit(error)
        else:
            self._shelf.told.emit(f"The card is in {path.name}.")
