"""Times to reach as JSON (``jete.target/1``) and for people: what is missing, and where it could come from."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Any

from jete.core.errors import InputError
from jete.report.words import lap_time

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.axis.road.corners import Corner
    from jete.core.passes.target import FromCorner
    from jete.desk.targets import WayToTarget

# A lap takes longer than this and less than that.
LEAST_S, MOST_S = 5.0, 3600.0
MOST_CORNERS = 4
# No target lies farther from a best than this.
LEAST_PERCENT, MOST_PERCENT = 50.0, 200.0


def seconds_of(text: str) -> float:
    """A lap time as it is typed.

    Raises:
        InputError: none.

    >>> seconds_of("1:50.5"), seconds_of("110,5"), seconds_of(" 1:50 ")
    (110.5, 110.5, 110.0)
    """
    found = re.fullmatch(r"(?:(\d+):)?(\d+(?:[.,]\d+)?)", text.strip())
    seconds = float(found[2].replace(",", ".")) + 60.0 * float(found[1] or 0) if found else 0.0
    if not LEAST_S < seconds < MOST_S:
        raise InputError(text or "time", "this is no lap time.", "Write it as 1:50.5 or 110.5.")
    return seconds


def percent_of(text: str) -> float | None:
    """A percentage of a best time as it is typed; None where it is none.

    >>> percent_of("101 %"), percent_of("1:50")
    (101.0, None)
    """
    found = re.fullmatch(r"(\d+(?:[.,]\d+)?)\s*%", text.strip())
    return (
        float(found[1].replace(",", "."))
        if found and MOST_PERCENT > float(found[1].replace(",", ".")) > LEAST_PERCENT
        else None
    )


def target_document(ways: Sequence[WayToTarget]) -> dict[str, Any]:
    """The document of ``jete target --json``."""
    return {"schema": "jete.target/1", "targets": [_target(way) for way in ways]}


def _target(way: WayToTarget) -> dict[str, Any]:
    target, split = way.target, way.split
    return {
        "id": target.id,
        "circuit": target.circuit,
        "layout": target.layout,
        "driver": target.driver or None,
        "class": target.group or None,
        "condition": target.condition or None,
        "name": target.name or None,
        "time_s": target.time_s,
        "best_s": None if way.best_s is None else round(way.best_s, 6),
        "best_lap": f"library:{way.best[0]}:{way.best[1]}" if way.best is not None else None,
        "missing_s": None if way.best_s is None else round(way.best_s - target.time_s, 6),
        "from": None
        if split is None
        else {
            "driven": [_part(p, way.corners) for p in split.driven],
            "aims": [_part(p, way.corners) for p in split.aims],
            "others": [_part(p, way.corners) for p in split.others],
            "unseen_s": round(split.unseen_s, 6),
        },
        "days": [{"date": date, "best_s": round(s, 6)} for date, s in way.days],
    }


def _part(part: FromCorner, corners: Sequence[Corner]) -> dict[str, Any]:
    corner = next(c for c in corners if c.id == part.corner)
    told = {"corner": corner.number, "id": part.corner, "number": corner.shown, "seconds": round(part.seconds, 6)}
    return {**told, "from": part.who} if part.who else told


def way_words(way: WayToTarget) -> str:
    """What is missing, and where it could come from, in one or two sentences."""
    target = way.target
    name = f"{lap_time(target.time_s)}{f' ({target.name})' if target.name else ''}"
    if way.best_s is None:
        return f"Target {name}: no lap that counts yet."
    missing = way.best_s - target.time_s
    if missing <= 0.0:
        return f"Target {name} is reached: {lap_time(way.best_s)}."
    classes = f" (it holds for the classes {' and '.join(way.groups)} alike)" if way.groups else ""
    head = f"{missing:.3f} s to {name}{classes}"
    if way.split is None:
        return f"{head}. Where it could come from is told once the page Corner has taken the laps apart."
    parts = [
        _told(way.split.driven, way.corners, "has been driven once"),
        _told(way.split.aims, way.corners, "is aimed at"),
        _told(way.split.others, way.corners, "others have shown"),
        f"{way.split.unseen_s:.2f} nobody has shown" if way.split.unseen_s >= 0.005 else "",
    ]
    return f"{head}: {'; '.join(p for p in parts if p)}."


def _told(parts: Sequence[FromCorner], corners: Sequence[Corner], words: str) -> str:
    if not parts:
        return ""
    shown = {c.id: c.shown for c in corners}
    numbers = ", ".join(shown[p.corner] for p in parts[:MOST_CORNERS])
    more = f" and {len(parts) - MOST_CORNERS} more" if len(parts) > MOST_CORNERS else ""
    return f"{sum(p.seconds for p in parts):.2f} {words} (in {numbers}{more})"


def targets_text(ways: Sequence[WayToTarget]) -> str:
    """The targets for people on a terminal."""
    lines = []
    for way in ways:
        t = way.target
        who = " · ".join(x for x in (t.circuit, t.layout, t.driver, t.group, t.condition) if x)
        lines.append(f"{t.id}  {who}: {way_words(way)}")
        if len(way.days) > 1:
            lines.append("   by day: " + ", ".join(f"{date} {lap_time(s)}" for date, s in way.days))
    return "\n".join(lines or ["No target is set."]) + "\n"
