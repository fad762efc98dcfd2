"""``jete report``: a debrief to hand out."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from jete.commands.addresses import Logs
from jete.commands.place import say, write_json

if TYPE_CHECKING:
    import argparse

    from jete.notes.sheet import RunSheet


def report(args: argparse.Namespace) -> int:
    """Write the debrief of laps against a reference."""
    from jete.commands.cores import on_all_cores
    from jete.core.run import run_of
    from jete.desk.beside import compare_beside
    from jete.desk.plans import plan_from
    from jete.paper.report_files import write_report
    from jete.report.debrief import Debrief, conditions_of, debrief_document, debrief_sections, report_document

    logs = Logs(args.line, args)
    logs.settle(args.reference, args.laps)
    reference = logs.lap(args.reference)
    laps = [lap for text in args.laps for lap in (logs.laps(text, reference) if args.all else [logs.lap(text)])]
    circuit = logs.circuit(args.reference, reference)
    comparison = compare_beside(reference, laps, circuit, on_all_cores)
    run = run_of(comparison) if len(laps) > 1 else None
    sheets = (logs.sheet(args.reference), logs.sheet(args.laps[0]))
    told = Debrief(
        comparison=comparison,
        circuit=circuit,
        run=run,
        plan=plan_from(comparison, circuit, run) if run is not None else None,
        names=(_name(sheets[0]), _name(sheets[1])),
        conditions=conditions_of(*sheets),
    )
    sections = debrief_sections(told)
    kind = "run" if run is not None else "lap"
    pages = write_report(Path(args.out), sections, debrief_document(told, args.out, sections))
    if args.json:
        write_json(args.json, report_document(kind, args.out, pages, sections))
    else:
        say(f"The report is in {args.out}{f', {pages} pages' if pages else ''}.\n")
    return 0


def _name(sheet: RunSheet | None) -> str:
    return sheet.title if sheet is not None else ""
