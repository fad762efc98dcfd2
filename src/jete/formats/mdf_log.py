"""Logs as ASAM MDF 4, by asammdf: every channel with its own time stamps.

The channels are laid on one clock that holds the time stamps of all of them.
"""

from __future__ import annotations

import gc
import sys
import warnings
from contextlib import contextmanager
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from jete.core.errors import InputError
from jete.core.log.channels import CHANNELS
from jete.core.log.lap import Channel, Log
from jete.formats.columns import Columns
from jete.formats.limits import BYTES_A_NUMBER, refuse_size
from jete.formats.watched import UNWATCHED, Watch

if TYPE_CHECKING:
    from collections.abc import Iterator

    from jete.core.arrays import FloatArray


SAME_STAMP_S = 1e-6
# A file that says it began before 1980 does not know.
NO_DATE_S = 315_532_800.0


def read(path: Path, watch: Watch = UNWATCHED) -> Columns:
    """Read an MDF file; of channels with one name the first is taken.

    Raises:
        InputError: a damaged file, or one without numbers.
    """
    found, started_s = None, None
    try:
        found, started_s = _channels(path, watch)
    except (InterruptedError, InputError):
        raise
    except Exception as error:  # noqa: BLE001 - asammdf raises what comes to hand on a damaged file
        # The error holds the half-made file, which complains once more as it goes.
        with _quietly():
            error.__traceback__ = None
            del error
    if found is None:
        raise InputError(path.name, "this MDF file is damaged.", "Export the log again.")
    if not found:
        raise InputError(path.name, "it holds no channel of numbers.", "Export the log again.")
    return replace(_on_one_clock(path.name, found), started_s=started_s)


@contextmanager
def _quietly() -> Iterator[None]:
    """What asammdf complains about when it is collected after a damaged file goes to nobody: the file was refused."""
    hook = sys.unraisablehook
    sys.unraisablehook = _no_hook
    try:
        yield
    finally:
        gc.collect()
        sys.unraisablehook = hook


def _no_hook(_: object) -> None:
    """Say nothing."""


def _channels(path: Path, watch: Watch) -> tuple[dict[str, tuple[str, FloatArray, FloatArray]], float | None]:
    """Unit, time stamps and values by name; and when the file began, where that is a day of motor sport."""
    found: dict[str, tuple[str, FloatArray, FloatArray]] = {}
    with _opened(path) as file:
        refuse_size(path.name, sum(BYTES_A_NUMBER * g.channel_group.cycles_nr * len(g.channels) for g in file.groups))
        total = max(sum(len(g.channels) for g in file.groups), 1)
        for number, (name, unit, time, values) in enumerate(_signals(file)):
            watch.step(number / total)
            found.setdefault(name, (unit, time, values))
        began_s = float(file.header.start_time.timestamp())
    return found, began_s if began_s > NO_DATE_S else None


def _opened(path: Path) -> Any:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        from asammdf import MDF

        return MDF(path)


def _signals(file: Any) -> Iterator[tuple[str, str, FloatArray, FloatArray]]:
    """Name, unit, time stamps (n,) and values (n,) of each channel of numbers that is no master."""
    for group, content in enumerate(file.groups):
        for index, channel in enumerate(content.channels):
            if index == file.masters_db.get(group):
                continue
            signal = file.get(group=group, index=index, ignore_invalidation_bits=False)
            values = np.asarray(signal.samples)
            if values.ndim == 1 and values.dtype.kind in "iuf" and len(values):
                name = channel.name.split("\\")[0]
                yield name, signal.unit or "", np.asarray(signal.timestamps, float), values.astype(np.float64)


def _on_one_clock(source: str, found: dict[str, tuple[str, FloatArray, FloatArray]]) -> Columns:
    """Columns over the union of all time stamps, NaN where a channel has none."""
    clocks = {id(time): time for _, time, _ in found.values()}
    stamps = np.unique(np.concatenate(list(clocks.values())))
    clock = stamps[np.concatenate([[True], np.diff(stamps) > SAME_STAMP_S])]
    names, units, values = ["time"], ["s"], [clock]
    for name, (unit, time, samples) in found.items():
        if name.casefold() in ("time", "t", "timestamps"):
            continue
        column = np.full(len(clock), np.nan)
        column[np.clip(clock.searchsorted(time - SAME_STAMP_S), 0, len(clock) - 1)] = samples
        names.append(name)
        units.append(unit)
        values.append(column)
    return Columns(source, tuple(names), tuple(units), tuple(values))


def write(path: Path, columns: Columns) -> None:
    """Write columns as channels under their own names, over the first column."""
    pairs = [(n, u, v) for n, u, v in zip(columns.names, columns.units, columns.values, strict=True) if v is not None]
    clock = pairs[0][2]
    write_log(path, Log(source=columns.source, channels={n: Channel(n, u or "", clock, v) for n, u, v in pairs}))


def write_log(path: Path, log: Log) -> None:
    """Write a log as MDF 4.10, each channel with its own time stamps, in the inside units.

    Raises:
        OSError: where it can't be written.
    """
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        from asammdf import MDF, Signal

        file = MDF(version="4.10")
        file.header.start_time = datetime.fromtimestamp(log.started_s or 0.0, tz=UTC)
        for name, channel in log.channels.items():
            if name == "time":
                continue
            unit = CHANNELS[name].quantity.inside if name in CHANNELS and not name.startswith("brake") else channel.unit
            file.append([Signal(channel.value, channel.time_s, unit=unit, name=name)], comment="Jete")
        # The library gives a file its own ending, whatever name is asked for.
        made = file.save(path.with_suffix(".mf4"), overwrite=True)
        file.close()
    Path(made).replace(path)
