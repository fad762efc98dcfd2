"""Sheets that are handed out: their words by Jinja2, for paper and as one HTML file that needs nothing else and holds its data."""

from __future__ import annotations

import json
from functools import cache
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from jinja2 import Environment


@cache
def templates() -> Environment:
    """The templates that ship; every word that is put in is escaped."""
    from jinja2 import Environment, PackageLoader

    return Environment(loader=PackageLoader("jete.report"), autoescape=True, trim_blocks=True, lstrip_blocks=True)


def filled(template: str, **values: Any) -> str:
    """A template of a sheet's body with its values put in."""
    return templates().get_template(template).render(**values)


def sheet_html(title: str, body: str, document: dict[str, Any]) -> str:
    """A sheet as one HTML file: it fetches nothing and runs nothing, and holds its document as JSON.

    >>> '"<b>"' in sheet_html("x", "", {"cue": "<b>"})
    False
    """
    from markupsafe import Markup

    data = json.dumps(document, ensure_ascii=False).replace("<", "\\u003c")
    return filled("sheet.html.j2", title=title, body=Markup(body), data=Markup(data))  # noqa: S704 - escaped before
