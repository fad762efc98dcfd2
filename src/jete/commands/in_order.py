"""Options whose order counts."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Sequence


class InOrder(argparse.Action):
    """Keeps several options in the order they were given: what is set belongs to the corner before it."""

    def __call__(
        self,
        parser: argparse.ArgumentParser,
        namespace: argparse.Namespace,
        values: str | Sequence[Any] | None,
        option_string: str | None = None,
    ) -> None:
        """Note one."""
        del parser
        said = [*(getattr(namespace, "said", None) or []), ((option_string or "").lstrip("-"), str(values))]
        namespace.said = said
