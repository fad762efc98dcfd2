"""The Ledger page: the table to the left with the selected corner under it, the traces to the right."""

from __future__ import annotations

from html import escape
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QSplitter, QVBoxLayout, QWidget

from jete.app.actions import key_hint
from jete.app.theme import SMALL_PX, SPACE, font
from jete.core.causes.verdict.to_be_had import began_at, to_be_had
from jete.notes.sheet import differences
from jete.report.answer import answers_of, answers_of_run
from jete.report.card import card_of
from jete.report.positions import words_of_positions
from jete.report.seat import both_told, from_landmark
from jete.report.sentences import bargains
from jete.report.table import CAUTION
from jete.report.three import Often
from jete.report.units import units_of
from jete.report.words import COARSE, difference, lap_time, not_logged, torn_words
from jete.session import operations as ops
from jete.session.state import Changed, LapKey, Session
from jete.views.following import Following
from jete.views.labels import ElidedLabel, ElidedLines
from jete.views.ledger.answers import Answers
from jete.views.ledger.card import CornerCard
from jete.views.ledger.model import COLUMNS, PHASE_COLUMNS, RUN_COLUMNS, rows_of, rows_of_run
from jete.views.ledger.rows import LedgerRows
from jete.views.page import Page
from jete.views.switch import Switch
from jete.views.traces.widget import Traces

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.app.parts import Parts
    from jete.app.results import RunResult
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.core.causes.verdict.result import Comparison, CornerLoss
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.driving.passage import Passage
    from jete.report.answer import Answer
    from jete.report.units import Units


# Widths of the rows' side and of the traces.
SIZES = [670, 610]


def make(parts: Parts) -> LedgerPage:
    """The page on what stands behind the window."""
    return LedgerPage(parts.store, parts.shelf)


