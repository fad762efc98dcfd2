"""``jete table``: the drivers of a circuit side by side."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.commands.circuit import place_named
from jete.commands.place import library_at, location_of, require_library, say, write_json

if TYPE_CHECKING:
    import argparse


def table(args: argparse.Namespace) -> int:
    """Drivers × corners of one circuit and class."""
    from jete.desk.team import team_table
    from jete.report.team import table_document, table_text

    location = location_of(args)
    require_library(location)
    library = library_at(location)
    try:
        found = team_table(library, place_named(library, args.circuit, args.layout), args.group)
    finally:
        library.close()
    if args.json:
        write_json(args.json, table_document(found))
    else:
        say(table_text(found))
    return 0
