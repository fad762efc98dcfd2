"""Say the lap: gear, landmark and kind of each corner from the head, then checked."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QDialog, QGridLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from jete.core.walk.say import Said, checked, offered, truths_of
from jete.report.seat import landmark_short
from jete.session.state import Changed, Session
from jete.views.labels import plain

if TYPE_CHECKING:
    from jete.app.store import SessionStore
    from jete.core.circuit.stakes import CornerKind

KINDS: Final[dict[CornerKind, str]] = {"entry": "entry corner", "exit": "exit corner", "both": "entry and exit", "link": "link of a sequence", "flat": "flat"}  # fmt: skip
NOTHING = "–"
FLAT = "not at all"
GEARS = 8


class SayDialog(QDialog):
    """One row a corner; what is not known may be left out."""

    def __init__(self, store: SessionStore, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._store = store
        self.setWindowTitle("Say the lap")
        self.setObjectName("say")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(960, 600)
        self.rows: list[_Row] = []
        self.sum = plain()
        self.check = QPushButton("Check")
        self.check.setDefault(True)
        self.check.clicked.connect(self.on_check)
        self._build()
        store.changed.connect(self._on_changed)

    def _build(self) -> None:
        inside = QWidget()
        grid = QGridLayout(inside)
        for column, title in enumerate(("corner", "gear at the slow point", "you brake by", "it is", "")):
            grid.addWidget(plain(title, small=True, muted=True), 0, column)
        grid.setColumnStretch(4, 1)
        self._fill(grid)
        grid.setRowStretch(len(self.rows) + 1, 1)
        scroll = QScrollArea()
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        how = "From the head, without looking: what is right is told against the reference. What you don't know, leave out."
        column_of_all = QVBoxLayout(self)
        column_of_all.addWidget(plain(how, wrap=True))
        column_of_all.addWidget(scroll, 1)
        column_of_all.addWidget(self.sum)
        column_of_all.addWidget(self.check, 0, Qt.AlignmentFlag.AlignRight)

    def _fill(self, grid: QGridLayout) -> None:
        comparison, road = self._store.comparison, self._store.road
        if comparison is None or road is None:
            return
        corners = comparison.laps[0].corners
        truths = truths_of(corners, road.circuit, road.stakes)
        for k, (loss, truth) in enumerate(zip(corners, truths, strict=True)):
            marks = {m.id: landmark_short(m) for m in offered(loss, road.circuit)}
            row = _Row(loss.corner.called, truth, marks)
            for column, widget in enumerate((row.name, *row.boxes.values(), row.told)):
                grid.addWidget(widget, k + 1, column)
            self.rows.append(row)

    def _on_changed(self, _: Session, flags: Changed) -> None:
        """Another pair has other truths."""
        if Changed.RESULT in flags:
            self.close()

    def on_check(self) -> None:
        """Tell what was said right."""
        results = [row.show_checked() for row in self.rows]
        said = sum(len(r) for r in results)
        right = sum(sum(r.values()) for r in results)
        self.sum.setText(f"{right} of {said} right." if said else "Nothing was said yet.")


class _Row:
    """The widgets of one corner."""

    def __init__(self, name: str, truth: Said, marks: dict[int, str]) -> None:
        self.truth, self.marks = truth, marks
        self.name, self.told = plain(name), plain()
        self.told.setAccessibleName(f"How {name} was said")
        self.boxes: dict[str, QComboBox] = {
            "gear": _box(f"Gear in {name}", {g: str(g) for g in range(1, GEARS + 1)}, asked=truth.gear is not None),
            "landmark": _box(f"Brake by, in {name}", {0: FLAT, **marks}, asked=truth.landmark is not None),
            "kind": _box(f"Kind of {name}", dict(KINDS), asked=True),
        }

    def said(self) -> Said:
        """What is chosen."""
        return Said(**{part: box.currentData() for part, box in self.boxes.items()})

    def show_checked(self) -> dict[str, bool]:
        """Tell this row; returns what was right."""
        found = checked(self.said(), self.truth)
        wrong = [self._truth(part) for part, right in found.items() if not right]
        self.told.setText("" if not found else "right" if not wrong else f"no: {', '.join(wrong)}")
        return found

    def _truth(self, part: str) -> str:
        value = getattr(self.truth, part)
        if part == "gear":
            return f"gear {value}"
        return KINDS[value] if part == "kind" else FLAT if value == 0 else self.marks.get(value, "another landmark")


def _box(name: str, choices: dict[object, str] | dict[int, str] | dict[CornerKind, str], *, asked: bool) -> QComboBox:
    box = QComboBox()
    box.setAccessibleName(name)
    box.addItem(NOTHING, None)
    for value, words in choices.items():
        box.addItem(words, value)
    box.setEnabled(asked)
    return box
