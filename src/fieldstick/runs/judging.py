"""Judges samples of patterns and of operations by the rules of docs/suite-format.md."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING, Any

from msgspec.structs import replace

from fieldstick.engines.budget import watching
from fieldstick.engines.protocol import DEFAULT_ENGINE
from fieldstick.engines.registry import BY_NAME
from fieldstick.errors import BudgetSpent, EngineFailure, EngineUnusable, ExpressionError, FieldstickError, hint
from fieldstick.matching.expression import ExpressionMatcher
from fieldstick.matching.prepare import prepare
from fieldstick.runs.results import Broken, Elsewhere, Fault, PatternResult, SampleResult
from fieldstick.suites.fieldtypes import FieldSpec, Unconverted
from fieldstick.suites.suite import Difference, Pattern

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from fieldstick.matching.matcher import Matcher
    from fieldstick.matching.result import FieldValue, Match, Result
    from fieldstick.runs.results import Reason
    from fieldstick.suites.suite import Operation, Sample

_REASONS: dict[str, Reason] = {
    "field": "field-differs",
    "absent": "field-differs",
    "place": "place-differs",
    "count": "count-differs",
    "match": "matches-differ",
}


_LONG_READING = "look for nested repeats in the expression, or raise budget_ms if the text is just long"


def judge(judged: Pattern | Operation, engines: Sequence[str] = (), *, rendered: bool = False) -> PatternResult:
    """Judge every sample of a pattern, or of an operation.

    A pattern's samples are judged on `engines`, those that it names unless told otherwise: the first of them gives
    the outcomes, the others stand beside. One made of patterns that names none has each member on its own.

    With `rendered` an expression is written for each engine first.
    """
    started = time.perf_counter()
    engine = judged.engine
    elsewhere: tuple[Elsewhere, ...] = ()
    broken: Broken | None = None
    with watching():
        if isinstance(judged, Pattern):
            engine, *others = engines or judged.engines
            names_none = judged.combination is not None and not engines and judged.engines == (DEFAULT_ENGINE,)
            samples = tuple(_judged(judged, engine, rendered, each_on_its_own=names_none))
            if not judged.samples and judged.combination is None:
                broken = unreadable(judged, engine, rendered=rendered)
            if others:
                elsewhere = tuple([_judged_elsewhere(judged, each, rendered) for each in others])
        else:
            samples = tuple(_judge_made(judged, sample) for sample in judged.samples)
            own = () if judged.samples else [each for each in judged.patterns if each.path[:1] != ("patterns",)]
            broken = next((found for each in own if (found := unreadable(each, each.engine, rendered=rendered))), None)
    return PatternResult(judged, engine, samples, time.perf_counter() - started, elsewhere, broken)


def unreadable(pattern: Pattern, engine: str, *, rendered: bool = False) -> Broken | None:
    """Say why a pattern cannot be read on an engine, None where it can; parameters stand for their own names."""
    try:
        prepare(pattern, {name: name for name in pattern.parameters}, engine=engine, rendered=rendered)
    except ExpressionError as error:
        return Broken(str(error), _fault(pattern, error))
    except EngineUnusable:
        return None
    return None


def _judged_elsewhere(pattern: Pattern, engine: str, rendered: bool) -> Elsewhere:
    samples = tuple(_judged(pattern, engine, rendered))
    unusable = next((each.words for each in samples if each.reason == "engine-unusable"), None)
    return Elsewhere(engine, unusable=unusable) if unusable else Elsewhere(engine, samples)


def _judge_made(operation: Operation, sample: Sample) -> SampleResult:
    """Judge what an operation makes of a sample against what the sample expects."""
    assert sample.expected is not None
    try:
        made = operation.made(sample)
    except (BudgetSpent, EngineFailure, EngineUnusable, ExpressionError) as error:
        return _without_result(sample, error, "mend the expression of the pattern that it works with")
    differences = tuple(operation.differences(sample.expected.outcome, made))
    if not differences:
        return SampleResult(sample, "pass", produced=made)
    reason, words = operation.reason
    advice = "mend the pattern or the operation, or what the sample expects"
    return SampleResult(sample, "fail", reason, words, differences=differences, advice=advice, produced=made)


def _without_result(
    sample: Sample, error: FieldstickError, mend: str, fault: Fault = Fault(None, None)
) -> SampleResult:
    """Return the result of a sample that could not be read to its end; `mend` is the advice on a broken expression."""
    match error:
        case BudgetSpent():
            words = f"reading it took longer than the budget of {error.budget_ms} ms"
            return SampleResult(sample, "timeout", "budget-spent", words, advice=_LONG_READING)
        case EngineFailure():
            advice = "write the expression another way; possessive repeats are where this is known to happen"
            return SampleResult(sample, "error", "engine-failed", str(error), advice=advice)
        case EngineUnusable():
            return SampleResult(sample, "error", "engine-unusable", str(error))
        case _:
            return SampleResult(sample, "error", "expression-broken", str(error), advice=mend, fault=fault)


def _judged(pattern: Pattern, engine: str, rendered: bool, *, each_on_its_own: bool = False) -> Iterator[SampleResult]:
    captures = engine not in BY_NAME or BY_NAME[engine].captures
    ready: dict[tuple[tuple[str, str], ...], Matcher | SampleResult] = {}
    for sample in pattern.samples:
        key = tuple(sorted(sample.values.items())) if sample.values else ()
        if key not in ready:
            ready[key] = _prepared(pattern, sample, None if each_on_its_own else engine, rendered)
        made = ready[key]
        if isinstance(made, SampleResult):
            yield replace(made, sample=sample)
        else:
            found = judge_sample(made, sample if captures else replace(sample, **_CAPTURED))
            yield found if captures else replace(found, sample=sample)


_CAPTURED: dict[str, Any] = {"fields": {}, "absent": (), "place": None, "count": None, "matches": None}
"""What a sample says of captures, left out: what an engine that says yes or no alone is not asked."""


def _prepared(pattern: Pattern, sample: Sample, engine: str | None, rendered: bool) -> Matcher | SampleResult:
    try:
        return prepare(pattern, sample.values, engine=engine, rendered=rendered)
    except ExpressionError as error:
        advice = "mend the expression; its samples are judged once it compiles"
        return _without_result(sample, error, advice, _fault(pattern, error))
    except EngineUnusable as error:
        return _without_result(sample, error, "")


def _fault(pattern: Pattern, error: ExpressionError) -> Fault:
    text = pattern.filling.source_text(error.part) if pattern.filling else None
    return Fault(text, error.position, error.part)


def judge_sample(ready: Matcher, sample: Sample) -> SampleResult:
    """Judge one sample with a pattern made ready for the sample's parameter values."""
    try:
        reading = ready.read(sample.text)
    except (BudgetSpent, EngineFailure) as error:
        return _without_result(sample, error, "")
    if sample.kind == "negative":
        return _judge_negative(sample, reading)
    return _judge_positive(ready, sample, reading)


