"""The lap guide as PDF: the full guide on A4, and one page for the helmet bag with a line a corner in large type."""

from __future__ import annotations

from html import escape
from typing import TYPE_CHECKING

from PyQt6.QtGui import QPageSize

from jete.paper.pages import Block, write_blocks, write_fitted
from jete.report.guide import CARE, FIELDS
from jete.report.words import lap_time

if TYPE_CHECKING:
    from pathlib import Path

    from jete.report.guide import Guide, GuideCard

# The type of the full guide: twelve corners with their pictures stay within six pages.
GUIDE_PT = 8
# Of their size, so that two corners stand on a page.
MAP_SHARE, PICTURE_SHARE = 0.6, 0.75
# The most and the least type of the page for the helmet bag, points.
LARGEST_PT, SMALLEST_PT = 15, 7


def write_guide(path: Path, guide: Guide) -> int:
    """Write the full guide on A4; returns how many pages it has."""
    head = [
        f"<h1>{escape(guide.circuit or 'Lap guide')}</h1>",
        f"<p>By {escape(guide.made_from)}, {lap_time(guide.time_s)}.</p>",
    ]
    head.append(f"<p><small>{escape(CARE)}</small></p>")
    if guide.rules:
        head.append("<ul>" + "".join(f"<li>{escape(r)}</li>" for r in guide.rules) + "</ul>")
    first = Block("".join(head), (guide.map,) if guide.map is not None else (), share=MAP_SHARE)
    blocks = [first, *(Block(_card(c), c.drawings, c.photos, PICTURE_SHARE) for c in guide.cards)]
    return write_blocks(path, blocks, QPageSize.PageSizeId.A4, GUIDE_PT, "Lap guide")


def write_bag(path: Path, guide: Guide, *, small: bool = True) -> int:
    """Write the page for the helmet bag on A5 (or A4): one line a corner, as large as one page allows."""
    size = QPageSize.PageSizeId.A5 if small else QPageSize.PageSizeId.A4
    rows = "".join(f"<tr><td><b>{escape(c.title)}</b></td><td>{escape(c.line)}</td></tr>" for c in guide.cards)
    by = f"<p><small>{escape(guide.made_from)}, {lap_time(guide.time_s)}</small></p>"
    title = f"<h1>{escape(guide.circuit or 'Lap guide')}</h1>{by}"
    body = f"{title}<table cellspacing='3'>{rows}</table><p><small>{escape(CARE)}</small></p>"
    return write_fitted(path, body, size, "Lap guide", range(LARGEST_PT, SMALLEST_PT - 1, -1))


def _card(card: GuideCard) -> str:
    rows = "".join(
        f"<tr><td>{FIELDS[f.key]}</td><td>{f'<i>{escape(f.typed)}</i>' if f.typed else escape(f.measured)}</td></tr>"
        for f in card.fields
        if f.shown
    )
    return f"<h2>{escape(card.title)} ({card.direction})</h2><p><b>{escape(card.line)}</b></p><table>{rows}</table>"
