"""What recording a baseline would change, for a person to read before agreeing."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.reporting.cells import Charset, clipped, visible
from fieldstick.reporting.ruler import Line, Segment
from fieldstick.reporting.words import counted, sample_name

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.runs.results import CheckResult, SampleResult, SuiteResult

MOST_LISTED = 20
"""Samples of a suite that are listed before the rest is counted."""

_TONES = {"regressed": "bad", "changed": "warn", "mended": "good", "new": "quiet", "gone": "warn"}


def changes_as_text(result: CheckResult, width: int, charset: Charset = Charset()) -> Iterator[Line]:
    """Yield a paragraph a suite: what is new, gone, changed, mended, regressed against its baseline."""
    for suite in result.suites:
        yield (Segment(suite.suite.name, "strong"), Segment(f"  {_summary(suite)}"))
        yield from _listed(suite, width, charset)


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


def _listed(suite: SuiteResult, width: int, charset: Charset) -> Iterator[Line]:
    if suite.baseline is None:
        return
    lines = [
        line
        for pattern in suite.patterns
        for each in pattern.samples
        if each.standing not in (None, "steady")
        for line in _sample_lines(f"{pattern.pattern.name} {sample_name(each)}", each, width, charset)
    ]
    lines += [_line("gone", f"{each.pattern} {each.kind}", each.text, width, charset) for each in suite.gone]
    yield from lines[:MOST_LISTED]
    if len(lines) > MOST_LISTED:
        yield (Segment(f"  and {counted(len(lines) - MOST_LISTED, 'more line')} like these", "quiet"),)


def _sample_lines(name: str, result: SampleResult, width: int, charset: Charset) -> Iterator[Line]:
    assert result.standing is not None
    yield _line(result.standing, name, result.sample.text, width, charset)
    for change in result.changes:
        words = f"{change.name}: {change.before} → {change.now}"
        yield (Segment(" " * 13), Segment(clipped(words, max(width - 13, 16), charset)))


def _line(standing: str, name: str, text: str, width: int, charset: Charset) -> Line:
    head = f"  {standing:<9}  {visible(name, charset)}  "
    room = max(width - len(head), 12)
    return (Segment(head, _TONES[standing]), Segment(clipped(text, room, charset)))
