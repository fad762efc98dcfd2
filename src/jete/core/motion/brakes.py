"""The brake as one channel, be it logged as one or by circuits."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.core.log.lap import Channel

if TYPE_CHECKING:
    from jete.core.log.lap import Lap, Log


def brake_channel(source: Lap | Log) -> Channel | None:
    """The brake of a lap or a log, or the sum of both circuits; None where neither was logged."""
    brake, front, rear = (source.get(n) for n in ("brake", "brake_front", "brake_rear"))
    if brake is not None or front is None or rear is None:
        return brake or front or rear
    return Channel("brake", front.unit, front.time_s, front.value + rear.at(front.time_s))
