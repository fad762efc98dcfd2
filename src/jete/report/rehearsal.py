"""Rehearsal in words: how far off a call was, and what is not known yet."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from jete.report.guide_words import HARD_WORDS
from jete.report.seat import from_landmark_short
from jete.report.units import METRIC, Units

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.causes.verdict.result import CornerLoss
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.walk.rehearse import Call, CallName, Memory

CALL_WORDS: Final[dict[CallName, str]] = {
    "brake": "brake",
    "turn_in": "turn-in",
    "pick_up": "pick-up",
    "slow_point": "slowest",
}
# Nearer than this a call is right.
RIGHT_M = 2.0


def call_words(
    call: Call, corners: Sequence[CornerLoss] = (), units: Units = METRIC, circuit: CircuitOnAxis | None = None
) -> str:
    """A call against its mark: how late or early, where that was, and how hard.

    >>> from jete.core.walk.rehearse import Call
    >>> call_words(Call(3, "brake", 6.2)), call_words(Call(3, "turn_in", -0.4))
    ('3: brake 6 m late', '3: turn-in right')
    >>> call_words(Call(3, "brake", 1.0, hard="firm", wanted="hard")), call_words(Call(3, "brake", 9.0, hard="hard", wanted="hard"))
    ('3: brake right, but hard, not firmly', '3: brake 9 m late, as hard as the reference')
    """
    corner = next((c.corner for c in corners if c.corner.number == call.corner), None)
    name = corner.called if corner is not None else str(call.corner)
    return f"{name}: {CALL_WORDS[call.name]} {_off(call, units, circuit)}{_hard(call)}"


def off_words(metres: float, units: Units = METRIC) -> str:
    """How far off a call was.

    >>> off_words(6.2), off_words(-14.0), off_words(1.0)
    ('6 m late', '14 m early', 'right')
    """
    if abs(metres) < RIGHT_M:
        return "right"
    return f"{units.length_text(abs(metres))} {'late' if metres > 0.0 else 'early'}"


def _off(call: Call, units: Units, circuit: CircuitOnAxis | None) -> str:
    if abs(call.metres) < RIGHT_M:
        return "right"
    told = circuit.told(call.place_m) if circuit is not None else None
    where = f" ({from_landmark_short(told, units)})" if told is not None else ""
    return f"{off_words(call.metres, units)}{where}"


def _hard(call: Call) -> str:
    if call.hard is None or call.wanted is None:
        return ""
    if call.as_hard:
        return ", as hard as the reference"
    return f", but {HARD_WORDS[call.wanted]}, not {HARD_WORDS[call.hard]}"


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
