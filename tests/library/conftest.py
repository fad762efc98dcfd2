"""A library in a folder of its own, and files to bring into it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import pytest

from jete.library.library import Library
from jete.library.location import Location

if TYPE_CHECKING:
    from collections.abc import Iterator


@pytest.fixture
def location(tmp_path: Path) -> Location:
    return Location(tmp_path / "library")


@pytest.fixture
def library(location: Location) -> Iterator[Library]:
    made = Library(location)
    yield made
    made.close()
