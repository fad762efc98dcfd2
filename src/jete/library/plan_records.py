"""A plan, as the library hands it out."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True, kw_only=True)
class PlanRecord:
    """A plan as it is kept.

    Attributes:
        id: its number; 0 where it is not kept yet.
        run: that its aims were chosen on.
        document: the plan (``jete.plan/1``).
        answers: by the number of an aim, whether it was tried; it is not there where nobody said.
        judged_by: runs that a person said it is to be judged by; None where it finds them itself.
        review: what came of it (``jete.review/1``), as it was told last.
    """

    id: int = 0
    run: int
    document: dict[str, Any]
    answers: dict[str, bool] = field(default_factory=dict)
    judged_by: tuple[int, ...] | None = None
    review: dict[str, Any] | None = None
