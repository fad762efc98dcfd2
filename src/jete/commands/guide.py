"""``jete guide``: the lap guide of a lap, as JSON, HTML, PDF, Markdown or text."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from jete.commands.addresses import Logs
from jete.commands.place import say, write_json

if TYPE_CHECKING:
    import argparse


def guide(args: argparse.Namespace) -> int:
    """Write the guide of a lap."""
    from jete.report.guide import guide_document, guide_in_words, guide_markdown

    made = Logs(args.line, args).guide(args.lap)
    if args.out:
        from jete.paper.guide_files import write_guide_file

        write_guide_file(Path(args.out), made, bag=args.bag)
    if args.json:
        write_json(args.json, guide_document(guide_in_words(made)))
    elif not args.out:
        say(guide_markdown(guide_in_words(made)))
    return 0
