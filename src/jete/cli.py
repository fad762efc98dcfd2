"""The command line: what can be asked; what is done stands in :mod:`jete.commands`."""

from __future__ import annotations

import argparse
import sys
from importlib import import_module
from typing import TYPE_CHECKING, NoReturn

from jete import __version__
from jete.core.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

UNUSABLE = 2


class _Parser(argparse.ArgumentParser):
    """An argument parser whose errors are one line."""

    def error(self, message: str) -> NoReturn:
        self.exit(UNUSABLE, f"{self.prog}: {message}. See '{self.prog.split()[0]} --help'.\n")


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command line and return the exit status."""
    arguments = _join_line(list(sys.argv[1:] if argv is None else argv))
    args = _parser().parse_args(arguments)
    try:
        return int(args.run(args))
    except InputError as error:
        from jete.commands.place import tell

        tell(str(error))
        return UNUSABLE
    except (BrokenPipeError, KeyboardInterrupt):
        return 1
    except Exception as error:  # noqa: BLE001 - a user never sees a traceback
        return _unexpected(error)


def _unexpected(error: Exception) -> int:
    """Log what nobody foresaw and say where."""
    from jete.app.errors import write_log

    sys.stderr.write(
        f"jete: something unforeseen went wrong ({type(error).__name__}); details are in {write_log(error)}.\n"
    )
    return 1


def _join_line(arguments: list[str]) -> list[str]:
    """``--line -3,4,90`` as one word: a value that begins with a minus is no option."""
    if "--line" in arguments[:-1]:
        i = arguments.index("--line")
        return [*arguments[:i], f"--line={arguments[i + 1]}", *arguments[i + 2 :]]
    return arguments


def _parser() -> _Parser:
    parser = _Parser(
        prog="jete", description="Where on the lap the time goes, and why.  Without a command the window opens."
    )
    parser.add_argument("--version", action="version", version=f"jete {__version__}")
    parser.set_defaults(run=lambda _: _window(demo=False))
    commands = parser.add_subparsers(title="commands", metavar="[COMMAND ...]", parser_class=_Parser)
    demo = commands.add_parser("demo", help="the application, on the demo data that ships")
    demo.set_defaults(run=lambda _: _window(demo=True))
    _add_laps_and_compare(commands)
    _add_shelf(commands)
    _add_circuit(commands)
    _add_guide(commands)
    _add_parcels(commands)
    for name, sub in commands.choices.items():
        if name != "demo":
            sub.add_argument("--json", metavar="OUT", help="write JSON to OUT; - for standard output")
        if name in ("laps", "compare", "export", "guide"):
            sub.add_argument(
                "--line", metavar="X,Y,HEADING", help="start line: X,Y or LAT,LON and degrees clockwise from north"
            )
        if name not in ("demo", "laps"):
            sub.add_argument("--library", metavar="PLACE", help="another library: a folder, or a database's URL")
            sub.add_argument("--folder", metavar="FOLDER", help="with a URL: the shared folder for the channel data")
    return parser


def _add_laps_and_compare(commands: argparse._SubParsersAction[_Parser]) -> None:
    laps = commands.add_parser("laps", help="the laps of a log")
    laps.add_argument("file", metavar="FILE")
    laps.set_defaults(run=_command("compare", "laps"))
    compare = commands.add_parser("compare", help="compare laps with a reference lap")
    compare.add_argument(
        "reference", metavar="REFERENCE", help="FILE (its fastest lap), FILE:N, library:RUN or library:RUN:N"
    )
    compare.add_argument("laps", metavar="LAP", nargs="+", help="as REFERENCE")
    compare.add_argument("--all", action="store_true", help="all complete laps of each LAP without a number")
    compare.set_defaults(run=_command("compare", "compare"))
    export = commands.add_parser(
        "export", help="write a lap, or a whole log, as CSV, Parquet, Arrow, JSON Lines or MDF 4"
    )
    export.add_argument("lap", metavar="LAP", help="FILE (the whole log), FILE:N, library:RUN or library:RUN:N")
    export.add_argument("out", metavar="OUT", help="ends in .csv, .parquet, .arrow, .jsonl or .mf4")
    export.add_argument("--against", metavar="REFERENCE", help="write both laps on the reference's distance axis")
    export.set_defaults(run=_command("compare", "export"))


def _add_shelf(commands: argparse._SubParsersAction[_Parser]) -> None:
    bring = commands.add_parser("import", help="bring logs into the library")
    bring.add_argument("files", metavar="FILES", nargs="+", help="files, or folders of them")
    bring.add_argument(
        "--run",
        dest="run_sheet",
        metavar="FIELD=VALUE",
        action="append",
        help="note it on the runs; as often as needed",
    )
    bring.set_defaults(run=_command("shelf", "bring_in"))
    listed = commands.add_parser("list", help="the runs of the library")
    listed.add_argument("text", metavar="TEXT", nargs="*", help="only those that hold every word")
    listed.add_argument("--bin", action="store_true", help="those in the bin")
    listed.set_defaults(run=_command("shelf", "list_runs"))
    backup = commands.add_parser("backup", help="the whole library as one file")
    backup.add_argument("out", metavar="OUT")
    backup.set_defaults(run=_command("shelf", "back_up"))
    restore = commands.add_parser("restore", help="a backup in the place of the library")
    restore.add_argument("backup", metavar="BACKUP")
    restore.set_defaults(run=_command("shelf", "restore"))
    check = commands.add_parser("check", help="look at every file of the library, and change nothing")
    check.add_argument("--mend", action="store_true", help="set apart what is damaged or left over")
    check.set_defaults(run=_command("shelf", "check"))


def _add_circuit(commands: argparse._SubParsersAction[_Parser]) -> None:
    circuit = commands.add_parser("circuit", help="the circuits of the library: their corners and landmarks")
    circuit.add_argument("name", metavar="NAME", nargs="?", help="of one circuit")
    circuit.add_argument("--layout", metavar="LAYOUT", help="where a circuit has several")
    circuit.add_argument("--out", metavar="FILE", help="write it as GeoJSON")
    circuit.add_argument("--from", dest="file", metavar="FILE", help="take in what a GeoJSON file knows of it")
    circuit.set_defaults(run=_command("circuit", "circuit"))


def _add_guide(commands: argparse._SubParsersAction[_Parser]) -> None:
    guide = commands.add_parser("guide", help="the lap guide of a lap, corner by corner, in words")
    guide.add_argument("lap", metavar="LAP", help="FILE, FILE:N, library:RUN or library:RUN:N")
    guide.add_argument("--out", metavar="FILE", help="ends in .html, .pdf, .md or .json")
    guide.add_argument("--against", metavar="LAP", help="another lap: what it kept of each card")
    guide.add_argument(
        "--bag", action="store_true", help="for the helmet bag: one page as PDF, or as text, a line a corner"
    )
    guide.add_argument(
        "--middle", action="store_true", help="the middle of the run's best laps instead of the lap alone"
    )
    guide.add_argument("--paper", choices=("A5", "A4"), default="A5", help="of the page for the helmet bag")
    guide.set_defaults(run=_command("guide", "guide"))


def _add_parcels(commands: argparse._SubParsersAction[_Parser]) -> None:
    out = commands.add_parser("hand-on", help="a lap with its circuit, guide and notes as one file")
    out.add_argument("lap", metavar="LAP", help="library:RUN or library:RUN:N")
    out.add_argument("--out", metavar="FILE", required=True, help="the file, ends in .zip")
    out.add_argument("--force", action="store_true", help="write over a file that is there")
    out.add_argument("--no-names", action="store_true", help="without who drove, coached, and in what")
    out.add_argument("--no-notes", action="store_true", help="without what was noted")
    out.set_defaults(run=_command("parcel", "hand_on"))
    back = commands.add_parser("take-in", help="take in what was handed on")
    back.add_argument("file", metavar="FILE")
    back.add_argument("--look", action="store_true", help="only say what it brings")
    which = back.add_mutually_exclusive_group()
    which.add_argument("--their-circuit", action="store_true", help="its corners and landmarks take the place of yours")
    which.add_argument("--keep-circuit", action="store_true", help="your corners and landmarks stay")
    back.set_defaults(run=_command("parcel", "take_in"))


def _command(module: str, name: str) -> Callable[[argparse.Namespace], int]:
    """A command whose module is imported when it is run, so that the others start quickly."""

    def run(args: argparse.Namespace) -> int:
        return int(getattr(import_module(f"jete.commands.{module}"), name)(args))

    return run


def _window(*, demo: bool) -> int:
    from jete.main import run

    return run(demo=demo)


if __name__ == "__main__":
    sys.exit(main())
