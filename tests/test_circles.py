"""No module needs, not even for its types, one that needs it."""

from __future__ import annotations

import ast
from graphlib import TopologicalSorter
from pathlib import Path

import jete

ROOT = Path(jete.__file__).parent


def imported(path: Path) -> set[str]:
    """What a module imports at its top, and for its types; what is imported within a function comes later."""
    top = ast.parse(path.read_text(encoding="utf-8")).body
    steps = [s for n in top for s in (n.body if isinstance(n, ast.If) else [n]) if isinstance(s, ast.ImportFrom)]
    return {name for s in steps for a in s.names for name in (str(s.module), f"{s.module}.{a.name}")}


def test_modules_need_each_other_one_way_only() -> None:
    known = {".".join(("jete", *p.relative_to(ROOT).with_suffix("").parts)): p for p in ROOT.rglob("*.py")}
    needs = {name: imported(path) & known.keys() for name, path in known.items()}
    assert len(tuple(TopologicalSorter(needs).static_order())) == len(known)
