"""The coach's table as JSON (``jete.table/1``) and for people."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Final

from jete.report.thousandths import rows_in_thousandths
from jete.report.units import METRIC, Units
from jete.report.words import difference

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.axis.road.corners import Corner
    from jete.core.passes.team import MarkBehind, TeamCell, TeamMark, TeamRow
    from jete.desk.team import TeamTable

# So many corners are told of a driver at once.
MOST_LINES: Final = 5
# What is done at a mark, and how it is to the worse.
WORDS: Final[dict[TeamMark, str]] = {
    "brake_on_m": "brakes {} earlier",
    "min_speed_kmh": "{} slower at the slow point",
    "throttle_on_m": "picks up {} later",
    "exit_speed_kmh": "{} slower at the exit",
}


def table_document(table: TeamTable) -> dict[str, Any]:
    """The document of ``jete table --json``."""
    return {
        "schema": "jete.table/1",
        "circuit": table.circuit[0],
        "layout": table.circuit[1],
        "class": table.group or None,
        "left_out": table.left_out,
        "drivers": [_row(table, row) for row in table.rows],
    }


def _row(table: TeamTable, row: TeamRow) -> dict[str, Any]:
    return {
        "driver": row.driver,
        "vehicles": list(table.vehicles.get(row.driver, ())),
        "laps": row.laps,
        "lost_s": round(row.lost_s, 6),
        "straights_s": None if row.straights_s is None else round(row.straights_s, 6),
        "corners": [
            {"corner": c.number, "id": c.id, "number": c.shown, **_cell(cell, table.best.get((row.driver, c.number)))}
            for c, cell in zip(table.corners, row.cells, strict=True)
        ],
    }


def _cell(cell: TeamCell | None, best: tuple[int, int] | None) -> dict[str, Any]:
    if cell is None:
        return {"passes": 0, "best_s": None, "median_s": None, "spread_s": None, "lost_s": None,
                "learn_from": None, "by": [], "best_lap": None}  # fmt: skip
    return {
        "passes": cell.passes,
        "best_s": round(cell.best_s, 6),
        "median_s": round(cell.median_s, 6),
        "spread_s": round(cell.spread_s, 6),
        "lost_s": round(cell.lost_s, 6),
        "learn_from": cell.learn_from or None,
        "by": [{"mark": m.mark, "difference": round(m.difference, 3)} for m in cell.by],
        "best_lap": f"library:{best[0]}:{best[1]}" if best is not None else None,
    }


def behind_words(behind: MarkBehind, units: Units = METRIC) -> str:
    """A mark that differs to the worse.

    >>> from jete.core.passes.team import MarkBehind
    >>> behind_words(MarkBehind("brake_on_m", -12.0)), behind_words(MarkBehind("exit_speed_kmh", -3.14))
    ('brakes 12 m earlier', '3.1 km/h slower at the exit')
    """
    size = abs(behind.difference)
    told = units.length_text(size) if behind.mark.endswith("_m") else units.speed_text(size)
    return WORDS[behind.mark].format(told)


def cell_words(driver: str, corner: str, cell: TeamCell | None, units: Units = METRIC) -> str:
    """A cell as a sentence: what is lost there, on whom, by what."""
    if cell is None:
        return f"{driver} at {corner}: too few passes."
    head = f"{driver} at {corner}: median {cell.median_s:.3f} s of {cell.passes} passes, best {cell.best_s:.3f} s, ±{cell.spread_s:.3f} s"
    if not cell.learn_from:
        return f"{head}; {'the quickest here' if cell.lost_s == 0.0 else f'{difference(cell.lost_s)} s, which may be chance'}."
    marks = ", ".join(behind_words(m, units) for m in cell.by)
    return f"{head}; {difference(cell.lost_s)} s on {cell.learn_from}{f': {marks}' if marks else ''}."


def most_words(row: TeamRow, corners: Sequence[Corner], units: Units = METRIC) -> list[str]:
    """The corners where a driver loses most, the most first: on whom, and by what."""
    found = [(c, cell) for c, cell in zip(corners, row.cells, strict=True) if cell is not None and cell.learn_from]
    return [
        f"{c.shown}  {difference(cell.lost_s)} s on {cell.learn_from}"
        + (f": {', '.join(behind_words(m, units) for m in cell.by)}" if cell.by else "")
        for c, cell in sorted(found, key=lambda f: -f[1].lost_s)[:MOST_LINES]
    ]


def straights_words(row: TeamRow) -> str:
    """What the straights cost beyond the exits; empty where nothing is told."""
    if row.straights_s is None:
        return ""
    word = "slower" if row.straights_s > 0.0 else "quicker"
    return (
        f"{difference(row.straights_s)} s of it on the straights, exits taken out: the car, its fuel or a tow is {word}"
    )


def table_text(table: TeamTable) -> str:
    """The table for people on a terminal: seconds lost on the quickest at each corner."""
    wide = max((len(r.driver) for r in table.rows), default=6)
    shown = [c.shown for c in table.corners]
    lines = [
        f"{' · '.join(x for x in (*table.circuit, table.group) if x)}: seconds lost a lap on who is quickest there"
    ]
    lines.append(f"{'driver':<{wide}} {'laps':>5} {'lost':>7} " + " ".join(f"{s:>6}" for s in shown))
    rows = rows_in_thousandths(table.rows)
    for row in rows:
        cells = " ".join(f"{difference(c.lost_s) if c is not None else '–':>6}" for c in row.cells)
        lines.append(f"{row.driver:<{wide}} {row.laps:>5} {difference(row.lost_s):>7} {cells}")
    for row in rows:
        told = [
            f"{c.shown}: {', '.join(behind_words(m) for m in cell.by) or 'no mark tells'} (from {cell.learn_from})"
            for c, cell in zip(table.corners, row.cells, strict=True)
            if cell is not None and cell.learn_from
        ]
        lines += [f"{row.driver}: {'; '.join(told)}"] if told else []
        lines += [f"{row.driver}: {words}" for words in [straights_words(row)] if words]
    if table.left_out:
        lines.append(f"{table.left_out} runs are left out: nobody is noted to have driven them.")
    return "\n".join(lines) + "\n"
