"""``jete plan`` and ``jete review``: what to try in the next run, and what came of it."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING, Any

from jete.commands.addresses import Logs
from jete.commands.place import say, write_json
from jete.core.errors import InputError

if TYPE_CHECKING:
    import argparse
    from collections.abc import Sequence

    from jete.core.log.lap import Lap


def plan(args: argparse.Namespace) -> int:
    """Propose aims for the next run."""
    from jete.commands.cores import on_all_cores
    from jete.core.aims.circumstances import Circumstances
    from jete.desk.planned import aims_of
    from jete.desk.plans import plan_of
    from jete.paper.sheet_files import write_sheet
    from jete.report.plan import plan_document, plan_table
    from jete.report.plan_card import card_body

    logs = Logs(args.line, args)
    logs.settle(args.reference, args.runs)
    reference = logs.lap(args.reference)
    runs = [(text, logs.laps(text, reference)) for text in args.runs]
    circuit = logs.circuit(args.reference, reference)
    laps = [lap for _, run in runs for lap in run]
    given = Circumstances(rider=_rider(reference), race=args.race)
    found = plan_of(reference, laps, circuit, most=args.most, given=given, each=on_all_cores)
    told = [(text, [lap.span.number for lap in run]) for text, run in runs]
    document = plan_document(found, args.reference, told)
    if args.json:
        write_json(args.json, document)
    if args.out:
        write_sheet(Path(args.out), "Next run", card_body(document), document)
    if not args.json and not args.out:
        say(plan_table(found, aims_of(document, "plan")))
    return 0


def _rider(lap: Lap) -> bool:
    """Whether a motorcycle logged it: a lean."""
    return lap.get("lean") is not None


def review(args: argparse.Namespace) -> int:
    """What came of a plan's aims."""
    from jete.commands.cores import on_all_cores
    from jete.desk.planned import aims_of
    from jete.desk.reviews import review_of
    from jete.paper.sheet_files import write_sheet
    from jete.report.review import review_body, review_document, review_table

    path = Path(args.plan)
    document = _read(path)
    logs = Logs(args.line, args)
    reference_text = _address(document["reference"], path)
    reference = logs.lap(reference_text)
    chosen = [_address(run, path, lap=False) for run in document["chosen_on"]]
    names = (chosen, list(args.before), list(args.runs))
    runs = tuple([logs.laps(text, reference) for text in part] for part in names)
    circuit = logs.circuit(reference_text, reference)
    found = review_of(reference, (runs[0], runs[1], runs[2]), aims_of(document, args.plan), circuit, on_all_cores)
    differences = _differences(logs, chosen, args.runs)
    told = review_document(found, names, args.plan, differences)
    if args.json:
        write_json(args.json, told)
    if args.out:
        body = review_body(found, differences or ())
        write_sheet(Path(args.out), "What came of it", body, told, small=False)
    if not args.json and not args.out:
        say(review_table(found))
    return 0


def _differences(logs: Logs, before: Sequence[str], after: Sequence[str]) -> list[str] | None:
    """How the conditions of the runs since differ from those that chose the aims, in words; None where they are not known."""
    from jete.notes.sheet import changed_since

    sides = [[sheet for text in texts if (sheet := logs.sheet(text)) is not None] for texts in (before, after)]
    if not all(sides):
        return None
    return changed_since(*sides)


def _read(path: Path) -> dict[str, Any]:
    """A plan's file.

    Raises:
        InputError: none there, no JSON, or no plan.
    """
    mend = "Make one with 'jete plan REFERENCE RUN --json PLAN.json'."
    try:
        document = json.loads(path.read_text(encoding="utf-8"))
    except OSError as error:
        raise InputError(str(path), "it can't be read.", mend) from error
    except ValueError as error:
        raise InputError(str(path), "this is no JSON.", mend) from error
    if not isinstance(document, dict) or document.get("schema") != "jete.plan/1":
        raise InputError(str(path), "this is no plan of the form jete.plan/1.", mend)
    for name, kind in (("reference", dict), ("chosen_on", list), ("aims", list)):
        if not isinstance(document.get(name), kind):
            raise InputError(str(path), f"its '{name}' is missing.", mend)
    return document


def _address(told: Any, plan_path: Path, *, lap: bool = True) -> str:
    """The address of a lap or run that a plan names; a file that is not here is looked for beside the plan.

    Raises:
        InputError: it names none.
    """
    if not isinstance(told, dict) or not isinstance(told.get("source"), str):
        raise InputError(str(plan_path), "a lap or run in it has no 'source'.", "Name the log or library:RUN there.")
    source = told["source"]
    beside = plan_path.parent / source
    if not source.startswith("library:") and not Path(source).exists() and beside.exists():
        source = str(beside)
    number = told.get("lap")
    return f"{source}:{number}" if lap and isinstance(number, int) else source
