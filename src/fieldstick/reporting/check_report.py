"""A check for a person to read: first what needs attention, then the suites, last the verdict."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.reporting.document import BLANK, Labelled, Mark, Ruled, Said, cut, said, table
from fieldstick.reporting.marks import marks_of
from fieldstick.reporting.why_report import stop_marks, stop_words
from fieldstick.reporting.words import counted, difference_lines, sample_name, sample_place, verdict
from fieldstick.suites.suite import Pattern

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.brief import Brief
    from fieldstick.drafting.diagnosis import Stop
    from fieldstick.reporting.document import Block
    from fieldstick.runs.results import CheckResult, PatternResult, SampleResult, SuiteResult
    from fieldstick.suites.suite import Operation

MOST_OF_A_PATTERN = 8
"""Samples of one pattern that are shown whole before the rest is counted."""

MOST_SUITES = 16
"""Suites that are listed even when all is well with them."""

STEPS_OF_LOOKING = 300_000
"""Steps for which failing samples are looked into: some quarter of a second, the same samples on any machine."""

_TONES = {"pass": "warn", "fail": "bad", "error": "bad", "timeout": "bad"}
_LABELS = {"fail": "fails", "error": "error", "timeout": "timed out", "pass": "changed"}


def check_report(result: CheckResult) -> Iterator[Block]:
    """Yield what is to be told of a check."""
    looking = _Looking()
    for suite in result.suites:
        for pattern in suite.patterns:
            yield from _of_pattern(suite, pattern, looking, alone=_alone(result))
    if looking.passed_by:
        words = f"{counted(looking.passed_by, 'failing sample')} not looked into; fieldstick why looks into any"
        yield from (said((words, "quiet")), BLANK)
    yield from _of_gone(result)
    yield from _suite_table(result)
    tone = "good" if result.all_well and not result.totals.changed else "bad"
    if result.all_well and result.totals.changed:
        tone = "warn"
    words = verdict(result)
    yield said((words[0].upper() + words[1:], tone))


class _Looking:
    """Looks into failing samples while there are steps left; a clean run does not load what that takes."""

    def __init__(self) -> None:
        self._left = STEPS_OF_LOOKING
        self.passed_by = 0

    def into(self, pattern: Pattern, result: SampleResult) -> Brief | None:
        """Return what was found, None for a sample that failed otherwise or for which nothing is left."""
        if result.reason not in ("did-not-match", "matched"):
            return None
        if self._left <= 0:
            self.passed_by += 1
            return None
        from fieldstick.drafting.brief import brief

        found, spent = brief(pattern, result.sample)
        self._left -= spent
        return found


def _alone(result: CheckResult) -> bool:
    return sum(len(suite.patterns) for suite in result.suites) == 1


def _of_pattern(suite: SuiteResult, pattern: PatternResult, looking: _Looking, *, alone: bool) -> Iterator[Block]:
    shown = [each for each in pattern.samples if each.needs_attention]
    if shown and shown[0].reason in ("expression-broken", "engine-unusable"):
        yield from _of_broken(suite, pattern, shown[0])
        shown = [each for each in shown if each.reason != shown[0].reason]
    most = len(shown) if alone else MOST_OF_A_PATTERN
    for each in shown[:most]:
        yield from _of_sample(suite, pattern.pattern, each, looking)
    if len(shown) > most:
        address = f"{suite.suite.name}:{pattern.pattern.name}"
        words = f"{counted(len(shown) - most, 'more sample')} of {address} like these; --only {address} shows them all"
        yield said((words, "quiet"))
        yield BLANK


def _head(what: str, tone: str, address: str, rest: str) -> Said:
    return said((f"{what:<9}", tone), (f"  {address}", "strong"), f"  {rest}")


def _of_sample(
    suite: SuiteResult, pattern: Pattern | Operation, result: SampleResult, looking: _Looking
) -> Iterator[Block]:
    place = f"{sample_name(result)}  {sample_place(suite.suite, result)}"
    standing = f"  {result.standing}" if result.standing in ("regressed", "new") else ""
    address = f"{suite.suite.name}:{pattern.name}"
    yield _head(_LABELS[result.outcome], _TONES[result.outcome], address, place + standing)
    if result.sample.note:
        yield Labelled("note", result.sample.note)
    for name, value in result.sample.values.items():
        yield Labelled("with", f"{name} = {value}")
    looked = looking.into(pattern, result) if isinstance(pattern, Pattern) else None
    stop = looked.stop if looked else None
    yield from _drawn(result, stop)
    for number, difference in enumerate(result.differences):
        expected, captured = difference_lines(difference)
        if number == MOST_OF_A_PATTERN:
            yield Labelled("", f"and {len(result.differences) - number} more differences")
            break
        yield _beside("expected", expected)
        yield _beside("captured", captured)
    for change in result.changes:
        yield _beside("was", f"{change.name} = {change.before}")
        yield _beside("is", f"{change.name} = {change.now}")
    words = stop_words(stop) if stop is not None else result.words
    if words:
        yield Labelled("because", words)
    advice = looked.change if looked is not None and looked.change else result.advice
    if advice:
        yield Labelled("perhaps" if advice != result.advice else "next", advice)
    yield BLANK


def _beside(label: str, words: str) -> Said:
    return said("    ", (f"{label:<9}  ", "quiet"), cut(words))


def _drawn(result: SampleResult, stop: Stop | None) -> Iterator[Block]:
    text = result.sample.text
    if not text:
        yield said("    ", (f"{'text':<9}  ", "quiet"), ("(no characters at all)", "quiet"))
    marks = tuple(marks_of(result.reading)) if result.reading else ()
    if stop is not None:
        marks = stop_marks(stop)
    if text or marks:
        yield Ruled(text, marks)


def _of_broken(suite: SuiteResult, pattern: PatternResult, first: SampleResult) -> Iterator[Block]:
    made = pattern.pattern
    line = suite.suite.line_of((*made.path, "expression"))
    told = f"all {counted(len(pattern.samples), 'sample')}  {suite.suite.file}:{line}"
    regressed = sum(each.standing == "regressed" for each in pattern.samples)
    if regressed:
        told += f"  {regressed} regressed"
    yield _head("error", "bad", f"{suite.suite.name}:{made.name}", told)
    fault = first.fault
    if fault is not None and fault.text is not None and fault.position is not None:
        yield Ruled(fault.text, (Mark(fault.position, fault.position + 1, kind="stop", tone="stop"),))
    yield Labelled("because", first.words or "")
    if first.advice:
        yield Labelled("next", first.advice)
    yield BLANK


def _of_gone(result: CheckResult) -> Iterator[Block]:
    for suite in result.suites:
        for gone in suite.gone[:MOST_OF_A_PATTERN]:
            address = f"  {suite.suite.name}:{gone.pattern}"
            yield said((f"{'gone':<9}", "warn"), (address, "strong"), f"  {gone.kind}  ", cut(gone.text))
        more = len(suite.gone) - MOST_OF_A_PATTERN
        if more > 0:
            yield said((f"{'':<11}and {counted(more, 'more sample')} of {suite.suite.name} gone", "quiet"))
        if suite.gone:
            yield BLANK


_COLUMNS = (
    ("fail", "fail"),
    ("error", "error"),
    ("timeout", "timed out"),
    ("regressed", "regressed"),
    ("changed", "changed"),
    ("mended", "mended"),
    ("new", "new"),
)


def _suite_table(result: CheckResult) -> Iterator[Block]:
    listed = list(result.suites)
    if len(listed) > MOST_SUITES:
        listed = [each for each in listed if each.totals.passed < each.totals.samples or _stands_out(each)]
    columns = [(key, name) for key, name in _COLUMNS if getattr(result.totals, key)]
    with_operations = any(each.operations for each in listed)
    operations = ["operations"] if with_operations else []
    rows = [
        [
            each.suite.name,
            f"{len(each.patterns) - each.operations:,}",
            *([f"{each.operations:,}" if each.operations else ""] if with_operations else []),
            f"{each.totals.samples:,}",
            f"{each.totals.passed:,}",
            *(f"{getattr(each.totals, key):,}" if getattr(each.totals, key) else "" for key, _ in columns),
        ]
        for each in listed
    ]
    if rows:
        header = ["suite", "patterns", *operations, "samples", "pass", *(name for _, name in columns)]
        tones = [
            "strong",
            *("" for _ in operations),
            "",
            "",
            "",
            *("warn" if key in ("changed", "mended", "new") else "bad" for key, _ in columns),
        ]
        yield table(header, rows, tones)
    well = len(result.suites) - len(listed)
    if well:
        yield said((f"and {counted(well, 'suite')} in which every sample passes", "quiet"))
    yield BLANK


def _stands_out(result: SuiteResult) -> bool:
    return bool(result.totals.regressed or result.totals.changed or result.gone)
