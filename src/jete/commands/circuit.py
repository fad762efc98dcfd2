"""``jete circuit``: the circuits of the library; one of them handed on as GeoJSON, or made from a file."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from jete.commands.place import library_at, location_of, require_library, say, write_json
from jete.core.errors import InputError

if TYPE_CHECKING:
    import argparse

    from jete.library.circuits import Place
    from jete.library.library import Library


def circuit(args: argparse.Namespace) -> int:
    """List the circuits; write one with ``--out``, or take a file into it with ``--from``."""
    from jete.formats import geojson
    from jete.library.exchange import hand_out, take_in
    from jete.report.circuits import circuits_document, circuits_table

    location = location_of(args)
    require_library(location)
    library = library_at(location, read_only=not args.file)
    places = library.circuits.places() if args.name is None else [place_named(library, args.name, args.layout)]
    if args.file:
        take_in(library, _only(places, "--from"), geojson.read(Path(args.file)))
        places = [place_named(library, places[0].name, args.layout)]
    if args.out:
        geojson.write(Path(args.out), hand_out(library, _only(places, "--out")))
    told = [(p, library.circuits.road(p), library.circuits.book(p)) for p in places]
    library.close()
    if args.json:
        write_json(args.json, circuits_document(told))
    else:
        say(circuits_table(told))
    return 0


def _only(places: list[Place], option: str) -> Place:
    if len(places) != 1:
        raise InputError(option, "it needs one circuit.", "Name the circuit: jete circuit NAME.")
    return places[0]


def place_named(library: Library, name: str, layout: str | None) -> Place:
    """The circuit of a name, where it has several layouts of that layout.

    Raises:
        InputError: there is none such, or more than one.
    """
    places = [p for p in library.circuits.places() if layout in (None, p.layout)]
    # As it is written, else as it is called: nobody thinks of capitals.
    found = [p for p in places if p.name == name] or [p for p in places if p.name.casefold() == name.casefold()]
    if len(found) == 1:
        return found[0]
    if found:
        layouts = ", ".join(repr(p.layout) for p in found)
        raise InputError(name, f"it has the layouts {layouts}.", "Name one with --layout.")
    known = ", ".join(sorted({p.name for p in library.circuits.places()})) or "none"
    raise InputError(name, "there is no such circuit.", f"Known are: {known}.")
