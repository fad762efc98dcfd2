"""What if: a corner of the compared lap with changes that a person steps or drags, and the seconds that they would make."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from jete.app.theme import LEAD_PX, SMALL_PX, THEMES, font, scale
from jete.core.whatif.asked_for import LARGEST, STAYS, AskedChange, Keep, SetTo, What
from jete.core.whatif.driven_stretch import stretch_of
from jete.core.whatif.worked_out import changed, within
from jete.report.units import signed, units_of
from jete.report.what_if import KEEP_WORDS, THING_WORDS, carried_words, set_words
from jete.report.words import difference
from jete.session.state import Changed, Session
from jete.views.corner.speed_curve import LETTERS, CurveShown, SpeedCurve
from jete.views.corner.stepper import Stepper
from jete.views.following import Following
from jete.views.labels import ElidedLines, colour, plain

if TYPE_CHECKING:
    from PyQt6.QtGui import QResizeEvent

    from jete.app.results import KnownLap
    from jete.app.store import SessionStore
    from jete.app.what_if_keeper import WhatIfKeeper
    from jete.core.whatif.driven_stretch import DrivenStretch
    from jete.core.whatif.worked_out import ChangedCorner
    from jete.report.units import Units

# One step of each: metres, km/h, metres, a share.
STEPS: Final[dict[What, float]] = {"brake_on_m": 1.0, "min_speed_kmh": 0.5, "throttle_on_m": 1.0, "feed": 0.05}
# Of the road past the pick-up so much is drawn, and before the slowing.
PAST_M, BEFORE_M = 90.0, 40.0
# A lower panel has room for the steps only.
CURVE_FITS_PX = 400


class WhatIfPanel(QWidget):
    """Asks what a change of the shown corner would do to the compared lap; tells what was worked out, None for nothing."""

    worked = pyqtSignal(object)

    def __init__(self, store: SessionStore, keeper: WhatIfKeeper) -> None:
        super().__init__()
        self._store = store
        self._deltas: dict[What, float] = {}
        self._keeps: dict[What, Keep] = {}
        self._for: tuple[object, ...] = ()
        self._why = ""
        self.answer, self.words = plain(), ElidedLines(small=True)
        self.learnt = plain(wrap=True, small=True, muted=True)
        self.curve = SpeedCurve()
        self.steppers: dict[What, Stepper] = {}
        self.reset = QPushButton("As driven")
        self._build()
        keeper.failed.connect(self._on_failed)
        Following(self, store, self._on_changed)

    def _build(self) -> None:
        self.answer.setFont(font(LEAD_PX, bold=True))
        self.answer.setObjectName("what-if-answer")
        self.answer.setAccessibleName("What the change would do to the lap time")
        self.words.setObjectName("what-if-words")
        self.reset.setToolTip("Take all changes of this corner back.")
        self.reset.setFont(font(SMALL_PX))
        self.reset.clicked.connect(self._on_reset)
        self.curve.dragged.connect(self._on_dragged)
        head = QHBoxLayout()
        head.addWidget(self.answer, 1)
        head.addWidget(self.reset)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        column.setSpacing(4)
        column.addLayout(head)
        column.addWidget(self.words)
        column.addWidget(self.curve, 1)
        for what, stays in STAYS.items():
            tip = (
                "Left and right step it, with Shift by five."
                if what == "feed"
                else f"Drag {LETTERS[what]}, or left and right; with Shift by five."
            )
            stepper = Stepper(THING_WORDS[what], [KEEP_WORDS[k] for k in stays], tip)
            stepper.stepped.connect(lambda steps, w=what: self._step(w, steps))
            stepper.stays.connect(lambda at, w=what: self._stay(w, at))
            self.steppers[what] = stepper
            column.addWidget(stepper)
        column.addWidget(self.learnt)

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """Where there is no room for the curve the steps stay."""
        super().resizeEvent(event)
        self.curve.setVisible(self.height() >= CURVE_FITS_PX * scale())

    # --- what a person does

    def _step(self, what: What, steps: int) -> None:
        self._set(what, self._deltas.get(what, 0.0) + steps * STEPS[what])

    def _stay(self, what: What, at: int) -> None:
        self._keeps[what] = STAYS[what][at]
        self._fill()

    def _on_reset(self) -> None:
        self._deltas.clear()
        self._fill()

    def _set(self, what: What, delta: float) -> None:
        least = -0.9 if what == "feed" else -LARGEST[what]
        rounded = round(delta / STEPS[what]) * STEPS[what]
        self._deltas[what] = float(np.clip(rounded, least, LARGEST[what]))
        self._fill()

    def set_by(self, what: str, delta: float) -> None:
        """Ask for a change of a mark, as it is dragged elsewhere: metres, or km/h."""
        thing = next((w for w in STAYS if w == what), None)
        if thing is not None:
            self._set(thing, delta)

    def _on_dragged(self, what: str, to: float) -> None:
        """A flag was dragged to metres from the apex, or to a speed, in the chosen units."""
        stretch, units = self._stretch(), units_of(self._store.session.display)
        thing = next((w for w in STAYS if w == what), None)
        if stretch is None or thing is None:
            return
        if thing == "min_speed_kmh":
            self._set(thing, to / units.speed_of(1.0 / 3.6) - 3.6 * float(np.sqrt(2.0 * stretch.least)))
            return
        own = stretch.onset_m if thing == "brake_on_m" else stretch.pickup_m
        self._set(thing, to / units.length_of(1.0) + self._apex_m() - own)

    # --- what is shown

    def _on_failed(self, error: object) -> None:
        self._why = str(error)
        self._fill()

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if not flags & (Changed.WHAT_IF | Changed.RESULT | Changed.CORNER | Changed.DISPLAY | Changed.CHOICE):
            return
        loss = self._store.corner
        shown = (session.choice.lap, loss.corner.number if loss is not None else None)
        if shown != self._for:
            self._for, self._why = shown, ""
            self._deltas.clear()
        self._fill()

    def index(self) -> int | None:
        """Which of the lap's own corners the shown one is; None where it has none such."""
        known, loss = self._known(), self._store.corner
        if known is None or loss is None:
            return None
        corners = known.held.corners
        same = [k for k, c in enumerate(corners) if c.id is not None and c.id == loss.corner.id]
        if same:
            return same[0]
        comparison = self._store.comparison
        alike = comparison is not None and len(comparison.corners) == len(corners)
        return loss.corner.number - 1 if alike else None

    def _known(self) -> KnownLap | None:
        known = self._store.what_if
        return known if known is not None and known.key == self._store.session.choice.lap else None

    def _stretch(self) -> DrivenStretch | None:
        known, index = self._known(), self.index()
        return stretch_of(known.held, index) if known is not None and index is not None else None

    def _apex_m(self) -> float:
        known, index = self._known(), self.index()
        return known.held.corners[index].apex_m if known is not None and index is not None else 0.0

    def _asked(self, only: What | None = None) -> AskedChange:
        sets = [
            SetTo(what, delta, self._keeps.get(what, STAYS[what][0]))
            for what, delta in self._deltas.items()
            if delta and only in (None, what)
        ]
        return AskedChange((self.index() or 0) + 1, tuple(sets))

    def _fill(self) -> None:
        known, stretch, session = self._known(), self._stretch(), self._store.session
        theme, units = THEMES[session.display.theme], units_of(session.display)
        for what, stepper in self.steppers.items():
            stepper.setEnabled(stretch is not None)
            stepper.value.setText(delta_words(what, self._deltas.get(what, 0.0), units))
            stepper.seconds.clear()
            if stepper.keep is not None:
                stepper.keep.show_at(STAYS[what].index(self._keeps.get(what, STAYS[what][0])))
        self.reset.setEnabled(any(self._deltas.values()))
        if known is None or stretch is None:
            self._fill_empty(known)
            self.curve.show_curve(None, theme)
            self.worked.emit(None)
            return
        told = changed(known.held, known.vehicle, self._asked())
        self._fill_told(told, units)
        self._fill_apart(known)
        self.curve.show_curve(_curve(stretch, told, self._deltas, self._apex_m(), units), theme)
        self.worked.emit(told if told.asked.sets and told.gap_s is not None else None)
        laps = "one lap" if known.vehicle.laps == 1 else f"{known.vehicle.laps} laps"
        used = (
            f"; this uses {100.0 * told.grip_used:.0f} % of the grip shown in them"
            if told.grip_used and self._asked().sets
            else ""
        )
        self.learnt.setText(f"Vehicle and grip learnt from {laps} of this run{used}.")

    def _fill_empty(self, known: KnownLap | None) -> None:
        """Why there is nothing to ask, or that it comes."""
        loss = self._store.corner
        colour(self.answer, "")
        self.answer.setText("What if")
        self.learnt.clear()
        if loss is None:
            self.words.setText("Choose a reference and a lap on the page Laps (Ctrl+1).")
        elif self._why:
            self.words.setText(self._why)
        elif known is None:
            self.words.setText("Learning the vehicle from this run …")
        else:
            self.words.setText("This lap does not slow and pick up the throttle here: there is nothing to change.")

    def _fill_told(self, told: ChangedCorner, units: Units) -> None:
        sets = told.asked.sets
        colour(self.answer, "" if not told.gap_s or not sets else "gain" if told.gap_s < 0.0 else "loss")
        if not sets:
            self.answer.setText("What if")
            self.words.setText(
                "Step a change, or drag b, s or p on the curve: what it would do to this lap stands here."
            )
            return
        asked = "; ".join(set_words(s, units) for s in sets)
        if told.gap_s is None:
            self.answer.setText("Not offered")
            self.words.setText(f"{asked[0].upper()}{asked[1:]}: {told.why}.")
            return
        low, high = within(told.gap_s, told.sigma_s)
        self.answer.setText(f"{difference(told.gap_s)} s")
        carried = carried_words(told)
        later = f" {carried[0].upper()}{carried[1:]}." if carried else ""
        interval = f"Between {difference(low)} and {difference(high)} s in nine of ten cases."
        self.words.setText(f"{asked[0].upper()}{asked[1:]}. {interval}{later}")

    def _fill_apart(self, known: KnownLap) -> None:
        """The seconds of each change by itself, where there are several."""
        several = len(self._asked().sets) > 1
        for what, delta in self._deltas.items():
            if delta and several:
                alone = changed(known.held, known.vehicle, self._asked(what))
                self.steppers[what].seconds.setText(
                    "alone not offered" if alone.gap_s is None else f"alone {difference(alone.gap_s)} s"
                )


