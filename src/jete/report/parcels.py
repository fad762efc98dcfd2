"""What was handed on, in words: what it brings, and what became of it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from jete.report.words import lap_time

if TYPE_CHECKING:
    from jete.formats.parcel import Parcel
    from jete.library.parcels import Brings, TookIn


def brought_words(parcel: Parcel, brings: Brings) -> list[str]:
    """What a parcel brings, a line each."""
    sheet, about = parcel.about.sheet, parcel.about
    who = " · ".join(sheet[k] for k in ("driver", "vehicle", "group", "date", "condition") if sheet.get(k))
    known = " It is on the shelf already." if brings.lap_known else ""
    lines = [f"A lap of {lap_time(about.time_s)}{f' ({who})' if who else ''}.{known}", _circuit(parcel, brings)]
    if parcel.guide is not None:
        lines.append(f"Its lap guide, {_count(len(parcel.guide['cards']), 'card')}: it becomes a version of yours.")
    if about.words:
        lines.append(f"Own words in {_count(len(about.words), 'field')} of the guide; yours stay where you wrote some.")
    notes = len(about.notes) + bool(about.note)
    if notes:
        lines.append(f"{_count(notes, 'note')}; yours stay where you wrote some.")
    return lines


def _circuit(parcel: Parcel, brings: Brings) -> str:
    circuit = parcel.circuit
    name = (
        parcel.about.sheet.get("circuit") or (circuit.name if circuit is not None else "") or "a circuit without a name"
    )
    if circuit is None:
        return f"No circuit ({name})."
    marks = f"{_count(len(circuit.corners), 'corner')}, {_count(len(circuit.book.landmarks), 'landmark')}, {_count(len(circuit.book.hazards), 'hazard')}"
    if not brings.here:
        return f"The circuit {name}, new here: {marks}."
    yours = " You have set landmarks, hazards or rules there yourself." if brings.set_here else ""
    return f"The circuit {name}, here as {brings.here}: {marks}.{yours}"


def _count(number: int, what: str) -> str:
    return f"{number} {what}{'s' if number != 1 else ''}"


def took_words(took: TookIn) -> str:
    """What became of a parcel.

    >>> from jete.library.parcels import TookIn
    >>> took_words(TookIn(7, known=False, circuit=True, words=3, left=1))
    'The lap is run 7; the circuit is as in the file; 3 own words and notes were taken, 1 left.'
    """
    lap = f"The lap was on the shelf already, as run {took.run}" if took.known else f"The lap is run {took.run}"
    circuit = "the circuit is as in the file" if took.circuit else "the circuit here stayed as it is"
    left = f", {took.left} left" if took.left else ""
    return f"{lap}; {circuit}; {took.words} own words and notes were taken{left}."


def parcel_document(parcel: Parcel, brings: Brings, took: TookIn | None = None) -> dict[str, Any]:
    """The document of ``jete take-in --json``; ``took`` where it was taken."""
    circuit = parcel.circuit
    return {
        "schema": "jete.take-in/1",
        "sheet": parcel.about.sheet,
        "time_s": round(parcel.about.time_s, 6),
        "circuit_here": brings.here or None,
        "circuit_set_here": brings.set_here,
        "lap_known": brings.lap_known,
        "corners": len(circuit.corners) if circuit is not None else None,
        "landmarks": len(circuit.book.landmarks) if circuit is not None else None,
        "own_words": len(parcel.about.words),
        "notes": len(parcel.about.notes) + bool(parcel.about.note),
        "taken": None if took is None else {
            "run": took.run, "known": took.known, "circuit": took.circuit, "words": took.words, "left": took.left,
        },
    }  # fmt: skip
