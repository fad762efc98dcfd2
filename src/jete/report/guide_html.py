"""The lap guide as one HTML file that needs nothing else: words by Jinja2, drawings and pictures in it."""

from __future__ import annotations

from base64 import b64encode
from typing import TYPE_CHECKING

from jete.report.drawings import svg_of
from jete.report.guide import CARE, FIELDS
from jete.report.sheets import templates
from jete.report.words import lap_time

if TYPE_CHECKING:
    from jete.library.guide_records import Photo
    from jete.report.drawings import Drawing
    from jete.report.guide import Guide


def guide_html(guide: Guide) -> str:
    """The guide as HTML; every word in it is escaped."""
    from markupsafe import Markup

    def drawn(drawing: Drawing | None) -> Markup:
        return Markup(svg_of(drawing)) if drawing is not None else Markup("")  # noqa: S704 - its words are escaped

    pages = templates()
    pages.filters.update(drawn=drawn, data=_data)
    return pages.get_template("guide.html.j2").render(
        guide=guide, time=lap_time(guide.time_s), care=CARE, titles=FIELDS
    )


def _data(photo: Photo) -> str:
    """A picture as an address that holds it."""
    return f"data:image/jpeg;base64,{b64encode(photo.jpeg).decode()}"