def delta_words(what: What, delta: float, units: Units) -> str:
    """A change with its sign and unit; as driven where there is none.

    >>> from jete.report.units import METRIC
    >>> delta_words("brake_on_m", 3.0, METRIC), delta_words("feed", 0.05, METRIC), delta_words("feed", 0.0, METRIC)
    ('+3 m', '+5 %', 'as driven')
    """
    if not delta:
        return "as driven"
    if what == "feed":
        return f"{signed(100.0 * delta, 0)} %"
    if what == "min_speed_kmh":
        return f"{signed(units.speed_of(delta / 3.6), 1)} {units.speed}"
    size = units.length_of(delta)
    return f"{signed(size, 0 if units.length == 'm' else 1)} {units.length}"


def _curve(
    stretch: DrivenStretch, told: ChangedCorner, deltas: dict[What, float], apex_m: float, units: Units
) -> CurveShown:
    """The piece of the corner that is drawn, in the chosen units, with its flags where they were moved to."""
    inside = (stretch.place_m >= stretch.onset_m - BEFORE_M) & (stretch.place_m <= stretch.pickup_m + PAST_M)
    place, own = stretch.place_m[inside], np.sqrt(2.0 * stretch.energy[inside])
    new = (
        np.interp(place, told.trace.place_m, told.trace.speed_kmh / 3.6)
        if told.trace.place_m.size and told.asked.sets
        else None
    )
    shown = own if new is None else new

    def at(what: What, place_m: float) -> tuple[What, float, float]:
        speed = float(np.interp(place_m, place, shown))
        return what, units.length_of(place_m - apex_m), units.speed_of(speed)

    slow = max(float(np.sqrt(2.0 * stretch.least)) + deltas.get("min_speed_kmh", 0.0) / 3.6, 1.0)
    flags: tuple[tuple[What, float, float], ...] = (
        at("brake_on_m", stretch.onset_m + deltas.get("brake_on_m", 0.0)),
        ("min_speed_kmh", units.length_of(stretch.slow_m - apex_m), units.speed_of(slow)),
        at("throttle_on_m", stretch.pickup_m + deltas.get("throttle_on_m", 0.0)),
    )
    along = np.array([units.length_of(p - apex_m) for p in place.tolist()])
    speeds = [None if v is None else np.array([units.speed_of(x) for x in v.tolist()]) for v in (own, new)]
    assert speeds[0] is not None
    return CurveShown(
        along=along, own=speeds[0], changed=speeds[1], flags=flags, hatched=bool(told.asked.sets) and told.gap_s is None
    )  # fmt: skip
