"""Times and names as people read them: signs, minus, decimals."""

from __future__ import annotations

import unicodedata
from typing import TYPE_CHECKING, Final

from jete.core.causes.kinds import CAUSES, Kind

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from jete.core.driving.passage import Passage

# Control signs, signs that turn the direction of text, halves of pairs.
STEERING = ("Cc", "Cf", "Cs")
# Claims less sure than this are only possible.
SURE = 0.8
MINUS = "\N{MINUS SIGN}"

KIND_WORDS: Final[Mapping[str, str]] = {c.kind: c.title for c in CAUSES.values()}


def cause_words(kind: str, seconds: float, ahead: str = "") -> str:
    """A cause in a word or two; what an earlier corner left is named by that corner.

    Args:
        kind: of the finding, or another word that stands as it is.
        seconds: what it cost.
        ahead: label of the corner before, where there is one.

    >>> cause_words("late_throttle", 0.1), cause_words("carried_speed", 0.125, "9")
    ('late throttle', 'arrived slower (from corner 9)')
    """
    if kind != Kind.CARRIED_SPEED:
        return KIND_WORDS.get(kind, kind)
    how = "arrived slower" if seconds > 0.0 else "arrived faster"
    return f"{how} (from corner {ahead})" if ahead else how


def difference(seconds: float, digits: int = 3) -> str:
    """A time difference with its sign and a true minus; zero carries a plus.

    >>> difference(-0.2144), difference(0.05)
    ('−0.214', '+0.050')
    """
    rounded = round(seconds, digits) + 0.0
    return f"{MINUS if rounded < 0 else '+'}{abs(rounded):.{digits}f}"


def lap_time(seconds: float, digits: int = 3) -> str:
    """A lap time as minutes and seconds.

    >>> lap_time(92.3144), lap_time(59.9996), lap_time(92.31444, 4)
    ('1:32.314', '1:00.000', '1:32.3144')
    """
    whole = 10**digits
    minutes, rest = divmod(round(seconds * whole), 60 * whole)
    return f"{minutes}:{rest // whole:02d}.{rest % whole:0{digits}d}"


def times_that_add_up(reference_s: float, lap_s: float) -> tuple[str, str]:
    """Two lap times that stand beside their gap: with one more digit where in thousandths they differ by another one.

    >>> times_that_add_up(111.1340, 113.5310), times_that_add_up(111.1342, 113.5316)
    (('1:51.134', '1:53.531'), ('1:51.1342', '1:53.5316'))
    """
    apart = round(lap_s, 3) - round(reference_s, 3)
    digits = 3 if round(apart, 3) == round(lap_s - reference_s, 3) else 4
    return lap_time(reference_s, digits), lap_time(lap_s, digits)


def printable(text: str) -> str:
    r"""Text for a terminal: signs that would steer it, in a file's name say, stand as what they are.

    >>> printable("run" + chr(27) + "[2J.csv")
    'run\\x1b[2J.csv'
    """
    if text.replace("\n", "").replace("\t", "").isprintable():
        return text
    return "".join(c if c in "\n\t" or unicodedata.category(c) not in STEERING else ascii(c)[1:-1] for c in text)


MARKDOWN: Final = str.maketrans({c: f"\\{c}" for c in "\\`*_[]<>#|~"} | {"&": "&amp;", "\n": " ", "\t": " "})


def in_markdown(text: str) -> str:
    r"""Words as they are to be read in Markdown: no sign of theirs is markup, and none steers what shows them.

    >>> print(in_markdown("<script>1*2"), in_markdown(chr(27) + "[2J"))
    \<script\>1\*2 \\x1b\[2J
    """
    return printable(text).translate(MARKDOWN)


def counted(count: int, one: str, more: str) -> str:
    """How many of something, in its number.

    >>> counted(1, "pass", "passes"), counted(3, "lap", "laps")
    ('1 pass', '3 laps')
    """
    return f"{count} {one if count == 1 else more}"


COARSE = "Samples lie too far apart for marks: what each corner cost can be told, its causes can't."


def torn_words(passage: Passage) -> list[str]:
    """What of a lap's log says nothing of driving, a sentence each."""
    # All of SciPy comes with it, which who lists a shelf does not wait for.
    from jete.core.causes.verdict.losses import torn_places

    return [
        f"From {start:.0f} m to {end:.0f} m {what}: nothing is claimed of the corners there."
        for start, end, what in torn_places(passage)
    ]


def not_logged(names: Sequence[str]) -> str:
    """A sentence on what of speed, throttle and brake was not logged, and what it follows from; empty where all was.

    >>> not_logged(["throttle", "brake"])
    'Throttle and brake were not logged and follow from the speed: within a corner causes are less sure.'
    """
    if not names:
        return ""
    one = len(names) == 1
    subject = " and ".join([", ".join(names[:-1]), names[-1]]) if not one else names[0]
    verb, follow = ("was", "follows") if one else ("were", "follow")
    source = "positions" if "speed" in names else "speed"
    doubt = "" if list(names) == ["speed"] else ": within a corner causes are less sure"
    return f"{subject.capitalize()} {verb} not logged and {follow} from the {source}{doubt}."
