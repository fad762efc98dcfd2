"""All passes of the corner, two ways through it, and the corner over time: whose passes, which numbers, what they say."""

from __future__ import annotations

from math import isfinite
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QProgressBar, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from jete.app.theme import SMALL_PX, font, scale
from jete.report.passes import NUMBERS, SCOPES, WAYS, middle_of, trend_sentence, way_of, ways_sentence
from jete.report.units import units_of
from jete.report.words import counted
from jete.session import operations as ops
from jete.session.state import Changed, LapKey, Session
from jete.views.corner.dots import Dots
from jete.views.corner.over_time import OverTime
from jete.views.corner.pass_dot import Way
from jete.views.following import Following
from jete.views.labels import plain

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from PyQt6.QtGui import QResizeEvent

    from jete.app.pass_keeper import PassKeeper
    from jete.app.store import SessionStore
    from jete.core.passes.two_ways import TwoWays
    from jete.library.pass_book import KeptPass

# How many trends stand on the page.
MOST_TRENDS = 5
# A run's end begins after so much of its laps.
END_SHARE = 2.0 / 3.0
# Beside rows and words the picture needs a hundred pixels.
PICTURE_FITS_PX = 250


class PassesPanel(QWidget):
    """The cloud of passes, with what goes with time or which of two ways is faster below it; or the passes run by run."""

    def __init__(self, store: SessionStore, keeper: PassKeeper) -> None:
        super().__init__()
        self._store = store
        self.dots, self.over_time, self._picture = Dots(store), OverTime(store), QStackedWidget()
        self.scope, self.across, self.upwards, self.ways = QComboBox(), QComboBox(), QComboBox(), QComboBox()
        self.words = plain(wrap=True, small=True)
        self.count = plain(small=True)
        self._progress = QProgressBar()
        self._build()
        keeper.made.connect(self._on_made)
        Following(self, store, self._on_changed)
        for picture in (self.dots, self.over_time):
            picture.chosen.connect(self._on_chosen)

    def _build(self) -> None:
        boxes: tuple[tuple[QComboBox, str, Mapping[str, str]], ...] = (
            (self.scope, "Whose passes", SCOPES), (self.across, "Across", {n: t for n, (t, _) in NUMBERS.items()}),
            (self.upwards, "Upwards", {n: t for n, (t, _) in NUMBERS.items()}), (self.ways, "What tells two ways apart", WAYS),
        )  # fmt: skip
        for box, name, entries in boxes:
            box.setAccessibleName(name)
            box.setToolTip(name)
            box.setFont(font(SMALL_PX))
            for key, title in entries.items():
                box.addItem(title, key)
            box.activated.connect(self._on_box)
        self.words.setObjectName("passes-words")
        self.words.setAccessibleName("What the passes say")
        self._progress.setTextVisible(False)
        self._progress.setAccessibleName("Laps taken apart")
        self._progress.hide()
        row, second = QHBoxLayout(), QHBoxLayout()
        for widget in (self.scope, self.ways):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.count)
        for widget in (self.upwards, self.across):
            second.addWidget(widget)
        second.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(4)
        column.addLayout(row)
        column.addLayout(second)
        rows = QScrollArea()
        rows.setWidgetResizable(True)
        rows.setFrameShape(QScrollArea.Shape.NoFrame)
        rows.setWidget(self.over_time)
        self._picture.addWidget(self.dots)
        self._picture.addWidget(rows)
        column.addWidget(self._picture, 1)
        column.addWidget(self._progress)
        column.addWidget(self.words)

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """Where there is no room for the picture what the passes say stays."""
        super().resizeEvent(event)
        self._picture.setVisible(self.height() >= PICTURE_FITS_PX * scale())

    def _on_box(self, _: int) -> None:
        """What a person chose in one of the boxes."""
        data = (self.across.currentData(), self.upwards.currentData())
        self._store.look_at(lambda s: ops.display(
            s, scope=self.scope.currentData(), dots=data, ways=self.ways.currentData()
        ))  # fmt: skip

    def _on_made(self, done: int, total: int) -> None:
        self._progress.setVisible(total > 0)
        self._progress.setRange(0, max(total, 1))
        self._progress.setValue(done)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if flags & (Changed.PASSES | Changed.DISPLAY | Changed.CHOICE | Changed.RUNS):
            self.fill(session)

    def fill(self, session: Session) -> None:
        """Show the passes of the chosen scope and say what they say."""
        display, passes = session.display, self.passes(session)
        for box, key in (
            (self.scope, display.scope),
            (self.across, display.dots[0]),
            (self.upwards, display.dots[1]),
            (self.ways, display.ways),
        ):
            box.setCurrentIndex(max(box.findData(key), 0))
        two, over_time = display.beside == "ways", display.beside == "over_time"
        self.ways.setVisible(two)
        self.across.setVisible(not over_time)
        self.words.setVisible(not over_time)
        self._picture.setCurrentIndex(1 if over_time else 0)
        self.count.setText(counted(len(passes), "pass", "passes"))
        if over_time:
            in_order = [(r.number, r.sheet) for r in ops.in_order_of_time(session.runs)]
            self.over_time.show_passes(passes, in_order)
            return
        middle = middle_of(passes, display.ways)
        found = [way_of(p, display.ways, middle) for p in passes] if two else []
        self.dots.show_passes(passes, _shown(passes, found) if two else [])
        self.words.setText(self._of_two(passes, found) if two else self._of_all(passes))

    def passes(self, session: Session) -> list[KeptPass]:
        """The passes of the shown corner that the chosen scope holds."""
        kept, lap = self._store.passes, session.choice.lap
        run = session.run(lap.run) if lap is not None else None
        if kept is None or run is None:
            return []
        wanted = {r.number for r in session.runs if ops.in_scope(r, run, session.display.scope)}
        return [p for p in kept.passes if p.run in wanted]

    def _of_all(self, passes: list[KeptPass]) -> str:
        from jete.core.passes.trends import LEAST_PASSES, trends_of

        if len(passes) < LEAST_PASSES:
            return f"{LEAST_PASSES} passes or more tell what goes with time."
        trends = trends_of([p.numbers for p in passes], [p.run for p in passes])
        units = units_of(self._store.session.display)
        told = [t for t in trends if t.told][:MOST_TRENDS]
        rest = [NUMBERS[t.mark][0] for t in trends if not t.told]
        lines = [trend_sentence(t, units) for t in sorted(told, key=lambda t: -abs(t.seconds))]
        if rest:
            lines.append(f"No gain seen with {', '.join(rest)}.")
        return "What goes with the time, straight included:\n" + "\n".join(lines) if lines else ""

    def _of_two(self, passes: list[KeptPass], found: list[str | None]) -> str:
        names = _two_most(found)
        if len(names) < 2:
            only = f"All {len(passes)} are '{names[0]}'." if names and passes else "No way is told yet."
            return f"{only} Two ways can be compared once both were driven; a pass is tagged by its lap's menu (G)."
        both = [(p, w) for p, w in zip(passes, found, strict=True) if w in names]
        (a, b), whole = _compared(both, names[1])
        pale = "" if a + b == len(passes) else " Pale dots do not count; rest the pointer on one for the reason."
        counts = f"{names[0]}: {counted(a, 'pass', 'passes')} (filled), {names[1]}: {b} (open).{pale} "
        if whole is None:
            return f"{counts}Four of each are needed."
        _, late = _compared(_at_the_end(both), names[1])
        end = f" At the run's end, in its last third: {ways_sentence(late, names)}" if late is not None else ""
        return counts + ways_sentence(whole, names) + end

    def _on_chosen(self, kept: KeptPass) -> None:
        """Compare the lap that a dot is of."""
        key = LapKey(kept.run, kept.lap)
        if key != self._store.session.choice.reference:
            self._store.do("choice of lap", lambda s: ops.choose_lap(s, key))


