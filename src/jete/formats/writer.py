"""Which writer makes a file: by the ending of its name."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from jete.core.errors import InputError
from jete.core.log.channels import CHANNELS
from jete.formats.columns import Columns
from jete.formats.table import WRITTEN_ENDINGS, format_named
from jete.formats.whole_file import written_wholly

if TYPE_CHECKING:
    from pathlib import Path

    from jete.core.log.lap import Log


def columns_of_log(log: Log) -> Columns:
    """A log's channels on its row clock in the units that CSV assumes; NaN where a channel has no sample.

    A channel whose samples lie between rows (positions that were moved in time) is written
    at the nearest row if it lies within half a step of it, else interpolated.
    """
    clock = log.channels["time"].time_s
    names, units, values = [], [], []
    for name, channel in log.channels.items():
        quantity = CHANNELS[name].quantity if name in CHANNELS else None
        unit = quantity.default if quantity else channel.unit
        scale = 1.0 if quantity is None else 1.0 / quantity.units[unit]
        if name.startswith("brake"):
            unit, scale = channel.unit, 1.0
        names.append(name)
        units.append(unit or None)
        values.append(_on_rows(clock, channel.time_s, channel.value * scale))
    return Columns(log.source, tuple(names), tuple(units), tuple(values))


def _on_rows(clock: np.ndarray, time: np.ndarray, value: np.ndarray) -> np.ndarray:
    """Values at rows (n,), NaN between samples of a slower channel."""
    if len(time) == len(clock) and np.array_equal(time, clock):
        return value
    row = np.clip(np.searchsorted(clock, time), 1, len(clock) - 1)
    row -= (time - clock[row - 1]) < (clock[row] - time)
    out = np.full(len(clock), np.nan)
    inside = (clock[row] >= time[0] - 1e-9) & (clock[row] <= time[-1] + 1e-9)
    out[row[inside]] = np.interp(clock[row[inside]], time, value)
    return out


def write_log(path: Path, log: Log) -> None:
    """Write a log; CSV, Parquet, Arrow, JSON Lines or MDF 4 by the name's ending.

    Raises:
        InputError: another ending, or a place that can't be written to.
    """
    write_columns(path, columns_of_log(log), log)


def write_columns(path: Path, columns: Columns, log: Log | None = None) -> None:
    """Write columns (for MDF: the log they come from, with its own time stamps, where there is one)."""
    ending = path.suffix.casefold()
    wanted = format_named(ending)
    if wanted is None:
        raise InputError(
            str(path), f"logs can't be written as '{ending or path.name}'.", f"End it in {', '.join(WRITTEN_ENDINGS)}."
        )
    try:
        with written_wholly(path) as unfinished:
            if wanted.own_times and log is not None:
                wanted.opened.write_log(unfinished, log)
            else:
                wanted.opened.write(unfinished, columns)
    except OSError as error:
        raise InputError(str(path), f"it can't be written ({error.strerror}).", "Name another place.") from error
