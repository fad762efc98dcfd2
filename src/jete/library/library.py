"""The library: everything driven, with what was noted about it.  Start reading here.

A change is confirmed when its method returns: it is committed and synced by then.  A
recording's file is there before the row that names it, so that no row points nowhere.
"""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from typing import TYPE_CHECKING

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from jete.core.errors import InputError
from jete.core.log.lap import LapSpan, Log
from jete.core.motion.pieces import piece_times
from jete.core.motion.split import split_by_line
from jete.formats.mapping import ColumnMap, from_json, to_json
from jete.library import models, recordings
from jete.library.circuit_book import CircuitBook
from jete.library.circuits import forget_corners, line_document, line_from, used_circuits
from jete.library.corrections import read_corrections, write_corrections
from jete.library.edits import write_lap_note, write_line, write_sheet
from jete.library.errors import CircuitsChangedError, ReadOnlyError
from jete.library.film_book import FilmBook
from jete.library.guide_book import GuideBook
from jete.library.location import Location
from jete.library.pass_book import PassBook
from jete.library.plan_book import PlanBook
from jete.library.records import RunRecord, read_runs
from jete.library.storage import Storage
from jete.library.target_book import TargetBook
from jete.notes.carry import carried
from jete.notes.merge import Conflict, merged
from jete.notes.sheet import WEATHER, LapNote, LapSheet, RunSheet, carried_on

if TYPE_CHECKING:
    from collections.abc import Collection, Mapping, Sequence

    from jete.core.motion.one_line import LineSource
    from jete.notes.corrections import Correction


