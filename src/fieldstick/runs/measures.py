"""What a page about a check shows beyond outcomes: the slowest texts, and the values of numeric fields."""

from __future__ import annotations

import time
from collections import defaultdict
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.data.source import Source
from fieldstick.errors import FieldstickError
from fieldstick.matching.prepare import prepare
from fieldstick.runs.trials import reading_of
from fieldstick.suites.suite import Pattern

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from fieldstick.matching.matcher import Matcher
    from fieldstick.runs.results import CheckResult, SuiteResult
    from fieldstick.suites.suite import Trial

PATTERNS_TIMED = 12
"""Patterns, those that took longest, whose samples are timed one by one."""

LINES_READ = 20_000
"""Texts of a trial that are read for the values of fields."""

Values = tuple[tuple[str, str], ...]
"""Values of parameters, as they can be a key."""

_NUMERIC = ("integer", "decimal")


class SlowText(Struct, frozen=True):
    """A sample that took long to read: with which pattern, and in milliseconds of processor time."""

    suite: str
    pattern: str
    text: str
    milliseconds: float


class NumericField(Struct, frozen=True):
    """The values that a numeric field of a pattern captured, with its unit and bounds; `source` says in what texts."""

    suite: str
    pattern: str
    name: str
    unit: str
    least: float | None
    most: float | None
    values: tuple[float, ...]
    source: str


def slowest_texts(result: CheckResult, most: int) -> list[SlowText]:
    """Read the samples of the patterns that took longest once more, and return those that take longest."""
    judged = [(suite, each) for suite in result.suites for each in suite.patterns if isinstance(each.pattern, Pattern)]
    judged.sort(key=lambda each: -each[1].seconds)
    found = []
    for suite, each in judged[:PATTERNS_TIMED]:
        assert isinstance(each.pattern, Pattern)
        for sample in each.samples:
            try:
                matcher = prepare(each.pattern, sample.sample.values)
                spent = min(_milliseconds(matcher, sample.sample.text) for _ in range(3))
            except FieldstickError:
                continue
            found.append(SlowText(suite.suite.name, each.pattern.name, sample.sample.text, spent))
    return sorted(found, key=lambda each: -each.milliseconds)[:most]


def _milliseconds(matcher: Matcher, text: str) -> float:
    started = time.process_time_ns()
    matcher.read_or_give_up(text)
    return (time.process_time_ns() - started) / 1e6


def numeric_fields(result: CheckResult, most: int) -> list[NumericField]:
    """Return the numeric fields whose values are most, those with bounds first, as captured in trials or samples."""
    found = [each for suite in result.suites for each in _of_suite(suite)]
    found.sort(key=lambda each: (each.least is None and each.most is None, -len(each.values)))
    return found[:most]


def _of_suite(suite: SuiteResult) -> Iterator[NumericField]:
    tried: dict[str, tuple[Trial, str]] = {}
    for result in suite.trials:
        if result.error is None:
            for name, pattern in result.trial.called.items():
                tried.setdefault(pattern.name, (result.trial, name))
    read: dict[str, list[dict[str, str]]] = {}
    for found in suite.patterns:
        judged = found.pattern
        if not isinstance(judged, Pattern) or not any(table.type in _NUMERIC for table in judged.fields.values()):
            continue
        if judged.name in tried and not judged.parameters:
            trial, name = tried[judged.name]
            if trial.key not in read:
                read[trial.key] = list(_texts(trial))
            lines = [row.get(name, "") for row in read[trial.key]]
            yield from _of_pattern(suite, judged, {(): lines}, trial.data)
        else:
            texts: dict[Values, list[str]] = defaultdict(list)
            for each in found.samples:
                texts[tuple(each.sample.values.items())].append(each.sample.text)
            yield from _of_pattern(suite, judged, texts, "samples")


def _texts(trial: Trial) -> Iterator[dict[str, str]]:
    """Yield the first texts of a trial, by what reads them: the columns of a form, or each of its patterns the text."""
    from fieldstick.data.json_rows import cell_at
    from fieldstick.data.rows import text_of

    left = LINES_READ
    try:
        for batch in Source(trial.location, reading_of(trial)).batches():
            for index, text in enumerate(batch.texts):
                if not left:
                    return
                left -= 1
                if trial.by == "form" and batch.rows is not None:
                    yield {name: text_of(cell_at(batch.rows[index], name)) or "" for name in trial.names}
                else:
                    yield dict.fromkeys(trial.called, text)
    except FieldstickError:
        return


def _of_pattern(
    suite: SuiteResult, pattern: Pattern, texts: Mapping[Values, Sequence[str]], source: str
) -> Iterator[NumericField]:
    fields = {name: table for name, table in pattern.fields.items() if table.type in _NUMERIC}
    # Read without its bounds, so that what lies beyond them is seen too.
    unbounded = {name: replace(table, least=None, most=None, one_of=None) for name, table in pattern.fields.items()}
    open_pattern = replace(pattern, fields=unbounded)
    values: dict[str, list[float]] = {name: [] for name in fields}
    try:
        for own, found in texts.items():
            matcher = prepare(open_pattern, dict(own))
            for match in (match for text in found for match in matcher.read_or_give_up(text).matches):
                for name, field in match.fields.items():
                    if name in values and field is not None and isinstance(field.value, int | Decimal):
                        values[name].append(float(field.value))
    except FieldstickError:
        return
    for name, table in fields.items():
        if values[name]:
            yield NumericField(
                suite=suite.suite.name,
                pattern=pattern.name,
                name=table.name or name,
                unit=table.unit or "",
                least=_as_float(table.least),
                most=_as_float(table.most),
                values=tuple(values[name]),
                source=source,
            )


def _as_float(bound: Any) -> float | None:
    return float(bound) if isinstance(bound, int | float | Decimal) else None
