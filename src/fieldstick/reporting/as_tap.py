"""A check as TAP version 14 (https://testanything.org/tap-version-14-specification.html)."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING

from fieldstick.reporting.cells import visible
from fieldstick.reporting.trial_words import trial_words
from fieldstick.reporting.words import difference_lines, gone_of, sample_name, sample_place

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.runs.results import CheckResult, SampleResult, SuiteResult
    from fieldstick.runs.trial_results import TrialResult

NAME_LENGTH = 80
"""Code points of a sample's text that its description shows."""


def check_as_tap(result: CheckResult) -> str:
    """Write a check as TAP: one test point a sample, with a YAML block for each that did not pass."""
    gone = sum(map(len, gone_of(result).values()))
    elsewhere = sum(len(each.samples) for each in result.elsewhere)
    count = result.totals.samples + elsewhere + gone + len(result.trials) + len(result.broken)
    lines = ["TAP version 14", f"1..{count}"]
    number = 0
    for suite in result.suites:
        for pattern in suite.patterns:
            for sample in pattern.samples:
                number += 1
                lines += _point(
                    number, f"{suite.suite.name}:{pattern.pattern.name}", suite, sample, result.fails(sample)
                )
            if pattern.broken is not None:
                number += 1
                name = f"{suite.suite.name}:{pattern.pattern.name} cannot be read"
                lines.append(f"not ok {number} - {_escaped(visible(name))}")
                lines += ["  ---", f"  message: {json.dumps(pattern.broken.words)}", "  ..."]
            for each in pattern.elsewhere:
                for sample in each.samples:
                    number += 1
                    address = f"{suite.suite.name}:{pattern.pattern.name} on {each.engine}"
                    lines += _point(number, address, suite, sample, result.fails(sample))
    for suite in result.suites:
        for trial in suite.trials:
            number += 1
            lines += _trial_point(
                number, f"{suite.suite.name} trial {trial.trial.key}", result.trial_fails(trial), trial
            )
    for name, texts in gone_of(result).items():
        for words in texts:
            number += 1
            lines.append(
                f"{'not ok' if result.gone_fails else 'ok'} {number} - {_escaped(visible(f'{name} gone: {words}'))}"
            )
    return "\n".join(lines) + "\n"


def _trial_point(number: int, name: str, fails: bool, trial: TrialResult) -> Iterator[str]:
    yield f"{'not ok' if fails else 'ok'} {number} - {_escaped(visible(name))}"
    told = list(trial_words(trial))
    if told:
        yield from ("  ---", f"  message: {json.dumps(told)}", "  ...")


def _point(number: int, address: str, suite: SuiteResult, result: SampleResult, fails: bool) -> Iterator[str]:
    verdict = "not ok" if fails else "ok"
    text = visible(result.sample.text[:NAME_LENGTH])
    yield f"{verdict} {number} - {_escaped(f'{address} {sample_name(result)}: {text}')}"
    if not result.needs_attention:
        return
    yield "  ---"
    for key, value in _diagnosis(suite, result):
        yield f"  {key}: {json.dumps(value)}"
    yield "  ..."


def _escaped(description: str) -> str:
    return description.replace("\\", "\\\\").replace("#", "\\#")


def _diagnosis(suite: SuiteResult, result: SampleResult) -> Iterator[tuple[str, object]]:
    yield "outcome", result.outcome
    if result.reason:
        yield "reason", result.reason
    if result.words:
        yield "message", result.words
    yield "at", sample_place(suite.suite, result)
    if result.sample.note:
        yield "note", result.sample.note
    yield "text", result.sample.text
    pairs = [difference_lines(each) for each in result.differences]
    if pairs:
        yield "expected", [expected for expected, _ in pairs]
        yield "captured", [captured for _, captured in pairs]
    if result.standing:
        yield "baseline", result.standing
    if result.changes:
        yield "changes", [f"{each.name}: {each.before} → {each.now}" for each in result.changes]
