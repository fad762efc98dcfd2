"""The lap guide as one HTML file that needs nothing else: words by Jinja2, the circuit as a drawing in it."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.report.guide import CARE, FIELDS
from jete.report.words import lap_time

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.arrays import FloatArray
    from jete.report.guide import Guide

WIDTH, HEIGHT, MARGIN = 720.0, 360.0, 24.0


def guide_html(guide: Guide, path_m: FloatArray | None = None, apexes: Sequence[tuple[str, float, float]] = ()) -> str:
    """The guide as HTML.

    Args:
        guide: in words.
        path_m: the lap's path to draw, (n, 2); None for no drawing.
        apexes: number of each corner, and where it lies on the same plane.
    """
    from jinja2 import Environment, PackageLoader
    from markupsafe import Markup

    pages = Environment(loader=PackageLoader("jete.report"), autoescape=True, trim_blocks=True, lstrip_blocks=True)
    return pages.get_template("guide.html.j2").render(
        guide=guide, time=lap_time(guide.time_s), care=CARE, titles=FIELDS, lines=[c.line for c in guide.cards],
        map=Markup(map_svg(path_m, apexes)) if path_m is not None else "",  # noqa: S704 - numbers and escaped labels only
    )  # fmt: skip


def map_svg(path_m: FloatArray, apexes: Sequence[tuple[str, float, float]]) -> str:
    """A path and its corners as SVG, north up."""
    from markupsafe import escape

    low, high = path_m.min(axis=0), path_m.max(axis=0)
    scale = min((WIDTH - 2 * MARGIN) / max(high[0] - low[0], 1.0), (HEIGHT - 2 * MARGIN) / max(high[1] - low[1], 1.0))

    def at(x: float, y: float) -> tuple[float, float]:
        return MARGIN + (x - float(low[0])) * scale, HEIGHT - MARGIN - (y - float(low[1])) * scale

    middle = 0.5 * (low + high)
    points = " ".join(f"{x:.1f},{y:.1f}" for x, y in (at(*p) for p in path_m[:: max(len(path_m) // 800, 1)].tolist()))
    labels = []
    for label, x, y in apexes:
        out = np.array([x, y]) - middle
        out = out / max(float(np.hypot(*out)), 1e-6) * 14.0
        px, py = at(x, y)
        labels.append(
            f'<text x="{px + out[0]:.1f}" y="{py - out[1] + 4:.1f}" text-anchor="middle" font-size="13" font-weight="bold">{escape(label)}</text>'
        )
    return (
        f'<svg viewBox="0 0 {WIDTH:.0f} {HEIGHT:.0f}" role="img" aria-label="The circuit">'
        f'<polyline points="{points}" fill="none" stroke="#1d1b18" stroke-width="2"/>{"".join(labels)}</svg>'
    )