class Library(Storage):
    """Runs, laps and notes at one place.

    Methods may be called from any thread; each is a transaction of its own.
    """

    def __init__(self, location: Location, *, read_only: bool = False) -> None:
        super().__init__(location, read_only=read_only)
        self.circuits = CircuitBook(self)
        self.passes = PassBook(self)
        self.guides = GuideBook(self)
        self.films = FilmBook(self)
        self.plans = PlanBook(self)
        self.targets = TargetBook(self)

    # --- bringing in

    def known(self, source_digest: str) -> int | None:
        """The run that came from a file of this content, in the bin or not; None where there is none."""
        with self.reading() as session:
            return _run_from(session, source_digest)

    def holds_recording(self, number: int) -> bool:
        """Whether the channel data of a run is there, and undamaged as far as is known."""
        run = self.run(number)
        return run.damaged is None and recordings.path_of(self.location.folder, run.digest).exists()

    def store_again(self, number: int, log: Log) -> None:
        """Put the channel data of a run that had lost it back in its place; what is noted stays."""
        digest = recordings.store(self.location.folder, log)
        with self.writing() as session:
            run = session.get_one(models.Run, number)
            old = run.recording
            if digest != old.digest:
                source, old.source_digest = old.source_digest, f"{old.source_digest} gone"
                session.flush()
                run.recording = models.Recording(
                    digest=digest, source_digest=source, source=old.source, path=old.path, repairs=old.repairs
                )
                session.flush()
                session.delete(old)
            run.recording.damaged = None
        recordings.confirm(self.location.folder, digest)

    def next_sheet(self, at: tuple[str, str], device: str, date: str) -> RunSheet:
        """What a new run takes over from the one that was brought in last.

        Only what was noted at the same circuit on the same day goes along: the weather of the
        day, and from the same device also who drove, and what.

        Args:
            at: circuit and layout of the new run.
            device: what its logger is known by.
            date: of the new run.
        """
        new = RunSheet(circuit=at[0], layout=at[1], date=date)
        with self.reading() as session:
            found = session.execute(
                select(models.Run.id, models.Run.device).order_by(models.Run.id.desc()).limit(1)
            ).first()
        last = self.run(found[0]).sheet if found else None
        if found is None or last is None or last.date != date:
            return new
        if (last.circuit, last.layout) != at:
            return new
        return carried_on(last) if found[1] == device else replace(new, **{n: getattr(last, n) for n in WEATHER})

    def add(
        self, log: Log, spans: Sequence[LapSpan], source_digest: str, sheet: RunSheet,
        *, path: str = "", line: LineSource | None = None, device: str = "",
    ) -> int:  # fmt: skip
        """Bring in a run; returns its number.  It is confirmed when this returns."""
        return self.add_or_find(log, spans, source_digest, sheet, path=path, line=line, device=device)[0]

    def add_or_find(
        self, log: Log, spans: Sequence[LapSpan], source_digest: str, sheet: RunSheet,
        *, path: str = "", line: LineSource | None = None, device: str = "", seen: frozenset[int] | None = None,
    ) -> tuple[int, bool]:  # fmt: skip
        """As :meth:`add`; the number of the run, and whether another hand had brought it in meanwhile.

        Raises:
            CircuitsChangedError: other circuits have runs now than those that were ``seen``.
        """
        if self.read_only:
            raise ReadOnlyError
        digest = recordings.store(self.location.folder, log)
        with self.writing() as session:
            number = _run_from(session, source_digest)
            known = number is not None
            if number is None:
                if seen is not None and used_circuits(session) != seen:
                    raise CircuitsChangedError
                recording = session.get(models.Recording, digest) or models.Recording(
                    digest=digest, source_digest=source_digest, source=log.source, path=path,
                    repairs=[[r.channel, r.what, r.count] for r in log.repairs],
                )  # fmt: skip
                number = _add_run(session, recording, log, spans, sheet, line, device)
        recordings.confirm(self.location.folder, digest)
        return number, known

    def line_of(self, run: RunRecord) -> LineSource | None:
        """The start line that is kept for a run's circuit."""
        with self.reading() as session:
            event = session.get_one(models.Run, run.id).event
            return line_from(event.circuit.line) if event is not None and event.circuit.line else None

    def split_again(self, run: RunRecord, line: LineSource) -> None:
        """Split a run at another start line, which its circuit keeps; notes go with the time they are about.

        Raises:
            InputError: the line is not crossed twice; the laps stay as they are.
        """
        log = self.log(run)
        spans = split_by_line(log, line)
        if not any(s.complete for s in spans):
            what = "the path does not cross this line twice."
            raise InputError(run.source, what, "Put it where every lap comes by.")
        self.circuits.forget_laps()
        self._lay(run, log, (spans, carried(run.laps, run.notes, spans)), line)

    def split_back(self, run: RunRecord, line: LineSource | None) -> None:
        """Give a run the laps and notes of a record from before, and its circuit the line it had."""
        self.circuits.forget_laps()
        self._lay(run, self.log(run), (run.laps, run.notes), line)

    def _lay(self, run: RunRecord, log: Log, laps: tuple[Sequence[LapSpan], LapSheet], line: LineSource | None) -> None:
        spans, notes = laps
        edited = self.circuits.edited(run.id)
        with self.writing() as session:
            session.execute(delete(models.Lap).where(models.Lap.run_id == run.id))
            session.execute(delete(models.Pass).where(models.Pass.run_id == run.id))
            forget_corners(session, run.id)
            session.add_all(_lap_rows(run.id, log, spans))
            session.flush()
            for number, note in notes.notes:
                write_lap_note(session, run.id, number, note)
            document = line_document(line)
            if document is not None or line is None:
                write_line(session, run.sheet.circuit, run.sheet.layout, document)
        if edited is not None:
            self.circuits.put_back(run.id, *edited)

    # --- noting down

    def note_run(self, number: int, sheet: RunSheet) -> None:
        """Put a sheet on a run."""
        with self.writing() as session:
            write_sheet(session, session.get_one(models.Run, number), sheet)

    def change_sheets(self, changes: Mapping[int, tuple[RunSheet, RunSheet]]) -> tuple[Conflict, ...]:
        """Write what was changed of sheets, before and after, all or none; what somebody else changed of the same is told."""
        conflicts: list[Conflict] = []
        with self.writing() as session:
            now = {r.id: r.sheet for r in read_runs(session, only=changes)}
            now |= {r.id: r.sheet for r in read_runs(session, only=changes, removed=True)}
            for number, (before, after) in changes.items():
                sheet, apart = merged(before, after, now.get(number, before))
                conflicts += apart
                write_corrections(session, number, None, (now.get(number, before), sheet))
                write_sheet(session, session.get_one(models.Run, number), sheet)
        return tuple(conflicts)

    def change_lap_note(self, run: int, lap: int, before: LapNote, after: LapNote) -> tuple[Conflict, ...]:
        """Write what was changed of a lap's note; what somebody else changed of the same is told."""
        with self.writing() as session:
            query = select(models.Lap).where(models.Lap.run_id == run, models.Lap.number == lap)
            row = session.scalars(query).first()
            now = before if row is None else LapNote(row.aside, row.reason, row.note, row.star)
            note, conflicts = merged(before, after, now)
            write_corrections(session, run, lap, (now, note))
            write_lap_note(session, run, lap, note)
        return conflicts

    def note_lap(self, run: int, lap: int, note: LapNote) -> None:
        """Put a note on a lap."""
        with self.writing() as session:
            write_lap_note(session, run, lap, note)

    def setup_changes(self, number: int) -> list[tuple[datetime, str]]:
        """The dated set-up changes of a run, oldest first."""
        with self.reading() as session:
            return [(c.made_at, c.text) for c in session.get_one(models.Run, number).changes]

    def corrections(self, runs: Collection[int]) -> dict[int, tuple[Correction, ...]]:
        """What the notes of runs said before they were corrected, by run, oldest first."""
        with self.reading() as session:
            return read_corrections(session, runs)

    def remove(self, number: int) -> None:
        """Put a run into the bin; nothing of it is deleted."""
        with self.writing() as session:
            session.get_one(models.Run, number).removed_at = datetime.now(tz=UTC)

    def restore(self, number: int) -> None:
        """Take a run out of the bin."""
        with self.writing() as session:
            session.get_one(models.Run, number).removed_at = None

    def pin(self, sheet: RunSheet, run: int, lap: int) -> None:
        """Always hold this lap against those of its circuit, layout and class."""
        with self.writing() as session:
            self._unpin(session, sheet)
            session.add(models.Pin(circuit=sheet.circuit, layout=sheet.layout, group=sheet.group, run_id=run, lap=lap))

    def unpin(self, sheet: RunSheet) -> None:
        """Hold nothing against the laps of a circuit, layout and class by itself."""
        with self.writing() as session:
            self._unpin(session, sheet)

    @staticmethod
    def _unpin(session: Session, sheet: RunSheet) -> None:
        p = models.Pin
        session.execute(delete(p).where(p.circuit == sheet.circuit, p.layout == sheet.layout, p.group == sheet.group))

    def pins(self) -> dict[tuple[str, str, str], tuple[int, int]]:
        """Run and lap that are pinned, by circuit, layout and class."""
        with self.reading() as session:
            return {(p.circuit, p.layout, p.group): (p.run_id, p.lap) for p in session.scalars(select(models.Pin))}

    def column_maps(self) -> list[ColumnMap]:
        """What columns were said to be."""
        with self.reading() as session:
            return [from_json(row.document) for row in session.scalars(select(models.KnownColumns))]

    def keep_column_map(self, chosen: ColumnMap) -> None:
        """Remember what the columns of a kind of file are."""
        names = "\n".join(chosen.names).casefold()
        with self.writing() as session:
            session.execute(delete(models.KnownColumns).where(models.KnownColumns.names == names))
            session.add(models.KnownColumns(names=names, document=to_json(chosen)))


