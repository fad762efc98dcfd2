"""``jete target``: times to reach, set, listed and dropped."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from jete.commands.circuit import place_named
from jete.commands.place import library_at, location_of, require_library, say, write_json
from jete.core.errors import InputError

if TYPE_CHECKING:
    import argparse


def target(args: argparse.Namespace) -> int:
    """Set a target, list those that are set, or drop one."""
    from jete.desk.targets import share_of_best, way_to
    from jete.library.target_records import TargetRecord
    from jete.report.targets import percent_of, seconds_of, target_document, targets_text

    location = location_of(args)
    require_library(location)
    library = library_at(location, read_only=args.what == "list")
    try:
        shown = library.targets.all()
        if args.what == "set":
            if len(args.words) != 2:
                raise InputError("jete target set", "it needs a circuit and a time.", "Write: set CIRCUIT 1:50.5.")
            place = place_named(library, args.words[0], args.layout)
            wanted = TargetRecord(
                circuit=place.name, layout=place.layout, driver=args.driver or "", group=args.group or "",
                condition=args.condition or "", name=args.name or "", time_s=0.0,
            )  # fmt: skip
            percent = percent_of(args.words[1])
            time_s = seconds_of(args.words[1]) if percent is None else share_of_best(library, wanted, percent)
            shown = [library.targets.keep(replace(wanted, time_s=time_s))]
        elif args.what == "drop":
            numbers = {t.id for t in shown}
            if len(args.words) != 1 or not args.words[0].isdecimal() or int(args.words[0]) not in numbers:
                raise InputError("jete target drop", "it needs the number of a target.", "See them with: list.")
            library.targets.drop(int(args.words[0]))
            shown = library.targets.all()
        elif args.words:
            place = place_named(library, args.words[0], args.layout)
            shown = [t for t in shown if (t.circuit, t.layout) == (place.name, place.layout)]
        ways = [way_to(library, t) for t in shown]
    finally:
        library.close()
    if args.json:
        write_json(args.json, target_document(ways))
    else:
        say(targets_text(ways))
    return 0
