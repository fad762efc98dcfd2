"""The Corner page: what it cost, set large; the corner from above; the traces; marks, shapes or passes beside them."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from jete.app.actions import key_hint
from jete.app.theme import LEAD_PX, SMALL_PX, SPACE, font, scale
from jete.report.corner import Told, doubts_of, mark_rows, rest_words, shown_marks, told_findings
from jete.report.seat import hazard_words, place_and_metres, road_words, stakes_sentence, worth_words
from jete.report.table import CAUTION
from jete.report.units import KMH, units_of
from jete.report.words import difference
from jete.session import operations as ops
from jete.session.display import choices
from jete.session.state import Changed, Session
from jete.views.above.from_above import FromAbove
from jete.views.corner.passes import PassesPanel
from jete.views.corner.shapes import Shapes
from jete.views.corner.table import MarksTable, Sentences
from jete.views.corner.what_if import WhatIfPanel
from jete.views.following import Following
from jete.views.labels import ElidedLabel, plain
from jete.views.page import Page
from jete.views.switch import Switch
from jete.views.traces.asking import AskingTraces, ChangeShown

if TYPE_CHECKING:
    from PyQt6.QtGui import QResizeEvent

    from jete.app.parts import Parts
    from jete.core.causes.verdict.result import CornerLoss
    from jete.core.circuit.landmarks import Landmark
    from jete.core.whatif.worked_out import ChangedCorner
    from jete.desk.road import RoadBeside

SIZES = [346, 440, 478]
# A page that is so high has room for the marks under the corner from above, and something else beside the traces.
ROOMY_PX = 760
# A narrower page is without the corner from above.
MAP_FROM_PX = 860
BESIDE = choices("beside")
WORTH_TIP = (
    "What one km/h more gains if it is kept that far. Who is 7 km/h faster at the slow point and loses it again by the exit "
    "gains less than seven times that: the costs above are what was measured."
)
TITLES = ("Marks", "Shapes", "All passes", "Two ways", "Over time", "What if")


def make(parts: Parts) -> CornerPage:
    """The page on what stands behind the window."""
    return CornerPage(parts)


class CornerPage(Page):
    """Shows the selected corner of the comparison in the store."""

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        store = parts.store
        self.traces = AskingTraces(store)
        self._store, self._shelf = store, parts.shelf
        self.title, self.worth, self.hazards = plain(), plain(wrap=True, small=True, muted=True), ElidedLabel()
        self.marks, self.sentences = MarksTable(), Sentences()
        self.above = FromAbove(store)
        self.north = Switch("How the picture is turned", ("With travel", "North up"), "")
        self.shapes, self.passes, self.what_if = (
            Shapes(store),
            PassesPanel(store, parts.passes),
            WhatIfPanel(store, parts.what_if),
        )
        self.beside = Switch("What stands beside", TITLES, key_hint("beside"))
        self.place, self.beside_words = ElidedLabel(), ElidedLabel()
        self._stack = QStackedWidget()
        self._careful = ""
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self.left, self._own_marks = QWidget(), QWidget()
        self._build()
        Following(self, store, self._on_changed)
        self.traces.flag_dragged.connect(self._on_flag)
        self.what_if.worked.connect(self._on_worked)
        self.above.landmark_moved.connect(self._on_landmark_moved)
        self.above.end_moved.connect(self._on_end_moved)

    def _build(self) -> None:
        self.title.setFont(font(LEAD_PX, bold=True))
        self.title.setObjectName("corner-title")
        self.worth.setObjectName("corner-worth")
        self.worth.setToolTip(WORTH_TIP)
        self.hazards.setObjectName("corner-hazards")
        for label in (self.hazards, self.place, self.beside_words):
            label.setFont(font(SMALL_PX))
        self.north.turned.connect(self.above.turn_north_up)
        self.beside.moved.connect(self._on_beside)
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(4, 0, 4, 0)
        column.setSpacing(2)
        column.addWidget(self.traces, 1)
        column.addWidget(self.place)
        for part in (self._left(), middle, self._right()):
            self.split.addWidget(part)
        self.split.setSizes(SIZES)
        self.split.setHandleWidth(1)
        self.split.setChildrenCollapsible(False)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(SPACE, 4, SPACE, 0)
        outer.setSpacing(3)
        outer.addLayout(self._head())
        outer.addWidget(self.split, 1)
        caution = ElidedLabel()
        caution.setText(CAUTION)
        caution.setProperty("muted", True)
        caution.setFont(font(SMALL_PX))
        outer.addWidget(caution)

    def _on_flag(self, what: str, delta: float) -> None:
        """A flag of the traces was dragged: what if stands beside, and asks for it."""
        if self._store.session.display.beside != "what_if":
            self._store.look_at(lambda s: ops.display(s, beside="what_if"))
        self.what_if.set_by(what, delta)

    def _on_worked(self, told: ChangedCorner | None) -> None:
        """Draw what a change makes of the speed into the traces."""
        comparison, loss = self._store.comparison, self._store.corner
        if told is None or comparison is None or loss is None or not told.trace.place_m.size:
            self.traces.show_change(None)
            return
        passage, units = comparison.laps[0].passage, units_of(self._store.session.display)
        places = np.interp(told.trace.place_m, passage.motion.distance_m, passage.alignment.place_m)
        marks = {"brake_on_m": loss.lap_marks.onset_m, "throttle_on_m": loss.lap_marks.throttle_on_m}
        flags = tuple(
            (one.what, own + one.delta) for one in told.asked.sets if (own := marks.get(one.what)) is not None
        )
        self.traces.show_change(ChangeShown(places, units.speed_of(1.0 / KMH) * told.trace.speed_kmh, flags))

    def _head(self) -> QVBoxLayout:
        head = QVBoxLayout()
        head.setSpacing(1)
        row = QHBoxLayout()
        row.addWidget(self.title)
        row.addSpacing(SPACE)
        row.addWidget(self.hazards, 1)
        for part in (self.worth, self.sentences):
            part.setMinimumWidth(1)
        head.addLayout(row)
        head.addWidget(self.sentences)
        head.addWidget(self.worth)
        return head

    def _left(self) -> QWidget:
        """The corner from above, and in a high page the marks under it."""
        column = QVBoxLayout(self.left)
        column.setContentsMargins(0, 0, 4, 0)
        column.setSpacing(0)
        column.addWidget(self.above, 1)
        row = QHBoxLayout()
        row.addWidget(self.beside_words, 1)
        row.addWidget(self.north)
        column.addLayout(row)
        return self.left

    def _right(self) -> QWidget:
        """The marks, or what else a person chose to see of the corner."""
        right = QWidget()
        inner = QVBoxLayout(self._own_marks)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.addWidget(self.marks)
        rolled = QScrollArea()
        rolled.setWidgetResizable(True)
        rolled.setFrameShape(QFrame.Shape.NoFrame)
        rolled.setWidget(self.shapes)
        self._rolled = rolled
        for part in (self._own_marks, rolled, self.passes, self.what_if):
            self._stack.addWidget(part)
        column = QVBoxLayout(right)
        column.setContentsMargins(4, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.beside)
        column.addWidget(self._stack, 1)
        return right

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """Put the marks where there is room for them."""
        super().resizeEvent(event)
        # Where there is little room the picture from above goes first: marks and curves are needed more.
        self.left.setVisible(self.width() >= MAP_FROM_PX * scale())
        host = self.left if self.height() >= ROOMY_PX else self._own_marks
        if self.marks.parent() is not host:
            layout = host.layout()
            assert layout is not None
            layout.addWidget(self.marks)
            self._show_beside()

    @property
    def _roomy(self) -> bool:
        """Whether the marks stand under the corner from above."""
        return self.marks.parent() is self.left

    def _show_beside(self) -> None:
        """What a person chose to see beside the traces; shapes where the marks are seen anyway."""
        chosen = self._store.session.display.beside
        self.beside.buttons[BESIDE.index("marks")].setVisible(not self._roomy)
        chosen = "shapes" if chosen == "marks" and self._roomy else chosen
        self.beside.show_at(BESIDE.index(chosen))
        parts = {"marks": self._own_marks, "shapes": self._rolled, "what_if": self.what_if}
        self._stack.setCurrentWidget(parts.get(chosen, self.passes))

    def _on_beside(self, at: int) -> None:
        self._store.look_at(lambda s: ops.display(s, beside=BESIDE[at]))

    def _on_end_moved(self, end: str, place_m: float) -> None:
        """Let the corner begin, or end, where it was dragged to."""
        loss = self._store.corner
        if loss is not None and loss.corner.id is not None:
            ends = (place_m, loss.corner.end_m) if end == "start" else (loss.corner.start_m, place_m)
            self._shelf.circuits.move_ends(loss.corner.id, *ends)

    def _on_landmark_moved(self, mark: Landmark, place_m: float) -> None:
        self._shelf.circuits.put_landmark(mark, place_m)

    def splits(self) -> dict[str, QSplitter]:
        """The three columns."""
        return {"corner-columns": self.split}

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.RESULT | Changed.CORNER | Changed.DISPLAY | Changed.CHOICE):
            self._fill()
        elif Changed.PASSES in flags:
            self._tell_notes()
        elif Changed.PLACE in flags:
            self._tell_place()

    def loss(self) -> CornerLoss | None:
        """The selected corner of the comparison."""
        return self._store.corner

    def _fill(self) -> None:
        display, comparison, loss = self._store.session.display, self._store.comparison, self.loss()
        self._show_beside()
        if comparison is None or loss is None:
            self.title.setText("")
            self.worth.setText("Choose a reference and a lap on the page Laps (Ctrl+1), or open the demo (Ctrl+D).")
            self.hazards.clear()
            self.place.clear()
            self.marks.show_rows((), display.theme)
            self.sentences.show_told((), display.theme)
            return
        road, units = self._store.road, units_of(display)
        circuit = road.circuit if road is not None and display.by_landmark else None
        passages = (comparison.reference, comparison.laps[0].passage)
        self._fill_head(loss, road)
        told = told_findings(loss, passages, circuit, units)
        doubt = doubts_of(passages)
        told += [Told(doubt, None)] if doubt else []
        self.marks.show_rows(mark_rows(shown_marks(loss, passages), circuit, units), display.theme)
        self.sentences.show_told(told, display.theme)
        self._tell_place()

    def _fill_head(self, loss: CornerLoss, road: RoadBeside | None) -> None:
        """Number, name, direction, gap; kind and worth; what the road does and what to be careful of."""
        corner, units = loss.corner, units_of(self._store.session.display)
        side = f" · {corner.direction}" if corner.direction != "unknown" else ""
        self.title.setText(corner.called + f"{side} · {difference(loss.gap_s)} s")
        told: list[str] = []
        careful = ""
        if road is not None and road.stakes:
            stakes = road.stakes[corner.number - 1]
            told = [stakes_sentence(stakes, units), *worth_words(stakes, units)]
            told += [rest] if (rest := rest_words(loss, stakes.slow_kmh_worth_s, units)) else []
        if road is not None and road.profile is not None:
            from jete.core.circuit.height import words_of

            words = words_of(road.profile, corner)
            told += [road_words(words)] if words else []
        if road is not None and road.circuit is not None:
            careful = hazard_words(road.circuit.book.hazards_in(corner.start_m - 20.0, corner.end_m + 20.0))
        self.worth.setText(" · ".join(told))
        self._careful = careful
        self._tell_notes()

    def _tell_notes(self) -> None:
        """Hazards, and what is noted on the corner for all and for this driver."""
        session, kept, loss = self._store.session, self._store.passes, self.loss()
        run = session.run(session.choice.lap.run) if session.choice.lap is not None else None
        mine = kept is not None and loss is not None and kept.corner == loss.corner.id
        known = dict(kept.notes) if kept is not None and mine else {}
        notes = [known[n] for n in dict.fromkeys(("", run.sheet.driver if run is not None else "")) if known.get(n)]
        text = "  ".join(t for t in (self._careful, f"Noted: {' · '.join(notes)}" if notes else "") if t)
        self.hazards.setText(text)
        self.hazards.setVisible(bool(text))

    def _tell_place(self) -> None:
        """The place from a landmark, and how the lines lie there."""
        session, loss, road = self._store.session, self.loss(), self._store.road
        if loss is None:
            self.place.clear()
            return
        units = units_of(session.display)
        circuit = road.circuit if road is not None and session.display.by_landmark else None
        from_apex = session.look.place_m - loss.corner.apex_m
        apex = (
            "the apex"
            if abs(from_apex) < 1.0
            else f"{units.length_text(abs(from_apex))} {'past' if from_apex >= 0.0 else 'before'} the apex"
        )
        self.beside_words.setText(self.above.words())
        self.place.setText(f"{place_and_metres(session.look.place_m, circuit, units)} · {apex}")
