"""A lap handed on: one zip with the lap, its circuit, its guide and what was noted, for other tools too.

    README.txt       what this is, in words
    parcel.json      jete.parcel/1: who, where, when, own words, notes
    circuit.geojson  the circuit (docs/geojson.md); missing where nobody knows it
    lap.parquet      the lap's channels, one column each, units in the columns' metadata
    guide.json       the lap guide as it read (jete.guide/1)

Nothing of a zip is trusted: names, sizes and types are looked at before anything is unpacked, and one that is not as
it should be is refused whole.
"""

from __future__ import annotations

import json
import zipfile
import zlib
from contextlib import closing
from dataclasses import asdict, dataclass, field
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import TYPE_CHECKING, Any, Final, TypeVar

from jete.core.axis.road.corners import CornerId
from jete.core.errors import InputError
from jete.formats import geojson
from jete.formats.limits import SWELL
from jete.formats.whole_file import written_wholly
from jete.formats.writer import write_log

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.core.log.lap import Log
    from jete.formats.geojson import CircuitFile

_T = TypeVar("_T")

SCHEMA: Final = "jete.parcel/1"
README, ABOUT, CIRCUIT, LAP, GUIDE = "README.txt", "parcel.json", "circuit.geojson", "lap.parquet", "guide.json"
# The most that each part may be, unpacked: a lap of ten minutes with fifty channels is 10 MB.
LARGEST: Final = {README: 1 << 16, ABOUT: 1 << 20, CIRCUIT: geojson.LARGEST, LAP: 200 << 20, GUIDE: 4 << 20}
NEEDED: Final = (ABOUT, LAP)
MOST_WORDS, LONGEST = 5000, 4000
MEND = "Ask for it to be handed on again."
WORDS = """A lap, handed on with its circuit and its lap guide.

{what}

parcel.json      who drove it, where and when, own words of the guide, notes (jete.parcel/1)
circuit.geojson  the circuit with corners, landmarks and hazards (RFC 7946)
lap.parquet      the channels of the lap, one column each (Apache Parquet)
guide.json       the lap guide as it read (jete.guide/1)

Closed circuits only. The circuit's rules and its marshals come first; a qualified instructor decides.
What is in here is what one lap did, not what the next one must.
"""


@dataclass(frozen=True)
class ParcelWords:
    """Own words of a guide: the corner's id in the circuit's file, the field, the words, and over what they were written."""

    corner: CornerId
    field: str
    text: str
    over: str = ""


@dataclass(frozen=True)
class ParcelNote:
    """A note on a corner, for one driver or (empty) for all."""

    corner: CornerId
    driver: str
    note: str


@dataclass(frozen=True)
class About:
    """What a parcel says of itself: the run's sheet by field, the lap's number, time and length, own words and notes."""

    sheet: dict[str, str]
    lap: int
    time_s: float
    length_m: float
    note: str = ""
    words: tuple[ParcelWords, ...] = ()
    notes: tuple[ParcelNote, ...] = ()


@dataclass(frozen=True, eq=False)
class Parcel:
    """A parcel that was looked at; ``lap`` are the bytes of its Parquet file."""

    about: About
    circuit: CircuitFile | None
    guide: dict[str, Any] | None
    lap: bytes = field(repr=False)


def write_parcel(path: Path, about: About, lap: Log, circuit: CircuitFile | None, guide: dict[str, Any] | None) -> None:
    """Write a parcel, wholly or not at all.

    Raises:
        InputError: a place that can't be written to.
    """
    what = " · ".join(
        v for k, v in about.sheet.items() if k in ("circuit", "layout", "driver", "vehicle", "date") and v
    )
    try:
        with written_wholly(path) as part, TemporaryDirectory(prefix="jete-") as folder:
            file = Path(folder) / LAP
            write_log(file, lap)
            with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED) as archive:
                archive.writestr(README, WORDS.format(what=what or "Nobody said whose."))
                archive.writestr(ABOUT, json.dumps({"schema": SCHEMA, **asdict(about)}, ensure_ascii=False, indent=1))
                archive.write(file, LAP)
                if circuit is not None:
                    archive.writestr(CIRCUIT, json.dumps(geojson.document(circuit), ensure_ascii=False))
                if guide is not None:
                    archive.writestr(GUIDE, json.dumps(guide, ensure_ascii=False, indent=1))
    except OSError as error:
        raise InputError(str(path), f"it can't be written ({error.strerror}).", "Name another place.") from error


def is_parcel(path: Path) -> bool:
    """Whether a file is a parcel by its contents, sound or not."""
    try:
        with closing(zipfile.ZipFile(path)) as archive:
            return ABOUT in archive.namelist()
    except (OSError, zipfile.BadZipFile, NotImplementedError):
        return False


