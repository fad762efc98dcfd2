"""Rehearsal in words: how far off a call was, and what is not known yet."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from jete.report.units import METRIC, Units

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.causes.result import CornerLoss
    from jete.core.walk.rehearse import Call, CallName, Memory

CALL_WORDS: Final[dict[CallName, str]] = {"brake": "brake", "turn_in": "turn-in", "pick_up": "pick-up"}
# Nearer than this a call is right.
RIGHT_M = 2.0


def call_words(call: Call, corners: Sequence[CornerLoss] = (), units: Units = METRIC) -> str:
    """A call against its mark.

    >>> from jete.core.walk.rehearse import Call
    >>> call_words(Call(3, "brake", 6.2)), call_words(Call(3, "turn_in", -0.4))
    ('3: brake 6 m late', '3: turn-in right')
    """
    corner = next((c.corner for c in corners if c.corner.number == call.corner), None)
    name = f"{corner.shown} {corner.name}".rstrip() if corner is not None else str(call.corner)
    if abs(call.metres) < RIGHT_M:
        return f"{name}: {CALL_WORDS[call.name]} right"
    return f"{name}: {CALL_WORDS[call.name]} {units.length_text(abs(call.metres))} {'late' if call.metres > 0.0 else 'early'}"


def known_words(memory: Memory | None) -> str:
    """How well a corner is known.

    >>> from jete.core.walk.rehearse import Memory
    >>> known_words(None), known_words(Memory(2.5, 6, 2, 9)), known_words(Memory(1.8, 1, 0, 9))
    ('never called', 'known, again in 6 days', 'not yet')
    """
    if memory is None:
        return "never called"
    if memory.row == 0:
        return "not yet"
    return f"known, again in {memory.interval_days} day{'s' if memory.interval_days != 1 else ''}"