def _compared(both: Sequence[tuple[KeptPass, str | None]], second: str) -> tuple[tuple[int, int], TwoWays | None]:
    """How many passes of each way count, and what their times say."""
    from jete.core.passes.two_ways import two_ways

    if not both:
        return (0, 0), None
    known = [(t, w == second) for t, (_, w) in zip(_levelled(both, second), both, strict=True) if isfinite(t)]
    a, b = ([t for t, way in known if way is side] for side in (False, True))
    return (len(a), len(b)), two_ways((a, b))


def _levelled(both: Sequence[tuple[KeptPass, str | None]], second: str) -> list[float]:
    """The times of passes of two ways, with what their runs differ by taken off; NaN for those that do not count."""
    from jete.core.passes.two_ways import levelled

    in_b = [w == second for _, w in both]
    times: list[float] = levelled(
        [p.numbers for p, _ in both], [p.run for p, _ in both], [p.lap for p, _ in both], in_b
    ).tolist()
    return times


def _shown(passes: Sequence[KeptPass], found: Sequence[str | None]) -> list[Way]:
    """How each pass is shown: the first way filled, the second open, those that do not count pale, with the reason."""
    names = _two_most(list(found))
    if len(names) < 2:
        return [Way(0) for _ in passes]
    both = [(p, w) for p, w in zip(passes, found, strict=True) if w in names]
    times = dict(zip((id(p) for p, _ in both), _levelled(both, names[1]), strict=True))
    out = []
    for kept, way in zip(passes, found, strict=True):
        if way not in names:
            out.append(Way(None, f"not counted: {way or 'no way is told of it'}"))
        elif not isfinite(times[id(kept)]):
            out.append(Way(None, f"not counted: {way}, and its run has no pass of the other way"))
        else:
            out.append(Way(names.index(way)))
    return out


def _at_the_end(both: Sequence[tuple[KeptPass, str | None]]) -> list[tuple[KeptPass, str | None]]:
    """The passes in the last third of each run's laps: what a way costs in tyres shows there."""
    last: dict[int, int] = {}
    for kept, _ in both:
        last[kept.run] = max(last.get(kept.run, 0), kept.lap)
    return [(p, w) for p, w in both if p.lap > END_SHARE * last[p.run]]


def _two_most(found: list[str | None]) -> tuple[str, str] | tuple[str] | tuple[()]:
    """The two ways that were driven most, in the order of their names."""
    counts = {w: found.count(w) for w in set(found) if w is not None}
    names = sorted(sorted(counts, key=lambda w: -counts[w])[:2])
    return tuple(names)  # type: ignore[return-value]
