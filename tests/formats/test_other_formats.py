"""Formats besides CSV, against files that other programs wrote, and round trips."""

from __future__ import annotations

import gzip
import itertools
import json
import warnings
import zipfile
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from functools import reduce
from pathlib import Path

import numpy as np
import pytest

from jete.core.errors import InputError
from jete.core.log.lap import Log, fastest
from jete.core.log.plane import Origin
from jete.core.motion.split import split
from jete.formats.reader import read_columns, read_log
from jete.formats.table import FORMATS, WRITTEN_ENDINGS, format_of
from jete.formats.watched import Watch
from jete.formats.writer import write_log
from jete.simulate.trials import Trial
from known_laps import csv_text, lap_of, rows_of

SEA = Origin(41.25, -31.5)


def degrees(log: Log) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Times and a lap's positions as degrees, by the plane's own radii."""
    x, y = log.channels["x"], log.channels["y"]
    east, north = SEA.to_plane(np.array([-31.4]), np.array([0.0])), SEA.to_plane(np.array([0.0]), np.array([41.35]))
    east, north = (
        SEA.to_plane(np.array([41.25]), np.array([-31.4]))[0],
        SEA.to_plane(np.array([41.35]), np.array([-31.5]))[1],
    )
    return x.time_s, 41.25 + y.value * 0.1 / north[0], -31.5 + x.value * 0.1 / east[0]


def sentence(body: str) -> str:
    return f"${body}*{reduce(lambda a, b: a ^ b, body.encode()):02X}"


def angle(value: float, width: int) -> str:
    whole, rest = divmod(abs(value), 1.0)
    return f"{int(whole):0{width}d}{rest * 60.0:09.6f}"


def rmc(seconds: float, lat: float, lon: float, speed_kn: float | str) -> str:
    stamp = (datetime(2026, 5, 2, 23, 59, 0, tzinfo=UTC) + timedelta(seconds=seconds)).strftime("%H%M%S.%f")[:-4]
    speed = speed_kn if isinstance(speed_kn, str) else f"{speed_kn:.4f}"
    return sentence(f"GPRMC,{stamp},A,{angle(lat, 2)},N,{angle(lon, 3)},W,{speed},90.0,020526,,,A")


@pytest.mark.parametrize("ending", WRITTEN_ENDINGS)
def test_a_log_comes_back_from_every_format(trial: Trial, tmp_path: Path, ending: str) -> None:
    path = tmp_path / f"log{ending}"
    write_log(path, trial.reference)
    back, log = read_log(path), trial.reference
    assert back.channels.keys() == log.channels.keys()
    for name, channel in log.channels.items():
        assert len(back.channels[name]) == len(channel), name
        assert np.allclose(back.channels[name].value, channel.value, rtol=1e-5, atol=2e-4), name
        assert np.allclose(back.channels[name].time_s, channel.time_s, atol=1e-6), name
    assert lap_of(back).span.time_s == pytest.approx(lap_of(log).span.time_s, abs=2e-4)


def test_content_and_not_the_name_tells_the_format(trial: Trial, tmp_path: Path) -> None:
    path = tmp_path / "odd.csv"
    write_log(tmp_path / "log.mf4", trial.reference)
    (tmp_path / "log.mf4").rename(path)
    assert format_of(path.read_bytes()[:100]).name == "MDF 4"
    assert "throttle" in read_log(path).channels


def test_mdf_of_another_program_with_groups_of_their_own_rates(tmp_path: Path) -> None:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        from asammdf import MDF, Signal

        slow, quick = np.arange(0.0, 60.0, 0.1), np.arange(0.0, 60.0, 0.02)
        file = MDF(version="4.00")
        file.append([Signal(90.0 + slow, slow, unit="km/h", name="Vehicle Speed")])
        file.append([Signal((np.arange(len(quick)) % 7).astype(np.int16), quick, unit="%", name="TPS")])
        file.append([Signal(np.array([b"a"] * len(slow)), slow, name="remark", encoding="latin-1")])
        file.save(tmp_path / "log.mf4")
        file.close()
    log = read_log(tmp_path / "log.mf4")
    assert len(log.channels["speed"]) == len(slow)
    assert log.channels["speed"].value[10] == pytest.approx(91.0 / 3.6)
    assert len(log.channels["throttle"]) == len(quick)


def test_a_gpx_track_gives_laps_with_their_true_times(trial: Trial, tmp_path: Path) -> None:
    import gpxpy.gpx as g

    track = g.GPX()
    segment = g.GPXTrackSegment()
    track.tracks.append(g.GPXTrack())
    track.tracks[0].segments.append(segment)
    begin = datetime(2026, 5, 2, 10, 0, 0, tzinfo=UTC)
    for t, lat, lon in zip(*degrees(trial.reference), strict=True):
        segment.points.append(g.GPXTrackPoint(lat, lon, time=begin + timedelta(seconds=float(t))))
    path = tmp_path / "track.gpx"
    path.write_text(track.to_xml(), encoding="utf-8")
    log = read_log(path)
    assert set(log.channels) == {"time", "latitude", "longitude"}
    true = lap_of(trial.reference).span.time_s
    assert fastest(split(log), "gpx").time_s == pytest.approx(true, abs=0.15)


def test_nmea_sentences_over_midnight_with_one_broken(trial: Trial, tmp_path: Path) -> None:
    times, lat, lon = degrees(trial.reference)
    speed = np.interp(times, trial.reference.channels["speed"].time_s, trial.reference.channels["speed"].value)
    lines = [rmc(t, a, o, v * 3600.0 / 1852.0) for t, a, o, v in zip(times, lat, lon, speed, strict=True)]
    lines[40] = lines[40].replace("A,4", "A,5", 1)
    lines.insert(0, sentence("GPGSV,1,1,00"))
    path = tmp_path / "receiver.log"
    path.write_text("\r\n".join(lines) + "\r\n$GPRMC,2359", encoding="ascii")
    log = read_log(path)
    assert len(log.channels["latitude"]) == len(times) - 1
    assert any("cut off or damaged" in r.what for r in log.repairs)
    assert log.channels["time"].time_s[-1] == pytest.approx(times[-1] - times[0], abs=0.011)
    assert log.channels["speed"].value[100] == pytest.approx(speed[101], abs=0.6)


def test_a_vtg_gives_the_speed_of_the_position_before_it(tmp_path: Path) -> None:
    lines = []
    for k in range(40):
        lines.append(
            sentence(f"GPGGA,1200{k // 10:02d}.{k % 10}0,4115.{k:04d},N,03130.0000,W,1,09,0.9,10.0,M,50.0,M,,")
        )
        lines.append(sentence("GPVTG,90.0,T,,M,20.0,N,37.0,K,A"))
    path = tmp_path / "receiver.nmea"
    path.write_text("\n".join(lines), encoding="ascii")
    assert read_log(path).channels["speed"].value == pytest.approx(np.full(40, 20.0 * 1852 / 3600))


@pytest.mark.parametrize("kind", ["gzip", "zip"])
def test_packed_logs_are_unpacked(trial: Trial, tmp_path: Path, kind: str) -> None:
    text = csv_text(*rows_of(trial.reference, every=10))
    path = tmp_path / f"log.{kind}"
    if kind == "gzip":
        path.write_bytes(gzip.compress(text.encode()))
    else:
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("inner/log.csv", text)
    log = read_log(path)
    assert log.source == path.name
    assert "throttle" in log.channels


def test_an_archive_of_several_logs_says_to_unpack_it(tmp_path: Path) -> None:
    path = tmp_path / "logs.zip"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("a.csv", "time,speed\n")
        archive.writestr("b.csv", "time,speed\n")
    with pytest.raises(InputError, match="holds 2 files"):
        read_log(path)


@pytest.mark.parametrize(
    ("head", "what"),
    [
        (b"PAR1xxxxxxxx", "damaged"), (b"ARROW1xxxxxxx", "damaged"), (b"MDF     4.10    broken", "damaged"),
        (b"<?xml version='1.0'?><gpx", "damaged"), (b'{"time": 1}\nnonsense\n', "line 2"), (b"\x1f\x8bbroken", "damaged"),
        (b"PK\x03\x04broken", "damaged"), (b"$GPRMC,1,V,,,,,,,,*00\n", "no RMC or GGA"),
        (b"<gpx version='1.1' xmlns='http://www.topografix.com/GPX/1/1'></gpx>", "holds no track"),
    ],
)  # fmt: skip
def test_broken_files_are_refused_in_one_sentence(tmp_path: Path, head: bytes, what: str) -> None:
    path = tmp_path / "broken"
    path.write_bytes(head)
    with pytest.raises(InputError, match=what):
        read_log(path)


def test_json_lines_without_some_values(tmp_path: Path) -> None:
    rows = [{"time": 0.1 * k, "speed [km/h]": 100.0 + k} | ({"throttle": 50} if k % 2 else {}) for k in range(50)]
    path = tmp_path / "log.jsonl"
    path.write_text("\n".join(map(json.dumps, rows)), encoding="utf-8")
    log = read_log(path)
    assert len(log.channels["throttle"]) == 25
    assert log.channels["speed"].value[0] == pytest.approx(100.0 / 3.6)


def test_every_format_can_be_cancelled(trial: Trial, tmp_path: Path) -> None:
    for ending in WRITTEN_ENDINGS:
        path = tmp_path / f"log{ending}"
        write_log(path, trial.reference)
        with pytest.raises(InterruptedError):
            read_columns(path, Watch(cancelled=lambda: True))


@pytest.mark.parametrize("ending", [".csv", ".csv.gz", ".mf4"])
def test_a_reading_tells_how_far_it_is(trial: Trial, tmp_path: Path, ending: str) -> None:
    path = tmp_path / f"log{ending.removesuffix('.gz')}"
    write_log(path, trial.reference)
    if ending.endswith(".gz"):
        path = tmp_path / f"log{ending}"
        path.write_bytes(gzip.compress((tmp_path / "log.csv").read_bytes()))
    seen: list[float] = []
    read_columns(path, Watch(told=seen.append))
    assert len({round(s, 3) for s in seen}) > 2
    assert all(0.0 <= a <= b <= 1.0 for a, b in itertools.pairwise(seen))


def test_reading_stops_in_the_middle_of_a_file(trial: Trial, tmp_path: Path) -> None:
    path = tmp_path / "log.csv"
    write_log(path, trial.reference)
    seen: list[float] = []
    with pytest.raises(InterruptedError):
        read_columns(path, Watch(lambda: bool(seen) and seen[-1] > 0.2, seen.append))
    assert 0.2 < seen[-1] < 1.0


def test_an_unknown_ending_can_not_be_written(trial: Trial, tmp_path: Path) -> None:
    with pytest.raises(InputError, match=r"\.parquet"):
        write_log(tmp_path / "log.doc", trial.reference)


def test_every_format_has_a_module() -> None:
    assert all((Path("src/jete/formats") / f"{f.module}.py").exists() for f in FORMATS)


def test_a_receiver_s_log_tells_how_far_it_is_and_can_be_cancelled(tmp_path: Path) -> None:
    path = tmp_path / "receiver.log"
    path.write_text("\r\n".join(rmc(0.1 * k, 41.0, -31.0, 60.0) for k in range(600)), encoding="ascii")
    seen: list[float] = []
    read_columns(path, Watch(told=seen.append))
    assert len(set(seen)) > 2
    with pytest.raises(InterruptedError):
        read_columns(path, Watch(lambda: bool(seen)))


NOON_S = 1_778_320_800.0


def test_a_gpx_track_tells_when_it_began(tmp_path: Path) -> None:
    points = "".join(
        f'<trkpt lat="{41.0 + 1e-5 * k}" lon="-31.0"><time>2026-05-09T10:00:{k:02d}Z</time></trkpt>' for k in range(30)
    )
    path = tmp_path / "a.gpx"
    path.write_text(f'<gpx version="1.1" creator="x"><trk><trkseg>{points}</trkseg></trk></gpx>', encoding="utf-8")
    assert read_log(path).started_s == NOON_S


def test_nmea_tells_when_it_began(tmp_path: Path) -> None:
    lines = [f"$GPRMC,1000{k:02d}.00,A,41{k:02d}.000,N,03100.000,W,50.0,0.0,090526,,,A" for k in range(30)]
    path = tmp_path / "a.nmea"
    path.write_text("\r\n".join(lines), encoding="ascii")
    assert read_log(path).started_s == NOON_S


@pytest.mark.parametrize("started_s", [NOON_S, None])
def test_mdf_keeps_when_it_began(trial: Trial, tmp_path: Path, started_s: float | None) -> None:
    write_log(tmp_path / "log.mf4", replace(trial.reference, started_s=started_s))
    assert read_log(tmp_path / "log.mf4").started_s == started_s
