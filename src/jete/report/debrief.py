"""A debrief to hand out: what a comparison, a run and its plan say, section by section, for paper and for a page."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

import numpy as np

from jete.core.causes.verdict.to_be_had import to_be_had
from jete.core.compare import stakes_in
from jete.desk.planned import aims_of
from jete.notes.sheet import differences
from jete.report.card import card_of
from jete.report.contract import comparison_document
from jete.report.corner import doubts_of, told_findings
from jete.report.drawings import map_drawing
from jete.report.pair_drawing import pair_drawing
from jete.report.plan import expected_words, plan_document, target_words
from jete.report.positions import words_of_positions
from jete.report.sentences import short_words
from jete.report.sheets import filled
from jete.report.thousandths import in_thousandths, run_in_thousandths
from jete.report.three import Often, that_matter, three_sentences
from jete.report.units import METRIC, Units
from jete.report.what_if import CAUTIONS
from jete.report.words import KIND_WORDS, SURE, difference, lap_time, times_that_add_up, torn_words

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.causes.verdict.result import Comparison, CornerLoss, LapComparison
    from jete.core.circuit.on_axis import CircuitOnAxis
    from jete.core.run import RunSummary
    from jete.desk.plans import RunPlan
    from jete.notes.sheet import RunSheet
    from jete.report.drawings import Drawing

# What rounds to nothing is not told.
LEAST_TOLD_S = 0.0005
# Causes that a row of the ledger has room for.
MOST_CAUSES = 3


@dataclass(frozen=True)
class Section:
    """A part that stays together: its title, its body as HTML, and the pictures under it."""

    id: str
    title: str
    body: str
    drawings: tuple[Drawing, ...] = ()


@dataclass(frozen=True, eq=False, kw_only=True)
class Debrief:
    """What is told of.

    Attributes:
        comparison: of the lap, or of the run's laps.
        circuit: on the reference's axis, with its landmarks; None without.
        run: of several laps, what they have in common.
        plan: for the next run; None where no run is known.
        names: of the reference and of the lap or run.
        conditions: what is noted about both, and how they differ, in words.
    """

    comparison: Comparison
    circuit: CircuitOnAxis | None
    run: RunSummary | None = None
    plan: RunPlan | None = None
    names: tuple[str, str] = ("", "")
    conditions: tuple[str, ...] = ()

    @property
    def lap(self) -> LapComparison:
        """The lap that is told of: of a run the middle one of those that count."""
        laps = self.comparison.laps
        if self.run is not None:
            laps = tuple(self.run.counting(laps))
        return sorted(laps, key=lambda c: c.passage.lap.span.time_s)[len(laps) // 2]


def debrief_sections(told: Debrief, units: Units = METRIC) -> list[Section]:
    """The sections of a debrief in the order in which they are read: the answer first."""
    run = None if told.run is None else run_in_thousandths(told.run)
    told = replace(told, comparison=in_thousandths(told.comparison), run=run)
    had = to_be_had(told.lap.corners, Often.of(told.run).shares or None)
    parts = [_head(told), _three(told, had, units)]
    parts += [_corner(told, told.lap.corners[h.corner - 1], units) for h in that_matter(had)]
    parts.append(_ledger(told, units))
    if told.run is not None:
        parts.append(_run(told, told.run))
    if told.plan is not None and told.plan.aims:
        parts.append(_aims(told.plan, units))
    return [*parts, _quality(told, units), Section("cautions", "Before you drive", _list(CAUTIONS))]


def conditions_of(reference: RunSheet | None, lap: RunSheet | None) -> tuple[str, ...]:
    """What is noted of the run's conditions, and how they differ from the reference's."""
    if lap is None:
        return ()
    told = [lap.circuit, lap.date, lap.condition, f"track {lap.track_c:g} °C" if lap.track_c is not None else ""]
    noted = ", ".join(x for x in told if x)
    apart = "; ".join(differences(lap, reference)) if reference is not None else ""
    return tuple(x for x in (noted, apart) if x)


def report_document(kind: str, out: str, pages: int | None, sections: Sequence[Section]) -> dict[str, Any]:
    """The document of ``jete report --json``."""
    return {
        "schema": "jete.report/1",
        "kind": kind,
        "out": out,
        "pages": pages,
        "sections": [{"id": s.id, "title": s.title} for s in sections],
    }


def debrief_document(told: Debrief, out: str, sections: Sequence[Section]) -> dict[str, Any]:
    """What a debrief holds as its data: its document, and that of the comparison."""
    runs = [(told.comparison, told.run)] if told.run is not None else []
    return {
        **report_document("run" if runs else "lap", out, None, sections),
        "comparison": comparison_document(told.comparison, runs, told.circuit),
    }


def _list(lines: Sequence[str]) -> str:
    return filled("list.html.j2", lines=lines)


def _table(heads: Sequence[tuple[str, bool]], rows: Sequence[Sequence[str]]) -> str:
    """A table: its heads, each with whether its column holds numbers, and its rows as text."""
    return filled("table.html.j2", heads=heads, rows=rows)


def _head(told: Debrief) -> Section:
    reference, lap = told.comparison.reference.lap, told.lap.passage.lap
    count = len(told.comparison.laps)
    times = times_that_add_up(reference.span.time_s, lap.span.time_s)
    shown = f"lap {lap.span.number}" if told.run is None else f"{told.run.counted} of {count} laps"
    lines = [
        f"{told.names[1] or lap.label}, {shown}: {times[1]}"
        + (" on the middle one of them" if told.run is not None else ""),
        f"against {told.names[0] or reference.label}, lap {reference.span.number}: {times[0]}",
        f"gap {difference(told.lap.gap_s)} s",
        *told.conditions,
    ]
    road = told.comparison.road
    drawings: tuple[Drawing, ...] = ()
    if road.path is not None:
        along = np.linspace(0.0, road.length_m, 400)
        apexes = np.array([c.apex_m for c in told.comparison.corners])
        at = road.path(apexes)
        corners = [(c.shown, float(x), float(y)) for c, (x, y) in zip(told.comparison.corners, at, strict=True)]
        drawings = (map_drawing(road.path(along), corners),)
    title = told.circuit.name if told.circuit is not None and told.circuit.name else "Debrief"
    return Section("head", title, _list(lines), drawings)


def _three(told: Debrief, had: Sequence[Any], units: Units) -> Section:
    stakes = stakes_in(told.comparison)
    sentences = three_sentences(had, told.lap.corners, stakes, Often.of(told.run), units)
    return Section("three", "Where most is to be had", _list(sentences or ["Nothing that is worth a word."]))


def _corner(told: Debrief, loss: CornerLoss, units: Units) -> Section:
    passages = (told.comparison.reference, told.lap.passage)
    words = [
        f"{t.text} {difference(t.seconds)} s" if t.seconds is not None else t.text
        for t in told_findings(loss, passages, told.circuit, units)
    ]
    marks = _table(
        [("mark", False), ("reference", True), ("lap", True), ("difference", True)],
        [(c.title, c.reference, c.lap, c.difference) for c in card_of(loss, units)],
    )
    name = loss.corner.called
    key = "Dashed: the reference. Full: the lap. Flags at the top: brake; at the foot: pick-up."
    return Section(
        f"corner-{loss.corner.number}",
        f"Corner {name} {difference(loss.gap_s)} s",
        f"{_list(words)}{marks}<p><small>{key}</small></p>",
        (pair_drawing(*passages, loss, units),),
    )


def _ledger(told: Debrief, units: Units) -> Section:
    running, rows = 0.0, []
    for loss in told.lap.corners:
        running += loss.gap_s
        causes = [
            f"{'' if f.confidence >= SURE else 'possibly '}{short_words(f, loss.marks, units)} {difference(f.loss_s)}"
            for f in loss.findings[:MOST_CAUSES]
        ]
        name = loss.corner.called
        rest = difference(loss.unexplained_s)
        rows.append((name, difference(loss.gap_s), difference(running), ", ".join(causes), rest))
    total = sum(loss.unexplained_s for loss in told.lap.corners)
    rows.append(("sum", difference(running), "", "", difference(total)))
    heads = [("corner", False), ("gap s", True), ("running s", True), ("causes", False), ("unexplained s", True)]
    return Section("ledger", "The ledger", _table(heads, rows))


def _run(told: Debrief, run: RunSummary) -> Section:
    rows = [
        (
            c.corner.called,
            difference(c.mean_s),
            f"{c.spread_s:.3f}",
            difference(c.best_s),
            ", ".join(f"{KIND_WORDS[x.kind]} on {x.laps} of {run.counted}" for x in c.causes[:MOST_CAUSES]),
        )
        for c in run.corners
    ]
    heads = [("corner", False), ("mean s", True), ("spread s", True), ("best s", True), ("how often", False)]
    laps = [c.passage.lap for c in told.comparison.laps]
    aside = [f"Lap {lap.span.number} is set aside: {why}." for lap, why in zip(laps, run.why, strict=True) if why]
    best = f"Best passes together {lap_time(run.best_sum_s)}, best lap {lap_time(laps[run.best_lap].span.time_s)}."
    return Section("run", "The run", _table(heads, rows) + _list([best, *aside]))


def _aims(plan: RunPlan, units: Units) -> Section:
    aims = aims_of(plan_document(plan, "", []), "the plan")
    lines = []
    for aim in aims:
        corner = plan.comparison.corners[aim.corner - 1]
        target = target_words(aim.judge, units, plan.circuit) if aim.judge is not None else ""
        told = "; ".join(w for w in (expected_words(aim), target, *aim.risks) if w)
        lines.append(f"Corner {corner.shown}: {aim.words} ({told})")
    return Section("aims", "What to try next", _list(lines))


def _quality(told: Debrief, units: Units) -> Section:
    """How far the data can be trusted."""
    passages = (told.comparison.reference, told.lap.passage)
    sigma = told.lap.sigma_s
    lines = [
        f"The gap is sure to ±{sigma:.3f} s (one standard deviation)."
        if sigma >= LEAST_TOLD_S
        else "Both laps were timed at the line."
    ]
    lines += [w for w in (doubts_of(passages), *torn_words(told.lap.passage)) if w]
    errors = words_of_positions(told.lap.passage, units)
    if errors:
        lines.append(f"Positions: {errors}.")
    repairs = {r for p in passages for r in p.lap.log.repairs}
    lines += [f"Mended: {r.channel}: {r.what} ({r.count})." for r in sorted(repairs, key=lambda r: (r.channel, r.what))]
    return Section("data", "How far the data can be trusted", _list(lines))
