"""The guide as files: what is in them can be read back."""

from __future__ import annotations

import json
import os
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtWidgets import QApplication

from jete.core.errors import InputError
from jete.desk.guide import Made, guide_in, guide_of
from jete.desk.passes import make_passes
from jete.formats import geojson
from jete.library.bring_in import bring_in
from jete.library.exchange import take_in
from jete.library.guide_records import OwnWords, Photo
from jete.library.library import Library
from jete.library.location import Location
from jete.paper.guide_files import write_guide_file
from jete.paper.guide_pdf import write_bag
from jete.report.guide import FIELDS, guide_document, guide_in_words, guide_lines, guide_markdown
from jete.report.guide_versions import differences, guide_from
from jete.views.guide.photos import MOST_PX, jpeg_from, jpeg_of
from known_laps import DEMO, DEMO_PAIR, drawn, lap_of


@pytest.fixture(scope="module")
def made(tmp_path_factory: pytest.TempPathFactory) -> Made:
    """Ines' best lap of the demo, with landmarks, the spread of her run, and a coach's words."""
    library = Library(Location(tmp_path_factory.mktemp("shelf")))
    bring_in(library, DEMO_PAIR[0], {"circuit": "Kestrel Sands", "driver": "Ines Karlsby"})
    place = library.circuits.places()[0]
    take_in(library, place, geojson.read(DEMO / "kestrel-sands.geojson"))
    known = library.circuits.places()[0]
    make_passes(library, known, lambda *_: None, lambda: False)
    library.guides.write(known, 1, "turn_in", OwnWords("when the <post> passes the mirror"))
    return guide_in(library, 1, library.lap(library.run(1), 4))


def text_of(path: Path) -> tuple[str, int]:
    document = QPdfDocument(None)
    document.load(str(path))
    return "".join(document.getAllText(k).text() for k in range(document.pageCount())), document.pageCount()


def test_every_corner_has_a_card_told_from_landmarks(made: Made) -> None:
    guide = guide_in_words(made)
    assert [c.name for c in guide.cards][:2] == ["Harbour", "Marram"]
    assert len(guide.cards) == 12
    assert guide.laps == 5
    first = guide.cards[0]
    assert first.line.startswith("brake ")
    assert "board" in first.field("brake")
    assert "% of the hardest press" in first.field("brake")
    assert "good laps" in " ".join(f.shown for c in guide.cards for f in c.fields)
    assert first.field("care") == "the harbour wall is close on the way out"


def test_own_words_stand_in_the_place_of_the_measured_and_both_are_kept(made: Made) -> None:
    field = next(f for f in guide_in_words(made).cards[0].fields if f.key == "turn_in")
    assert field.shown == "when the <post> passes the mirror"
    assert field.measured
    assert field.measured != field.shown


def test_pages_of_the_whole_guide_can_be_read_back(qapp: QApplication, made: Made, tmp_path: Path) -> None:
    write_guide_file(tmp_path / "guide.pdf", made)
    text, pages = text_of(tmp_path / "guide.pdf")
    assert 2 <= pages <= 6
    assert all(name in text for name in ("Kestrel Sands", "Harbour", "Homeward", "when the <post> passes the mirror"))
    assert "Closed circuits only" in text


def test_drawings_are_lines_and_words_in_the_pdf(qapp: QApplication, made: Made, tmp_path: Path) -> None:
    write_guide_file(tmp_path / "guide.pdf", made)
    text, _ = text_of(tmp_path / "guide.pdf")
    assert text.count("apex") >= 12
    assert "throttle" in text
    assert b"/Subtype /Image" not in (tmp_path / "guide.pdf").read_bytes()


def test_pictures_on_cards_are_in_every_file_that_can_show_them(qapp: QApplication, made: Made, tmp_path: Path) -> None:
    image = QImage(320, 200, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.darkCyan)
    pictured = replace(made, photos=(Photo(1, 2, "the <kerb>", jpeg_of(image)),))
    for ending in ("html", "pdf"):
        write_guide_file(tmp_path / f"guide.{ending}", pictured)
    page = (tmp_path / "guide.html").read_text(encoding="utf-8")
    assert page.count('src="data:image/jpeg;base64,') == 1
    assert "the &lt;kerb&gt;" in page
    assert b"/Subtype /Image" in (tmp_path / "guide.pdf").read_bytes()


