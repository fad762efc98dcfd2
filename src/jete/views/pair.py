"""The pair in comparison, as the head of the window names it: both laps in their colours, those laid over, the gap."""

from __future__ import annotations

import re
from html import escape, unescape
from typing import TYPE_CHECKING

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import QLabel

from jete.app import theme
from jete.report.words import difference
from jete.session.state import Changed, Session
from jete.views.labels import tip

if TYPE_CHECKING:
    from PyQt6.QtGui import QResizeEvent

    from jete.app.store import SessionStore

# What rounds to nothing at three decimals is neither lost nor gained.
LEAST_SHOWN_S = 0.0005
# Names have so many letters, the first that fit; bold figures are a little wider than plain ones.
WHOLE = 10_000
LETTERS, MARGIN_PX = (44, 36, 30, 24, 18, 12, 8), 12


class PairLabel(QLabel):
    """Follows the choice and its result."""

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self.setMinimumWidth(1)
        self._whole_px = 1
        self.setObjectName("pair")
        self.setTextFormat(Qt.TextFormat.RichText)
        store.changed.connect(self._on_changed)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        if flags & (Changed.CHOICE | Changed.RESULT | Changed.RUNS | Changed.DISPLAY):
            self._fit(session)

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """Names are as long as there is room."""
        super().resizeEvent(event)
        self._fit(self._store.session)

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """Room for whole names, whatever is shown of them."""
        return QSize(self._whole_px, super().sizeHint().height())

    def _fit(self, session: Session) -> None:
        """The longest names that fit; whole ones stand in the tip."""
        texts = [self._pair_text(session, most) for most in LETTERS]
        wide = self.fontMetrics().horizontalAdvance
        self._whole_px = wide(_plain(texts[0])) + MARGIN_PX
        fits = (t for t in texts if wide(_plain(t)) + MARGIN_PX <= self.width())
        self.setText(next(fits, texts[-1]))
        self.setToolTip(tip(_plain(self._pair_text(session, WHOLE))) if "…" in self.text() else "")

    def _pair_text(self, session: Session, most: int) -> str:
        """Both laps in their colours, and the gap in the colour of loss or gain."""
        t = theme.THEMES[session.display.theme]
        parts = [f"<span style='color:{t.reference}'>{_short(session.label(session.choice.reference), most)}</span>"]
        parts.append(f"<span style='color:{t.lap}'>{_short(session.label(session.choice.lap), most)}</span>")
        text = (
            f"&nbsp; <span style='color:{t.muted}'>compared with</span> &nbsp;".join(reversed(parts))
            if session.choice.lap
            else ""
        )
        comparison = self._store.comparison
        if comparison is not None and text:
            gap = comparison.laps[0].gap_s
            text += self._over_text(session, most)
            role = t.muted if abs(gap) < LEAST_SHOWN_S else t.loss if gap > 0 else t.gain
            text += f"&nbsp;&nbsp; <b style='color:{role}'>{difference(gap)} s</b>"
        return text

    def _over_text(self, session: Session, most: int) -> str:
        """The laps laid over, by number in the colours of their lines."""
        t, parts = theme.THEMES[session.display.theme], []
        for number, key in enumerate(session.choice.over):
            same = session.choice.lap is not None and key.run == session.choice.lap.run
            label = f"lap {key.lap}" if same else _short(session.label(key), min(most, 28))
            parts.append(f"<span style='color:{t.over_color(number).name()}'>{label}</span>")
        return f"&nbsp; <span style='color:{t.muted}'>over</span> &nbsp;" + " ".join(parts) if parts else ""


def _plain(text: str) -> str:
    """What is read of a text with colours."""
    return unescape(re.sub(r"<[^>]*>", "", text))


def _short(text: str, most: int) -> str:
    """A long label with its middle left out, for a text that is read as HTML."""
    return escape(text if len(text) <= most else f"{text[: most // 2 - 1]}…{text[-(most // 2 - 1) :]}")
