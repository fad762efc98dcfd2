"""Reports as files: one HTML file that needs nothing else, or PDF, as their ending says."""

from __future__ import annotations

from html import escape
from typing import TYPE_CHECKING, Any

from jete.paper.sheet_files import written_as_it_ends
from jete.report.drawings import svg_of
from jete.report.sheets import sheet_html

if TYPE_CHECKING:
    from collections.abc import Sequence
    from pathlib import Path

    from jete.report.debrief import Section

# The type of a report, points.
REPORT_PT = 9


def write_report(path: Path, sections: Sequence[Section], document: dict[str, Any]) -> int | None:
    """Write a report; returns how many pages it has, None for HTML.

    Args:
        path: of the file.
        sections: in order; each stays on one page where it fits on one.
        document: what it tells, as JSON.

    Raises:
        InputError: another ending, or a place that can't be written to.
    """
    title = sections[0].title

    def pdf() -> int:
        from PyQt6.QtGui import QPageSize

        from jete.paper.pages import Block, write_blocks

        blocks = [Block(_headed(s, first=k == 0), s.drawings) for k, s in enumerate(sections)]
        return write_blocks(path, blocks, QPageSize.PageSizeId.A4, REPORT_PT, title)

    def html() -> str:
        body = "".join(
            f'<section id="{s.id}">{_headed(s, first=k == 0)}{"".join(f"<figure>{svg_of(d)}</figure>" for d in s.drawings)}</section>'
            for k, s in enumerate(sections)
        )
        return sheet_html(title, body, document)

    return written_as_it_ends(path, "report", pdf, html)


def _headed(section: Section, *, first: bool) -> str:
    level = "h1" if first else "h2"
    return f"<{level}>{escape(section.title)}</{level}>{section.body}"
