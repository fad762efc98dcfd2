"""Tables for people on a terminal."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jete.report.positions import words_of_positions
from jete.report.sentences import bargains, short_words
from jete.report.thousandths import in_thousandths
from jete.report.words import COARSE, KIND_WORDS, SURE, counted, difference, lap_time, not_logged, torn_words

if TYPE_CHECKING:
    from collections.abc import Sequence

    from jete.core.causes.verdict.result import Comparison, CornerLoss, LapComparison
    from jete.core.log.lap import LapSpan, Log
    from jete.core.run import RunSummary

CAUTION = "Closed circuits only; the circuit's rules and marshals come first. Small steps, one at a time."


def laps_table(log: Log, spans: tuple[LapSpan, ...]) -> str:
    """The laps of a log, one a line, and what was mended."""
    lines = [f"{log.source}", f"{'lap':>4}  {'time':>9}  {'length m':>9}"]
    lines += [f"{s.number:>4}  {lap_time(s.time_s):>9}  {s.length_m:>9.1f}  {s.why or ''}".rstrip() for s in spans]
    lines += [f"mended: {r.channel}: {r.what} ({r.count})" for r in log.repairs]
    return "\n".join(lines) + "\n"


def comparison_table(
    comparison: Comparison, runs: Sequence[tuple[Comparison, RunSummary]] = (), timed_at: str = ""
) -> str:
    """The ledger of each lap, and of each run where several laps were compared; ``timed_at`` is the line that all are timed at."""
    reference = comparison.reference.lap
    head = f"reference {reference.label}  {lap_time(reference.span.time_s)}\n"
    if timed_at:
        head += f"All laps are timed at {timed_at}; corners are told by the reference alone.\n"
    ledgers = [_ledger(c) for c in in_thousandths(comparison).laps] + [_run(*r, alone=len(runs) == 1) for r in runs]
    return head + "\n".join(ledgers) + f"\n{CAUTION}\n"


def _run(comparison: Comparison, run: RunSummary, *, alone: bool) -> str:
    """The corners of the run: median gap, spread, causes with their medians and how often."""
    laps = [c.passage.lap for c in comparison.laps]
    best = laps[run.best_lap]
    name = "the run" if alone else f"the run of {best.driver}" if best.driver else f"the run in {best.log.source}"
    lines = ["", f"{name}: {run.counted} of {counted(len(laps), 'lap counts', 'laps count')}"]
    lines += [f"  set aside: {lap.label}: {why}" for lap, why in zip(laps, run.why, strict=True) if why is not None]
    lines.append(f"{'corner':>8}  {'median':>7}  {'spread':>7}  {'best':>7}  causes")
    for c in run.corners:
        causes = ", ".join(
            f"{KIND_WORDS[x.kind]} {difference(x.median_s)} on {x.laps} of {run.counted}" for x in c.causes[:3]
        )
        numbers = f"{difference(c.median_s):>7}  {c.spread_s:>7.3f}  {difference(c.best_s):>7}"
        lines.append(f"{c.corner.shown:>3} {c.corner.direction[:5]:>5} {numbers}  {causes}".rstrip())
    joined = f"best passes together {lap_time(run.best_sum_s)}, best lap {lap_time(best.span.time_s)} ({best.label})"
    return "\n".join([*lines, joined])


def _ledger(c: LapComparison) -> str:
    lap = c.passage.lap
    lines = [
        "",
        f"lap {lap.label}  {lap_time(lap.span.time_s)}  gap {difference(c.gap_s)} s",
        *([not_logged(c.passage.inferred)] if c.passage.inferred else []),
        *([COARSE] if c.passage.coarse else []),
        *torn_words(c.passage),
        *([f"positions {errors}"] if (errors := words_of_positions(c.passage)) else []),
        f"{'corner':>8}  {'gap s':>7}  {'running':>7}  causes",
    ]
    running = 0.0
    for loss in c.corners:
        running += loss.gap_s
        lines.append(
            f"{loss.corner.shown:>3} {loss.corner.direction[:5]:>5} {difference(loss.gap_s):>7}  {difference(running):>7}  {_causes(loss)}"
        )
        lines += [f"{'':>28}{told}" for told in bargains(loss)]
    rest = sum(loss.unexplained_s for loss in c.corners)
    lines.append(f"{'sum':>9} {difference(running):>7}           of it unexplained {difference(rest)}")
    return "\n".join(lines)


def _causes(loss: CornerLoss) -> str:
    parts = [
        f"{'' if f.confidence >= SURE else 'possibly '}{short_words(f, loss.marks)} {difference(f.loss_s)}"
        for f in loss.findings
    ]
    return ", ".join([*parts, f"unexplained {difference(loss.unexplained_s)}"])
