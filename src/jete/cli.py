"""The command line: the application, the laps of a log, comparisons."""

from __future__ import annotations

import argparse
import json
import sys
from math import radians
from pathlib import Path
from typing import TYPE_CHECKING, Any, NoReturn

from jete import __version__
from jete.core.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.lap import Lap, LapSpan, Log
    from jete.core.split import LineSource

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
        sys.stderr.write(f"jete: {' '.join(str(error).split())}\n")
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
    parser = _Parser(prog="jete", description="Where on the lap the time goes, and why.")
    parser.add_argument("--version", action="version", version=f"jete {__version__}")
    parser.set_defaults(run=lambda _: _window(demo=False))
    commands = parser.add_subparsers(title="commands", metavar="", parser_class=_Parser)
    demo = commands.add_parser("demo", help="the application, on the demo data that ships")
    demo.set_defaults(run=lambda _: _window(demo=True))
    laps = commands.add_parser("laps", help="the laps of a log")
    laps.add_argument("file", metavar="FILE")
    laps.set_defaults(run=_laps)
    compare = commands.add_parser("compare", help="compare laps with a reference lap")
    compare.add_argument("reference", metavar="REFERENCE", help="FILE (its fastest lap) or FILE:N")
    compare.add_argument("laps", metavar="LAP", nargs="+", help="FILE or FILE:N")
    compare.add_argument("--all", action="store_true", help="all complete laps of each FILE without a number")
    compare.set_defaults(run=_compare)
    for sub in (laps, compare):
        sub.add_argument("--json", metavar="OUT", help="write JSON to OUT; - for standard output")
        sub.add_argument(
            "--line", metavar="X,Y,HEADING", help="start line: X,Y or LAT,LON and degrees clockwise from north"
        )
    return parser


def _window(*, demo: bool) -> int:
    from jete.app.main import run

    return run(demo=demo)


def _laps(args: argparse.Namespace) -> int:
    from jete.core.split import split
    from jete.report.contract import laps_document
    from jete.report.table import laps_table

    log = _read(args.file)
    spans = split(log, _given_line(args.line, log))
    if args.json:
        _write_json(args.json, laps_document(log, spans))
    else:
        sys.stdout.write(laps_table(log, spans))
    return 0


def _compare(args: argparse.Namespace) -> int:
    from jete.core.compare import compare
    from jete.core.run import run_of
    from jete.report.contract import comparison_document
    from jete.report.table import comparison_table

    logs = _Logs(args.line)
    reference = logs.lap(args.reference)
    laps = [lap for text in args.laps for lap in (logs.laps(text, reference) if args.all else [logs.lap(text)])]
    comparison = compare(reference, laps)
    run = run_of(comparison) if args.all or len(laps) > 1 else None
    if args.json:
        _write_json(args.json, comparison_document(comparison, run))
    else:
        sys.stdout.write(comparison_table(comparison, run))
    return 0


class _Logs:
    """The logs of one command: each is read once, and one start line serves all."""

    def __init__(self, line: str | None) -> None:
        self._given = line
        self._line: LineSource | None = None
        self._read: dict[str, tuple[Log, tuple[LapSpan, ...]]] = {}

    def lap(self, text: str) -> Lap:
        """The lap that ``FILE`` or ``FILE:N`` names."""
        from jete.core.lap import Lap, fastest

        name, number = _address(text)
        log, spans = self._spans(name)
        return Lap(log, fastest(spans, log.source) if number is None else _numbered(spans, number, log.source))

    def laps(self, text: str, reference: Lap) -> list[Lap]:
        """All complete laps of ``FILE`` but the reference itself; the one that ``FILE:N`` names."""
        from jete.core.lap import Lap

        name, number = _address(text)
        if number is not None:
            return [self.lap(text)]
        log, spans = self._spans(name)
        found = [Lap(log, s) for s in spans if s.complete and not (log is reference.log and s == reference.span)]
        if not found:
            raise InputError(log.source, "it has no complete lap besides the reference.", "Name a lap as FILE:N.")
        return found

    def _spans(self, name: str) -> tuple[Log, tuple[LapSpan, ...]]:
        from jete.core.split import line_of, split

        if name not in self._read:
            log = _read(name)
            self._line = self._line or _given_line(self._given, log) or line_of(log)
            self._read[name] = log, split(log, self._line)
        return self._read[name]


def _address(text: str) -> tuple[str, int | None]:
    """File and lap number of ``FILE`` or ``FILE:N``."""
    name, colon, number = text.rpartition(":")
    if colon and number.lstrip("-").isdigit() and not Path(text).exists():
        return name, int(number)
    return text, None


def _numbered(spans: tuple[LapSpan, ...], number: int, source: str) -> LapSpan:
    found = [s for s in spans if s.number == number]
    if not found:
        known = ", ".join(str(s.number) for s in spans)
        raise InputError(source, f"there is no lap {number}.", f"It has the laps {known}.")
    return found[0]


def _read(name: str) -> Log:
    from jete.formats.reader import read_log

    return read_log(Path(name))


def _given_line(text: str | None, log: Log) -> LineSource | None:
    """The line of ``--line`` on the plane of a log."""
    import numpy as np

    from jete.core.plane import StartLine, origin_of
    from jete.core.split import LineSource

    if text is None:
        return None
    try:
        a, b, heading = (float(part) for part in text.split(","))
    except ValueError:
        raise InputError("--line", f"'{text}' is not three numbers.", "Write X,Y,HEADING or LAT,LON,HEADING.") from None
    origin = origin_of(log)
    if origin is None:
        raise InputError(log.source, "--line needs a log with positions.", "Leave it out.")
    if origin.latitude_deg is not None:
        east, north = origin.to_plane(np.array([a]), np.array([b]))
        a, b = float(east[0]), float(north[0])
    return LineSource(origin, StartLine(a, b, radians(90.0 - heading)))


def _write_json(target: str, document: dict[str, Any]) -> None:
    text = json.dumps(document, ensure_ascii=False, allow_nan=False) + "\n"
    if target == "-":
        sys.stdout.write(text)
        return
    try:
        Path(target).write_text(text, encoding="utf-8")
    except OSError as error:
        raise InputError(target, f"it can't be written ({error.strerror}).", "Name another file.") from error


if __name__ == "__main__":
    sys.exit(main())
