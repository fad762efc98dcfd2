"""The shelf on disk: runs, notes, the bin, other starts."""

from __future__ import annotations

import shutil
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from jete.core.compare import compare
from jete.core.errors import InputError
from jete.core.log.lap import Lap, PositionsMade
from jete.core.motion.borders import line_of
from jete.core.motion.split import split
from jete.formats.reader import read_log
from jete.library import recordings
from jete.library.bring_in import bring_in
from jete.library.library import Library
from jete.library.location import Location
from jete.library.recognise import recognise
from jete.notes.sheet import LapNote, RunSheet
from jete.simulate.trials import Trial
from known_laps import DEMO_PAIR, csv_text, rows_of

INES, TOMASZ = DEMO_PAIR
SHEET = RunSheet(
    circuit="Kestrel Sands", layout="long", event="club day", date="2026-05-02", time="10:15", driver="Ines Karlsby", coach="Edda Rowe",
    vehicle="club car", kind="car", mass_kg=980.0, gears=6, group="endurance", condition="damp", air_c=14.0, track_c=19.5, wind="west",
    tyres="medium", tyre_laps=12, cold_bar="1.6 1.6 1.5 1.5", hot_bar="1.9 1.9 1.8 1.8", fuel_l=40.0, brake_bias=56.5, setup="rear bar softer",
    note="traffic in lap 4",
)  # fmt: skip


def test_a_run_comes_back_as_it_was_brought_in(library: Library) -> None:
    log = read_log(INES)
    spans = split(log)
    number = library.add(log, spans, "digest", SHEET, path=str(INES))
    (run,) = library.runs()
    assert (run.id, run.sheet, run.laps, run.repairs) == (number, SHEET, spans, log.repairs)
    assert all(sum(p) == pytest.approx(s.time_s) for p, s in zip(run.pieces, run.laps, strict=True) if s.complete)
    back = library.log(run)
    for name, channel in log.channels.items():
        assert np.allclose(back.channels[name].time_s, channel.time_s), name
        assert np.allclose(back.channels[name].value, channel.value, rtol=1e-6, atol=1e-5), name


def test_a_lap_from_the_library_compares_like_the_one_from_its_file(library: Library) -> None:
    logs = [read_log(p) for p in (INES, TOMASZ)]
    line = line_of(logs[0])
    laps = [Lap(log, next(s for s in split(log, line) if s.number == 3)) for log in logs]
    runs = [library.run(library.add(log, split(log, line), log.source, RunSheet())) for log in logs]
    kept = [library.lap(run, 3) for run in runs]
    assert len(kept[0].log.channels["speed"]) < 0.4 * len(logs[0].channels["speed"])
    a, b = compare(laps[0], [laps[1]]).laps[0], compare(kept[0], [kept[1]]).laps[0]
    assert b.gap_s == pytest.approx(a.gap_s, abs=1e-6)
    for x, y in zip(a.corners, b.corners, strict=True):
        assert y.gap_s == pytest.approx(x.gap_s, abs=0.004)


def test_samples_beside_the_rows_keep_their_own_times(library: Library, trial: Trial) -> None:
    log = trial.reference
    moved = {n: replace(log.channels[n], time_s=log.channels[n].time_s - 0.123) for n in ("x", "y")}
    late = replace(log, channels={**log.channels, **moved})
    run = library.run(library.add(late, split(log), "d", RunSheet()))
    back = library.log(run).channels["x"]
    inside = late.channels["x"].time_s > 0.0
    assert back.time_s[-inside.sum() :] == pytest.approx(late.channels["x"].time_s[inside])


def test_how_positions_were_made_is_kept_though_only_the_true_fixes_are(library: Library, trial: Trial) -> None:
    made = PositionsMade("linear", 0.2)
    log = replace(trial.reference, positions=made)
    assert library.log(library.run(library.add(log, split(log), "d", RunSheet()))).positions == made


def test_the_same_content_is_known_under_another_name_and_taken_out_of_the_bin(
    library: Library, tmp_path: Path
) -> None:
    first = bring_in(library, INES)
    library.remove(first.run)
    assert library.runs() == []
    assert [r.id for r in library.runs(removed=True)] == [first.run]
    again = bring_in(library, Path(shutil.copy(INES, tmp_path / "copy.parquet")))
    assert (again.run, again.known) == (first.run, True)
    assert [r.id for r in library.runs()] == [first.run]


def test_a_next_run_takes_over_what_the_last_one_had(library: Library) -> None:
    first = bring_in(
        library,
        INES,
        {"circuit": "Kestrel Sands", "driver": "Ines Karlsby", "tyres": "medium", "note": "windy", "fuel_l": "40"},
    )
    second = library.run(bring_in(library, TOMASZ, {"driver": "Tomasz Oryel"}).run)
    assert (second.sheet.circuit, second.sheet.driver, second.sheet.tyres) == (
        "Kestrel Sands",
        "Tomasz Oryel",
        "medium",
    )
    assert (second.sheet.note, second.sheet.fuel_l) == ("", None)
    assert library.run(first.run).sheet.note == "windy"


