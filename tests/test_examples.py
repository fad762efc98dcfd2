"""The examples in the docstrings are true."""

import doctest
from importlib import import_module
from pathlib import Path

import pytest

SOURCES = Path(__file__).parents[1] / "src"
EXAMPLED = [
    ".".join(path.relative_to(SOURCES).with_suffix("").parts)
    for path in sorted(SOURCES.rglob("*.py"))
    if "\n    >>> " in path.read_text(encoding="utf-8")
]


@pytest.mark.parametrize("name", EXAMPLED)
def test_examples_hold(name: str) -> None:
    result = doctest.testmod(import_module(name), optionflags=doctest.NORMALIZE_WHITESPACE)
    assert result.attempted > 0
    assert result.failed == 0
