"""What came of trials: first those that fall short or came out otherwise than recorded, then a row for each."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.matching.result import DID_NOT_MATCH
from fieldstick.reporting.document import BLANK, Labelled, Ruled, said, table
from fieldstick.reporting.marks import marks_of
from fieldstick.reporting.trial_words import cause_words, percent, shortfall_words, standing_words, trial_troubles
from fieldstick.reporting.why_report import stop_marks, stop_words
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.reporting.document import Block, Said
    from fieldstick.runs.results import CheckResult, SuiteResult
    from fieldstick.runs.trial_results import TrialCause, TrialLine, TrialResult, TrialStanding
    from fieldstick.suites.suite import Trial

MOST_CAUSES = 8
"""Causes of one trial that are drawn; the rest is counted."""

_LABELS = {
    "lost": ("lost", "bad"),
    "gained": ("gained", "warn"),
    "moved": ("moved", "warn"),
    "otherwise": ("other", "warn"),
    "misses": ("misses", "bad"),
}


def trial_name(suite: SuiteResult, trial: Trial) -> str:
    """Name a trial: the suite and the data."""
    return f"{suite.suite.name}:{trial.data}"


def trials_report(result: CheckResult) -> Iterator[Block]:
    """Yield what is to be told of the trials of a check."""
    for suite in result.suites:
        for each in suite.trials:
            if each.falls_short or (each.standing is not None and _is_otherwise(each.standing)):
                yield from trial_blocks(result, suite, each)
    yield from _gone(result)
    yield from _table(result)


def _is_otherwise(standing: TrialStanding) -> bool:
    told = standing.by_data > 0 or standing.uncompared > 0
    return standing.otherwise_than_recorded or standing.data == "changed" or told


def trial_blocks(result: CheckResult, suite: SuiteResult, each: TrialResult) -> Iterator[Block]:
    """Yield what is to be told of one trial."""
    trial = each.trial
    place = f"{suite.suite.file}:{suite.suite.line_of(trial.path)}"
    tone = "bad" if result.trial_fails(each) else "warn"
    yield said((f"{'trial':<9}", tone), (f"  {trial_name(suite, trial)}", "strong"), f"  {trial.target}  {place}")
    if trial.note:
        yield Labelled("note", trial.note)
    for words in trial_troubles(each):
        yield Labelled("because", words)
    for shortfall in each.shortfalls:
        yield Labelled("wanted", shortfall_words(shortfall))
    if each.standing is not None:
        for words in standing_words(each.standing):
            yield Labelled("against", words)
    yield BLANK
    causes = [*each.misses, *(each.standing.causes if each.standing is not None else ())]
    for cause in causes[:MOST_CAUSES]:
        yield from cause_blocks(cause, trial)
    if len(causes) > MOST_CAUSES:
        left = sum(cause.count for cause in causes[MOST_CAUSES:])
        words = f"and {counted(left, 'more text')} of {counted(len(causes) - MOST_CAUSES, 'other kind')}"
        yield from (said((words, "quiet")), BLANK)


def cause_blocks(cause: TrialCause, trial: Trial | None = None, place: str = "") -> Iterator[Block]:
    """Yield texts that became something together, the first of them drawn; `place` stands before their lines."""
    label, tone = _LABELS[cause.what]
    yield said((f"{label:<9}", tone), f"  {cause_words(cause, trial)}")
    for line in cause.lines:
        yield from _of_line(trial, line, place)
    more = cause.count - len(cause.lines)
    if more > 0 and cause.lines:
        yield said((f"    and {more:,} more like {'these' if len(cause.lines) > 1 else 'it'}", "quiet"))
    yield BLANK


def _of_line(trial: Trial | None, line: TrialLine, place: str) -> Iterator[Said | Ruled | Labelled]:
    of_table = trial is not None and (trial.by == "form" or "column" in trial.reading)
    yield said((f"    {place or ('row ' if of_table else 'line ')}{line.number}", "quiet"))
    if line.before is not None and line.before.fits:
        yield said(("    was", "quiet"))
        yield Ruled(line.text, tuple(marks_of(line.before)))
        if line.now is None or not line.now.fits:
            yield said(("    is", "quiet"))
    if not line.text:
        yield said(("    (no characters at all)", "quiet"))
    if line.stop is not None:
        yield Ruled(line.text, stop_marks(line.stop))
        yield Labelled("because", stop_words(line.stop))
        return
    if line.before is not None and line.before.fits and line.now is not None and line.now.fits:
        yield said(("    is", "quiet"))
    yield Ruled(line.text, tuple(marks_of(line.now)) if line.now is not None else ())
    unfit = line.now.unfit if line.now is not None else None
    if unfit is not None and (unfit.reason != DID_NOT_MATCH or unfit.member is not None):
        yield Labelled("because", unfit.words)


def _gone(result: CheckResult) -> Iterator[Block]:
    tone = "bad" if result.gone_fails else "warn"
    for suite in result.suites:
        for key in suite.gone_trials:
            yield said((f"{'gone':<9}", tone), (f"  {suite.suite.name}", "strong"), f"  the trial {key}")
            yield BLANK


def _table(result: CheckResult) -> Iterator[Block]:
    if not result.trials:
        return
    keys = [key for key in ("lost", "gained", "moved", "otherwise") if any(_count(each, key) for each in result.trials)]
    rows = []
    for suite in result.suites:
        for each in suite.trials:
            state = "fails" if result.trial_fails(each) else "changed" if _changed(each) else "holds"
            figures = [f"{each.texts:,}", f"{each.fit:,}", percent(each.share()) if each.texts else "none"]
            counts = [f"{_count(each, key):,}" if _count(each, key) else "" for key in keys]
            rows.append([trial_name(suite, each.trial), *figures, *counts, state])
    yield table(["trial", "texts", "fit", "share", *keys, ""], rows, ["strong"])
    yield BLANK


def _count(each: TrialResult, key: str) -> int:
    count: int = getattr(each.standing, key) if each.standing is not None else 0
    return count


def _changed(each: TrialResult) -> bool:
    return each.standing is not None and each.standing.changed


def trial_as_data(suite: SuiteResult, result: CheckResult, each: TrialResult) -> dict[str, Any]:
    """Return a trial as plain data; shares are from 0 to 1."""
    trial = each.trial
    data: dict[str, Any] = {
        "data": trial.data,
        "by": trial.by,
        "target": trial.target,
        "line": suite.suite.line_of(trial.path),
        "texts": each.texts,
        "fit": each.fit,
        "share": float(each.share()),
        "counts": dict(each.counts),
        "holds": not result.trial_fails(each),
        "shortfalls": [
            {
                "what": short.bounds.what,
                "name": short.bounds.name or None,
                "least": None if short.bounds.least is None else float(short.bounds.least),
                "most": None if short.bounds.most is None else float(short.bounds.most),
                "found": float(short.found),
            }
            for short in each.shortfalls
        ],
        "troubles": list(trial_troubles(each)),
    }
    if each.misses:
        data["misses"] = [cause_as_data(cause) for cause in each.misses]
    if each.standing is not None:
        data["baseline"] = _standing_as_data(each.standing)
    return data


def _standing_as_data(standing: TrialStanding) -> dict[str, Any]:
    return {
        "data": standing.data,
        "data_lines": [standing.data_from, standing.data_to] if standing.data == "changed" else None,
        "appended": standing.appended,
        "patterns": {
            name: [{"name": each.name, "before": each.before, "now": each.now} for each in changes]
            for name, changes in standing.patterns.items()
        },
        "lost": standing.lost,
        "gained": standing.gained,
        "moved": standing.moved,
        "otherwise": standing.otherwise,
        "by_data": standing.by_data,
        "uncompared": standing.uncompared,
        "causes": [cause_as_data(cause) for cause in standing.causes],
    }


def cause_as_data(cause: TrialCause) -> dict[str, Any]:
    """Return texts that became something together as plain data."""
    return {
        "what": cause.what,
        "was": cause.was,
        "now": cause.now,
        "count": cause.count,
        "by_data": cause.by_data,
        "lines": [
            {"line": line.number, "text": line.text, "stops_at": line.stop.text if line.stop is not None else None}
            for line in cause.lines
        ],
    }
