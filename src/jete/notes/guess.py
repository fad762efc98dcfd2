"""Who drove, and what: guessed from what a log says itself and the names of its file and folders, to be confirmed by a person."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence
    from pathlib import Path

    from jete.notes.sheet import RunSheet

# What names of logs say besides who drove.
COMMON: Final = frozenset(
    [
        "run",
        "runs",
        "lap",
        "laps",
        "session",
        "sessions",
        "stint",
        "stints",
        "log",
        "logs",
        "logger",
        "race",
        "practice",
        "practise",
        "test",
        "qualifying",
        "quali",
        "warmup",
        "warm",
        "up",
        "day",
        "days",
        "data",
        "export",
        "exported",
        "csv",
        "copy",
        "am",
        "pm",
        "morning",
        "afternoon",
        "evening",
        "phone",
        "gps",
        "car",
        "cars",
        "bike",
        "motorcycle",
        "moto",
        "new",
        "old",
        "best",
        "fast",
        "slow",
        "wet",
        "dry",
        "damp",
        "out",
        "in",
        "from",
        "to",
        "the",
        "of",
        "on",
        "at",
        "my",
        "track",
        "circuit",
        "file",
        "outing",
        "heat",
        "final",
        "round",
        "part",
        "no",
        "nr",
        "january",
        "february",
        "march",
        "april",
        "may",
        "june",
        "july",
        "august",
        "september",
        "october",
        "november",
        "december",
        "mon",
        "tue",
        "wed",
        "thu",
        "fri",
        "sat",
        "sun",
    ]
)
# The fields that are guessed where names are known.
GUESSED: Final = ("driver", "vehicle")
# Folders so far above a file are asked too.
FOLDERS: Final = 2
SHORTEST, MOST_WORDS = 3, 3


@dataclass(frozen=True)
class Guess:
    """What a field may hold, and what says so."""

    value: str
    reason: str


@dataclass(frozen=True)
class KnownNames:
    """Names on the shelf, by field of the sheet (``driver``, ``vehicle``, ``circuit``)."""

    names: Mapping[str, Sequence[str]]


def guessed_for(path: Path, sheet: RunSheet, others: Iterable[RunSheet], said: Mapping[str, str]) -> dict[str, Guess]:
    """What a log says of a run, or else its file and folders, where that is not noted yet.

    Args:
        path: of the log.
        sheet: what is noted of the run.
        others: what is noted of other runs: the names that are known.
        said: by the log itself, by field.
    """
    sheets = list(others)
    known = KnownNames({f: sorted({v for s in sheets if (v := getattr(s, f))}) for f in GUESSED})
    own = {field: Guess(value, "the log itself") for field, value in said.items()}
    return {field: guess for field, guess in (guessed(path, known) | own).items() if not getattr(sheet, field)}


def guessed(path: Path, known: KnownNames) -> dict[str, Guess]:
    """What a log's file and folders say, by field of its sheet.

    A name that the shelf knows is found anywhere in them; a new name is taken for a driver's where words are left that
    logs are not usually called by.

    >>> from pathlib import Path
    >>> found = guessed(Path("club day/ines-karlsby-run-2.csv"), KnownNames({"driver": ["Tomasz Oryel"]}))
    >>> found["driver"].value, found["driver"].reason
    ('Ines Karlsby', "the file's name")
    """
    parts = [("the file's name", path.stem), *(("its folder's name", p.name) for p in list(path.parents)[:FOLDERS])]
    out: dict[str, Guess] = {}
    for field, names in known.names.items():
        for reason, text in parts:
            found = next((n for n in sorted(names, key=len, reverse=True) if _holds(text, n)), None)
            if found is not None:
                out[field] = Guess(found, reason)
                break
    if "driver" not in out:
        taken = {w for g in out.values() for w in _words(g.value)}
        name = _new_name(path.stem, taken)
        if name:
            out["driver"] = Guess(name, parts[0][0])
    return out


def _words(text: str) -> list[str]:
    return re.findall(r"[^\W\d_]+", text.casefold())


def _holds(text: str, name: str) -> bool:
    """Whether all words of a name stand next to each other in a text."""
    words, wanted = re.findall(r"[^\W_]+", text.casefold()), re.findall(r"[^\W_]+", name.casefold())
    return bool(wanted) and any(words[k : k + len(wanted)] == wanted for k in range(len(words) - len(wanted) + 1))


def _new_name(text: str, taken: set[str]) -> str:
    """The words of a name that nothing else explains; empty where none or too many are left."""
    words = [w for w in _words(text) if w not in COMMON and w not in taken]
    if not 1 <= len(words) <= MOST_WORDS or all(len(w) < SHORTEST for w in words):
        return ""
    return " ".join(w.capitalize() for w in words)