def test_a_document_is_read_back_and_held_beside_the_guide(made: Made) -> None:
    guide = guide_in_words(made)
    back = guide_from(json.loads(json.dumps(guide_document(guide))))
    assert differences(back, guide) == []
    other = guide_in_words(replace(made, typed={(3, "exit"): OwnWords("use all the road")}))
    found = differences(guide, other)
    assert [(d.corner.split()[0], d.field) for d in found] == [("1", "turn in"), ("3", "exit")]
    assert found[1].second == "use all the road"


@pytest.mark.parametrize("small", [True, False])
def test_the_helmet_bag_is_one_page_with_a_line_a_corner(
    qapp: QApplication, made: Made, tmp_path: Path, small: bool  # noqa: FBT001
) -> None:  # fmt: skip
    assert write_bag(tmp_path / "bag.pdf", guide_in_words(made), small=small) == 1
    text, pages = text_of(tmp_path / "bag.pdf")
    assert pages == 1
    assert all(c.name in text for c in guide_in_words(made).cards)


def test_the_web_page_needs_nothing_else_and_reads_words_as_words(made: Made, tmp_path: Path) -> None:
    write_guide_file(tmp_path / "guide.html", made)
    page = (tmp_path / "guide.html").read_text(encoding="utf-8")
    assert "when the &lt;post&gt; passes the mirror" in page
    assert "<svg" in page
    assert "http" not in page
    assert "src=" not in page


def test_the_document_has_a_card_a_corner_with_all_fields(made: Made, tmp_path: Path) -> None:
    write_guide_file(tmp_path / "guide.json", made)
    data = json.loads((tmp_path / "guide.json").read_text(encoding="utf-8"))
    assert data == json.loads(json.dumps(guide_document(guide_in_words(made))))
    assert data["schema"] == "jete.guide/1"
    assert all(set(FIELDS) <= set(card) for card in data["cards"])
    assert data["cards"][0]["typed"] == {"turn_in": "when the <post> passes the mirror"}


def test_a_file_alone_makes_a_guide_in_metres(tmp_path: Path) -> None:
    plain = guide_in_words(guide_of(lap_of(drawn(5).reference)))
    assert plain.circuit == ""
    assert "at " in plain.cards[0].field("turn_in")
    assert guide_markdown(plain).startswith("# Lap guide")


def test_words_are_no_markup_and_steer_nothing() -> None:
    plain = replace(guide_in_words(guide_of(lap_of(drawn(5).reference))), lap="<script>a\x1b[2J")
    assert r"\<script\>a\\x1b\[2J" in guide_markdown(plain)
    assert "<" not in guide_markdown(plain).replace(r"\<", "")
    assert "\x1b" not in guide_markdown(plain) + guide_lines(plain)


def test_a_photograph_of_108_megapixels_is_made_small(tmp_path: Path, qapp: QApplication) -> None:
    large = QImage(12_000, 9_000, QImage.Format.Format_RGB888)
    large.fill(0x808080)
    large.save(str(tmp_path / "large.jpg"), "JPEG")
    small = QImage.fromData(jpeg_from(tmp_path / "large.jpg"))
    assert max(small.width(), small.height()) == MOST_PX
    os.mkfifo(tmp_path / "pipe.jpg")
    with pytest.raises(InputError, match="no file"):
        jpeg_from(tmp_path / "pipe.jpg")


def test_an_ending_that_is_none_is_refused(made: Made, tmp_path: Path) -> None:
    with pytest.raises(InputError, match="no kind of guide"):
        write_guide_file(tmp_path / "guide.doc", made)
    with pytest.raises(InputError, match="can't be written"):
        write_guide_file(tmp_path / "none" / "guide.md", made)


def test_the_line_for_the_helmet_bag_is_in_own_words_where_there_are_some(made: Made) -> None:
    words = {(1, "brake"): OwnWords("at the second cone"), (1, "pick_up"): OwnWords("when it is straight")}
    card = guide_in_words(replace(made, typed=words)).cards[0]
    assert card.line.startswith("brake at the second cone · gear ")
    assert card.line.endswith("power when it is straight")


def test_a_full_disk_leaves_the_guide_that_was_there(
    made: Made, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Qt does not say that a disk is full: what it could write would take the old file's place."""
    path = tmp_path / "guide.pdf"
    path.write_bytes(b"the old one")

    def full(*_: object) -> int:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(Path, "write_bytes", full)
    with pytest.raises(InputError, match="No space left"):
        write_guide_file(path, made)
    assert path.read_bytes() == b"the old one"
    assert [f.name for f in tmp_path.iterdir()] == ["guide.pdf"]
