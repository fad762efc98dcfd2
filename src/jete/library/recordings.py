"""Channel data as Parquet: written once, named by its content, read lap by lap.

A row is a row of the log's clock.  Channels of a slower rate are empty between their
samples; one whose samples lie beside the rows has a column with its own times.  The rows
stand in groups of some seconds, whose first times are in the file's own notes, so that a
lap is read without the rest.
"""

from __future__ import annotations

import json
import os
from typing import TYPE_CHECKING, Any

import numpy as np

from jete.core.arrays import FloatArray
from jete.core.errors import InputError
from jete.core.log.lap import Channel, Log, PositionsMade, Repair, Torn
from jete.formats.arrow_table import EXACT, arrow_of, numbers_of
from jete.formats.parquet_log import write_table
from jete.formats.whole_file import UNFINISHED, keep
from jete.library.files import digest_of

if TYPE_CHECKING:
    from collections.abc import Sequence
    from pathlib import Path

    import pyarrow as pa

FOLDER = "channels"
ROWS_A_GROUP = 4096
NOTES = b"jete.recording/1"
OWN_TIME = "time of "
UNCONFIRMED = ".unconfirmed"
SAME_S = 1e-9
# Around a lap, so that what is smoothed in time has neighbours at its ends.
MARGIN_S = 5.0


def path_of(root: Path, digest: str) -> Path:
    """Where a recording lies."""
    return root / FOLDER / digest[:2] / f"{digest}.parquet"


def store(root: Path, log: Log) -> str:
    """Write a log's channels; returns the digest that names the file.

    The file is synced before it takes its name; the same channels give the same file.  A
    mark beside it says that it is not confirmed, until :func:`confirm` takes it away.

    Raises:
        InputError: a full disk, or a folder without rights.
    """
    try:
        return _store(root, log)
    except OSError as error:
        raise InputError(
            str(root),
            f"the channel data can't be written ({error.strerror}).",
            "Make room, or give yourself the rights.",
        ) from error


def _store(root: Path, log: Log) -> str:
    folder = root / FOLDER
    folder.mkdir(parents=True, exist_ok=True)
    unfinished = folder / f"{os.getpid()}-{id(log):x}{UNFINISHED}"
    try:
        write_table(unfinished, _table_of(log), row_group_size=ROWS_A_GROUP, compression_level=1)
        digest = digest_of(unfinished)
        target = path_of(root, digest)
        if not target.exists():
            (folder / f"{digest}.{os.getpid()}{UNCONFIRMED}").touch()
            keep(unfinished, target)
    finally:
        unfinished.unlink(missing_ok=True)
    return digest


def confirm(root: Path, digest: str) -> None:
    """A row names the recording now: it stays whatever happens."""
    (root / FOLDER / f"{digest}.{os.getpid()}{UNCONFIRMED}").unlink(missing_ok=True)


def _table_of(log: Log) -> pa.Table:
    """The channels on the row clock, with the notes."""
    import pyarrow as pa

    clock = log.channels["time"].time_s
    columns: dict[str, pa.Array] = {"time": arrow_of(clock)}
    units: dict[str, str] = {}
    for name, channel in log.channels.items():
        units[name] = channel.unit
        if name == "time":
            continue
        if channel.time_s is clock or (len(channel) == len(clock) and np.array_equal(channel.time_s, clock)):
            columns[name] = _packed(name, channel.value)
            continue
        rows = np.clip(np.searchsorted(clock, channel.time_s - SAME_S), 0, len(clock) - 1)
        last = np.append(np.diff(rows) > 0, True)
        columns[name] = _packed(name, _spread(len(clock), rows[last], channel.value[last]))
        if not np.allclose(clock[rows], channel.time_s, rtol=0.0, atol=SAME_S):
            columns[OWN_TIME + name] = arrow_of(_spread(len(clock), rows[last], channel.time_s[last]))
    notes = {
        "source": log.source,
        "units": units,
        "starts": clock[::ROWS_A_GROUP].tolist(),
        "repairs": [[r.channel, r.what, r.count] for r in log.repairs],
        "positions": [log.positions.filled, log.positions.lag_s],
        "torn": [[t.start_s, t.end_s, t.what] for t in log.torn],
    }
    return pa.table(columns).replace_schema_metadata({NOTES: json.dumps(notes, ensure_ascii=False)})


def _packed(name: str, values: FloatArray) -> pa.Array:
    return arrow_of(values if name in EXACT else values.astype(np.float32))


def _spread(length: int, rows: np.ndarray, values: FloatArray) -> FloatArray:
    out = np.full(length, np.nan)
    out[rows] = values
    return out


def load(path: Path, start_s: float = -np.inf, end_s: float = np.inf, names: Sequence[str] | None = None) -> Log:
    """Read a recording, or the piece of it between two times and a few seconds around.

    Args:
        path: of the file.
        start_s: first time of the log's clock that is wanted.
        end_s: last one.
        names: of the channels that are wanted; None for all.

    Raises:
        OSError: a file that is gone or damaged (pyarrow's errors are among them).
    """
    from pyarrow import parquet

    with parquet.ParquetFile(path, memory_map=True) as file:
        notes = json.loads((file.schema_arrow.metadata or {})[NOTES])
        held = file.schema_arrow.names
        wanted = None if names is None else [c for c in held if c.removeprefix(OWN_TIME) in {"time", *names}]
        table = file.read_row_groups(_groups(notes["starts"], start_s, end_s), columns=wanted, use_threads=False)
    return _log_of(table, notes)


def _groups(starts: list[float], start_s: float, end_s: float) -> list[int]:
    first = max(int(np.searchsorted(starts, start_s - MARGIN_S, side="right")) - 1, 0)
    return list(range(first, max(int(np.searchsorted(starts, end_s + MARGIN_S)), first + 1)))


def _number_column(table: pa.Table, name: str) -> FloatArray:
    values = numbers_of(table.column(name))
    if values is None:
        message = f"{name} holds no numbers"
        raise ValueError(message)
    return values


def _log_of(table: pa.Table, notes: dict[str, Any]) -> Log:
    """Channels with their own time stamps from a table."""
    columns = {name: _number_column(table, name) for name in table.column_names}
    clock = columns["time"]
    channels = {}
    for name, values in columns.items():
        if name.startswith(OWN_TIME):
            continue
        times = columns.get(OWN_TIME + name, clock)
        good = np.isfinite(values)
        if not good.all():
            times, values = times[good], values[good]  # noqa: PLW2901 - the samples that are there
        if len(values):
            channels[name] = Channel(name, notes["units"].get(name, ""), times, values)
    # Recordings of earlier days don't say how their positions were made.
    made = PositionsMade(*notes.get("positions", ()))
    torn = tuple(Torn(*t) for t in notes.get("torn", ()))
    return Log(
        source=notes["source"],
        channels=channels,
        repairs=tuple(Repair(*r) for r in notes["repairs"]),
        positions=made,
        torn=torn,
    )