def _judge_negative(sample: Sample, reading: Result) -> SampleResult:
    if reading.fits:
        words = _matched_words(reading)
        advice = "tighten the expression, or make the sample positive if the text is right"
        return SampleResult(sample, "fail", "matched", words, reading, advice=advice)
    if sample.message is not None and sample.message != reading.message:
        difference = Difference("message", None, sample.message, reading.message)
        words = "it does not fit, as it should not, but whoever typed it would see another message"
        return SampleResult(sample, "fail", "message-differs", words, reading, (difference,))
    return SampleResult(sample, "pass", reading=reading)


def _matched_words(reading: Result) -> str:
    if reading.place is None:
        return "the pattern fits, and must not"
    start, end = reading.place
    if start == end:
        return f"the pattern fits, and must not: it matches nothing, at {start}"
    what = "the whole text" if (start, end) == (0, len(reading.text)) else f"{_count(end - start)} at {start}"
    by = f" (by '{reading.member}')" if reading.member else ""
    return f"the pattern fits, and must not{by}: it matches {what}"


def _count(number: int) -> str:
    return "1 character" if number == 1 else f"{number} characters"


def _judge_positive(ready: Matcher, sample: Sample, reading: Result) -> SampleResult:
    if reading.unfit is not None:
        words, advice = reading.unfit.words, None
        if reading.unfit.reason == "did-not-match":
            words, advice = _near_miss(ready, sample.text) or (words, None)
        return SampleResult(sample, "fail", reading.unfit.reason, words, reading, advice=advice)
    if not sample.expects:
        return SampleResult(sample, "pass", reading=reading)
    differences = tuple(_differences(sample, reading))
    if not differences:
        return SampleResult(sample, "pass", reading=reading)
    first = differences[0]
    return SampleResult(
        sample,
        "fail",
        _REASONS[first.what],
        _difference_words(first, reading, sample.fields),
        reading,
        differences,
        advice="mend the expression, or what the sample expects",
    )


