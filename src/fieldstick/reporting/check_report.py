"""A check for a person to read: first what needs attention, then the suites, last the verdict."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from fieldstick.reporting.document import BLANK, Labelled, Mark, Ruled, Said, cut, said, sentence, table
from fieldstick.reporting.marks import marks_of
from fieldstick.reporting.why_report import stop_marks, stop_words
from fieldstick.reporting.words import counted, difference_lines, patterns_words, sample_name, sample_place, verdict
from fieldstick.runs.hazard_notes import GRAVE
from fieldstick.suites.suite import Pattern

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.comparing.causes import Cause, Failure
    from fieldstick.drafting.brief import Brief
    from fieldstick.drafting.diagnosis import Stop
    from fieldstick.reporting.document import Block
    from fieldstick.runs.results import Broken, CheckResult, Fault, SampleResult, SuiteResult
    from fieldstick.suites.suite import Operation

MOST_OF_A_PATTERN = 8
"""Samples of one pattern that are shown whole before the rest is counted."""

MOST_HAZARDS = 6
"""Hazards that are named; 'fieldstick hazards' names all."""

MOST_SUITES = 16
"""Suites that are listed even when all is well with them."""

MOST_FOLDED = 24
"""Samples of a cause that have a line each, beside the one that is shown whole."""

STEPS_OF_LOOKING = 300_000
"""Steps for which failing samples are looked into: some quarter of a second, the same samples on any machine."""

_TONES = {"pass": "warn", "fail": "bad", "error": "bad", "timeout": "bad"}
_BROKEN = ("expression-broken", "engine-unusable")
_LABELS = {"fail": "fails", "error": "error", "timeout": "timed out", "pass": "changed"}


def check_report(result: CheckResult) -> Iterator[Block]:
    """Yield what is to be told of a check."""
    yield from attention_blocks(result)
    trials = any(suite.trials or suite.gone_trials for suite in result.suites)
    if trials:
        from fieldstick.reporting.trial_report import trials_report

        yield from trials_report(result)
    yield from _grave_hazards(result)
    if result.gaps is not None:
        from fieldstick.reporting.gaps_report import gap_figures_report

        yield from gap_figures_report(result.gaps)
    yield from _suite_table(result)
    untouched = result.all_well and not (result.totals.changed or result.totals.gone)
    words = verdict(result)
    yield sentence(words[0].upper() + words[1:], "good" if untouched else "warn" if result.all_well else "bad")
    if result.otherwise and result.totals.passed == result.totals.samples:
        lost = any(each.standing is not None and each.standing.regressed for each in result.trials)
        once = "" if lost else "; --tolerate lets it pass once"
        yield said((f"What is meant is recorded with 'fieldstick baseline'{once}.", "quiet"))


def _grave_hazards(result: CheckResult) -> Iterator[Block]:
    """Yield hazards that say that something checked here never comes to pass, or never ends."""
    found = [each for each in result.hazards or () if each.kind in GRAVE]
    for each in found[:MOST_HAZARDS]:
        yield said(("hazard   ", "warn"), (f"  {each.address}", "strong"), f"  {each.kind}  {each.file}:{each.line}")
        yield Labelled("because", each.reason)
    if len(found) > MOST_HAZARDS:
        yield said((f"and {counted(len(found) - MOST_HAZARDS, 'more hazard')} like these", "quiet"))
    if found:
        yield BLANK


def attention_blocks(result: CheckResult) -> Iterator[Block]:
    """Yield what somebody should look at: causes of what fails or changed, each drawn once, what is gone, engines."""
    looking = _Looking()
    if any(each.needs_attention for suite in result.suites for pattern in suite.patterns for each in pattern.samples):
        from fieldstick.comparing.causes import causes

        yield from _of_causes(causes(result), looking, alone=_alone(result))
    if looking.passed_by:
        words = f"{counted(looking.passed_by, 'failing sample')} not looked into; fieldstick why looks into any"
        yield from (said((words, "quiet")), BLANK)
    yield from _of_unreadable(result)
    yield from _of_gone(result)
    if result.elsewhere:
        from fieldstick.reporting.engines_report import engines_report

        yield from engines_report(result)


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


def _of_causes(found: Sequence[Cause], looking: _Looking, *, alone: bool) -> Iterator[Block]:
    """Yield each cause, drawn once; of one pattern so many at the most, unless it is looked at alone."""
    drawn: Counter[str] = Counter()
    passed_by: Counter[str] = Counter()
    for cause in found:
        if cause.kind != "place":
            yield from _of_shared(cause, looking)
        elif alone or drawn[cause.name] < MOST_OF_A_PATTERN:
            drawn[cause.name] += 1
            yield from _of_place(cause, looking, alone=alone)
        else:
            passed_by[cause.name] += len(cause.failures)
    for address, count in passed_by.items():
        words = f"{counted(count, 'more sample')} of {address} that stop elsewhere; --only {address} shows them all"
        yield from (said((words, "quiet")), BLANK)


def _of_shared(cause: Cause, looking: _Looking) -> Iterator[Block]:
    """Yield what samples of several patterns have in common: the first of them whole, the others in a line each."""
    count = len(cause.failures)
    what = patterns_words({each.address: each.pattern for each in cause.failures}.values())
    fail = "cannot be judged" if cause.failures[0].sample.outcome == "error" else "fail" if count != 1 else "fails"
    words = f"  {counted(count, 'sample')} of {what} {fail} through "
    where = f"  {cause.file}:{cause.line}" if cause.line else f"  {cause.file or ''}"
    yield said((f"{'cause':<9}", "bad"), words, (cause.name, "strong"), where)
    if cause.fault is not None:
        start, end = cause.fault.span
        yield Ruled(cause.fault.expression, (Mark(start, max(end, start + 1), kind="stop", tone="stop"),))
        yield Labelled("because", f"it cannot be read: {cause.fault}")
    yield BLANK
    yield from _first_and_others(cause, looking)


def _of_place(cause: Cause, looking: _Looking, *, alone: bool) -> Iterator[Block]:
    if alone and cause.failures[0].sample.reason not in _BROKEN:
        for failure in cause.failures:
            yield from _of_sample(failure.suite, failure.pattern.pattern, failure.sample, looking)
    else:
        yield from _first_and_others(cause, looking)


def _first_and_others(cause: Cause, looking: _Looking) -> Iterator[Block]:
    first = cause.failures[0]
    if first.sample.reason in _BROKEN:
        if cause.fault is None:
            yield from _of_broken(first)
        others = [each for each in cause.failures if cause.fault is not None or each.address != first.address]
        told = {each.address: _all_of(each) for each in others}
        lines = [_head("error", "bad", address, words) for address, words in told.items()]
    else:
        yield from _of_sample(first.suite, first.pattern.pattern, first.sample, looking)
        lines = [_folded(each) for each in cause.failures[1:]]
    yield from lines[:MOST_FOLDED]
    if len(lines) > MOST_FOLDED:
        yield said((f"{'':<11}and {len(lines) - MOST_FOLDED:,} more like these", "quiet"))
    if lines:
        yield BLANK


def sample_blocks(suite: SuiteResult, pattern: Pattern | Operation, result: SampleResult) -> Iterator[Block]:
    """Yield what is to be told of one sample: where it stands, drawn, why it did not pass, what to do next."""
    yield from _of_sample(suite, pattern, result, _Looking())


def _all_of(failure: Failure) -> str:
    """Say that all samples of a pattern have what one of them has."""
    pattern, suite = failure.pattern, failure.suite.suite
    line = suite.line_of((*pattern.pattern.path, "expression"))
    regressed = sum(each.standing == "regressed" for each in pattern.samples)
    count = len(pattern.samples)
    told = f"{f'all {count:,} samples' if count > 1 else 'its sample'}  {suite.file}:{line}"
    return told + (f"  {regressed} regressed" if regressed else "")


def _folded(failure: Failure) -> Said:
    result = failure.sample
    standing = f"  {result.standing}" if result.standing in ("regressed", "new") else ""
    words = f"  {sample_name(result)}  {sample_place(failure.suite.suite, result)}{standing}  "
    label = (f"{_LABELS[result.outcome]:<9}", _TONES[result.outcome])
    return said(label, (f"  {failure.address}", "strong"), words, cut(result.sample.text, least=12))


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


def _of_broken(failure: Failure) -> Iterator[Block]:
    first = failure.sample
    yield _head("error", "bad", failure.address, _all_of(failure))
    yield from _drawn_fault(first.fault)
    yield Labelled("because", first.words or "")
    if first.advice:
        yield Labelled("next", first.advice)
    yield BLANK


def _drawn_fault(fault: Fault | None) -> Iterator[Block]:
    if fault is not None and fault.text is not None and fault.position is not None:
        yield Ruled(fault.text, (Mark(fault.position, fault.position + 1, kind="stop", tone="stop"),))


def _of_unreadable(result: CheckResult) -> Iterator[Block]:
    """Yield the patterns without samples that cannot be read: of those with the same fault the first one whole."""
    heads: dict[Broken, list[Said]] = {}
    for suite, pattern, broken in result.broken:
        line = suite.suite.line_of((*pattern.pattern.path, "expression"))
        address = f"{suite.suite.name}:{pattern.pattern.name}"
        heads.setdefault(broken, []).append(_head("error", "bad", address, f"no sample  {suite.suite.file}:{line}"))
    for broken, (first, *others) in heads.items():
        yield first
        yield from _drawn_fault(broken.fault)
        yield Labelled("because", broken.words)
        yield from (BLANK, *others[:MOST_FOLDED])
        if len(others) > MOST_FOLDED:
            yield said((f"{'':<11}and {len(others) - MOST_FOLDED:,} more like these", "quiet"))
        if others:
            yield BLANK


def _of_gone(result: CheckResult) -> Iterator[Block]:
    tone = "bad" if result.gone_fails else "warn"
    for left in result.left:
        words = f"  {left.file} is left of it, with {counted(left.samples, 'sample')}; delete it if that is meant"
        yield said((f"{'gone':<9}", tone), (f"  the suite {left.suite}", "strong"), words)
        yield BLANK
    for suite in result.suites:
        yield from _of_gone_patterns(suite, tone)
        singly = [each for each in suite.gone if not each.with_pattern]
        for gone in singly[:MOST_OF_A_PATTERN]:
            address = f"  {suite.suite.name}:{gone.pattern}"
            now = f"(now in {suite.suite.name}:{gone.now_in})  " if gone.now_in else ""
            yield said((f"{'gone':<9}", tone), (address, "strong"), f"  {gone.kind}  {now}", cut(gone.text, least=12))
        more = len(singly) - MOST_OF_A_PATTERN
        if more > 0:
            yield said((f"{'':<11}and {counted(more, 'more sample')} of {suite.suite.name} gone", "quiet"))
        if suite.gone:
            yield BLANK


def _of_gone_patterns(suite: SuiteResult, tone: str) -> Iterator[Block]:
    """Yield the patterns that are gone with all their samples, and where those are now."""
    for name in dict.fromkeys(each.pattern for each in suite.gone if each.with_pattern):
        samples = [each for each in suite.gone if each.pattern == name]
        homes = Counter(each.now_in for each in samples if each.now_in)
        kept = ", ".join(f"{count} of them in {suite.suite.name}:{home}" for home, count in homes.items())
        words = f"  with its {counted(len(samples), 'sample')}{f'; now {kept}' if kept else ''}"
        yield said((f"{'gone':<9}", tone), (f"  {suite.suite.name}:{name}", "strong"), words)


_COLUMNS = (
    ("fail", "fail"),
    ("error", "error"),
    ("timeout", "timed out"),
    ("regressed", "regressed"),
    ("changed", "changed"),
    ("mended", "mended"),
    ("new", "new"),
    ("gone", "gone"),
)


def suite_columns(result: CheckResult) -> list[tuple[str, str]]:
    """Return which counts of suites there are to show: the key of each, and its name."""
    return [("passed", "pass"), *((key, name) for key, name in _COLUMNS if getattr(result.totals, key))]


def _suite_table(result: CheckResult) -> Iterator[Block]:
    listed = list(result.suites)
    if len(listed) > MOST_SUITES:
        listed = [each for each in listed if each.totals.passed < each.totals.samples or _stands_out(each)]
    columns = suite_columns(result)[1:]
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
            *("warn" if key in ("mended", "new") else "bad" for key, _ in columns),
        ]
        yield table(header, rows, tones)
    well = len(result.suites) - len(listed)
    if well:
        yield said((f"and {counted(well, 'suite')} in which every sample passes", "quiet"))
    yield BLANK


def _stands_out(result: SuiteResult) -> bool:
    return bool(result.totals.regressed or result.totals.changed or result.totals.gone)
