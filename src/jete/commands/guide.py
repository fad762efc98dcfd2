"""``jete guide``: the lap guide of a lap, as JSON, HTML, PDF, Markdown or text."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from jete.commands.addresses import Logs
from jete.commands.place import say, write_json

if TYPE_CHECKING:
    import argparse

    from jete.core.log.lap import Lap
    from jete.desk.guide import Made


def guide(args: argparse.Namespace) -> int:
    """Write the guide of a lap."""
    from jete.report.guide import guide_document, guide_in_words, guide_lines, guide_markdown, kept_words

    logs = Logs(args.line, args)
    made = logs.guide(args.lap, middle=args.middle)
    kept = _kept(made, logs.lap(args.against)) if args.against else []
    if args.out:
        from jete.paper.guide_files import write_guide_file

        write_guide_file(Path(args.out), made, bag=args.bag, small=args.paper == "A5")
    if args.json:
        write_json(args.json, guide_document(guide_in_words(made), kept))
    elif not args.out:
        say(guide_lines(guide_in_words(made)) if args.bag else guide_markdown(guide_in_words(made)))
        for card, held in zip(guide_in_words(made).cards, kept, strict=False):
            say(f"{card.title}: {kept_words(held)}\n")
    return 0


def _kept(made: Made, lap: Lap) -> list[dict[str, bool]]:
    """What another lap kept of each card."""
    from jete.desk.guide import kept_by

    return kept_by(made, lap)
