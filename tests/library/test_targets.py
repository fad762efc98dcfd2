"""Times to reach: kept once for each who, where and what; the narrowest is meant; what is missing adds up."""

from __future__ import annotations

import json
from dataclasses import replace
from typing import TYPE_CHECKING

import pytest

from jete.cli import main
from jete.core.axis.road.corners import CornerId
from jete.core.passes.target import split_of
from jete.desk.targets import way_to
from jete.library.bring_in import bring_in
from jete.library.library import Library
from jete.library.location import Location
from jete.library.target_records import TargetRecord
from jete.notes.sheet import LapNote, RunSheet
from jete.report.targets import way_words
from known_laps import short_run

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

ANY = TargetRecord(circuit="Kestrel Sands", time_s=111.0)
INES = replace(ANY, driver="Ines", time_s=110.5)


@pytest.fixture(scope="module")
def shelf(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Library]:
    library = Library(Location(tmp_path_factory.mktemp("targets")))
    bring_in(library, short_run(), {"circuit": "Kestrel Sands", "driver": "Ines", "group": "endurance"})
    yield library
    library.close()


def test_the_narrowest_target_is_meant(shelf: Library) -> None:
    kept = [shelf.targets.keep(t) for t in (ANY, INES)]
    sheet = shelf.run(1).sheet
    assert shelf.targets.of_run(sheet) == kept[1]
    assert shelf.targets.of_run(replace(sheet, driver="Tomasz")) == kept[0]
    assert shelf.targets.of_run(replace(sheet, circuit="Marrow Fen")) is None
    again = shelf.targets.keep(replace(INES, time_s=110.0))
    assert (again.id, len(shelf.targets.all())) == (kept[1].id, 2)
    shelf.targets.drop(kept[0].id)
    assert shelf.targets.of_run(RunSheet(circuit="Kestrel Sands", driver="Tomasz")) is None


def test_laps_that_do_not_count_never_do(shelf: Library) -> None:
    best = way_to(shelf, INES)
    assert best.best is not None
    shelf.note_lap(1, best.best[1], LapNote(aside="cut"))
    other = way_to(shelf, INES)
    shelf.note_lap(1, best.best[1], LapNote())
    assert other.best != best.best
    assert (other.best_s or 0.0) > (best.best_s or 0.0)


@pytest.mark.parametrize(
    ("time_s", "words"),
    [(60.0, " s to 1:00.000"), (200.0, "Target 3:20.000 is reached: 1:5")],
)
def test_what_is_missing_is_told(shelf: Library, time_s: float, words: str) -> None:
    assert words in way_words(way_to(shelf, replace(ANY, time_s=time_s)))
    nobody = way_to(shelf, replace(ANY, driver="Nobody"))
    assert way_words(nobody) == "Target 1:51.000: no lap that counts yet."


def test_the_fewest_corners_come_first_and_all_parts_add_up() -> None:
    a, b, c = (CornerId(k) for k in (1, 2, 3))
    best_lap, own = {a: 10.0, b: 11.0, c: 12.0}, {a: [9.9], b: [10.5], c: [12.0]}
    few = split_of(0.4, best_lap, own, {}, {})
    assert [(p.corner, round(p.seconds, 3)) for p in few.driven] == [(b, 0.4)]
    more = split_of(2.0, best_lap, own, {"Noor": {c: [11.5], b: [10.6]}}, {c: 0.2, b: 0.3})
    assert [p.corner for p in more.driven] == [b, a]
    assert [(p.corner, round(p.seconds, 3)) for p in more.aims] == [(c, 0.2)]
    assert [(p.corner, round(p.seconds, 3), p.who) for p in more.others] == [(c, 0.3, "Noor")]
    parts = (*more.driven, *more.aims, *more.others)
    assert sum(p.seconds for p in parts) + more.unseen_s == pytest.approx(2.0)


def test_on_the_command_line(shelf: Library, capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    where = ["--library", str(shelf.location.folder)]
    out = str(tmp_path / "t.json")
    assert main(["target", "set", "kestrel sands", "1:49.5", "--name", "licence", "--json", out, *where]) == 0
    document = json.loads((tmp_path / "t.json").read_text(encoding="utf-8"))
    (target,) = document["targets"]
    assert (document["schema"], target["time_s"], target["name"]) == ("jete.target/1", 109.5, "licence")
    assert target["missing_s"] == pytest.approx(target["best_s"] - 109.5)
    assert main(["target", "list", "Kestrel Sands", *where]) == 0
    assert "1:49.500 (licence)" in capsys.readouterr().out
    assert main(["target", "drop", str(target["id"]), *where]) == 0
    assert main(["target", "set", "Kestrel Sands", "101%", "--class", "endurance", "--json", out, *where]) == 0
    (share,) = json.loads((tmp_path / "t.json").read_text(encoding="utf-8"))["targets"]
    assert share["time_s"] == pytest.approx(1.01 * share["best_s"])
    assert share["missing_s"] < 0.0
    assert main(["target", "set", "Kestrel Sands", "101%", "--class", "nobody's", *where]) == 2
    assert main(["target", "drop", "99", *where]) == 2
    assert main(["target", "set", "Kestrel Sands", "soon", *where]) == 2
    assert "no lap time" in capsys.readouterr().err
