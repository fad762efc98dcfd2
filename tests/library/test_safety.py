"""What a crash, a damaged disk, a newer version or a server does to a library."""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
import tempfile
import zipfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from crash import rounds
from sqlalchemy import create_engine, text

from jete.core.errors import InputError
from jete.core.sheet import LapNote, RunSheet
from jete.library import backup, recordings
from jete.library.bring_in import bring_in
from jete.library.check import check, snapshot
from jete.library.database import NEWEST, migrate, version_of
from jete.library.errors import NewerLibraryError, ReadOnlyError
from jete.library.library import Library
from jete.library.location import FILE, Location
from jete.library.models import Base
from jete.library.opening import open_library

if TYPE_CHECKING:
    from collections.abc import Iterator

INES = Path("src/jete/app/assets/demo/ines-karlsby-run-1.parquet")


def reopened(location: Location) -> tuple[Library, list[str]]:
    library, found = open_library(location)
    return library, [f.what for f in found]


def test_migrations_make_the_tables_of_the_models() -> None:
    engine = create_engine("sqlite://")
    migrate(engine)
    with engine.connect() as connection:
        assert version_of(connection) == NEWEST
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []
    engine.dispose()


def test_killed_at_random_moments_nothing_confirmed_is_lost(tmp_path: Path) -> None:
    assert rounds(tmp_path, 3, seed=1) == []


def test_a_library_of_a_newer_version_opens_to_read_only(library: Library, location: Location) -> None:
    number = bring_in(library, INES).run
    with library.writing() as session:
        session.execute(text("UPDATE alembic_version SET version_num = '9999'"))
    library.close()
    with pytest.raises(NewerLibraryError, match="newer version"):
        open_library(location)
    old, _ = open_library(location, read_only=True)
    assert old.lap(old.run(number), 3).span.complete
    with pytest.raises(ReadOnlyError):
        old.note_run(number, RunSheet())
    old.close()


def test_left_overs_of_a_crash_are_set_apart(library: Library, location: Location) -> None:
    run = library.run(bring_in(library, INES).run)
    library.close()
    kept = recordings.path_of(location.folder, run.digest)
    orphan = kept.with_name("0" * 64 + ".parquet")
    shutil.copy(kept, orphan)
    os.utime(orphan, (1.0, 1.0))
    (location.folder / recordings.FOLDER / "999999999-7f.unfinished").write_bytes(b"half")
    again, found = reopened(location)
    assert sorted(found) == ["a file that was not finished", "a recording that was not confirmed"]
    assert kept.exists()
    assert len(list((location.folder / "quarantine").iterdir())) == 2
    again.close()


def test_a_missing_recording_marks_its_run_until_it_is_back(library: Library, location: Location) -> None:
    run = library.run(bring_in(library, INES).run)
    path = recordings.path_of(location.folder, run.digest)
    shutil.move(path, path.with_suffix(".away"))
    assert [f.what for f in check(library)] == ["channel data is gone"]
    assert library.run(run.id).damaged == "is gone"
    shutil.move(path.with_suffix(".away"), path)
    assert check(library, thorough=True) == []
    assert library.run(run.id).damaged is None


def test_the_thorough_check_sees_a_changed_byte(library: Library, location: Location) -> None:
    run = library.run(bring_in(library, INES).run)
    path = recordings.path_of(location.folder, run.digest)
    data = bytearray(path.read_bytes())
    data[5000] ^= 1
    path.write_bytes(bytes(data))
    assert check(library) == []
    assert [f.what for f in check(library, thorough=True)] == ["channel data is damaged"]


def test_a_broken_database_makes_way_for_its_snapshot(library: Library, location: Location) -> None:
    number = bring_in(library, INES).run
    library.close()
    reopened(location)[0].close()
    file = location.folder / FILE
    file.write_bytes(b"this is no database at all, but long enough to be looked at" * 100)
    again, found = reopened(location)
    assert found == ["the database can't be read"]
    assert again.run(number).source == INES.name
    again.close()


def test_a_backup_brings_a_library_back_elsewhere(library: Library, tmp_path: Path) -> None:
    number = bring_in(library, INES, {"driver": "Ines Karlsby"}).run
    assert backup.back_up(library.location, tmp_path / "all.zip") == 1
    other = Location(tmp_path / "other")
    assert backup.restore(tmp_path / "all.zip", other) == 1
    back = Library(other)
    assert back.run(number).sheet.driver == "Ines Karlsby"
    assert back.lap(back.run(number), 3).span.complete
    back.close()


