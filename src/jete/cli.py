"""The command line: what can be asked; what is done stands in :mod:`jete.commands`."""

from __future__ import annotations

import argparse
import sys
from importlib import import_module
from typing import TYPE_CHECKING, NoReturn

from jete import __version__
from jete.commands.table import COMMANDS, COMMON, Command
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
    for command in COMMANDS:
        _add(commands.add_parser(command.name, help=command.help), command)
    return parser


def _add(parser: _Parser, command: Command) -> None:
    """What a command takes, and what it does."""
    groups: dict[str, argparse._MutuallyExclusiveGroup] = {}
    for argument in (*command.arguments, *(a for name in command.common for a in COMMON[name])):
        if argument.one_of and argument.one_of not in groups:
            groups[argument.one_of] = parser.add_mutually_exclusive_group()
        to = groups[argument.one_of] if argument.one_of else parser
        to.add_argument(*argument.names, **argument.told)
    parser.set_defaults(run=_command(command.module, command.function))


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
