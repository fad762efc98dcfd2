"""A debrief of the demo's pair: its sections, its words against the ledger, as HTML and as PDF."""

from __future__ import annotations

import json
import re
from dataclasses import replace
from typing import TYPE_CHECKING

import pytest

from jete.core.compare import compare
from jete.core.errors import InputError
from jete.core.log.lap import Lap
from jete.core.motion.split import split
from jete.core.run import run_of
from jete.desk.plans import plan_from
from jete.formats.reader import read_log
from jete.notes.sheet import RunSheet
from jete.paper.report_files import write_report
from jete.report.debrief import Debrief, conditions_of, debrief_sections, report_document
from jete.report.words import difference
from known_laps import DEMO_PAIR

if TYPE_CHECKING:
    from pathlib import Path

    from jete.report.debrief import Section


@pytest.fixture(scope="module")
def told() -> Debrief:
    logs = [read_log(path) for path in DEMO_PAIR]
    first, second = ([Lap(log, s) for s in split(log) if s.complete] for log in logs)
    reference, laps = min(first, key=lambda lap: lap.span.time_s), second[2:6]
    comparison = compare(reference, laps)
    run = run_of(comparison)
    plan = plan_from(comparison, None, run)
    return Debrief(comparison=comparison, circuit=None, run=run, plan=plan, names=("Ines <b>", "Tomasz"))


@pytest.fixture(scope="module")
def sections(told: Debrief) -> list[Section]:
    return debrief_sections(told)


def test_the_answer_comes_first_and_the_cautions_last(sections: list[Section]) -> None:
    ids = [s.id for s in sections]
    assert ids[:2] == ["head", "three"]
    assert ids[-2:] == ["data", "cautions"]
    assert {"ledger", "run"} < set(ids)
    assert len(ids) == len(set(ids))


def test_every_corner_that_matters_has_its_traces_and_its_marks(sections: list[Section]) -> None:
    corners = [s for s in sections if s.id.startswith("corner-")]
    assert 1 <= len(corners) <= 3
    for section in corners:
        (drawing,) = section.drawings
        assert len(drawing.lines) > 8
        assert "lowest km/h" in section.body


def test_the_ledger_s_sum_is_the_gap(told: Debrief, sections: list[Section]) -> None:
    ledger = next(s for s in sections if s.id == "ledger")
    assert difference(told.lap.gap_s) in ledger.body.split("sum")[1]
    assert f"gap {difference(told.lap.gap_s)} s" in sections[0].body


def test_a_page_holds_its_data_fetches_nothing_and_escapes_what_was_typed(
    sections: list[Section], tmp_path: Path
) -> None:
    path = tmp_path / "debrief.html"
    document = {**report_document("run", str(path), None, sections), "note": "</script><b>"}
    assert write_report(path, sections, document) is None
    text = path.read_text(encoding="utf-8")
    assert "Ines &lt;b&gt;" in text
    assert not re.search(r"(src|href)=|https?://(?!www.w3.org)|@import", text)
    data = text.partition('id="jete-data">')[2].partition("</script>")[0]
    assert json.loads(data)["note"] == "</script><b>"
    assert text.count("<svg") >= 2


@pytest.mark.usefixtures("qapp")
def test_on_paper_no_corner_is_torn(sections: list[Section], tmp_path: Path) -> None:
    path = tmp_path / "debrief.pdf"
    pages = write_report(path, sections, {})
    content = path.read_bytes()
    assert content.startswith(b"%PDF")
    assert pages is not None
    assert 2 <= pages <= 6
    # Each corner alone needs about half a page: three of them take two pages at the least.
    again = write_report(path, [s for s in sections if s.id.startswith("corner-")] * 3, {})
    assert again is not None
    assert again >= 2


def test_what_is_no_report_is_refused(sections: list[Section], tmp_path: Path) -> None:
    with pytest.raises(InputError, match="no kind of report"):
        write_report(tmp_path / "debrief.docx", sections, {})
    with pytest.raises(InputError, match="can't be written"):
        write_report(tmp_path / "nowhere" / "debrief.html", sections, {})


def test_conditions_are_told_with_what_differs() -> None:
    lap = RunSheet(circuit="Kestrel Sands", date="2026-05-02", condition="dry", track_c=23.0, tyres="medium")
    assert conditions_of(replace(lap, tyres="soft"), lap) == (
        "Kestrel Sands, 2026-05-02, dry, track 23 °C",
        "tyres medium (reference: soft)",
    )
    assert conditions_of(None, None) == ()