def test_a_damaged_backup_leaves_the_library_as_it_is(library: Library, location: Location, tmp_path: Path) -> None:
    number = bring_in(library, INES).run
    backup.back_up(location, tmp_path / "all.zip")
    with zipfile.ZipFile(tmp_path / "all.zip") as whole, zipfile.ZipFile(tmp_path / "part.zip", "w") as part:
        for name in [n for n in whole.namelist() if not n.endswith(".parquet")]:
            part.writestr(name, whole.read(name))
    for broken in ("part.zip", "none.zip"):
        with pytest.raises(InputError, match=r"damaged|no such file"):
            backup.restore(tmp_path / broken, location)
    assert library.run(number).source == INES.name


@pytest.fixture
def server() -> Iterator[str]:
    """A PostgreSQL server of the test's own, where one is installed."""
    tools = max(Path("/usr/lib/postgresql").glob("*/bin"), default=None)
    if tools is None:
        pytest.skip("PostgreSQL is not installed")
    as_root = os.geteuid() == 0
    if as_root and shutil.which("runuser") is None:
        pytest.skip("PostgreSQL does not run as root, and runuser is missing")
    before = ["runuser", "-u", "nobody", "--"] if as_root else []
    with tempfile.TemporaryDirectory(prefix="jete-server-") as folder:
        if as_root:
            shutil.chown(folder, "nobody")

        def run(*command: object) -> None:
            subprocess.run([*before, *map(str, command)], check=True, capture_output=True, cwd="/")

        data, port = Path(folder) / "data", _free_port()
        run(tools / "initdb", "-D", data, "-A", "trust", "-U", "jete")
        options = f"-p {port} -c listen_addresses=127.0.0.1 -c unix_socket_directories=''"
        run(tools / "pg_ctl", "-D", data, "-l", Path(folder) / "log", "-o", options, "-w", "start")
        yield f"postgresql+psycopg://jete@127.0.0.1:{port}/postgres"
        run(tools / "pg_ctl", "-D", data, "-m", "immediate", "stop")


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port: int = probe.getsockname()[1]
    return port


def test_a_team_shares_a_server_and_a_folder(server: str, tmp_path: Path) -> None:
    location = Location(tmp_path / "shared", server)
    one, found = open_library(location)
    assert found == []
    number = bring_in(one, INES, {"driver": "Ines Karlsby", "circuit": "Kestrel Sands"}).run
    two = Library(location)
    assert two.run(number).sheet.driver == "Ines Karlsby"
    assert two.lap(two.run(number), 3).span.complete
    two.remove(number)
    assert one.runs() == []
    one.close()
    two.close()


def test_many_hands_at_once_lose_nothing(library: Library) -> None:
    number = bring_in(library, INES).run
    laps = [s.number for s in library.run(number).laps if s.complete]
    with ThreadPoolExecutor(4) as hands:
        list(hands.map(lambda n: library.note_lap(number, n, LapNote(note=f"note {n}")), laps))
        read = list(hands.map(lambda n: library.lap(library.run(number), n).span.number, laps))
    assert read == laps
    assert [library.run(number).notes.of(n).note for n in laps] == [f"note {n}" for n in laps]


def test_a_failed_change_changes_nothing(library: Library) -> None:
    number = bring_in(library, INES, {"driver": "Ines Karlsby"}).run

    def half_done() -> None:
        with library.writing() as session:
            session.execute(text("UPDATE runs SET note = 'half'"))
            raise ArithmeticError

    with pytest.raises(ArithmeticError):
        half_done()
    assert library.run(number).sheet.note == ""


def test_three_snapshots_stay(library: Library, location: Location) -> None:
    bring_in(library, INES)
    folder = location.folder / "snapshots"
    for day in range(5):
        snapshot(location)
        newest = max(folder.glob("*.sqlite"))
        os.utime(newest.rename(folder / f"2020010{day}.sqlite"), (1.0, 1.0))
    assert sorted(f.stem for f in folder.glob("*.sqlite")) == ["20200102", "20200103", "20200104"]


def test_what_was_there_before_a_restore_is_kept(library: Library, location: Location, tmp_path: Path) -> None:
    bring_in(library, INES)
    backup.back_up(location, tmp_path / "all.zip")
    library.close()
    backup.restore(tmp_path / "all.zip", location)
    assert any("before-restore" in f.name for f in (location.folder / "quarantine").iterdir())


def test_a_backup_that_reaches_outside_is_refused(location: Location, tmp_path: Path) -> None:
    with zipfile.ZipFile(tmp_path / "odd.zip", "w") as odd:
        odd.writestr("jete.json", '{"schema": "jete.backup/1", "recordings": 0}')
        odd.writestr("../outside", "x")
    with pytest.raises(InputError, match="no backup"):
        backup.restore(tmp_path / "odd.zip", location)
    assert not (tmp_path / "outside").exists()
