"""Every command of the command line, as data: what it takes, and where it is done.

A command is one record here and one function in a module of this folder.  Parser and help are made from the table.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Final, Literal, NamedTuple

from jete.commands.in_order import InOrder
from jete.formats.table import WRITTEN, WRITTEN_ENDINGS

if TYPE_CHECKING:
    from collections.abc import Sequence

# What several commands take: JSON out, a start line, the library they work on.
Common = Literal["json", "line", "library"]


class Argument(NamedTuple):
    """One argument: its names, and what :meth:`argparse.ArgumentParser.add_argument` is told of it."""

    names: tuple[str, ...]
    told: dict[str, Any]
    # Of those with one word here, only one may be given.
    one_of: str = ""


@dataclass(frozen=True)
class Command:
    """One command: ``module`` and ``function`` are imported when it is run, so that the others start quickly."""

    name: str
    help: str
    module: str
    function: str
    arguments: tuple[Argument, ...] = ()
    common: tuple[Common, ...] = ("json", "library")


def _takes(*names: str, one_of: str = "", **told: Any) -> Argument:
    return Argument(names, told, one_of)


def _either(words: Sequence[str]) -> str:
    return f"{', '.join(words[:-1])} or {words[-1]}"


LAP_HELP: Final = "FILE, FILE:N, library:RUN or library:RUN:N"
COMMON: Final[dict[Common, tuple[Argument, ...]]] = {
    "json": (_takes("--json", metavar="OUT", help="write JSON to OUT; - for standard output"),),
    "line": (
        _takes("--line", metavar="X,Y,HEADING", help="start line: X,Y or LAT,LON and degrees clockwise from north"),
    ),
    "library": (
        _takes("--library", metavar="PLACE", help="another library: a folder, or a database's URL"),
        _takes("--folder", metavar="FOLDER", help="with a URL: the shared folder for the channel data"),
    ),
}
COMMANDS: Final = (
    Command("laps", "the laps of a log", "compare", "laps", (_takes("file", metavar="FILE"),), ("json", "line")),
    Command(
        "compare", "compare laps with a reference lap", "compare", "compare",
        (
            _takes("reference", metavar="REFERENCE", help="FILE (its fastest lap), FILE:N, library:RUN or library:RUN:N"),
            _takes("laps", metavar="LAP", nargs="+", help="as REFERENCE"),
            _takes("--all", action="store_true", help="all laps that count of each LAP without a number"),
        ),
        ("json", "line", "library"),
    ),
    Command(
        "export", f"write a lap, or a whole log, as {_either([f.name for f in WRITTEN])}", "compare", "export",
        (
            _takes("lap", metavar="LAP", help="FILE (the whole log), FILE:N, library:RUN or library:RUN:N"),
            _takes("out", metavar="OUT", help=f"ends in {_either(WRITTEN_ENDINGS)}"),
            _takes("--against", metavar="REFERENCE", help="write both laps on the reference's distance axis"),
        ),
        ("json", "line", "library"),
    ),
    Command(
        "import", "bring logs into the library", "shelf", "bring_in",
        (
            _takes("files", metavar="FILES", nargs="+", help="files, or folders of them"),
            _takes("--run", dest="run_sheet", metavar="FIELD=VALUE", action="append", help="note it on the runs; as often as needed"),
            _takes("--guess", action="store_true", help="note who drove by the names of files and folders"),
        ),
    ),
    Command(
        "list", "the runs of the library", "shelf", "list_runs",
        (
            _takes("text", metavar="TEXT", nargs="*", help="only those that hold every word"),
            _takes("--bin", action="store_true", help="those in the bin"),
        ),
    ),
    Command("backup", "the whole library as one file", "shelf", "back_up", (_takes("out", metavar="OUT"),)),
    Command("restore", "a backup in the place of the library", "shelf", "restore", (_takes("backup", metavar="BACKUP"),)),
    Command(
        "check", "look at every file of the library, and change nothing", "shelf", "check",
        (_takes("--mend", action="store_true", help="set apart what is damaged or left over"),),
    ),
    Command(
        "circuit", "the circuits of the library: their corners and landmarks", "circuit", "circuit",
        (
            _takes("name", metavar="NAME", nargs="?", help="of one circuit"),
            _takes("--layout", metavar="LAYOUT", help="where a circuit has several"),
            _takes("--out", metavar="FILE", help="write it as GeoJSON"),
            _takes("--from", dest="file", metavar="FILE", help="take in what a GeoJSON file knows of it"),
        ),
    ),
    Command(
        "target", "times to reach, and where the rest could come from", "target", "target",
        (
            _takes("what", type=str.casefold, choices=("set", "list", "drop"), help="set CIRCUIT TIME, list [CIRCUIT], drop NUMBER"),
            _takes("words", metavar="…", nargs="*", help="a circuit of the library, a time as 1:50.5 or as 101%% of the best there, a target's number"),
            _takes("--layout", metavar="LAYOUT", help="where a circuit has several"),
            _takes("--driver", metavar="NAME", help="whose; of all where none is named"),
            _takes("--class", dest="group", metavar="CLASS", help="for runs of this class"),
            _takes("--condition", choices=("dry", "damp", "wet"), help="of the road"),
            _takes("--name", metavar="TEXT", help="what it is: a licence, a medal, a record, a team mate's"),
        ),
    ),
    Command(
        "table", "the drivers of a circuit side by side: what each loses where, on whom, by what", "team", "table",
        (
            _takes("circuit", metavar="CIRCUIT", help="of the library"),
            _takes("--layout", metavar="LAYOUT", help="where a circuit has several"),
            _takes("--class", dest="group", metavar="CLASS", help="only runs of this class; the one with most runs where none is named"),
        ),
    ),
    Command(
        "guide", "the lap guide of a lap, corner by corner, in words", "guide", "guide",
        (
            _takes("lap", metavar="LAP", help=LAP_HELP),
            _takes("--out", metavar="FILE", help="ends in .html, .pdf, .md or .json"),
            _takes("--against", metavar="LAP", help="another lap: what it kept of each card"),
            _takes("--bag", action="store_true", help="for the helmet bag: one page as PDF, or as text, a line a corner"),
            _takes("--middle", action="store_true", help="the middle of the run's best laps instead of the lap alone"),
            _takes("--paper", choices=("A5", "A4"), default="A5", help="of the page for the helmet bag"),
        ),
        ("json", "line", "library"),
    ),
    Command(
        "what-if", "what a change of a corner would do to a lap's time", "what_if", "what_if",
        (
            _takes("lap", metavar="LAP", help=LAP_HELP),
            _takes("--corner", metavar="N", action=InOrder, help="counted from the line, or its number on the circuit; what is set after it is set there"),
            _takes("--set", metavar="WHAT=DELTA", action=InOrder, help="brake_on_m=+5, min_speed_kmh=+2, throttle_on_m=-8 or feed=+0.3"),
            _takes("--keep", metavar="WHAT", action=InOrder, help="what stays: slow_point_m or braking; braking or brake_on_m"),
            _takes("--run", dest="runs", metavar="ADDRESS", action="append", help="what the vehicle is learnt from, instead of the lap's own log or run"),
        ),
        ("json", "line", "library"),
    ),
    Command(
        "plan", "what to try in the next run: at most three aims", "plan", "plan",
        (
            _takes("reference", metavar="REFERENCE", help=LAP_HELP),
            _takes("runs", metavar="RUN", nargs="+", help="FILE or library:RUN: what was driven"),
            _takes("--most", metavar="N", type=int, choices=(1, 2, 3), default=3, help="no more aims than this: 1, 2 or 3"),
            _takes("--race", action="store_true", help="what can be kept up over a race, instead of one fast lap"),
            _takes("--out", metavar="FILE", help="the card to carry: ends in .pdf or .html"),
        ),
        ("json", "line", "library"),
    ),
    Command(
        "review", "what came of a plan's aims", "plan", "review",
        (
            _takes("plan", metavar="PLAN.json", help="as 'jete plan --json' writes it"),
            _takes("runs", metavar="RUN", nargs="+", help="FILE or library:RUN: what was driven since"),
            _takes("--before", metavar="ADDRESS", action="append", default=[], help="another run from before, that did not choose the aims"),
            _takes("--out", metavar="FILE", help="as a sheet: ends in .pdf or .html"),
        ),
        ("json", "line", "library"),
    ),
    Command(
        "report", "a debrief to hand out, as one HTML file or PDF", "report", "report",
        (
            _takes("reference", metavar="REFERENCE", help=LAP_HELP),
            _takes("laps", metavar="LAP", nargs="+", help=LAP_HELP),
            _takes("--all", action="store_true", help="all laps of each FILE or library:RUN"),
            _takes("--out", metavar="FILE", required=True, help="the report: ends in .html or .pdf"),
        ),
        ("json", "line", "library"),
    ),
    Command(
        "hand-on", "a lap with its circuit, guide and notes as one file", "parcel", "hand_on",
        (
            _takes("lap", metavar="LAP", help="library:RUN or library:RUN:N"),
            _takes("--out", metavar="FILE", required=True, help="the file, ends in .zip"),
            _takes("--force", action="store_true", help="write over a file that is there"),
            _takes("--no-names", action="store_true", help="without who drove, coached, and in what"),
            _takes("--no-notes", action="store_true", help="without what was noted"),
        ),
    ),
    Command(
        "take-in", "take in what was handed on", "parcel", "take_in",
        (
            _takes("file", metavar="FILE"),
            _takes("--look", action="store_true", help="only say what it brings"),
            _takes("--their-circuit", one_of="circuit", action="store_true", help="its corners and landmarks take the place of yours"),
            _takes("--keep-circuit", one_of="circuit", action="store_true", help="your corners and landmarks stay"),
        ),
    ),
)  # fmt: skip