def read_parcel(path: Path) -> Parcel:
    """Look at a parcel; nothing of it is written anywhere.

    Raises:
        InputError: no parcel, or one that is not as it should be, with what was found.
    """
    try:
        with closing(zipfile.ZipFile(path)) as archive:
            _refuse_strange(path, archive.infolist())
            parts = {m.filename: _content(path, archive, m) for m in archive.infolist()}
    except OSError as error:
        raise InputError(str(path), f"it can't be read ({error.strerror}).", "Check the name.") from error
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError) as error:
        raise _refusal(path, "it is no parcel, or a damaged one") from error
    about = _parsed(path, ABOUT, parts[ABOUT], _about)
    circuit = geojson.parsed(_json(path, CIRCUIT, parts[CIRCUIT]), path.name) if CIRCUIT in parts else None
    guide = _parsed(path, GUIDE, parts[GUIDE], _guide) if GUIDE in parts else None
    return Parcel(about, circuit, guide, parts[LAP])


def _refusal(path: Path, what: str) -> InputError:
    return InputError(path.name, f"{what}.", MEND)


def _refuse_strange(path: Path, members: list[zipfile.ZipInfo]) -> None:
    """Refuse what holds other files than a parcel does, hides some, or would swell."""
    names = [m.filename for m in members]
    if any(n not in names for n in NEEDED):
        raise _refusal(path, "it is no parcel: " + " and ".join(n for n in NEEDED if n not in names) + " is missing")
    strange = [n for n in names if n not in LARGEST]
    if strange or len(set(names)) < len(names):
        raise _refusal(path, f"it holds what no parcel does ('{(strange or names)[0][:60]}')")
    if any(m.flag_bits & 0x1 for m in members):
        raise _refusal(path, "it is locked with a password")
    large = next((m for m in members if m.file_size > LARGEST[m.filename]), None)
    if large is not None:
        raise _refusal(path, f"{large.filename} would unpack to {large.file_size / 1e6:.0f} MB")
    size, packed = sum(m.file_size for m in members), path.stat().st_size
    if size > max(SWELL * packed, LARGEST[ABOUT]):
        raise _refusal(path, f"it would swell from {packed / 1e6:.1f} MB to {size / 1e6:.0f} MB")


def _content(path: Path, archive: zipfile.ZipFile, member: zipfile.ZipInfo) -> bytes:
    """A part, no further than it says that it goes."""
    with archive.open(member) as packed:
        content = packed.read(member.file_size + 1)
    if len(content) > member.file_size:
        raise _refusal(path, f"{member.filename} is longer than it says")
    return content


def _json(path: Path, part: str, content: bytes) -> Any:
    try:
        return json.loads(content.decode("utf-8"))
    except (ValueError, RecursionError) as error:
        raise _refusal(path, f"{part} is no JSON") from error


def _parsed(path: Path, part: str, content: bytes, parse: Callable[[Any], _T]) -> _T:
    data = _json(path, part, content)
    try:
        return parse(data)
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise _refusal(path, f"{part} is not as it should be ({str(error)[:80]})") from error


def _about(data: Any) -> About:
    if data["schema"] != SCHEMA:
        message = f"its schema must be '{SCHEMA}'"
        raise ValueError(message)
    words, notes = data.get("words", []), data.get("notes", [])
    if len(words) + len(notes) > MOST_WORDS:
        message = f"it holds more than {MOST_WORDS} notes"
        raise ValueError(message)
    return About(
        {_text(k): _text(v) for k, v in data["sheet"].items()},
        _whole(data["lap"]),
        _amount(data["time_s"]),
        _amount(data["length_m"]),
        _text(data.get("note", "")),
        tuple(
            ParcelWords(CornerId(_whole(w["corner"])), _text(w["field"]), _text(w["text"]), _text(w.get("over", "")))
            for w in words
        ),
        tuple(ParcelNote(CornerId(_whole(n["corner"])), _text(n["driver"]), _text(n["note"])) for n in notes),
    )


def _guide(data: Any) -> dict[str, Any]:
    """A guide's document, as far as it is read again."""
    if data["schema"] != "jete.guide/1":
        message = "its schema must be 'jete.guide/1'"
        raise ValueError(message)
    _text(data["lap"]), _text(data["circuit"] or ""), _amount(data["time_s"]), _whole(data["good_laps"])
    for card in data["cards"]:
        _whole(card["corner"])
        for text in (card["number"], card["name"] or "", card["direction"], card["line"]):
            _text(text)
        for part in ("typed", "measured"):
            {_text(k): _text(v) for k, v in card[part].items()}
    for rule in data.get("rules", []):
        _text(rule)
    return dict(data)


def _text(value: Any) -> str:
    if not isinstance(value, str) or len(value) > LONGEST:
        message = f"'{str(value)[:30]}' is no text"
        raise ValueError(message)
    return geojson.text_in(value, LONGEST)


def _whole(value: Any) -> int:
    if not isinstance(value, int) or isinstance(value, bool) or not 0 <= value < 1 << 31:
        message = f"'{str(value)[:30]}' is no number of something"
        raise ValueError(message)
    return value


def _amount(value: Any) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not 0.0 < value < 1e5:
        message = f"'{str(value)[:30]}' is no time or length of a lap"
        raise ValueError(message)
    return float(value)
