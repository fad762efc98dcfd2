"""Editing the circuit by hand: dialogs for a landmark, a hazard, a corner's name, a tag; and what the menu asks for."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLineEdit,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from jete.core.circuit.landmarks import AT_M, SEEN, SIDES, Landmark, LandmarkKind
from jete.core.errors import InputError
from jete.report.seat import LANDMARK_WORDS, landmark_words, place_and_metres
from jete.report.units import units_of
from jete.views.asked_file import ask_open, ask_save
from jete.views.labels import plain

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from jete.app.pass_keeper import PassKeeper
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.core.axis.road.corners import CornerId
    from jete.core.causes.verdict.result import CornerLoss

CIRCUITS = "Circuit (*.geojson *.json)"
# A landmark is taken off, or changed, where the place line is no farther from it.
NEAR_M = 15.0
FEWEST_PASSES = 3
LONGEST_SEEN_M = 600


@dataclass(frozen=True)
class Spot:
    """A place that a landmark may be put at, and how it is told."""

    words: str
    place_m: float


class CircuitEditing(QObject):
    """What the menu Circuit does; all of it about the corner and the place that are selected."""

    def __init__(self, window: QWidget, store: SessionStore, shelf: Shelf, keeper: PassKeeper) -> None:
        super().__init__(window)
        self._window, self._store, self._shelf, self._keeper = window, store, shelf, keeper

    def handlers(self) -> dict[str, Callable[[], object]]:
        """What the actions of the table ask for."""
        return {
            "landmark": self.ask_for_landmark, "landmark:off": self.take_landmark_off, "hazard": self.ask_for_hazard,
            "corner:split": self.split, "corner:merge": self.merge, "corner:begin": lambda: self.move_end(first=True),
            "corner:end": lambda: self.move_end(first=False), "corner:name": self.ask_for_name, "rules": self.ask_for_rules,
            "circuit:out": self.ask_where_to, "circuit:in": self.ask_for_file, "tag": self.ask_for_tag, "corner:note": self.ask_for_note,
        }  # fmt: skip

    def _corner(self) -> CornerLoss | None:
        """The selected corner, where it belongs to a circuit; else it is said that it does not."""
        corner = self._store.corner
        if corner is not None and (
            corner.corner.id is None or self._store.road is None or self._store.road.circuit is None
        ):
            self._shelf.told.emit("No circuit is known here: give the run a circuit on the page Laps first.")
            return None
        return corner

    def split(self) -> None:
        """Split the corner at the place."""
        loss = self._corner()
        if loss is not None and loss.corner.id is not None:
            self._shelf.circuits.split(loss.corner.id, self._store.session.look.place_m)

    def merge(self) -> None:
        """Merge the corner with the one after it."""
        loss = self._corner()
        if loss is not None and loss.corner.id is not None:
            self._shelf.circuits.merge(loss.corner.id)

    def move_end(self, *, first: bool) -> None:
        """Let the corner begin, or end, at the place."""
        loss, place = self._corner(), self._store.session.look.place_m
        if loss is not None and loss.corner.id is not None:
            ends = (place, loss.corner.end_m) if first else (loss.corner.start_m, place)
            self._shelf.circuits.move_ends(loss.corner.id, *ends)

    def ask_for_name(self) -> QDialog | None:
        """Ask for the number and the name of the corner."""
        loss = self._corner()
        if loss is None or loss.corner.id is None:
            return None
        number = loss.corner.id
        dialog = FieldsDialog("Number and name", {"number": loss.corner.shown, "name": loss.corner.name}, self._window)
        dialog.given.connect(lambda texts: self._shelf.circuits.call(number, texts["number"], texts["name"]))
        dialog.show()
        return dialog

    def ask_for_hazard(self) -> QDialog | None:
        """Ask for a hazard of the corner."""
        loss = self._corner()
        if loss is None:
            return None
        dialog = FieldsDialog("Hazard in this corner", {"hazard": ""}, self._window)
        dialog.given.connect(lambda texts: self._put_hazard(loss, texts["hazard"]))
        dialog.show()
        return dialog

    def _put_hazard(self, loss: CornerLoss, text: str) -> None:
        if text.strip():
            self._shelf.circuits.put_hazard(text, loss.corner.start_m, loss.corner.end_m)

    def ask_for_rules(self) -> QDialog | None:
        """Ask for the local rules, with semicolons between them."""
        road = self._store.road
        if self._corner() is None or road is None or road.circuit is None:
            return None
        dialog = FieldsDialog(
            "Local rules, with semicolons between them", {"rules": "; ".join(road.circuit.book.rules)}, self._window
        )
        dialog.given.connect(lambda texts: self._shelf.circuits.put_rules(
            tuple(r.strip() for r in texts["rules"].split(";") if r.strip())
        ))  # fmt: skip
        dialog.show()
        return dialog

    # --- landmarks

    def _near(self) -> Landmark | None:
        """The landmark at the place."""
        road, place = self._store.road, self._store.session.look.place_m
        found = road.circuit.book.landmarks if road is not None and road.circuit is not None else ()
        return min(
            (x for x in found if abs(x.circuit_m - place) <= NEAR_M),
            key=lambda x: abs(x.circuit_m - place),
            default=None,
        )

    def ask_for_landmark(self) -> LandmarkDialog | None:
        """Ask for a landmark at the place, or for what is to be changed of the one that is there."""
        if self._corner() is None:
            return None
        near = self._near()
        near = (
            near if near is not None and abs(near.circuit_m - self._store.session.look.place_m) <= 2.0 * AT_M else None
        )
        dialog = LandmarkDialog(near, self._spots(near), self._window)
        dialog.given.connect(self._shelf.circuits.put_landmark)
        dialog.show()
        return dialog

    def _spots(self, near: Landmark | None) -> list[Spot]:
        """Where a landmark may stand: at the place, where the laps of the run brake, where the reference does."""
        session, loss, road = self._store.session, self._corner(), self._store.road
        circuit = road.circuit if road is not None else None
        units = units_of(session.display)

        def spot(words: str, place: float) -> Spot:
            return Spot(f"{words}: {place_and_metres(place, circuit, units)}", place)

        out = [spot("at the place", session.look.place_m)]
        if near is not None:
            out.insert(0, spot("where it stands", near.circuit_m))
        kept, lap = self._store.passes, session.choice.lap
        brakes = (
            [p.numbers.brake_on_m for p in kept.passes if lap is not None and p.run == lap.run and p.numbers.brake_on_m]
            if kept
            else []
        )
        if circuit is not None and len(brakes) >= FEWEST_PASSES:
            out.append(
                spot(f"where {len(brakes)} laps of this run braked", circuit.to_reference(float(np.median(brakes))))
            )
        if loss is not None and loss.reference_marks.brake_on_m is not None:
            out.append(spot("where the reference brakes", loss.reference_marks.brake_on_m))
        return out

    def take_landmark_off(self) -> None:
        """Take the landmark at the place off."""
        near = self._near() if self._corner() is not None else None
        if near is None:
            self._shelf.told.emit("No landmark stands within 15 m of the place.")
            return
        if self._shelf.circuits.take_off(near.id):
            self._shelf.told.emit(f"'{landmark_words(near)}' is taken off; Undo puts it back.")

    # --- passes

    def ask_for_tag(self) -> TagDialog | None:
        """Ask for a tag and a note on the compared lap's pass of this corner."""
        loss, lap, kept = self._corner(), self._store.session.choice.lap, self._store.passes
        if loss is None or lap is None or loss.corner.id is None:
            return None
        number = loss.corner.id
        mine = next((p for p in kept.passes if (p.run, p.lap) == (lap.run, lap.lap)), None) if kept else None
        used = sorted({p.tag for p in kept.passes if p.tag}) if kept else []
        dialog = TagDialog(
            f"Lap {lap.lap} in corner {loss.corner.shown}",
            used,
            (mine.tag, mine.note) if mine else ("", ""),
            self._window,
        )
        dialog.given.connect(lambda tag, note: self._put_tag((lap.run, lap.lap, number), tag, note))
        dialog.show()
        return dialog

    def _put_tag(self, key: tuple[int, int, CornerId], tag: str, note: str) -> None:
        if self._shelf.notebook.note_pass(key, tag.strip(), note.strip()):
            self._keeper.read_again()

    def ask_for_note(self) -> QDialog | None:
        """Ask for what stays noted on the corner: for the driver of the compared lap, and for all."""
        loss, session, kept = self._corner(), self._store.session, self._store.passes
        run = session.run(session.choice.lap.run) if session.choice.lap is not None else None
        if loss is None or loss.corner.id is None or run is None:
            return None
        number, driver = loss.corner.id, run.sheet.driver
        known = dict(kept.notes) if kept is not None and kept.corner == number else {}
        fields = {f"for {driver}": known.get(driver, "")} if driver else {}
        dialog = FieldsDialog(
            f"Corner {loss.corner.shown}", {**fields, "for all drivers": known.get("", "")}, self._window
        )
        dialog.given.connect(lambda texts: self._put_notes(number, driver, texts))
        dialog.show()
        return dialog

    def _put_notes(self, corner: CornerId, driver: str, texts: dict[str, str]) -> None:
        for name, text in texts.items():
            self._shelf.circuits.note_corner(corner, "" if name == "for all drivers" else driver, text.strip())
        self._keeper.read_again()

    # --- files

    def ask_where_to(self) -> None:
        """Choose where the circuit is written."""
        road = self._store.road
        if self._corner() is None or road is None or road.circuit is None:
            return
        name, _ = ask_save(self._window, "Write the circuit", f"{road.circuit.name or 'circuit'}.geojson", CIRCUITS)
        if name:
            try:
                self._shelf.circuits.hand_out(Path(name))
            except OSError as error:
                self._shelf.failed.emit(
                    InputError(name, f"it can't be written ({error.strerror}).", "Choose another folder.")
                )

    def ask_for_file(self) -> None:
        """Choose a file whose corners and landmarks are taken in."""
        if self._corner() is None:
            return
        name = ask_open(self._window, "Take in a circuit", CIRCUITS)
        if name:
            self._shelf.circuits.take_in(Path(name))


