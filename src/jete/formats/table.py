"""Every log format, as data: its name, the endings of its files, its module here, how its first bytes are known, whether it is written.

Reader, writer, file dialogs, help and the fuzzing tool read this table; a module is imported when a file is of its format.
"""

from __future__ import annotations

from dataclasses import dataclass
from importlib import import_module
from typing import TYPE_CHECKING, Final

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path
    from types import ModuleType

    from jete.formats.columns import Columns
    from jete.formats.watched import Watch

UTF_16_MARKS: Final = (b"\xff\xfe", b"\xfe\xff")
PACKED_ENDINGS: Final = (".gz", ".zip")


@dataclass(frozen=True)
class Format:
    """One format; a file of it is written with the first of its endings, where ``written``.

    ``own_times``: each channel is written with its own time stamps, by ``write_log(path, log)``.
    """

    name: str
    module: str
    endings: tuple[str, ...]
    knows: Callable[[bytes], bool]
    written: bool = True
    own_times: bool = False

    def read(self, path: Path, watch: Watch) -> Columns:
        """Read a file of this format; its library is imported only now."""
        columns: Columns = self.opened.read(path, watch)
        return columns

    @property
    def opened(self) -> ModuleType:
        """Its module: ``read(path, watch) -> Columns`` and, where it is written, ``write(path, columns)``."""
        return import_module(f"jete.formats.{self.module}")


def _text_of(head: bytes) -> str:
    return head.decode("utf-8-sig", errors="replace").lstrip()


def _is_json(head: bytes) -> bool:
    return head[:2] not in UTF_16_MARKS and _text_of(head)[:1] == "{"


def _is_nmea(head: bytes) -> bool:
    lines = _text_of(head).splitlines()[:20]
    return any(x[:1] == "$" and x[1:6].isalpha() and x[6:7] == "," for x in lines)


# In the order in which they are tried: CSV is what nothing else knows.
FORMATS: Final = (
    Format("Parquet", "parquet_log", (".parquet",), lambda h: h.startswith(b"PAR1")),
    Format("Arrow", "arrow_log", (".arrow", ".feather"), lambda h: h.startswith((b"ARROW1", b"\xff\xff\xff\xff"))),
    Format("MDF 4", "mdf_log", (".mf4", ".mdf"), lambda h: h.startswith(b"MDF     "), own_times=True),
    Format("GPX", "gpx_log", (".gpx",), lambda h: "<gpx" in _text_of(h), written=False),
    Format("NMEA 0183", "nmea_log", (".nmea", ".log"), _is_nmea, written=False),
    Format("JSON Lines", "jsonl_log", (".jsonl",), _is_json),
    Format("CSV", "csv_log", (".csv", ".txt", ".tsv"), lambda _: True),
)
# CSV first: what is offered first is what most programs read.
WRITTEN: Final = tuple(sorted((f for f in FORMATS if f.written), key=lambda f: f.module != "csv_log"))
WRITTEN_ENDINGS: Final = tuple(f.endings[0] for f in WRITTEN)


def format_of(head: bytes) -> Format:
    """The format of a file from its first bytes; CSV where nothing else knows them."""
    return next(f for f in FORMATS if f.knows(head))


def format_named(ending: str) -> Format | None:
    """The format that a file of this ending is written in; None for another ending."""
    return next((f for f in WRITTEN if f.endings[0] == ending), None)


def read_filter() -> str:
    """What a dialog that opens logs shows."""
    endings = [e for f in reversed(FORMATS) for e in f.endings] + list(PACKED_ENDINGS)
    return f"Logs ({' '.join(f'*{e}' for e in endings)});;All files (*)"


def written_filter() -> str:
    """What a dialog that writes a lap offers."""
    return ";;".join(f"{f.name} (*{f.endings[0]})" for f in WRITTEN)
