"""The history of checks for a person to read, and as JSON: charts of one line each, then a row a run."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING

from fieldstick.reporting.document import BLANK, said, sentence, table
from fieldstick.reporting.small_chart import small_chart
from fieldstick.reporting.trial_words import percent
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.comparing.history import RunFigures
    from fieldstick.reporting.document import Block

MOST_POINTS = 40
"""Runs that a chart of one line has room for; of more the latest."""

MOST_ROWS = 20
MOST_PATTERNS = 10
"""Runs that have a row; patterns whose passing moved that have a line."""


def history_report(runs: Sequence[RunFigures], address: str | None, *, can_draw: bool) -> Iterator[Block]:
    """Yield how the figures of runs moved, oldest first; `can_draw` tells whether bars can be written."""
    shown = runs[-MOST_POINTS:]
    rows = [_chart_row(name, values, write, can_draw) for name, values, write in _series(shown)]
    yield said(
        (address or "all suites", "strong"),
        f"  {counted(len(runs), 'run')}, {_day(runs[0])} to {_day(runs[-1])}",
    )
    yield BLANK
    yield table(["", "trend", "first", "last", "least", "most"], rows, ["strong"])
    yield BLANK
    yield from _rows_of_runs(runs[-MOST_ROWS:])
    last = runs[-1]
    changed = "" if len(runs) < 2 else f"; {_against(runs[-2], last)}"
    words = "all was well" if last.well else "something was wrong"
    yield sentence(f"In the last run {words}{changed}.", "good" if last.well else "bad")


def _day(run: RunFigures) -> str:
    return run.when.strftime("%Y-%m-%d %H:%M")


def _series(runs: Sequence[RunFigures]) -> Iterator[tuple[str, list[float | None], str]]:
    """Yield what is charted: its name, a value a run, and how a value is written."""
    yield "samples", [float(run.counts["samples"]) for run in runs], "count"
    yield "samples that pass", [_share(run.counts) for run in runs], "share"
    trials = dict.fromkeys((each.suite, each.data, each.target) for run in runs for each in run.trials)
    for suite, data, target in trials:
        by_run = [
            next(
                (each.share for each in run.trials if (each.suite, each.data, each.target) == (suite, data, target)),
                None,
            )
            for run in runs
        ]
        yield f"{suite}:{data}", by_run, "share"
    yield from _moving_patterns(runs)
    seconds: list[float | None] = [run.seconds for run in runs]
    if max(_known(seconds)) < 1:
        yield "milliseconds", [1000 * run.seconds for run in runs], "decimal"
    else:
        yield "seconds", seconds, "decimal"


def _share(counts: dict[str, int]) -> float | None:
    return counts["passed"] / counts["samples"] if counts["samples"] else None


def _moving_patterns(runs: Sequence[RunFigures]) -> Iterator[tuple[str, list[float | None], str]]:
    """Yield the patterns whose share of passing samples moved, those that moved most first."""
    shares: dict[str, list[float | None]] = {}
    for index, run in enumerate(runs):
        for each in run.patterns:
            name = f"{each.suite}:{each.pattern}"
            if each.samples:
                shares.setdefault(name, [None] * len(runs))[index] = each.passed / each.samples
    if len(shares) == 1:
        return
    spans = {name: max(known) - min(known) for name, values in shares.items() if (known := _known(values))}
    moved = sorted((name for name, span in spans.items() if span), key=lambda name: (-spans[name], name))
    for name in moved[:MOST_PATTERNS]:
        yield name, shares[name], "share"


def _known(values: Sequence[float | None]) -> list[float]:
    return [each for each in values if each is not None]


def _chart_row(name: str, values: Sequence[float | None], form: str, can_draw: bool) -> list[str]:
    known = _known(values)
    figures = [known[0], known[-1], min(known), max(known)] if known else []
    written = [_written(each, form) for each in figures] or ["", "", "", ""]
    return [name, small_chart(values, can_draw=can_draw), *written]


def _written(value: float, form: str) -> str:
    if form == "share":
        return percent(value)
    return f"{value:,.2f}" if form == "decimal" else f"{value:,.0f}"


_COLUMNS = ("fail", "error", "timeout", "regressed", "changed", "gone")


def _rows_of_runs(runs: Sequence[RunFigures]) -> Iterator[Block]:
    columns = [key for key in _COLUMNS if any(run.counts.get(key) for run in runs)]
    with_trials = any(run.trials for run in runs)
    header = [
        "run",
        "revision",
        "samples",
        "pass",
        *columns,
        *(["trials", "hold"] if with_trials else []),
        "seconds",
        "",
    ]
    rows = []
    for run in runs:
        revision = (run.revision or "")[:10] + ("+" if run.is_clean is False else "")
        counts = [f"{run.counts[key]:,}" if run.counts.get(key) else "" for key in columns]
        trials = [f"{len(run.trials):,}", f"{sum(each.holds for each in run.trials):,}"] if with_trials else []
        figures = [f"{run.counts['samples']:,}", f"{run.counts['passed']:,}", *counts, *trials, f"{run.seconds:,.2f}"]
        rows.append([_day(run), revision, *figures, "well" if run.well else "wrong"])
    yield table(header, rows, [])
    yield BLANK


def _against(before: RunFigures, last: RunFigures) -> str:
    """Say how the last run differs from the one before it."""
    lost = before.counts["passed"] - last.counts["passed"]
    samples = last.counts["samples"] - before.counts["samples"]
    words = []
    if lost:
        noun = f"{'fewer' if lost > 0 else 'more'} sample{'s' if abs(lost) != 1 else ''}"
        words.append(f"{abs(lost):,} {noun} {'passes' if abs(lost) == 1 else 'pass'} than in the run before")
    if samples:
        words.append(
            f"there {'is' if abs(samples) == 1 else 'are'} {abs(samples):,} {'more' if samples > 0 else 'fewer'}"
        )
    return ", ".join(words) or "nothing moved since the run before"


def history_as_json(runs: Sequence[RunFigures]) -> str:
    """Write runs as JSON, oldest first."""
    data = [
        {
            "when": run.when.isoformat().replace("+00:00", "Z"),
            "revision": run.revision,
            "clean": run.is_clean,
            "well": run.well,
            "seconds": run.seconds,
            **run.counts,
            "patterns": [{key: getattr(each, key) for key in each.__struct_fields__} for each in run.patterns],
            "trials": [
                {**{key: getattr(each, key) for key in each.__struct_fields__}, "share": each.share}
                for each in run.trials
            ],
        }
        for run in runs
    ]
    return json.dumps({"format": 1, "runs": data}, ensure_ascii=False, indent=1) + "\n"
