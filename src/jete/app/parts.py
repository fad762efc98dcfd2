"""What stands behind the window: the store and all that works for it, handed to window and pages as one."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from jete.app.analysis import Analyst
    from jete.app.copies import Copies
    from jete.app.evenness import EvennessFinder
    from jete.app.film_keeper import FilmKeeper
    from jete.app.guide_keeper import GuideKeeper
    from jete.app.imports import ImportQueue
    from jete.app.pass_keeper import PassKeeper
    from jete.app.plan_keeper import PlanKeeper
    from jete.app.player import Player
    from jete.app.rehearsal import Rehearsal
    from jete.app.shelf import Shelf
    from jete.app.store import SessionStore
    from jete.app.target_keeper import TargetKeeper
    from jete.app.tasks import Tasks
    from jete.app.team_keeper import TeamKeeper
    from jete.app.what_if_keeper import WhatIfKeeper


@dataclass(kw_only=True)
class Parts:
    """They live as long as the window."""

    store: SessionStore
    tasks: Tasks
    shelf: Shelf
    imports: ImportQueue
    copies: Copies
    analyst: Analyst
    evenness: EvennessFinder
    passes: PassKeeper
    what_if: WhatIfKeeper
    plans: PlanKeeper
    team: TeamKeeper
    targets: TargetKeeper
    guides: GuideKeeper
    player: Player
    rehearsal: Rehearsal
    films: FilmKeeper
