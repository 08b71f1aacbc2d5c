"""What recording a baseline would change, for a person to read before agreeing."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.reporting.document import Said, cut, said
from fieldstick.reporting.words import counted, sample_name

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.reporting.document import Block
    from fieldstick.runs.results import CheckResult, SampleResult, SuiteResult

MOST_LISTED = 20
"""Samples of a suite that are listed before the rest is counted."""

_TONES = {"regressed": "bad", "changed": "warn", "mended": "good", "new": "quiet", "gone": "warn"}


def changes_report(result: CheckResult) -> Iterator[Block]:
    """Yield a paragraph a suite: what is new, gone, changed, mended, regressed against its baseline."""
    for suite in result.suites:
        yield said((suite.suite.name, "strong"), f"  {_summary(suite)}")
        yield from _listed(suite)
        if suite.trials or suite.gone_trials:
            yield from _trials(suite)


def _summary(suite: SuiteResult) -> str:
    totals = suite.totals
    outcomes = f"{counted(totals.samples, 'sample')}, {totals.passed:,} pass"
    if suite.baseline is None:
        return f"no baseline yet; {outcomes}"
    counts = {
        "regressed": totals.regressed,
        "changed": totals.changed,
        "mended": totals.mended,
        "new": totals.new,
        "gone": len(suite.gone),
    }
    told = ", ".join(f"{number:,} {name}" for name, number in counts.items() if number)
    return f"{told or 'as recorded'}; {outcomes}"


def _listed(suite: SuiteResult) -> Iterator[Block]:
    if suite.baseline is None:
        return
    lines = [
        line
        for pattern in suite.patterns
        for each in pattern.samples
        if each.standing not in (None, "steady")
        for line in _sample_lines(f"{pattern.pattern.name} {sample_name(each)}", each)
    ]
    lines += [_line("gone", f"{each.pattern} {each.kind}", each.text) for each in suite.gone]
    yield from lines[:MOST_LISTED]
    if len(lines) > MOST_LISTED:
        yield said((f"  and {counted(len(lines) - MOST_LISTED, 'more line')} like these", "quiet"))


def _trials(suite: SuiteResult) -> Iterator[Block]:
    """Yield a paragraph a trial: how many texts fit, and what is otherwise than recorded."""
    from fieldstick.reporting.trial_words import percent, trial_words

    for each in suite.trials:
        if each.error is not None:
            yield said(f"  trial      {each.trial.data}  {each.trial.target}")
            yield said(" " * 13, cut(each.error))
            continue
        share = f"{each.fit:,} of {counted(each.texts, 'text')} fit, {percent(each.share())}"
        new = "" if each.standing is not None else "  new"
        yield said(f"  trial      {each.trial.data}  {each.trial.target}  {share}{new}")
        for words in trial_words(each):
            yield said(" " * 13, cut(words))
    for key in suite.gone_trials:
        yield said(("  gone       ", _TONES["gone"]), cut(f"the trial {key}"))


def _sample_lines(name: str, result: SampleResult) -> Iterator[Said]:
    assert result.standing is not None
    yield _line(result.standing, name, result.sample.text)
    for change in result.changes:
        yield said(" " * 13, cut(f"{change.name}: {change.before} → {change.now}"))


def _line(standing: str, name: str, text: str) -> Said:
    return said((f"  {standing:<9}  {name}  ", _TONES[standing]), cut(text, least=12))
