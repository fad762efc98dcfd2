"""The aims of a plan as its document (``jete.plan/1``) tells them, and where their corners are by now."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, get_args

from jete.core.aims.aim import LAPS_NEEDED, TOLERANCES, AimSet, Measure
from jete.core.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.axis.road.corners import Corner

EXPERIMENT, KEEP = "experiment", "keep"
MEASURES: Sequence[Measure] = get_args(Measure)


@dataclass(frozen=True, kw_only=True)
class PlannedAim:
    """An aim of a plan.

    Attributes:
        number: in the plan.
        corner: its number when the plan was made.
        id: of the corner in its circuit, None from bare files.
        at_m: a place within the corner, on the axis of the plan's reference; None where it is not told.
        kind: of a finding, ``experiment`` or ``keep``.
        judge: what is judged; None for an experiment.
        cue: in the program's words; ``typed`` a person's over them.
        reason: why it was proposed.
        gain: seconds, least and most of nine in ten; None where nothing is known.
        risks: noted at the corner.
        tried: what came of earlier tries there, the last one last.
        taken: whether it is taken along: what might hurt needs a person to say so.
    """

    number: int
    corner: int
    judge: AimSet | None
    id: int | None = None
    at_m: float | None = None
    kind: str = ""
    cue: str = ""
    typed: str = ""
    reason: str = ""
    gain: tuple[float, float, float] | None = None
    risks: tuple[str, ...] = ()
    tried: tuple[str, ...] = ()
    taken: bool = True

    @property
    def words(self) -> str:
        """The cue to be carried: a person's own, or the program's."""
        return self.typed or self.cue

    def corner_in(self, corners: Sequence[Corner]) -> Corner | None:
        """The corner it is about by now, where corners were split or merged since; None where there is none any more.

        Raises:
            InputError: a plan that tells the corner by its number alone, and there is none such.
        """
        if self.at_m is not None:
            there = [c for c in corners if c.start_m <= self.at_m <= c.end_m]
            same = [c for c in there if c.id is not None and c.id == self.id]
            return next(iter((*same, *there)), None)
        if not 1 <= self.corner <= len(corners):
            raise InputError(
                f"corner {self.corner}", "the plan's reference has none such.", f"It has 1 to {len(corners)}."
            )
        return corners[self.corner - 1]


def aims_of(document: dict[str, Any], where: str) -> list[PlannedAim]:
    """The aims of a plan's document; ``where`` names it for a message.

    Raises:
        InputError: one that lacks what is needed to judge it.
    """
    return [_aim(k, told, f"{where}, aim {k}") for k, told in enumerate(document["aims"], 1)]


def _aim(number: int, told: Any, where: str) -> PlannedAim:
    if not isinstance(told, dict) or not isinstance(told.get("corner"), int):
        raise InputError(where, "it needs corner, measure, from and a target.", "Name the corner by its number.")
    seconds = [told.get(n) for n in ("gap_s", "gap_low_s", "gap_high_s")]
    return PlannedAim(
        number=int(told.get("aim") or number),
        corner=told["corner"],
        judge=None if told.get("kind") == EXPERIMENT else _judge(told, where),
        id=told.get("id"),
        at_m=told.get("corner_m"),
        kind=str(told.get("kind") or ""),
        cue=str(told.get("cue") or ""),
        typed=str(told.get("typed") or ""),
        reason=str(told.get("reason") or ""),
        gain=(seconds[0], seconds[1], seconds[2]) if all(isinstance(s, float) for s in seconds) else None,  # type: ignore[arg-type]
        risks=tuple(told.get("risks") or ()),
        tried=tuple(str(t["outcome"]) for t in told.get("tried_before") or ()),
        taken=told.get("taken", True) is not False,
    )


def _judge(told: dict[str, Any], where: str) -> AimSet:
    measure = next((m for m in MEASURES if told.get("measure") == m), None)
    start, target = told.get("from"), told.get("target")
    if measure is None or not isinstance(start, int | float) or not isinstance(target, int | float):
        what = "it needs corner, measure, from and a target."
        raise InputError(where, what, f"A measure is one of {', '.join(MEASURES)}.")
    if start == target and told.get("kind") != KEEP:
        raise InputError(where, "its target is where the mark is.", "Let it be elsewhere, or its kind be 'keep'.")
    return AimSet(
        measure=measure,
        start=float(start),
        target=float(target),
        tolerance=float(told.get("tolerance") or TOLERANCES[measure]),
        capped=bool(told.get("capped")),
        laps_needed=int(told.get("laps_needed") or LAPS_NEEDED),
    )
