"""What a library keeps about lap guides, as records: own words, pictures on cards, versions."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from datetime import datetime

    from jete.core.axis.road.corners import CornerId


@dataclass(frozen=True)
class OwnWords:
    """What a person wrote into a field, and what was measured when it was written."""

    text: str
    over: str = ""


@dataclass(frozen=True)
class Photo:
    """A picture on a card: its corner (by id), what it shows, and its JPEG."""

    id: int
    corner: CornerId
    caption: str
    jpeg: bytes


@dataclass(frozen=True)
class Version:
    """A guide as it was kept: for which class and condition, by whom, when, and its document (``jete.guide/1``).

    ``gone`` says that its lap is not on the shelf any more.
    """

    id: int
    group: str
    condition: str
    author: str
    made_at: datetime
    run: int | None
    document: dict[str, Any]
    gone: bool = False
