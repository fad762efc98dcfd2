"""``jete what-if``: what a change of a corner would do to a lap's time."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.commands.addresses import LIBRARY, Logs
from jete.commands.place import say, write_json
from jete.core.errors import InputError

if TYPE_CHECKING:
    import argparse
    from collections.abc import Sequence

    from jete.core.axis.road.corners import Corner
    from jete.core.log.lap import Lap
    from jete.core.whatif.asked_for import AskedChange


def what_if(args: argparse.Namespace) -> int:
    """Changes of a lap's corners, each by itself and together."""
    from jete.desk.changes import held_beside, vehicle_of_run
    from jete.desk.changes import what_if as worked_out
    from jete.report.what_if import what_if_document, what_if_table

    logs = Logs(args.line, args)
    lap = logs.lap(args.lap)
    held = held_beside(lap, logs.circuit(args.lap, lap))
    asked = _asked(getattr(args, "said", None) or [], held.corners)
    found = worked_out(held, vehicle_of_run(_run(logs, args, lap)), asked)
    if args.json:
        write_json(args.json, what_if_document(found))
    else:
        say(what_if_table(found))
    return 0


def _run(logs: Logs, args: argparse.Namespace, lap: Lap) -> list[Lap]:
    """The laps that the vehicle is learnt from: of the runs that are named, else of the lap's own, in order."""
    if args.runs:
        return [found for text in args.runs for found in [*logs.laps(text, lap)]] or [lap]
    others = _others(logs, args.lap, lap)
    return sorted([*others, lap], key=lambda each: each.span.start_s)


def _others(logs: Logs, text: str, lap: Lap) -> list[Lap]:
    """The other complete laps of a lap's log or run; none where it is alone."""
    try:
        return logs.laps(whole_of(text), lap)
    except InputError:
        return []


def whole_of(text: str) -> str:
    """The run or log that an address of a lap is of.

    >>> whole_of("library:3:7"), whole_of("stint.csv:4"), whole_of("stint.csv")
    ('library:3', 'stint.csv', 'stint.csv')
    """
    head, colon, number = text.rpartition(":")
    numbered = bool(colon) and number.lstrip("-").isdecimal() and head + colon != LIBRARY
    return head if numbered or number == "ideal" else text


def _asked(said: Sequence[tuple[str, str]], corners: Sequence[Corner]) -> list[AskedChange]:
    """The changes from options in order: ``--corner``, then what is set and what stays there.

    Raises:
        InputError: nothing is set, or before any corner was named, or a corner that is not there.
    """
    from jete.core.whatif.asked_for import asked_change

    groups: list[tuple[str, list[str], list[str]]] = []
    for name, text in said:
        if name == "corner":
            groups.append((text, [], []))
        elif not groups:
            raise InputError(f"--{name} {text}", "no corner is named before it.", "Write --corner N first.")
        else:
            _, sets, keeps = groups[-1]
            (sets if name == "set" else keeps).append(text)
    empty = next((corner for corner, sets, _ in groups if not sets), None)
    if not groups or empty is not None:
        where = f"--corner {empty}" if empty is not None else "jete what-if"
        raise InputError(where, "nothing is set.", "Write --corner N --set brake_on_m=+5, say.")
    return [asked_change(_number(corner, corners), sets, keeps) for corner, sets, keeps in groups]


def _number(text: str, corners: Sequence[Corner]) -> int:
    """A corner by its count from the line, or by its number on the circuit."""
    shown = [c.shown for c in corners]
    if text in shown:
        return shown.index(text) + 1
    if text.isdecimal() and 1 <= int(text) <= len(corners):
        return int(text)
    raise InputError(f"--corner {text}", "there is no such corner.", f"It has the corners {', '.join(shown)}.")