def test_a_log_of_another_place_is_not_put_to_the_last_circuit(library: Library, trial: Trial, tmp_path: Path) -> None:
    bring_in(library, INES, {"circuit": "Kestrel Sands"})
    rows, table = rows_of(trial.reference)
    heads = [h.replace("x [m]", "latitude").replace("y [m]", "longitude") for h in rows]
    for k, h in enumerate(heads):
        if h in ("latitude", "longitude"):
            table[:, k] = 12.0 + table[:, k] / 111_000.0
    path = tmp_path / "elsewhere.csv"
    path.write_text(csv_text(heads, table).replace("nan", ""), encoding="utf-8")
    assert library.run(bring_in(library, path).run).sheet.circuit == "Circuit 1"


def test_notes_on_laps_and_dated_changes_of_the_set_up(library: Library) -> None:
    number = bring_in(library, INES).run
    library.note_lap(number, 4, LapNote("traffic", "blue car", "good exit of 6", star=True))
    for text in ("rear bar softer", "rear bar softer", "front wing up"):
        library.note_run(number, replace(library.run(number).sheet, setup=text))
    run = library.run(number)
    assert run.notes.of(4) == LapNote("traffic", "blue car", "good exit of 6", star=True)
    assert run.notes.of(5) == LapNote()
    assert run.sheet.setup == "front wing up"
    assert [text for _, text in library.setup_changes(number)] == ["rear bar softer", "front wing up"]


def test_a_pin_is_by_circuit_and_class_and_can_be_taken_off(library: Library) -> None:
    number = bring_in(library, INES, {"circuit": "Kestrel Sands", "group": "endurance"}).run
    sheet = library.run(number).sheet
    library.pin(sheet, number, 3)
    library.pin(sheet, number, 5)
    assert library.pins() == {("Kestrel Sands", "", "endurance"): (number, 5)}
    library.unpin(sheet)
    assert library.pins() == {}


def test_a_renamed_circuit_keeps_its_start_line(library: Library) -> None:
    number = bring_in(library, INES).run
    library.note_run(number, replace(library.run(number).sheet, circuit="Kestrel Sands"))
    found = recognise(library, read_log(TOMASZ)).place
    assert found is not None
    assert found.name == "Kestrel Sands"
    assert found.line is not None


def test_damaged_channel_data_is_told_and_the_rest_stays(library: Library) -> None:
    numbers = [bring_in(library, p).run for p in (INES, TOMASZ)]
    run = library.run(numbers[0])
    path = recordings.path_of(library.location.folder, run.digest)
    path.write_bytes(path.read_bytes()[:1000])
    with pytest.raises(InputError, match="damaged or gone"):
        library.log(run)
    assert np.isfinite(library.lap(library.run(numbers[1]), 3).span.time_s)


def test_a_lap_that_is_not_there_names_those_that_are(library: Library) -> None:
    run = library.run(bring_in(library, INES).run)
    with pytest.raises(InputError, match="It has the laps 0, 1"):
        library.lap(run, 77)
    with pytest.raises(InputError, match="no such run"):
        library.run(99)


def test_files_outside_are_never_touched(library: Library, tmp_path: Path) -> None:
    path = Path(shutil.copy(INES, tmp_path / "mine.parquet"))
    before = (path.read_bytes(), path.stat().st_mtime_ns)
    library.remove(bring_in(library, path).run)
    assert (path.read_bytes(), path.stat().st_mtime_ns) == before


def test_two_places_are_two_libraries(tmp_path: Path) -> None:
    one, two = (Library(Location(tmp_path / name)) for name in ("one", "two"))
    bring_in(one, INES)
    assert two.runs() == []
    one.close()
    two.close()


def test_two_people_on_one_run_each_keep_what_they_typed(library: Library) -> None:
    """A's sheet was read before B typed the driver and a note: A's wind removes neither."""
    run = bring_in(library, DEMO_PAIR[0], {"circuit": "Kestrel Sands"}).run
    seen = library.run(run).sheet
    library.change_sheets({run: (seen, replace(seen, driver="Ines Karlsby", note="new pads"))})
    assert library.change_sheets({run: (seen, replace(seen, wind="from the sea"))}) == ()
    sheet = library.run(run).sheet
    assert (sheet.driver, sheet.note, sheet.wind) == ("Ines Karlsby", "new pads", "from the sea")


def test_a_true_conflict_is_told_and_both_notes_stay(library: Library) -> None:
    run = bring_in(library, DEMO_PAIR[0]).run
    seen = library.run(run).sheet
    library.change_sheets({run: (seen, replace(seen, note="new pads", wind="calm"))})
    told = library.change_sheets({run: (seen, replace(seen, note="rear slid", wind="strong"))})
    sheet = library.run(run).sheet
    assert (sheet.note, sheet.wind) == ("new pads; rear slid", "strong")
    assert [(c.field, c.theirs) for c in told] == [("wind", "calm"), ("note", "new pads")]


def test_a_star_leaves_somebody_else_s_note_on_the_lap(library: Library) -> None:
    run = bring_in(library, DEMO_PAIR[0]).run
    library.change_lap_note(run, 4, LapNote(), LapNote(note="traffic at 6"))
    assert library.change_lap_note(run, 4, LapNote(), LapNote(star=True)) == ()
    assert library.run(run).notes.of(4) == LapNote(note="traffic at 6", star=True)