def _run_from(session: Session, source_digest: str) -> int | None:
    query = select(models.Run.id).join(models.Recording).where(models.Recording.source_digest == source_digest)
    return session.scalars(query).first()


def _add_run(
    session: Session, recording: models.Recording, log: Log, spans: Sequence[LapSpan], sheet: RunSheet,
    line: LineSource | None, device: str,
) -> int:  # fmt: skip
    """The rows of a new run; returns its number."""
    run = models.Run(recording=recording, imported_at=datetime.now(tz=UTC), device=device, placed=True)
    session.add(run)
    session.flush()
    session.add_all(_lap_rows(run.id, log, spans))
    write_sheet(session, run, sheet)
    document = line_document(line)
    if document is not None and run.event is not None and run.event.circuit.line is None:
        write_line(session, sheet.circuit, sheet.layout, document)
    return run.id


def _lap_rows(run: int, log: Log, spans: Sequence[LapSpan]) -> list[models.Lap]:
    rows = []
    for k, s in enumerate(spans):
        thirds = piece_times(log, s) or (None, None, None)
        rows.append(models.Lap(
            run_id=run, position=k, number=s.number, start_s=s.start_s, end_s=s.end_s, length_m=s.length_m, complete=s.complete,
            why=s.why, first_s=thirds[0], second_s=thirds[1], third_s=thirds[2],
        ))  # fmt: skip
    return rows
