"""``jete import``, ``list``, ``backup``, ``restore`` and ``check``: the library from the command line."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from jete.commands.place import library_at, location_of, require_library, say, tell, write_json
from jete.core.errors import InputError

if TYPE_CHECKING:
    import argparse
    from collections.abc import Sequence

    from jete.library.check import Finding
    from jete.library.library import Library
    from jete.library.location import Location


def bring_in(args: argparse.Namespace) -> int:
    """Bring files and folders in; those that can't be used are told, the others come in."""
    from jete.library.bring_in import bring_in as one
    from jete.library.files import files_of
    from jete.report.shelf import import_document, import_line

    given = dict(_pairs(args.run_sheet or []))
    library, refused, done = library_at(location_of(args)), [], []
    for path in (f for name in args.files for f in files_of(Path(name))):
        try:
            found = one(library, path, given)
        except InputError as error:
            refused.append((str(path), " ".join(str(error).split())))
            tell(refused[-1][1])
            continue
        if args.guess and not found.known:
            _note_guessed(library, path, found.run)
        done.append((str(path), library.run(found.run), found.known))
        if not args.json:
            say(import_line(*done[-1]))
    library.close()
    if args.json:
        write_json(args.json, import_document(done, refused))
    return 2 if refused else 0


def _note_guessed(library: Library, path: Path, number: int) -> None:
    """Note what a log and the names of its file and folders say, where it is not noted yet, and tell it with its reason."""
    from jete.formats.said import said_in
    from jete.notes.guess import guessed_for
    from jete.notes.sheet import with_value

    others = [r.sheet for r in library.runs() if r.id != number]
    sheet = library.run(number).sheet
    for field, guess in guessed_for(path, sheet, others, said_in(path)).items():
        sheet = with_value(sheet, field, guess.value)
        tell(f"{path.name}: {field} {guess.value}, by {guess.reason}")
    library.note_run(number, sheet)


def _pairs(texts: Sequence[str]) -> list[tuple[str, str]]:
    pairs = [tuple(t.split("=", 1)) for t in texts]
    wrong = next((t for t, p in zip(texts, pairs, strict=True) if len(p) < 2), None)
    if wrong is not None:
        raise InputError("--run", f"'{wrong}' names no field.", "Write FIELD=VALUE, such as driver=Ines.")
    return [(p[0].strip(), p[1]) for p in pairs]


def list_runs(args: argparse.Namespace) -> int:
    """The runs that hold a text, or all; those in the bin with ``--bin``."""
    from jete.report.shelf import runs_document, runs_table

    library = library_at(location_of(args), read_only=True)
    runs = [r for r in library.runs(removed=args.bin) if not args.text or _holds(r, args.text)]
    library.close()
    if args.json:
        write_json(args.json, runs_document(runs))
    else:
        say(runs_table(runs, args.text))
    return 0


def _holds(run: object, words: Sequence[str]) -> bool:
    from jete.notes.search import holds, text_of

    text = text_of(run.sheet, run.notes, run.source)  # type: ignore[attr-defined]
    return holds(text, " ".join(words))


def back_up(args: argparse.Namespace) -> int:
    """The whole library as one file."""
    from jete.library.backup import back_up as write

    location = location_of(args)
    library_at(location, read_only=True).close()
    count = write(location, Path(args.out))
    return _say(args, "jete.backup/1", f"{count} recordings and the database are in {args.out}.", count)


def restore(args: argparse.Namespace) -> int:
    """A backup in the place of the library, which goes to its quarantine."""
    from jete.library.backup import restore as bring_back

    count = bring_back(Path(args.backup), location_of(args))
    return _say(args, "jete.restore/1", f"{count} recordings are back; what was there is in the quarantine.", count)


def _say(args: argparse.Namespace, schema: str, text: str, count: int) -> int:
    if args.json:
        write_json(args.json, {"schema": schema, "recordings": count})
    else:
        say(f"{text}\n")
    return 0


def check(args: argparse.Namespace) -> int:
    """Every file against its digest; exit status 1 where something was found.  Only ``--mend`` changes anything."""
    from jete.library.check import Finding, is_damaged

    location = location_of(args)
    begun = _never_finished(location)
    if not begun:
        require_library(location)
    if begun and not args.mend:
        found = begun
    elif not args.mend and is_damaged(location):
        found = [Finding("the database is damaged", str(location.file), _how_to_mend(location))]
    else:
        found = _mended(location) if args.mend else _looked_at(location)
    if args.json:
        entries = [{"what": f.what, "where": f.where, "done": f.done} for f in found]
        write_json(args.json, {"schema": "jete.check/1", "findings": entries})
    else:
        say("".join(f"{f.where}: {f.what}; {f.done}.\n" for f in found) or "The library is sound.\n")
    return 1 if found else 0


def _never_finished(location: Location) -> list[Finding]:
    """What the first import of a library left that was stopped before its database was there."""
    from jete.library.check import MEND, Finding, orphans, unfinished

    root = location.folder
    if location.file is None or location.file.exists() or not root.is_dir():
        return []
    left = [*unfinished(root), *orphans(root, set())]
    return [Finding("left by an import that was stopped before its first run was in", str(f), MEND) for f in left]


def _how_to_mend(location: Location) -> str:
    from jete.library.mending import holds_words, newest_sound

    snapshot = newest_sound(location)
    instead = (
        f"puts the snapshot {holds_words(snapshot)}, in its place"
        if snapshot
        else "begins a new one: there is no snapshot"
    )
    return f"'jete check --mend' sets it apart and {instead}"


def _mended(location: Location) -> list[Finding]:
    from jete.library.library import Library
    from jete.library.mending import mend, mend_database
    from jete.library.open_elsewhere import alone

    with alone(location, "mended"):
        found = mend_database(location)
    library = Library(location)
    found += mend(library)
    library.close()
    return found


def _looked_at(location: Location) -> list[Finding]:
    from jete.library.check import check, left_over
    from jete.library.library import Library

    library = Library(location, read_only=True)
    found = check(library, thorough=True) + left_over(library)
    library.close()
    return found
