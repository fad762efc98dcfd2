"""What was shown last, kept so that the next start paints it at once and fills in the rest.

A file in the cache folder, of use only to the version that wrote it and as long as the
shelf's database has not changed since.  It is read by an unpickler that makes nothing but
the program's own data and arrays, so that a file that was tampered with does nothing.
"""

from __future__ import annotations

import io
import pickle
import sys
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from platformdirs import user_cache_path

from jete import __version__
from jete.formats.whole_file import written_wholly

if TYPE_CHECKING:
    from pathlib import Path

    from jete.core.causes.verdict.result import Comparison
    from jete.desk.road import RoadBeside
    from jete.library.location import Location
    from jete.session.state import Session

FILE = "last-view"
MOST_BYTES = 80 << 20
# What arrays are made of when they are read back.
_ARRAYS = {
    ("numpy._core.multiarray", "_reconstruct"), ("numpy._core.multiarray", "scalar"), ("numpy._core.numeric", "_frombuffer"),
    ("numpy", "ndarray"), ("numpy", "dtype"),
}  # fmt: skip


@dataclass(frozen=True, eq=False)
class LastView:
    """A session, and the comparison and the road that were shown with it."""

    session: Session
    comparison: Comparison
    road: RoadBeside | None = None

    @property
    def fits(self) -> bool:
        """Whether the comparison is of the laps that are chosen: another one may still have been under way."""
        choice = self.session.choice
        shown = (self.comparison.reference.lap.span, self.comparison.laps[0].passage.lap.span)
        return (self.session.span(choice.reference), self.session.span(choice.lap)) == shown


def save(location: Location, view: LastView) -> None:
    """Keep what is shown of a shelf, if it is what was chosen; a full disk only costs the memory of it."""
    if not view.fits:
        return
    data = pickle.dumps((_stamp(location), view))
    if len(data) > MOST_BYTES:
        return
    try:
        _path().parent.mkdir(parents=True, exist_ok=True)
        with written_wholly(_path()) as unfinished:
            unfinished.write_bytes(data)
    except OSError:
        return


def load(location: Location) -> LastView | None:
    """What was shown of a shelf last; None where it has changed since, or nothing sound was kept."""
    try:
        data = _path().read_bytes()
        stamp, view = _Reader(io.BytesIO(data)).load()
    except Exception:  # noqa: BLE001 - whatever is wrong with it, the shelf itself is opened next
        return None
    return view if stamp == _stamp(location) and isinstance(view, LastView) and view.fits else None


def _path() -> Path:
    return user_cache_path("jete", appauthor=False) / FILE


def _stamp(location: Location) -> tuple[Any, ...]:
    """What a view is good for: this version, and the database as it is now."""
    file = location.file
    if file is None:
        return ("server",)
    try:
        stat = file.stat()
    except OSError:
        return ("gone",)
    return __version__, sys.version_info[:2], str(file), stat.st_mtime_ns, stat.st_size


class _Reader(pickle.Unpickler):
    """Makes the program's own data classes, and arrays."""

    def find_class(self, module: str, name: str) -> Any:
        """A class that may be made.

        Raises:
            UnpicklingError: any other.
        """
        found = super().find_class(module, name)
        if (module, name) in _ARRAYS or (module.startswith("jete.") and isinstance(found, type)):
            return found
        message = f"{module}.{name} is no data of this program"
        raise pickle.UnpicklingError(message)
