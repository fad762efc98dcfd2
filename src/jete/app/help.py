"""The guides and the glossary that ship with the program: where they lie, and what is said about a word or a page."""

from __future__ import annotations

import re
from functools import lru_cache
from pathlib import Path
from typing import Final

from jete.app.theme import ASSETS

GLOSSARY: Final = "glossary"
# The guides in the order of the work: file, title.
GUIDES: Final = {
    "shelf": "The shelf: laps and notes", "reading-the-ledger": "Reading the ledger", "reading-a-corner": "Reading a corner",
    "walking-a-lap": "Walking a lap", "the-guide": "The guide", "the-next-run": "The next run", "handing-on": "Handing a lap on",
    "a-driver-s-weekend": "A driver's weekend", "a-coach-s-day": "A coach's day", GLOSSARY: "Words",
}  # fmt: skip
OF_PAGE: Final = {
    "laps": "shelf", "ledger": "reading-the-ledger", "corner": "reading-a-corner", "walk": "walking-a-lap",
    "guide": "the-guide", "next": "the-next-run",
}  # fmt: skip
_PICTURE = re.compile(r"^!\[[^\]]*\]\([^)]*\)\s*$", re.MULTILINE)


def folder() -> Path:
    """Where the guides lie: beside the program, or in the project that it is run from."""
    shipped = ASSETS / "help"
    return shipped if shipped.is_dir() else Path(__file__).parents[3] / "docs"


@lru_cache(maxsize=16)
def text_of(guide: str) -> str:
    """A guide as Markdown, without its pictures: what they show is on the screen."""
    return _PICTURE.sub("", (folder() / f"{guide}.md").read_text(encoding="utf-8"))


@lru_cache(maxsize=1)
def words() -> tuple[str, ...]:
    """The words of the glossary, the longest first."""
    found = re.findall(r"^## (.+)$", text_of(GLOSSARY), re.MULTILINE)
    return tuple(sorted(found, key=len, reverse=True))


def word_in(text: str) -> str:
    """The word of the glossary that a text holds; empty for none.

    >>> word_in("overslowing +0.255"), word_in("Trail-braked 39 m"), word_in("12")
    ('overslowing', 'trail', '')
    """
    plain = text.casefold()
    return next((w for w in words() if re.search(rf"\b{re.escape(w)}\b", plain)), "")
