"""``jete hand-on`` and ``jete take-in``: a lap with its circuit, guide and notes as one file, and back."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from jete.commands.addresses import LIBRARY, Logs
from jete.commands.place import library_at, location_of, say, write_json
from jete.core.errors import InputError

if TYPE_CHECKING:
    import argparse


def hand_on(args: argparse.Namespace) -> int:
    """Write a lap of the library with all that belongs to it."""
    from jete.library.parcels import hand_on as write
    from jete.report.guide import guide_document, guide_in_words

    if not args.lap.startswith(LIBRARY):
        raise InputError(args.lap, "only laps of the library are handed on.", "Bring it in first: jete import FILE.")
    _refuse_target(Path(args.out), force=args.force)
    logs = Logs(None, args)
    guide = guide_document(guide_in_words(logs.guide(args.lap)))
    run, lap = logs.address(args.lap)
    library = library_at(location_of(args), read_only=True)
    write(library, run, lap, Path(args.out), guide, names=not args.no_names, notes=not args.no_notes)
    library.close()
    _answer(args, {"schema": "jete.hand-on/1", "out": args.out, "run": run, "lap": lap}, f"The lap is in {args.out}.")
    return 0


def _refuse_target(out: Path, *, force: bool) -> None:
    """Refuse a name that says something else than a zip, and a file that is there.

    Raises:
        InputError: either of them.
    """
    if out.suffix.casefold() != ".zip":
        raise InputError(str(out), "what is handed on is a zip file.", "Give it a name that ends in .zip.")
    if out.exists() and not force:
        raise InputError(str(out), "there is such a file already.", "Choose another name, or add --force.")


def take_in(args: argparse.Namespace) -> int:
    """Take in what was handed on, or only look at it."""
    from jete.formats.parcel import read_parcel
    from jete.library.parcels import brings, take_parcel
    from jete.report.parcels import brought_words, parcel_document, took_words

    parcel = read_parcel(Path(args.file))
    library = library_at(location_of(args), read_only=args.look)
    there = brings(library, parcel)
    if args.look:
        library.close()
        _answer(args, parcel_document(parcel, there), "\n".join(brought_words(parcel, there)))
        return 0
    took = take_parcel(library, parcel, circuit=not args.keep_circuit and (args.their_circuit or not there.set_here))
    library.close()
    _answer(args, parcel_document(parcel, there, took), took_words(took))
    return 0


def _answer(args: argparse.Namespace, document: dict[str, object], words: str) -> None:
    if args.json:
        write_json(args.json, document)
    else:
        say(f"{words}\n")