def _near_miss(ready: Matcher, text: str) -> tuple[str, str] | None:
    """Say which shorter reach would have matched."""
    if not isinstance(ready, ExpressionMatcher) or ready.pattern.reach == "anywhere":
        return None
    try:
        found = ready.match_within(text, "start") or ready.match_within(text, "anywhere")
    except BudgetSpent:
        return None
    if found is None or (found.place[0] == found.place[1] and text):
        return None
    start, end = found.place
    outside = [f"{_count(start)} before it"] if start else []
    if end < len(text) and ready.pattern.reach == "whole":
        outside.append(f"{_count(len(text) - end)} after it")
    words = f"it matches {start} to {end} alone, and reach is {ready.pattern.reach}; left over: {' and '.join(outside)}"
    return words, "let the expression take in what is left over, or set another reach"


def _difference_words(first: Difference, reading: Result, expected: Mapping[str, Any]) -> str:
    if first.what == "absent":
        return f"the field '{first.name}' took part, and must not"
    if first.what != "field":
        return {
            "place": "the match lies elsewhere",
            "count": f"it has {first.captured}, not {first.expected}",
            "match": "the matches are not the ones expected",
        }[first.what]
    assert first.name is not None
    fields = reading.fields
    if first.name not in fields:
        return f"the expression has no group '{first.name}'{hint(first.name, fields)}"
    if fields[first.name] is None:
        return f"the field '{first.name}' is absent: its group took no part"
    wanted = expected.get(first.name)
    if not isinstance(wanted, str) and reading.spec(first.name) is None:
        return f"the field '{first.name}' is text and cannot equal a {_kind_of(wanted)}; declare its type"
    return f"the field '{first.name}' came out otherwise"


def _kind_of(value: Any) -> str:
    if isinstance(value, bool):
        return "boolean"
    return "number" if not hasattr(value, "isoformat") else "date or time"


def _differences(sample: Sample, reading: Result) -> Iterator[Difference]:
    fields = reading.fields if sample.fields or sample.absent else {}
    for name, expected in sample.fields.items():
        captured = fields.get(name)
        blank = sample.table_fields and expected == ""
        if name not in fields or not _agrees(captured, expected, reading.spec(name), blank_is_nothing=blank):
            yield Difference("field", name, _written(expected), captured.text if captured else None)
    for name in sample.absent:
        captured = fields.get(name)
        if captured is not None:
            yield Difference("absent", name, None, captured.text)
        elif name not in fields:
            yield Difference("field", name, None, None)
    if sample.place is not None and sample.place != reading.place:
        yield Difference("place", None, _range(sample.place), _range(reading.place))
    if sample.count is not None and sample.count != len(reading.matches):
        yield Difference("count", None, _matches(sample.count), _matches(len(reading.matches)))
    if sample.matches is not None:
        yield from _match_differences(sample, reading)


def _match_differences(sample: Sample, reading: Result) -> Iterator[Difference]:
    assert sample.matches is not None
    for number, expected in enumerate(sample.matches, 1):
        if number > len(reading.matches):
            yield Difference("match", str(number), expected.text or "a match", None)
            continue
        found = reading.matches[number - 1]
        if expected.text is not None and expected.text != found.text:
            yield Difference("match", str(number), expected.text, found.text)
        if expected.place is not None and expected.place != found.place:
            yield Difference("match", f"{number} place", _range(expected.place), _range(found.place))
        yield from _field_differences(number, expected.fields, found)
    for number, extra in enumerate(reading.matches[len(sample.matches) :], len(sample.matches) + 1):
        yield Difference("match", str(number), None, extra.text)


def _field_differences(number: int, expected: Mapping[str, Any], found: Match) -> Iterator[Difference]:
    fields = found.fields if expected else {}
    for name, value in expected.items():
        captured = fields.get(name)
        if name not in fields or not _agrees(captured, value, found.layout.spec(name)):
            yield Difference("match", f"{number} {name}", _written(value), captured.text if captured else None)


def _agrees(
    captured: FieldValue | None, expected: Any, spec: FieldSpec | None, *, blank_is_nothing: bool = False
) -> bool:
    """Tell whether a captured field is what was expected: the same text, or the same value of its type."""
    if blank_is_nothing:
        return captured is None or captured.text == ""
    if captured is None:
        return False
    if not isinstance(expected, str):
        return isinstance(expected, bool) == isinstance(captured.value, bool) and captured.value == expected
    if captured.text == expected:
        return True
    if spec is None:
        return False
    try:
        return spec.convert(expected) == captured.value
    except Unconverted:
        return False


def _written(value: Any) -> str:
    return FieldSpec.plain(value)


def _range(place: tuple[int, int] | None) -> str | None:
    return None if place is None else f"{place[0]} to {place[1]}"


def _matches(number: int) -> str:
    return "1 match" if number == 1 else f"{number} matches"
