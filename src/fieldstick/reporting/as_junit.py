"""A check as JUnit XML, the form that build servers read.

There is no standard document; the elements and attributes are those that readers agree on: testsuites,
testsuite, testcase, failure, error. XML 1.0 has no control characters, so they are shown as symbols.
"""

from __future__ import annotations

import xml.etree.ElementTree as ET
from typing import TYPE_CHECKING

from fieldstick.reporting.cells import visible
from fieldstick.reporting.trial_words import trial_words
from fieldstick.reporting.words import difference_lines, gone_of, sample_name, sample_place

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.runs.results import Broken, CheckResult, PatternResult, SampleResult, SuiteResult

NAME_LENGTH = 80
"""Code points of a sample's text that its name shows."""


def check_as_junit(result: CheckResult) -> str:
    """Write a check as JUnit XML: a testsuite for each pattern, a testcase for each sample."""
    seconds = sum(pattern.seconds for suite in result.suites for pattern in suite.patterns)
    suites = [
        element
        for suite in result.suites
        for pattern in suite.patterns
        for element in _elements(result, suite, pattern)
    ]
    suites += [_trials_element(result, suite) for suite in result.suites if suite.trials]
    suites += [_gone_element(result, name, gone) for name, gone in gone_of(result).items()]
    tests, failures, errors = (sum(int(each.attrib[key]) for each in suites) for key in ("tests", "failures", "errors"))
    root = ET.Element("testsuites", _counts(tests, failures, errors, seconds))
    root.extend(suites)
    ET.indent(root)
    body = ET.tostring(root, encoding="unicode")
    return f'<?xml version="1.0" encoding="UTF-8"?>\n{body}\n'


def _counts(tests: int, failures: int, errors: int, seconds: float) -> dict[str, str]:
    return {"tests": str(tests), "failures": str(failures), "errors": str(errors), "time": f"{seconds:.3f}"}


def _elements(checked: CheckResult, suite: SuiteResult, pattern: PatternResult) -> Iterator[ET.Element]:
    """Yield a testsuite for a pattern, and one for each further engine that it was judged on."""
    name = f"{suite.suite.name}:{pattern.pattern.name}"
    if pattern.broken is not None:
        yield _broken_element(suite, pattern, name, pattern.broken)
        return
    yield _suite_element(checked, suite, name, pattern.samples, pattern.seconds)
    for each in pattern.elsewhere:
        if each.unusable is None:
            yield _suite_element(checked, suite, f"{name} on {each.engine}", each.samples, 0)


def _suite_element(
    checked: CheckResult, suite: SuiteResult, name: str, samples: Sequence[SampleResult], seconds: float
) -> ET.Element:
    cases = [_case(checked, suite, name, each) for each in samples]
    failures, errors = (sum(case.find(tag) is not None for case in cases) for tag in ("failure", "error"))
    element = ET.Element("testsuite", {"name": name, **_counts(len(cases), failures, errors, seconds)})
    element.extend(cases)
    return element


def _broken_element(suite: SuiteResult, pattern: PatternResult, name: str, broken: Broken) -> ET.Element:
    """Write a pattern that cannot be read as a testcase of its own: it has no sample."""
    element = ET.Element("testsuite", {"name": name, **_counts(1, 0, 1, pattern.seconds)})
    line = str(suite.suite.line_of((*pattern.pattern.path, "expression")))
    attributes = {"name": "the expression", "classname": name, "file": suite.suite.file, "line": line}
    case = ET.SubElement(element, "testcase", attributes)
    told = {"type": "expression-broken", "message": visible(broken.words)}
    ET.SubElement(case, "error", told).text = f"{suite.suite.file}:{line}"
    return element


def _trials_element(checked: CheckResult, suite: SuiteResult) -> ET.Element:
    name = f"{suite.suite.name}:trials"
    failing = sum(map(checked.trial_fails, suite.trials))
    seconds = sum(each.seconds for each in suite.trials)
    element = ET.Element("testsuite", {"name": name, **_counts(len(suite.trials), failing, 0, seconds)})
    for each in suite.trials:
        line = str(suite.suite.line_of(each.trial.path))
        attributes = {"name": visible(each.trial.key), "classname": name, "file": suite.suite.file, "line": line}
        case = ET.SubElement(element, "testcase", attributes)
        told = [visible(words) for words in trial_words(each)]
        if checked.trial_fails(each):
            failure = ET.SubElement(case, "failure", {"type": "trial", "message": told[0] if told else ""})
            failure.text = "\n".join(told)
        elif told:
            ET.SubElement(case, "system-out").text = "\n".join(told)
    return element


def _gone_element(checked: CheckResult, name: str, gone: Sequence[str]) -> ET.Element:
    """Write what is gone since the baseline: it has no sample that could fail any more."""
    element = ET.Element("testsuite", {"name": name, **_counts(len(gone), len(gone) * checked.gone_fails, 0, 0)})
    for words in gone:
        case = ET.SubElement(element, "testcase", {"name": f"gone: {visible(words)}", "classname": name})
        told = ET.SubElement(case, "failure" if checked.gone_fails else "system-out")
        if checked.gone_fails:
            told.attrib.update({"type": "gone", "message": "it was there when the baseline was recorded"})
        told.text = visible(words)
    return element


def _case(checked: CheckResult, suite: SuiteResult, address: str, result: SampleResult) -> ET.Element:
    place = sample_place(suite.suite, result)
    shown = visible(result.sample.text[:NAME_LENGTH]) + ("…" if len(result.sample.text) > NAME_LENGTH else "")
    attributes = {
        "name": f"{sample_name(result)}: {shown}",
        "classname": address,
        "file": suite.suite.file,
        "line": str(suite.suite.line_of(result.sample.path)),
    }
    case = ET.Element("testcase", attributes)
    if result.outcome != "pass":
        tag = "failure" if result.outcome == "fail" else "error"
        told = ET.SubElement(
            case, tag, {"type": result.reason or result.outcome, "message": visible(result.words or "")}
        )
        told.text = "\n".join(_told(place, result))
    elif checked.fails(result):
        words = "it came out otherwise than when the baseline was recorded"
        told = ET.SubElement(case, "failure", {"type": "changed", "message": words})
        told.text = "\n".join([*_told(place, result), *_changes(result)])
    elif result.changes:
        ET.SubElement(case, "system-out").text = "\n".join(_changes(result))
    return case


def _told(place: str, result: SampleResult) -> list[str]:
    lines = [place]
    if result.sample.note:
        lines.append(f"note: {visible(result.sample.note)}")
    lines.append(f"text: {visible(result.sample.text)}")
    for difference in result.differences:
        expected, captured = difference_lines(difference)
        lines += [f"expected: {visible(expected)}", f"captured: {visible(captured)}"]
    if result.standing == "regressed":
        lines.append("regressed: it passed when the baseline was recorded")
    return lines


def _changes(result: SampleResult) -> list[str]:
    return [f"changed: {each.name}: {visible(each.before)} → {visible(each.now)}" for each in result.changes]
