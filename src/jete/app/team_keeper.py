"""The coach's table, made in the background when it is asked for; the cards of all drivers as files."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal

from jete.app.follower import Follower
from jete.session.state import Changed, Session

if TYPE_CHECKING:
    from pathlib import Path

    from jete.app.tasks import Token
    from jete.desk.team import TeamTable
    from jete.report.units import Units

MAKING_TABLE, HANDING_OUT = "making the coach's table", "writing the hand-outs"


class TeamKeeper(Follower):
    """Makes the table of the shown run's circuit and class; one that is old is made again when it is asked for."""

    WORKS = (MAKING_TABLE, HANDING_OUT)
    failed = pyqtSignal(object)
    progress = pyqtSignal(int, int)

    def _forget(self) -> None:
        if self._store.team is not None:
            self._store.show(lambda r: replace(r, team=None), also=Changed.PLAN)

    def _on_changed(self, session: Session, flags: Changed) -> None:
        """Nothing is made before it is asked for."""

    def make(self) -> None:
        """Make the table of the circuit and class of the shown run."""
        lap = self._store.session.choice.lap
        run = self._store.session.run(lap.run) if lap is not None else None
        if run is None or self._shelf.location is None:
            return
        library, number, group = self._shelf.library(), run.number, run.sheet.group

        def work(token: Token) -> TeamTable | None:
            from jete.desk.team import team_table
            from jete.report.thousandths import rows_in_thousandths

            place = library.circuits.place(number)
            if place is None:
                return None
            made = team_table(library, place, group, self.progress.emit, token.cancelled)
            return replace(made, rows=rows_in_thousandths(made.rows)) if made is not None else None

        self._tasks.start(MAKING_TABLE, work, self._on_made, self.failed.emit)

    def _on_made(self, table: TeamTable | None) -> None:
        self.progress.emit(0, 0)
        self._store.show(lambda r: replace(r, team=table), also=Changed.PLAN)

    def hand_out(self, folder: Path, units: Units) -> None:
        """Write the card of each driver's last plan on the circuit into a folder, each with his own aims only."""
        table = self._store.team
        if table is None or self._shelf.location is None:
            return
        library, circuit = self._shelf.library(), table.circuit

        def work(_: Token) -> list[str]:
            from jete.paper.apart import run_apart
            from jete.paper.sheet_files import write_sheet
            from jete.report.plan_card import card_body, card_name

            records = {r.id: r for r in library.runs()}
            last = {}
            for plan in library.plans.all():
                sheet = records[plan.run].sheet
                if (sheet.circuit, sheet.layout) == circuit and sheet.driver:
                    last[sheet.driver] = plan
            for driver, plan in last.items():
                path = folder / card_name(driver)
                run_apart(path, write_sheet, "Next run", card_body(plan.document, units), plan.document)
            return sorted(last)

        def done(drivers: list[str]) -> None:
            named = ", ".join(drivers)
            self._shelf.told.emit(
                f"Cards of {named} are in {folder.name}." if drivers else "No driver of this circuit has a plan yet."
            )

        self._tasks.start(HANDING_OUT, work, done, self.failed.emit)
