"""Damages logs of every format in many ways and looks for an answer that is not the program's own.

python tools/fuzz.py [--cases 5000] [--first 0] [--kind csv]

Each case is a number: it draws a log, a format and a damage, and runs ``laps`` and
``compare`` on the file as the command line does.  Allowed are a result, or status 2 with one line.
Anything else (another exception, a warning of NumPy, a killed process, more than the
allowed memory) is printed with the case's number, which runs it again.
"""

from __future__ import annotations

import argparse
import contextlib
import gzip
import io
import os
import resource
import subprocess
import sys
import tempfile
import time
import traceback
import warnings
import zipfile
from functools import cache
from pathlib import Path

os.environ.setdefault("JETE_MOST_BYTES", "200000000")

import numpy as np

from jete import cli
from jete.core.log.lap import Channel, Log
from jete.formats.table import FORMATS
from jete.formats.writer import write_log
from jete.simulate.logger import LoggerSettings
from jete.simulate.trials import draw_trial

KINDS = (
    "csv",
    "csv",
    "csv",
    "semicolon",
    "tab",
    "utf-16",
    "latin-1",
    *(f.endings[0].removeprefix(".") for f in FORMATS if f.module != "csv_log"),
    "csv.gz",
    "csv.zip",
)
CELLS = (
    "", "nan", "inf", "-inf", "1e308", "-1e308", "9223372036854775807", "1e-320", "33.7Q", "'", '"', '"unclosed', "0:0:60", "2026-02-30T25:00:60",
    "٣", "½", "true", "None", "0x1F", "1_000", "1,5", "1.5.5", "--1", "²", "\x00", "\ufeff", "{", "[", "$GPRMC", "#", ";", "9" * 400,
)  # fmt: skip
NUMBERS = (0.0, -1.0, 1e308, -1e308, np.nan, np.inf, -np.inf, 2.0**63, -(2.0**63), 1e-300, 90.0, 180.0, 1e5)
MEMORY_BYTES = 6 << 30
SLOWEST_S = 20.0


@cache
def log_of(seed: int, places: str) -> Log:
    """A small log, with positions in metres or degrees, or without."""
    trial = draw_trial(seed, LoggerSettings(rate_hz=10.0, position_hz=10.0))
    channels = dict(trial.lap.channels)
    if places == "none":
        del channels["x"], channels["y"]
    elif places == "degrees":
        x, y = channels.pop("x"), channels.pop("y")
        channels["latitude"] = Channel("latitude", "deg", y.time_s, 41.0 + y.value / 111_000.0)
        channels["longitude"] = Channel("longitude", "deg", x.time_s, -31.0 + x.value / 84_000.0)
    return Log(source="log", channels=channels)


