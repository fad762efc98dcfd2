"""The lap guide as a file: HTML, PDF, Markdown or JSON, as its ending says."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING

from jete.core.errors import InputError
from jete.formats.whole_file import written_wholly
from jete.report.guide import guide_document, guide_in_words, guide_markdown
from jete.report.guide_html import guide_html

if TYPE_CHECKING:
    from pathlib import Path

    from jete.desk.guide import Made
    from jete.report.guide import Guide

ENDINGS = (".html", ".pdf", ".md", ".json")


def write_guide_file(path: Path, made: Made, *, bag: bool = False, small: bool = True, apart: bool = False) -> None:
    """Write a guide.

    Args:
        path: of the file.
        made: the guide as numbers.
        bag: as PDF the page for the helmet bag instead of the whole.
        small: that page on A5, else on A4.
        apart: print it in a process of its own, for a window that is not to wait.

    Raises:
        InputError: an ending that is none of these, or a place that can't be written to.
    """
    ending = path.suffix.casefold()
    if ending not in ENDINGS:
        raise InputError(str(path), f"'{ending}' is no kind of guide.", f"Let it end in {', '.join(ENDINGS)}.")
    guide = guide_in_words(made)
    try:
        if ending == ".pdf" and apart:
            from jete.paper.apart import print_apart

            print_apart(path, guide, bag=bag, small=small)
            return
        if ending == ".pdf":
            from jete.paper.guide_pdf import write_bag, write_guide

            if bag:
                write_bag(path, guide, small=small)
            else:
                write_guide(path, guide)
            return
        with written_wholly(path) as part:
            part.write_text(_text(ending, guide), encoding="utf-8")
    except OSError as error:
        raise InputError(str(path), f"it can't be written ({error.strerror}).", "Choose another folder.") from error


def _text(ending: str, guide: Guide) -> str:
    if ending == ".md":
        return guide_markdown(guide)
    if ending == ".json":
        return json.dumps(guide_document(guide), ensure_ascii=False, indent=1)
    return guide_html(guide)
