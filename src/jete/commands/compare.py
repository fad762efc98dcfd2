"""``jete laps``, ``jete compare`` and ``jete export``: from laps to tables and files."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from jete.commands.addresses import LIBRARY, Logs, given_line, read
from jete.commands.place import say, write_json
from jete.core.errors import InputError

if TYPE_CHECKING:
    import argparse

    from jete.core.causes.verdict.result import Comparison, LapComparison
    from jete.core.log.lap import Lap, Log


def laps(args: argparse.Namespace) -> int:
    """The laps of a log."""
    from jete.core.motion.split import split
    from jete.report.contract import laps_document
    from jete.report.table import laps_table

    log = read(args.file)
    spans = split(log, given_line(args.line, log))
    if args.json:
        write_json(args.json, laps_document(log, spans))
    else:
        say(laps_table(log, spans))
    return 0


def compare(args: argparse.Namespace) -> int:
    """Laps against a reference lap."""
    from jete.commands.cores import on_all_cores
    from jete.core.run import run_of
    from jete.desk.beside import compare_beside
    from jete.report.contract import comparison_document
    from jete.report.table import comparison_table

    logs = Logs(args.line, args)
    logs.settle(args.reference, args.laps)
    reference = logs.lap(args.reference)
    found = [lap for text in args.laps for lap in (logs.laps(text, reference) if args.all else [logs.lap(text)])]
    if not found:
        raise InputError(args.laps[0], "it has no complete lap besides the reference.", "Name another run or file.")
    circuit = logs.circuit(args.reference, reference)
    try:
        comparison = compare_beside(reference, found, circuit, on_all_cores)
    except InputError as error:
        raise _blamed(reference, error) from error
    runs = [(part, run_of(part)) for part in _by_run(comparison)] if args.all or len(found) > 1 else []
    if args.json:
        write_json(args.json, comparison_document(comparison, runs, circuit))
    else:
        say(comparison_table(comparison, runs, timed_at=logs.timed_at))
    return 0


def _blamed(reference: Lap, error: InputError) -> InputError:
    """What can't be compared, told of the reference where that is no whole lap."""
    if reference.span.complete:
        return error
    what = f"it is no complete lap ({reference.span.why}), and the other laps don't lie on it."
    return InputError(
        f"{reference.log.source}, lap {reference.span.number}", what, "Name a complete lap as the reference."
    )


def _by_run(comparison: Comparison) -> list[Comparison]:
    """The comparison of each run's laps: what two drivers did has nothing in common."""
    groups: dict[tuple[str, str], list[LapComparison]] = {}
    for c in comparison.laps:
        groups.setdefault((c.passage.lap.log.source, c.passage.lap.driver), []).append(c)
    return [replace(comparison, laps=tuple(laps)) for laps in groups.values()]


def export(args: argparse.Namespace) -> int:
    """A lap or a whole log as a file; with ``--against`` laps on the reference's axis."""
    from jete.core.compare import compare as compared
    from jete.formats.aligned import aligned_columns
    from jete.formats.writer import write_columns, write_log

    logs, target = Logs(args.line, args), Path(args.out)
    if args.against:
        logs.settle(args.against, [args.lap])
        reference = logs.lap(args.against)
        write_columns(target, aligned_columns(compared(reference, [logs.lap(args.lap)])))
    else:
        write_log(
            target, _cut(logs.lap(args.lap)) if args.lap.startswith(LIBRARY) or ":" in args.lap else read(args.lap)
        )
    if args.json:
        write_json(args.json, {"schema": "jete.export/1", "lap": args.lap, "against": args.against, "out": str(target)})
    return 0


def _cut(lap: Lap) -> Log:
    from jete.formats.aligned import log_of_lap

    return log_of_lap(lap)
