"""Runs of the library as tables and JSON."""

from __future__ import annotations

from collections import Counter
from dataclasses import asdict
from math import isfinite
from typing import TYPE_CHECKING, Any

from jete.core.log.lap import best_of
from jete.notes.sheet import BY_NAME
from jete.report.words import counted, lap_time

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.library.records import RunRecord
    from jete.notes.guess import Guess

SCHEMA = "jete.library/1"


def runs_table(runs: Sequence[RunRecord], wanted: Sequence[str] = ()) -> str:
    """One line a run, under headings of circuit and event; ``wanted`` are the words that were looked for."""
    lines, place = [], None
    for run in runs:
        sheet = run.sheet
        here = " · ".join(p for p in (sheet.circuit or "no circuit noted", sheet.layout, sheet.event, sheet.date) if p)
        if here != place:
            lines.append(here)
            place = here
        best = best_of(run.laps)
        laps = (
            f"{counted(sum(s.complete for s in run.laps), 'lap', 'laps')}, best {lap_time(best.time_s)}"
            if best is not None
            else "no complete lap"
        )
        # Who drove tells runs apart; where that is not noted, the file does.
        title = sheet.title if sheet.driver else " · ".join(p for p in (run.source, sheet.title) if p)
        lines.append(f"  {run.id:>4}  {title}  {laps}" + (f"  {sheet.condition}" if sheet.condition else ""))
    if not lines and wanted:
        lines = [f"No run holds {' and '.join(repr(w) for w in wanted)}."]
    return "\n".join(lines or ["No run is on the shelf. Bring in logs with 'jete import FILES'."]) + "\n"


def import_line(path: str, run: RunRecord, known: bool) -> str:  # noqa: FBT001 - one of three columns
    """What became of one file."""
    best = best_of(run.laps)
    laps = counted(sum(s.complete for s in run.laps), "complete lap", "complete laps") + (
        f", best {lap_time(best.time_s)}" if best is not None else ""
    )
    return f"{path}: run {run.id}{' (known already)' if known else ''}, {laps}\n"


def run_document(run: RunRecord) -> dict[str, Any]:
    """One run with its sheet and laps."""
    sheet = {k: v for k, v in asdict(run.sheet).items() if v not in ("", None) and k in BY_NAME and _is_sound(v)}
    laps = []
    for span, pieces in zip(run.laps, run.pieces, strict=True):
        note = run.notes.of(span.number)
        laps.append({
            "lap": span.number, "time_s": span.time_s, "length_m": span.length_m, "complete": span.complete, "why": span.why,
            "pieces_s": list(pieces), "aside": note.aside or None, "reason": note.reason or None, "note": note.note or None,
            "star": note.star,
        })  # fmt: skip
    repairs = [{"channel": r.channel, "what": r.what, "count": r.count} for r in run.repairs]
    return {
        "run": run.id,
        "source": run.source,
        "sheet": sheet,
        "laps": laps,
        "repairs": repairs,
        "damaged": run.damaged,
    }


def _is_sound(value: object) -> bool:
    """Whether a value is text or a number that JSON can hold."""
    return not isinstance(value, float) or isfinite(value)


def runs_document(runs: Sequence[RunRecord]) -> dict[str, Any]:
    """``jete list --json``."""
    return {"schema": SCHEMA, "runs": [run_document(r) for r in runs]}


def import_document(done: Sequence[tuple[str, RunRecord, bool]], refused: Sequence[tuple[str, str]]) -> dict[str, Any]:
    """``jete import --json``."""
    return {
        "schema": "jete.import/1",
        "imported": [{"file": f, "known": known, **run_document(run)} for f, run, known in done],
        "refused": [{"file": f, "why": why} for f, why in refused],
    }


def guess_words(guesses: Mapping[int, Mapping[str, Guess]]) -> str:
    """What names of files and folders say of new runs, each with its reason and on how many runs.

    >>> from jete.notes.guess import Guess
    >>> guess_words({1: {"driver": Guess("Ines", "the file's name")}, 2: {"driver": Guess("Ines", "the file's name")}})
    "Perhaps: driver Ines on 2 runs (by the file's name)."
    """
    counts: dict[tuple[str, str], Counter[str]] = {}
    for found in guesses.values():
        for name, guess in found.items():
            counts.setdefault((BY_NAME[name].title, guess.reason), Counter())[guess.value] += 1
    told = [
        f"{title} {', '.join(_on_runs(*x) for x in values.items())} (by {reason})"
        for (title, reason), values in counts.items()
    ]
    return f"Perhaps: {'; '.join(told)}." if told else ""


def _on_runs(value: str, count: int) -> str:
    return f"{value} on {counted(count, 'run', 'runs')}"
