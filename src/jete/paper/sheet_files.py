"""Sheets as files: HTML or PDF, as their ending says."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from jete.core.errors import InputError
from jete.formats.whole_file import written_wholly
from jete.report.sheets import sheet_html

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

ENDINGS = (".pdf", ".html")
# The most and the least type of a page that is to hold everything, points.
LARGEST_PT, SMALLEST_PT = 13, 6


def write_sheet(path: Path, title: str, body: str, document: dict[str, Any], *, small: bool = True) -> None:
    """Write a sheet: one page as PDF, or HTML that holds its document.

    Args:
        path: of the file.
        title: of the sheet.
        body: as HTML.
        document: what it tells, as JSON.
        small: the page is A5, else A4.

    Raises:
        InputError: as :func:`written_as_it_ends`.
    """

    def pdf() -> int:
        from PyQt6.QtGui import QPageSize

        from jete.paper.pages import write_fitted

        size = QPageSize.PageSizeId.A5 if small else QPageSize.PageSizeId.A4
        return write_fitted(path, body, size, title, range(LARGEST_PT, SMALLEST_PT - 1, -1))

    written_as_it_ends(path, "sheet", pdf, lambda: sheet_html(title, body, document))


def written_as_it_ends(path: Path, kind: str, pdf: Callable[[], int], html: Callable[[], str]) -> int | None:
    """Write a file as its ending says; returns how many pages a PDF has, None for HTML.

    Args:
        path: of the file.
        kind: what it is, for a message.
        pdf: writes it as PDF.
        html: what it is as HTML.

    Raises:
        InputError: another ending, or a place that can't be written to.
    """
    ending = path.suffix.casefold()
    if ending not in ENDINGS:
        raise InputError(str(path), f"'{ending}' is no kind of {kind}.", f"Let it end in {' or '.join(ENDINGS)}.")
    try:
        if ending == ".pdf":
            return pdf()
        with written_wholly(path) as part:
            part.write_text(html(), encoding="utf-8")
    except OSError as error:
        raise InputError(str(path), f"it can't be written ({error.strerror}).", "Choose another folder.") from error
    return None
