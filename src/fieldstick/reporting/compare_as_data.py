"""Two versions held against each other as JSON and as Markdown for a review."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

from fieldstick.reporting.compare_report import address, comparison_report, field_words, lines_words, users_of, verdict
from fieldstick.reporting.markdown import code, escaped, folded, row
from fieldstick.reporting.relation_words import relation_as_data, relation_words
from fieldstick.reporting.trial_report import cause_as_data
from fieldstick.reporting.trial_words import bounds_change_words

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.comparing.version_results import Comparison, PatternChange, SampleChange, SuiteChange, TrialChange

FORMAT = 1


def comparison_as_json(comparison: Comparison) -> str:
    """Write what two versions differ in as JSON."""
    data = {
        "format": FORMAT,
        "was": comparison.was,
        "is": comparison.now,
        "worse": comparison.is_worse,
        "parts": [
            {
                "name": part.name,
                "file": part.file,
                "line": part.line,
                "was": part.was,
                "is": part.now,
                "through": [address(suite, each.name) for suite, each in users_of(comparison, part)],
            }
            for part in comparison.parts
        ],
        "suites": [_suite(each) for each in comparison.suites],
    }
    return json.dumps(data, ensure_ascii=False, indent=1) + "\n"


def _suite(suite: SuiteChange) -> dict[str, Any]:
    return {
        "suite": suite.suite.name,
        "was_suite": suite.was.name if suite.was is not None else None,
        "file": suite.suite.file,
        "change": suite.change,
        "worse": suite.is_worse,
        "patterns": [_pattern(each) for each in suite.patterns],
        "trials": [_trial(each) for each in suite.trials],
    }


def _pattern(each: PatternChange) -> dict[str, Any]:
    return {
        "name": each.name,
        "was_name": each.was_name,
        "change": each.change,
        "altered": list(each.altered),
        "through": list(each.through),
        "worse": each.is_worse,
        "samples": [_sample(sample) for sample in each.samples],
        "fields": [
            {"name": field.name, "change": field.change, "was": field.was, "is": field.now} for field in each.fields
        ],
        "lines": {
            "gained": each.lines.gained,
            "lost": each.lines.lost,
            "otherwise": each.lines.otherwise,
            "causes": [{"source": source, **cause_as_data(cause)} for source, cause in each.lines.causes],
        },
        "slower": each.slower,
        "relation": relation_as_data(each.relation),
    }


def _sample(sample: SampleChange) -> dict[str, Any]:
    return {
        "text": sample.sample.text,
        "with": dict(sample.sample.values),
        "kind": sample.sample.kind,
        "was": sample.was.outcome,
        "is": sample.now.outcome,
        "change": sample.change,
        "gone": sample.is_gone,
        "now_in": sample.now_in,
    }


def _trial(change: TrialChange) -> dict[str, Any]:
    was, now = change.was, change.now
    standing = now.standing if now is not None else None
    return {
        "data": change.trial.data,
        "target": change.trial.target,
        "was_share": None if was is None else float(was.share()),
        "share": None if now is None else float(now.share()),
        "worse": change.is_worse,
        "data_change": change.data,
        "bounds": [bounds_change_words(*pair) for pair in change.bounds],
        "lost": standing.lost if standing is not None else 0,
        "gained": standing.gained if standing is not None else 0,
        "moved": standing.moved if standing is not None else 0,
        "otherwise": standing.otherwise if standing is not None else 0,
        "causes": [cause_as_data(cause) for cause in standing.causes] if standing is not None else [],
    }


MOST_ROWS = 60
"""Rows of the table; a review comment has no room for more."""


def comparison_as_markdown(comparison: Comparison, drawn: list[str]) -> str:
    """Write what two versions differ in for a review: the verdict, a table, and `drawn` lines folded beneath."""
    lines = [f"**{escaped(' '.join(verdict(comparison)))}**", ""]
    rows = list(_rows(comparison))
    if rows:
        lines += ["| | pattern | what is otherwise |", "|---|---|---|", *rows[:MOST_ROWS]]
        if len(rows) > MOST_ROWS:
            lines.append(f"| | and {len(rows) - MOST_ROWS} more | |")
        lines.append("")
        lines += folded("Drawn under both versions", drawn)
    return "\n".join(lines).rstrip() + "\n"


def _rows(comparison: Comparison) -> Iterator[str]:
    for part in comparison.parts:
        count = len(users_of(comparison, part))
        words = f"{code(part.was)} → {code(part.now)}; {count} pattern{'s' if count != 1 else ''} altered through it"
        yield _row("part", part.name, words)
    for suite in comparison.suites:
        if suite.change in ("new", "gone"):
            yield _row(suite.change, suite.suite.name, f"the suite, with {len(suite.patterns)} patterns and operations")
            continue
        for each in suite.patterns:
            if each.is_told:
                label = "worse" if each.is_worse else each.change
                yield _row(label, address(suite, each.name), "; ".join(_effects(each)) or "nothing but its definition")
        for trial in suite.trials:
            if trial.is_told:
                yield _row("worse" if trial.is_worse else "trial", trial.trial.data, "; ".join(_trial_effects(trial)))


def _effects(each: PatternChange) -> Iterator[str]:
    if each.change == "renamed":
        yield f"was {each.was_name}"
    if each.altered:
        through = f" through {', '.join(each.through)}" if each.through else ""
        yield f"{', '.join(each.altered)} altered{through}"
    if each.relation is not None:
        yield relation_words(each.relation)
    for change in ("worse", "fields", "mended", "new", "gone"):
        count = sum(sample.change == change for sample in each.samples)
        if count:
            words = "with other fields" if change == "fields" else change
            yield f"{count} sample{'s' if count != 1 else ''} {words}"
    yield from (field_words(field) for field in each.fields)
    if each.lines:
        yield f"lines: {lines_words(each)}"
    if each.slower is not None:
        yield f"{each.slower:.1f} times as slow"


def _trial_effects(change: TrialChange) -> Iterator[str]:
    data = _trial(change)
    if change.data is not None:
        yield change.data
    yield from (bounds_change_words(*pair) for pair in change.bounds)
    if data["share"] != data["was_share"]:
        yield f"share {data['was_share']} → {data['share']}"
    yield from (f"{data[key]} {key}" for key in ("lost", "gained", "moved", "otherwise") if data[key])


def _row(label: str, name: str, words: str) -> str:
    return row([label, code(name), escaped(words)])


def drawn_lines(comparison: Comparison) -> Iterator[Any]:
    """Yield the blocks that stand folded in a review: all but the verdict."""
    blocks = list(comparison_report(comparison))
    yield from blocks[: len(blocks) - len(list(verdict(comparison)))]
