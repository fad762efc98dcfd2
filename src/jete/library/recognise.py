"""Which circuit a log was driven on, and its laps: by the path of a known circuit, else a new circuit is begun."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from jete.core.circuit.same_circuit import same_circuit
from jete.core.errors import InputError
from jete.core.log.lap import Lap, LapSpan, Log, best_of
from jete.core.motion.borders import line_of
from jete.core.motion.one_line import LineSource
from jete.core.motion.split import split
from jete.core.motion.start_line import proposed_line
from jete.library.circuits import Place, passes

if TYPE_CHECKING:
    from jete.library.library import Library


@dataclass(frozen=True)
class Recognised:
    """A log's laps, the line they were split at, and the known circuit it was driven on (None for another)."""

    spans: tuple[LapSpan, ...]
    line: LineSource | None
    place: Place | None

    @property
    def best(self) -> LapSpan | None:
        """The fastest complete lap."""
        return best_of(self.spans)


def recognise(library: Library, log: Log, shared: LineSource | None = None, prefer: str = "") -> Recognised:
    """The circuit and the laps of a log.

    Args:
        library: whose circuits are known.
        log: as read.
        shared: start line of the logs before it, on a plane without a place on earth.
        prefer: name of the circuit to look at first.

    Raises:
        InputError: it holds no lap.
    """
    known = sorted(library.circuits.places(), key=lambda p: p.name != prefer)
    for place in known:
        if place.line is not None and passes(log, place.line):
            found = Recognised(split(log, place.line), place.line, place)
            if _belongs(library, log, found, place):
                return found
    own = _own_laps(log, shared)
    for place in known:
        # Without a line on one plane, laps are told by what the log itself says of them.
        if own.best is not None and not _on_earth(log, place) and _belongs(library, log, own, place):
            return replace(own, place=place)
    return own


def _on_earth(log: Log, place: Place) -> bool:
    """Whether path and line can be laid on one plane for sure: then the line has told already."""
    return "latitude" in log.channels and place.line is not None and place.line.origin is not None and (
        place.line.origin.latitude_deg is not None
    )  # fmt: skip


def _own_laps(log: Log, shared: LineSource | None) -> Recognised:
    """The laps as the log tells them, at a shared line if it passes that; else at a line that makes laps of it."""
    if shared is not None and "x" in log.channels and passes(log, shared):
        return Recognised(split(log, shared), shared, None)
    line = line_of(log)
    spans = split(log, line)
    proposed = None if any(s.complete for s in spans) else proposed_line(log)
    if proposed is not None:
        line, spans = proposed, split(log, proposed)
    if not spans:
        raise InputError(log.source, "it holds no lap.", "Export the whole log again.")
    return Recognised(spans, line, None)


def _belongs(library: Library, log: Log, found: Recognised, place: Place) -> bool:
    """Whether a log's best lap, or its longest piece, lies on a circuit."""
    founder = library.circuits.founder(place)
    if founder is None:
        return place.line is not None
    piece = found.best or max(found.spans, key=lambda s: s.length_m, default=None)
    if piece is None:
        return False
    try:
        return same_circuit(founder, Lap(log, piece), whole=found.best is not None)
    except InputError:
        return False


def device_of(log: Log, ending: str) -> str:
    """What a log's device is known by: the kind of its files and the channels it logs."""
    return f"{ending.casefold()} {' '.join(sorted(log.channels))}"