def damaged_log(log: Log, rng: np.random.Generator) -> Log:
    """One channel or the rows of a log spoilt."""
    channels = dict(log.channels)
    names = [n for n in channels if n != "time"]
    for _ in range(int(rng.integers(0, 4))):
        name = str(rng.choice(names))
        c = channels[name]
        value = c.value.copy()
        where = rng.integers(0, len(value), int(rng.choice([1, 3, len(value) // 3])))
        how = int(rng.integers(0, 7))
        if how == 0:
            value[where] = rng.choice(NUMBERS)
        elif how == 1:
            value[:] = rng.choice(NUMBERS)
        elif how == 2:
            value = np.roll(value, int(rng.integers(-200, 200)))
        elif how == 3:
            value = value * rng.choice([-1.0, 1e-6, 1e6, 3.6])
        elif how == 4:
            value[where] *= rng.choice([-1.0, 0.0, 1e3])
        elif how == 5:
            value = np.repeat(value[:: int(rng.integers(5, 60))], 60)[: len(value)]
            value = np.pad(value, (0, len(c.value) - len(value)), mode="edge")
        else:
            value = np.full(len(value), float(value[0]))
        channels[name] = Channel(name, c.unit, c.time_s, value)
    drop = [n for n in names if rng.random() < 0.15]
    channels = {n: c for n, c in channels.items() if n not in drop}
    if rng.random() < 0.2:
        keep = np.sort(
            rng.choice(len(channels["time"].value), int(rng.choice([0, 1, 2, 3, 5, 19, 25, 60, 300])), replace=False)
        )
        channels = {
            n: Channel(n, c.unit, c.time_s[keep], c.value[keep])
            for n, c in channels.items()
            if len(c.value) > max(keep, default=0)
        }
    if rng.random() < 0.15 and "time" in channels:
        c = channels["time"]
        value = c.value * rng.choice([0.0, -1.0, 1e-9, 1e9]) if rng.random() < 0.5 else rng.permutation(c.value)
        channels["time"] = Channel("time", "s", c.time_s, value)
    return Log(source="log", channels=channels)


def table_of(log: Log) -> tuple[list[str], list[list[str]]]:
    """Names and cells of a log as text."""
    rows = min((len(c.value) for c in log.channels.values()), default=0)
    columns = [
        [f"{v:.6g}" if n not in ("latitude", "longitude", "time") else f"{v:.7f}" for v in c.value[:rows]]
        for n, c in log.channels.items()
    ]
    unit = {"speed": "m/s", "brake": "bar", "steering": "rad", "yaw_rate": "rad/s", "throttle": "ratio"}
    names = [f"{n} [{unit[n]}]" if n in unit else n for n in log.channels]
    return names, [list(r) for r in zip(*columns, strict=True)]


def damaged_table(names: list[str], rows: list[list[str]], rng: np.random.Generator) -> None:
    """Cells, rows and names of a table spoilt, in place."""
    for _ in range(int(rng.integers(0, 6)) if rows else 0):
        at = int(rng.integers(0, len(rows)))
        how = int(rng.integers(0, 6))
        if how <= 1 and rows[at]:
            rows[at][int(rng.integers(0, len(rows[at])))] = str(rng.choice(CELLS))
        elif how == 2:
            rows[at] = rows[at][: int(rng.integers(0, len(rows[at]) + 1))]
        elif how == 3:
            rows[at] = rows[at] + ["7"] * int(rng.choice([1, 2, 500]))
        elif how == 4:
            rows.insert(at, list(names))
        else:
            column = int(rng.integers(0, len(names)))
            cell = str(rng.choice(CELLS))
            for row in rows:
                if column < len(row):
                    row[column] = cell
    if rng.random() < 0.2:
        at = int(rng.integers(0, len(names)))
        names[at] = str(rng.choice([*CELLS, names[0], "speed [furlong/h]", "x" * 200_000, "gps speed", "lap"]))


def text_of(log: Log, separator: str, rng: np.random.Generator) -> str:
    """A table of text, spoilt."""
    names, rows = table_of(log)
    damaged_table(names, rows, rng)
    end = str(rng.choice(["\n", "\r\n", "\r"], p=[0.8, 0.15, 0.05]))
    return end.join(separator.join(r) for r in [names, *rows]) + end


def nmea_of(log: Log, rng: np.random.Generator) -> str:
    """RMC sentences of a log with degrees, some of them odd."""
    lines = []
    if "latitude" in log.channels and "longitude" in log.channels:
        lat, lon = log.channels["latitude"].value, log.channels["longitude"].value
        for k in range(min(len(lat), len(lon))):
            stamp = f"{k // 36000 % 24:02d}{k // 600 % 60:02d}{k / 10 % 60:05.2f}"
            a, o = abs(lat[k]), abs(lon[k])
            body = f"GPRMC,{stamp},A,{a // 1:02.0f}{a % 1 * 60:08.5f},N,{o // 1:03.0f}{o % 1 * 60:08.5f},W,60.0,0.0,020526,,,A"
            if rng.random() < 0.01:
                parts = body.split(",")
                parts[int(rng.integers(1, len(parts)))] = str(rng.choice([*CELLS, "120060.00", "999999"]))
                body = ",".join(parts)
            check = 0
            for ch in body:
                check ^= ord(ch)
            lines.append(f"${body}*{check & 0xFF:02X}")
    return "\r\n".join(lines)


def gpx_of(log: Log, rng: np.random.Generator) -> str:
    """A track of a log with degrees."""
    points = ""
    if "latitude" in log.channels and "longitude" in log.channels:
        lat, lon = log.channels["latitude"].value, log.channels["longitude"].value
        for k in range(min(len(lat), len(lon))):
            cell = str(rng.choice(CELLS[:20])) if rng.random() < 0.002 else f"{lat[k]:.7f}"
            second = 60 if rng.random() < 0.001 else k // 10 % 60
            stamp = f"2026-05-02T10:{k // 600 % 60:02d}:{second:02d}.{k % 10}00Z"
            points += f'<trkpt lat="{cell}" lon="{lon[k]:.7f}"><time>{stamp}</time></trkpt>\n'
    return f'<?xml version="1.0"?><gpx version="1.0" creator="x"><trk><trkseg>{points}</trkseg></trk></gpx>'


def bytes_of(kind: str, rng: np.random.Generator, folder: Path) -> bytes:
    """A file's content: a log spoilt in its numbers or cells."""
    places = "degrees" if kind in ("gpx", "nmea") else str(rng.choice(["metres", "degrees", "none"]))
    log = log_of(int(rng.integers(0, 3)), places)
    log = damaged_log(log, rng) if rng.random() < 0.7 else log
    if kind in ("parquet", "arrow", "jsonl", "mf4"):
        shortest = min((len(c.value) for c in log.channels.values()), default=0)
        try:
            write_log(folder / f"out.{kind}", log)
        except ValueError:
            return b"" if shortest else b"{}"
        return (folder / f"out.{kind}").read_bytes()
    if kind in ("gpx", "nmea"):
        return (gpx_of if kind == "gpx" else nmea_of)(log, rng).encode()
    separator = {"semicolon": ";", "tab": "\t"}.get(kind, ",")
    encoding = {"utf-16": "utf-16", "latin-1": "latin-1"}.get(kind, "utf-8")
    data = text_of(log, separator, rng).encode(encoding, errors="replace")
    if kind == "csv.gz":
        return gzip.compress(data)
    if kind == "csv.zip":
        with io.BytesIO() as out:
            with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
                archive.writestr("log.csv", data)
            return out.getvalue()
    return data


def damaged_bytes(data: bytes, rng: np.random.Generator) -> bytes:
    """Bytes flipped, cut, doubled, put in or swapped."""
    out = bytearray(data)
    for _ in range(int(rng.choice([1, 2, 20]))):
        if not out:
            break
        at, size = int(rng.integers(0, len(out))), int(rng.choice([1, 7, 300]))
        how = int(rng.integers(0, 6))
        if how == 0:
            out[at] ^= int(rng.integers(1, 256))
        elif how == 1:
            del out[at:]
        elif how == 2:
            del out[at : at + size]
        elif how == 3:
            out[at:at] = out[at : at + size]
        elif how == 4:
            out[at:at] = rng.choice(CELLS).encode("utf-8", errors="replace")
        else:
            out[at : at + size] = rng.bytes(size)
    return bytes(out)


def case_file(number: int, folder: Path) -> tuple[Path, str]:
    """The file of a case, and what it is."""
    rng = np.random.default_rng([number, 4711])
    kind = str(rng.choice(KINDS))
    data = bytes_of(kind, rng, folder)
    if rng.random() < 0.4:
        data = damaged_bytes(data, rng)
    path = folder / f"case-{number}.{kind}"
    path.write_bytes(data)
    return path, kind


@cache
def reference(folder: Path, places: str) -> Path:
    """A sound log to compare with."""
    path = folder / f"reference-{places}.csv"
    if not path.exists():
        names, rows = table_of(log_of(0, places))
        path.write_text("\n".join(",".join(r) for r in [names, *rows]) + "\n", encoding="utf-8")
    return path


def wrong(arguments: list[str]) -> str | None:
    """What is wrong with the answer to a command; None where nothing is."""
    out, err = io.StringIO(), io.StringIO()
    began = time.monotonic()
    try:
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err), warnings.catch_warnings():
            warnings.simplefilter("error")
            status = cli.main(arguments)
    except SystemExit as error:
        status = int(error.code or 0)
    except BaseException:  # noqa: BLE001 - that is what is looked for
        return traceback.format_exc()
    if time.monotonic() - began > SLOWEST_S:
        return f"took {time.monotonic() - began:.0f} s"
    said = err.getvalue()
    if status == 0 or (status == 2 and said.count("\n") == 1 and said.startswith("jete: ")):
        return None
    return f"status {status}, {said[:500]!r}"


def run_case(number: int, folder: Path) -> str | None:
    """What is wrong with the answers to one case."""
    path, _ = case_file(number, folder)
    sound = reference(folder, ("metres", "degrees", "none")[number % 3])
    commands = (
        ["laps", str(path), "--json", "-"],
        ["compare", str(sound), str(path), "--json", "-"],
        ["compare", str(path), str(sound), "--json", "-"],
    )
    found = next((w for c in commands if (w := wrong(c)) is not None), None)
    path.unlink(missing_ok=True)
    return found


def raise_it(error: Exception) -> int:
    """Instead of logging what nobody foresaw."""
    raise error


def work(first: int, cases: int) -> None:
    """Run cases in this process; each is said before it begins, so that a killed process names its case."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    cli._unexpected = raise_it  # noqa: SLF001 - the traceback is wanted here
    with tempfile.TemporaryDirectory(prefix="jete-fuzz-") as folder:
        for number in range(first, first + cases):
            print(f"case {number}", flush=True)
            found = run_case(number, Path(folder))
            if found:
                print("wrong " + found.replace("\n", "\n| "), flush=True)


def run(first: int, cases: int) -> list[str]:
    """Run cases in a process of their own, again after each one that ends it; returns what was wrong."""
    found, last = [], first + cases
    while first < last:
        command = [sys.executable, __file__, "--work", "--first", str(first), "--cases", str(last - first)]
        done = subprocess.run(command, capture_output=True, text=True, check=False)
        number = first
        for line in done.stdout.splitlines():
            if line.startswith("case "):
                number = int(line[5:])
            elif line.startswith("wrong "):
                found.append(f"case {number}: {line[6:]}")
            elif found:
                found[-1] += "\n" + line
        if done.returncode == 0:
            return found
        found.append(f"case {number}: the process ended with {done.returncode}\n{done.stderr[-1500:]}")
        first = number + 1
    return found


def main() -> int:
    """Print what was wrong; the exit status says whether anything was."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--cases", type=int, default=5000)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--work", action="store_true")
    args = parser.parse_args()
    if args.work:
        work(args.first, args.cases)
        return 0
    found = run(args.first, args.cases)
    print("\n".join(found))
    print(f"{len(found)} of {args.cases} cases were answered wrongly")
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
