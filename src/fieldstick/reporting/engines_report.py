"""Where the engines of patterns agree, and where they do not: the readings of a sample drawn one under the other."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.comparing.engines import agreement, agreements
from fieldstick.reporting.document import BLANK, Mark, Ruled, said
from fieldstick.reporting.marks import marks_of
from fieldstick.reporting.words import counted, sample_name, sample_place

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.comparing.engines import Agreement, Stand
    from fieldstick.reporting.document import Block
    from fieldstick.runs.results import CheckResult, SampleResult
    from fieldstick.suites.suite import Suite

MOST_OF_A_PATTERN = 6
"""Samples of a pattern that are drawn before the rest is counted."""


def engines_report(result: CheckResult) -> Iterator[Block]:
    """Yield where engines differ, then in a line each which patterns they agree on, and what was not judged."""
    alone = sum(len(suite.patterns) for suite in result.suites) == 1
    agreeing: list[tuple[str, Agreement]] = []
    missing: dict[str, str] = {}
    for suite in result.suites:
        for found in agreements(suite.patterns):
            missing.update(found.unusable)
            if found.refusals or found.differing:
                yield from differing_blocks(suite.suite, found, most=None if alone else MOST_OF_A_PATTERN)
            elif found.is_whole:
                agreeing.append((f"{suite.suite.name}:{found.result.pattern.name}", found))
    for address, found in agreeing:
        told = f"  {listed(found.engines)} agree on {_all(len(found.result.samples))}"
        yield said(("agree    ", "good"), (f"  {address}", "strong"), told)
    for engine, why in missing.items():
        tone = "bad" if engine in result.asked_engines else "warn"
        yield said(("not run  ", tone), (f"  {engine}", "strong"), f"  {why.partition(': ')[2] or why}")
    if agreeing or missing:
        yield BLANK


def differing_blocks(suite: Suite, found: Agreement, most: int | None = None) -> Iterator[Block]:
    """Yield what one pattern's engines make otherwise of it."""
    address = f"{suite.name}:{found.result.pattern.name}"
    line = suite.line_of((*found.result.pattern.path, "expression"))
    for refusal in found.refusals:
        rule = refusal.words.removeprefix("the expression does not compile: ")
        told = f"  on {refusal.engine}: {rule}  {suite.file}:{line}"
        yield said(("refused  ", "bad"), (f"  {address}", "strong"), told)
        fault = refusal.fault
        if fault is not None and fault.text is not None and fault.position is not None:
            yield Ruled(fault.text, (Mark(fault.position, fault.position + 1, kind="stop", tone="stop"),))
    if found.refusals:
        yield BLANK
    shown = found.differing if most is None else found.differing[:most]
    for each in shown:
        first = each.stands[0].result
        place = f"  {sample_name(first)}  {sample_place(suite, first)}"
        yield said(("differ   ", "bad"), (f"  {address}", "strong"), place)
        for stand in each.stands:
            yield from _stand(stand)
        yield BLANK
    if len(found.differing) > len(shown):
        more = counted(len(found.differing) - len(shown), "more sample")
        yield said((f"and {more} of {address} that engines read otherwise; --only {address} shows them all", "quiet"))
        yield BLANK


def _stand(stand: Stand) -> Iterator[Block]:
    result = stand.result
    tone = "good" if result.outcome == "pass" else "bad"
    yield said("    ", (listed(stand.engines), "strong"), ": ", (_reading_words(result), tone))
    text = result.sample.text
    marks = tuple(marks_of(result.reading)) if result.reading is not None else ()
    if text or marks:
        yield Ruled(text, marks, indent=6)
    else:
        yield said("      ", ("(no characters at all)", "quiet"))


def _reading_words(result: SampleResult) -> str:
    """Say whether a sample fits, and whether it should."""
    should = (
        "" if result.outcome == "pass" else ", and should" if result.sample.kind == "positive" else ", and must not"
    )
    if result.reading is None:
        return result.words or result.outcome
    if not result.reading.fits:
        return f"does not fit{should}" if result.reading.unfit is None else _unfit_words(result, should)
    if result.outcome == "fail" and result.sample.kind == "positive":
        return f"fits, and {result.words or 'captures something else'}"
    return f"fits{should}"


def _unfit_words(result: SampleResult, should: str) -> str:
    assert result.reading is not None and result.reading.unfit is not None
    why = f" ({result.reading.unfit.words})" if result.reading.unfit.reason == "field-invalid" else ""
    return f"does not fit{why}{should}"


def _all(count: int) -> str:
    return f"all its {counted(count, 'sample')}" if count != 1 else "its 1 sample"


def listed(names: Sequence[str]) -> str:
    """Write names one after another: python, pcre2 and xsd."""
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def elsewhere_as_data(suite: Suite, result: Any, sample_as_data: Any) -> dict[str, Any]:
    """Return what came of a pattern on further engines as plain data; nothing where there are none."""
    if not result.elsewhere:
        return {}
    found = agreement(result)
    return {
        "elsewhere": [
            {"engine": each.engine, "unusable": each.unusable}
            if each.unusable is not None
            else {"engine": each.engine, "samples": [sample_as_data(suite, sample) for sample in each.samples]}
            for each in result.elsewhere
        ],
        "differing": [
            {
                "kind": each.stands[0].result.sample.kind,
                "number": each.stands[0].result.sample.number,
                "alike": [list(stand.engines) for stand in each.stands],
            }
            for each in found.differing
        ],
        "refused": [{"engine": each.engine, "words": each.words} for each in found.refusals],
    }
