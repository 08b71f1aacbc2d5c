"""What a check has to say of a place in a file: failures, what is otherwise than recorded, mistakes, hazards."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from msgspec import Struct

from fieldstick.reporting.trial_words import trial_words
from fieldstick.reporting.words import gone_of, sample_name
from fieldstick.suites.places import place_in_text
from fieldstick.suites.suite import Pattern

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

    from fieldstick.problem import Problem
    from fieldstick.runs.results import CheckResult, PatternResult, SampleResult, SuiteResult

Level = Literal["error", "warning", "note"]

SHOWN_TEXT = 120
"""Code points of a sample's text that a finding quotes."""


class Finding(Struct, frozen=True):
    """Something to be said of a line (from 1; 0 for the file as a whole) of a file, of what kind, how bad.

    `column` counts from 1, in code points; 0 where none is known.
    """

    level: Level
    rule: str
    file: str
    line: int
    message: str
    column: int = 0


RULES = {
    "sample": "A sample did not come out as it must",
    "changed": "A sample came out otherwise than recorded",
    "gone": "Something that was recorded is gone",
    "trial": "A trial fell short, or its texts came out otherwise than recorded",
    "mistake": "A mistake in a suite file",
    "idle-allow": "A hazard is allowed that is not there",
}
"""What each rule is about; any other is the kind of a hazard."""


def findings_of(result: CheckResult) -> Iterator[Finding]:
    """Yield what a check found, suite by suite, and the hazards of its patterns."""
    gone = gone_of(result)
    broken: set[Finding] = set()
    for suite in result.suites:
        file = suite.suite.file
        for pattern in suite.patterns:
            for found in _of_faults(suite, pattern):
                if found not in broken:
                    broken.add(found)
                    yield found
            for sample in pattern.samples:
                if sample.needs_attention and not _cannot_be_read(pattern, sample):
                    yield _of_sample(suite, pattern.pattern.name, sample, fails=result.fails(sample))
            for each in pattern.elsewhere:
                for sample in each.samples:
                    if sample.needs_attention:
                        yield _of_sample(suite, f"{pattern.pattern.name} on {each.engine}", sample, fails=True)
        for trial in suite.trials:
            words = "; ".join(trial_words(trial))
            if words and (result.trial_fails(trial) or trial.standing is not None):
                level: Level = "error" if result.trial_fails(trial) else "note"
                line = suite.suite.line_of(trial.trial.path)
                yield Finding(level, "trial", file, line, f"trial over {trial.trial.data}: {words}")
        for name in [name for name in gone if name.rpartition(":")[0] == suite.suite.name]:
            for words in gone.pop(name):
                level = "error" if result.gone_fails else "warning"
                yield Finding(level, "gone", file, 1, f"{name}: gone since the baseline: {words}")
    for hazard in result.hazards or ():
        words = f"{hazard.address}: {hazard.reason}; {hazard.remedy}"
        yield Finding("warning", hazard.kind, hazard.file, hazard.line, words, hazard.column)
    for left in result.left:
        words = f"the suite {left.suite} is gone, its baseline with {left.samples} samples is left"
        yield Finding("error" if result.gone_fails else "warning", "gone", left.file, 1, words)


def _cannot_be_read(pattern: PatternResult, sample: SampleResult) -> bool:
    """Tell whether a sample says of the expression of its pattern alone that it cannot be read."""
    judged = pattern.pattern
    return sample.reason == "expression-broken" and isinstance(judged, Pattern) and judged.combination is None


def _of_faults(suite: SuiteResult, pattern: PatternResult) -> Iterator[Finding]:
    """Yield what is wrong with an expression, or with a part of the same suite in it, where it stands."""
    home, judged = suite.suite, pattern.pattern
    faults = {each.fault: each.words for each in pattern.samples if _cannot_be_read(pattern, each) and each.fault}
    if pattern.broken is not None:
        faults[pattern.broken.fault] = pattern.broken.words
    for fault, words in faults.items():
        path, offset, name = (*judged.path, "expression"), fault.position or 0, judged.name
        if fault.part is not None:
            file, part = home.home_of_part(fault.part)
            inside = file == home.file
            path, offset, name = (("parts", part), offset, part) if inside else (path, 0, name)
        place = place_in_text(home.document, path, offset)
        yield Finding("error", "mistake", home.file, place[0], f"{home.name}:{name}: {words}", place[1])


def _of_sample(suite: SuiteResult, name: str, result: SampleResult, *, fails: bool) -> Finding:
    told = [result.words] if result.words else []
    told += [f"{each.name} was {each.before}, is {each.now}" for each in result.changes]
    told += [f"expected {each.expected}, captured {each.captured}" for each in result.differences]
    text = result.sample.text
    shown = text if len(text) <= SHOWN_TEXT else f"{text[:SHOWN_TEXT]}…"
    head = f"{suite.suite.name}:{name} {sample_name(result)}"
    regressed = " (regressed)" if result.standing == "regressed" else ""
    rule = "changed" if result.outcome == "pass" else "sample"
    line = suite.suite.line_of(result.sample.path)
    message = f"{head}{regressed}: {'; '.join(told) or result.outcome}; in '{shown}'"
    return Finding("error" if fails else "warning", rule, suite.suite.file, line, message)


def findings_of_problems(problems: Iterable[Problem]) -> Iterator[Finding]:
    """Yield the mistakes of suite files."""
    for each in problems:
        yield Finding("error", "mistake", each.file, each.line, each.message)