class LedgerPage(Page):
    """Shows the comparison in the store; selecting a row selects the corner everywhere."""

    def __init__(self, store: SessionStore, shelf: Shelf) -> None:
        super().__init__()
        self._store, self._shelf = store, shelf
        self.traces = Traces(store)
        self.rows = LedgerRows(self._theme_name)
        self.table, self.model = self.rows.table, self.rows.model
        self.balance, self.doubts = ElidedLines(), ElidedLabel()
        self.scope = Switch("What the ledger sums up", ("Lap", "Run"), key_hint("scope"))
        self.order = Switch("Order of the ledger", ("Track order", "Most to gain"), key_hint("order"))
        self.division = Switch("What the ledger divides by", ("Cause", "Phase"), key_hint("phase"))
        self.aside = QLabel()
        self.answers = Answers()
        self.card = CornerCard()
        self.driven = self.card.head
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self._build()
        Following(self, store, self._on_changed)

    def _theme_name(self) -> str:
        return self._store.session.display.theme

    def _build(self) -> None:
        self._set_up_texts()
        self.rows.chosen.connect(self._on_row)
        self.order.turned.connect(self._on_order)
        self.scope.turned.connect(self._on_scope)
        self.division.turned.connect(self._on_division)
        self.split.addWidget(self._left())
        self.split.addWidget(self.traces)
        self.split.setSizes(SIZES)
        self.split.setHandleWidth(1)
        self.split.setChildrenCollapsible(False)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self.split)

    def _left(self) -> QWidget:
        """Balance and switches, the rows, their sum, the corner's card, what is doubtful, the caution."""
        head = QHBoxLayout()
        head.addWidget(self.balance, 1)
        for switch in (self.scope, self.division, self.order):
            head.addWidget(switch, 0, Qt.AlignmentFlag.AlignTop)
        left = QWidget()
        self.rows.stand_in(left)
        column = QVBoxLayout(left)
        column.setContentsMargins(SPACE, SPACE, SPACE, 2)
        column.setSpacing(2)
        column.addLayout(head)
        column.addWidget(self.answers)
        column.addWidget(self.aside)
        column.addWidget(self.rows, 100)
        column.addWidget(self.card)
        column.addStretch(1)
        column.addWidget(self.doubts)
        caution = ElidedLabel()
        caution.setText(CAUTION)
        caution.setProperty("muted", True)
        caution.setFont(font(SMALL_PX))
        column.addWidget(caution)
        return left

    def _set_up_texts(self) -> None:
        self.aside.setObjectName("aside")
        self.aside.setAccessibleName("Laps that do not count")
        self.aside.setTextFormat(Qt.TextFormat.RichText)
        self.aside.setWordWrap(True)
        self.aside.setFont(font(SMALL_PX))
        self.aside.setTextInteractionFlags(
            Qt.TextInteractionFlag.LinksAccessibleByMouse | Qt.TextInteractionFlag.LinksAccessibleByKeyboard
        )
        self.aside.linkActivated.connect(self._on_take_back)
        self.aside.hide()
        self.doubts.setObjectName("doubts")
        self.doubts.setProperty("muted", True)
        self.doubts.setFont(font(SMALL_PX))
        self.balance.setObjectName("balance")
        self.answers.chosen.connect(self._on_answer)

    def _on_order(self, by_loss: bool) -> None:  # noqa: FBT001 - the switch's two ends
        self._store.look_at(lambda s: ops.display(s, by_loss=by_loss))

    def _on_scope(self, whole_run: bool) -> None:  # noqa: FBT001 - the switch's two ends
        self._store.look_at(lambda s: ops.display(s, whole_run=whole_run))

    def _on_division(self, by_phase: bool) -> None:  # noqa: FBT001 - the switch's two ends
        self._store.look_at(lambda s: ops.display(s, by_phase=by_phase))

    def _on_take_back(self, lap: str) -> None:
        """A lap set aside counts again; Undo sets it aside once more."""
        run = self._store.session.choice.lap
        if run is not None:
            key = LapKey(run.run, int(lap))
            self._store.do(f"take lap {lap} back", lambda s: ops.take_back(s, key))

    def _on_row(self, corner: int) -> None:
        """A row that a person chose selects its corner; one that follows the state does not."""
        if corner != self._store.session.look.corner:
            self._store.look_at(lambda s: ops.select_corner(s, corner))

    def _on_changed(self, _: Session, flags: Changed) -> None:
        rows = Changed.RESULT | Changed.RUN_RESULT | Changed.DISPLAY | Changed.CHOICE | Changed.RUNS
        if flags & rows:
            self._fill()
        if flags & (rows | Changed.CORNER):
            self._follow()

    def _fill(self) -> None:
        """Rows, the balance in words, and the order's button."""
        session, comparison = self._store.session, self._store.comparison
        self.order.show_end(session.display.by_loss)
        self.scope.show_end(session.display.whole_run)
        self.division.show_end(session.display.by_phase)
        self.division.setVisible(not session.display.whole_run)
        self.aside.hide()
        self.doubts.clear()
        self._tell_answer()
        run = self._shown_run()
        if run is not None:
            self._fill_run(run)
            return
        if comparison is None:
            choose = "Choose a reference and a lap on the page Laps (Ctrl+1), or open the demo (Ctrl+D)."
            refused = self._store.refused
            self.balance.setText(f"The chosen laps can't be compared: {refused}" if refused else choose)
            self.rows.show_rows([], COLUMNS, by_loss=session.display.by_loss)
            return
        lap = comparison.laps[0]
        by_phase = session.display.by_phase
        rows = rows_of(lap, units_of(session.display), self._often().shares, by_phase=by_phase)
        self.rows.show_rows(rows, PHASE_COLUMNS if by_phase else COLUMNS, by_loss=session.display.by_loss)
        self.balance.setText(f"{difference(lap.gap_s)} s: the corners add up to it.")
        self._tell_doubts(session, comparison)

    def _tell_answer(self) -> None:
        """The corners that matter, what was done there, and what the reference does; in the order of the rows."""
        session, comparison = self._store.session, self._store.comparison
        told: list[Answer] = []
        run = self._shown_run()
        circuit = self._circuit
        units = units_of(session.display)
        if run is not None:
            told = answers_of_run(run.summary, run.comparison.laps, circuit, units)
        elif comparison is not None and not session.display.whole_run:
            corners, often = comparison.laps[0].corners, self._often()
            told = answers_of(to_be_had(corners, often.shares), corners, often, circuit, units)
        self.answers.show_answers(told, session.display.theme)

    @property
    def _circuit(self) -> CircuitOnAxis | None:
        """The circuit with its landmarks, where places are told by them."""
        road, by_landmark = self._store.road, self._store.session.display.by_landmark
        return road.circuit if road is not None and by_landmark else None

    def _on_answer(self, corner: int) -> None:
        self._store.look_at(lambda s: ops.select_corner(s, corner))

    def _often(self) -> Often:
        """On how many laps of the run corners have causes, where one of this reference is summed up."""
        run = self._store.run
        return Often.of(
            run.summary if run is not None and run.reference == self._store.session.choice.reference else None
        )

    def handlers(self) -> dict[str, Callable[[], object]]:
        """What the actions of the table do here."""
        return {"origin": self.go_to_origin}

    def splits(self) -> dict[str, QSplitter]:
        """Rows and traces."""
        return {"ledger": self.split}

    def go_to_origin(self) -> None:
        """To the corner where the selected one's loss began."""
        origin = self.origin()
        if origin is None:
            self._shelf.told.emit("Nothing was carried into this corner: what it cost began here.")
        else:
            self._store.look_at(lambda s: ops.select_corner(s, origin))

    def origin(self) -> int | None:
        """The corner where the selected one's loss began: the selected one itself where nothing was carried in."""
        comparison, shown = self._store.comparison, self._store.corner
        return (
            None
            if comparison is None or shown is None
            else began_at(comparison.laps[0].corners).get(shown.corner.number)
        )

    def _tell_doubts(self, session: Session, comparison: Comparison) -> None:
        """How surely the laps lie on each other, what was not logged, and in what the runs differ that matters."""
        passage = comparison.laps[0].passage
        alignment = passage.alignment
        laid = {
            "position": f"Laid on each other by position: {_positions(passage, units_of(session.display))}.",
            "curvature": "Laid on each other by their bends: no position was logged.",
            "distance": "Laid on each other by distance alone: no position and no bends were logged.",
        }[alignment.method]
        missing = [
            n for n in ("speed", "throttle", "brake") if n in {*passage.inferred, *comparison.reference.inferred}
        ]
        runs = [session.run(key.run) if key else None for key in (session.choice.lap, session.choice.reference)]
        apart = differences(runs[0].sheet, runs[1].sheet) if runs[0] and runs[1] else []
        joined = "; ".join(comparison.reference.lap.log.notes)
        reference = f"The reference is {joined}." if joined else ""
        coarse = COARSE if passage.coarse or comparison.reference.coarse else ""
        torn = " ".join(w for p in (passage, comparison.reference) for w in torn_words(p))
        self.doubts.setText(" ".join(t for t in (coarse, torn, laid, not_logged(missing), reference) if t))
        self.aside.setText(escape(f"Not the driver alone: {'; '.join(apart)}.") if apart else "")
        self.aside.setVisible(bool(apart))

    def _shown_run(self) -> RunResult | None:
        """The run's result where the ledger shows it and it is that of the present choice."""
        session, run = self._store.session, self._store.run
        if not session.display.whole_run or run is None:
            return None
        same = run.keys == ops.laps_of_run(session) and run.reference == session.choice.reference
        return run if same else None

    def _fill_run(self, run: RunResult) -> None:
        """The run's rows, its means and best passes in words, and the laps set aside."""
        summary, laps = run.summary, run.comparison.laps
        self.rows.show_rows(rows_of_run(summary), RUN_COLUMNS, by_loss=self._store.session.display.by_loss)
        reference, best = run.comparison.reference.lap.span.time_s, laps[summary.best_lap].passage.lap.span
        mean = sum(c.mean_s for c in summary.corners)
        self.balance.setText(
            f"{summary.counted} of {len(laps)} laps, the reference {lap_time(reference)}: mean gap {difference(mean)} s. "
            f"Best lap {best.number} {lap_time(best.time_s)}, best passes together {lap_time(summary.best_sum_s)}."
        )
        away = [(k.lap, w) for k, w in zip(run.keys, summary.why, strict=True) if w is not None]
        self.aside.setText(
            "Not counted: "
            + "; ".join(f"lap {n}, {escape(w, quote=False)} (<a href='{n}'>count it</a>)" for n, w in away)
            + "."
        )
        self.aside.setVisible(bool(away))

    def _selected(self) -> CornerLoss | None:
        """The selected corner of the lap's ledger; None for a run's."""
        comparison = self._store.comparison
        found = [] if comparison is None or self._shown_run() is not None else comparison.laps[0].corners
        return next((c for c in found if c.corner.number == self._store.session.look.corner), None)

    def _tell_driven(self) -> None:
        """The selected corner's marks, and how it was driven where that was otherwise than by the reference."""
        session, comparison, loss = self._store.session, self._store.comparison, self._selected()
        if loss is None or comparison is None:
            self.card.show_corner("", (), "", session.display.theme)
            return
        from jete.report.driven import driven_against, driven_alike

        units = units_of(session.display)
        passages = (comparison.reference, comparison.laps[0].passage)
        words = driven_against(passages, loss, units.length_text)
        told = "; ".join(words) or driven_alike(passages)
        text = f"Corner {loss.corner.shown}: {told}." if told else ""
        text = f"{self._braked(loss)}{text}"
        text = " ".join([*bargains(loss, units), text]).rstrip()
        self.card.show_corner(loss.corner.shown, card_of(loss, units), text, session.display.theme)

    def _braked(self, loss: CornerLoss) -> str:
        """Where both braked, from the seat; empty where no landmark tells."""
        session = self._store.session
        circuit = self._circuit
        lap, reference = loss.lap_marks.brake_on_m, loss.reference_marks.brake_on_m
        if circuit is None or lap is None or reference is None:
            return ""
        units = units_of(session.display)
        theirs, ours = both_told(circuit, (reference, lap), units)
        if theirs is None or ours is None:
            return ""
        return f"Brakes {from_landmark(ours, units)} (reference: {from_landmark(theirs, units)}). "

    def _follow(self) -> None:
        """Select the row of the state's corner without saying so again."""
        self._tell_driven()
        self.answers.select(self._store.session.look.corner)
        self.rows.select(self._store.session.look.corner)


def _positions(passage: Passage, units: Units) -> str:
    """What the lap's positions are worth, in a few words."""
    return words_of_positions(passage, units) or "by its places"
