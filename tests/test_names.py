"""A name of the core means one thing."""

from __future__ import annotations

import ast
from collections import Counter
from pathlib import Path

CORE = Path("src/jete/core")


def classes() -> list[ast.ClassDef]:
    trees = (ast.parse(path.read_text(encoding="utf-8")) for path in CORE.rglob("*.py"))
    return [node for tree in trees for node in ast.walk(tree) if isinstance(node, ast.ClassDef)]


def test_no_two_classes_of_the_core_are_called_alike() -> None:
    assert [name for name, count in Counter(c.name for c in classes()).items() if count > 1] == []


def test_records_of_more_than_six_fields_are_made_by_keyword() -> None:
    large = [
        c.name
        for c in classes()
        if sum(isinstance(line, ast.AnnAssign) for line in c.body) > 6
        and any("dataclass" in ast.unparse(d) and "kw_only" not in ast.unparse(d) for d in c.decorator_list)
    ]
    assert large == []