class FieldsDialog(QDialog):
    """A few fields of text."""

    given = pyqtSignal(dict)

    def __init__(self, title: str, fields: dict[str, str], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setObjectName("fields")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(420, 120)
        self.fields = {name: QLineEdit(text) for name, text in fields.items()}
        form = QFormLayout()
        for name, field in self.fields.items():
            field.setAccessibleName(name)
            form.addRow(name, field)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(_buttons(self, self._on_done))

    def _on_done(self) -> None:
        texts = {name: field.text() for name, field in self.fields.items()}
        self.accept()
        self.given.emit(texts)


class LandmarkDialog(QDialog):
    """A landmark: what it is, its words, its side, how well it is seen, from how far, and where it stands."""

    given = pyqtSignal(object, float)

    def __init__(self, known: Landmark | None, spots: Sequence[Spot], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._known, self._spots = known, spots
        self.setWindowTitle("Landmark" if known is None else f"Landmark: {landmark_words(known)}")
        self.setObjectName("landmark")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(460, 260)
        self.kind, self.side, self.seen, self.where = QComboBox(), QComboBox(), QComboBox(), QComboBox()
        self.words, self.from_m = QLineEdit(known.text if known else ""), QSpinBox()
        self._fill(known or Landmark(id=0, kind=LandmarkKind.BOARD, circuit_m=0.0))
        form = QFormLayout()
        for title, widget in (
            ("what", self.kind), ("number or own words", self.words), ("side", self.side), ("seen", self.seen),
            ("from how far before, m", self.from_m), ("where", self.where),
        ):  # fmt: skip
            widget.setAccessibleName(title)
            form.addRow(title, widget)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(_buttons(self, self._on_done))

    def _fill(self, known: Landmark) -> None:
        for kind in LandmarkKind:
            self.kind.addItem(LANDMARK_WORDS[kind], kind)
        for side in SIDES:
            self.side.addItem({"": "on the road", "over": "over the road"}.get(side, side), side)
        for seen in SEEN:
            self.seen.addItem(seen, seen)
        for spot in self._spots:
            self.where.addItem(spot.words, spot.place_m)
        self.from_m.setRange(0, LONGEST_SEEN_M)
        self.from_m.setSpecialValueText("not said")
        self.from_m.setValue(round(known.from_m))
        for box, value in ((self.kind, known.kind), (self.side, known.side), (self.seen, known.seen)):
            box.setCurrentIndex(box.findData(value))

    def _on_done(self) -> None:
        number = self._known.id if self._known is not None else 0
        mark = Landmark(
            id=number, kind=LandmarkKind(self.kind.currentData()), circuit_m=0.0, text=self.words.text().strip(), side=self.side.currentData(),
            seen=self.seen.currentData(), from_m=float(self.from_m.value()),
        )  # fmt: skip
        place = float(self.where.currentData())
        self.accept()
        self.given.emit(mark, place)


class TagDialog(QDialog):
    """A tag, from those used before or a new one, and words."""

    given = pyqtSignal(str, str)

    def __init__(self, title: str, used: Sequence[str], now: tuple[str, str], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setObjectName("tag")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(420, 160)
        self.tag, self.note = QComboBox(), QLineEdit(now[1])
        self.tag.setEditable(True)
        self.tag.addItems(["", *used])
        self.tag.setCurrentText(now[0])
        form = QFormLayout()
        for name, widget in (("tag", self.tag), ("note", self.note)):
            widget.setAccessibleName(name)
            form.addRow(name, widget)
        column = QVBoxLayout(self)
        column.addWidget(plain("Passes with two tags can be compared under 'Two ways'.", small=True))
        column.addLayout(form)
        column.addWidget(_buttons(self, self._on_done))

    def _on_done(self) -> None:
        tag, note = self.tag.currentText(), self.note.text()
        self.accept()
        self.given.emit(tag, note)


def _buttons(dialog: QDialog, done: Callable[[], None]) -> QDialogButtonBox:
    """OK and Cancel."""
    box = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
    box.accepted.connect(done)
    box.rejected.connect(dialog.reject)
    return box
