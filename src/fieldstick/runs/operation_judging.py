"""Judges the samples of uses: what a rewrite, split, route, lookup or form makes of each against what is named."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING, Any

from fieldstick.engines.budget import watching
from fieldstick.errors import BudgetSpent, EngineFailure, EngineUnusable, ExpressionError
from fieldstick.matching.forms import ReadyForm
from fieldstick.matching.lookups import ReadyLookup
from fieldstick.matching.rewriting import prepare_rewrite
from fieldstick.matching.routing import prepare_route
from fieldstick.matching.splitting import prepare_split
from fieldstick.runs.results import Difference, Fault, PatternResult, SampleResult
from fieldstick.suites.uses import Form, Lookup, Rewrite, Route, Split, Use

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.runs.results import Reason
    from fieldstick.suites.suite import Sample

_REASONS: dict[str, tuple[Reason, str]] = {
    "rewrites": ("becomes-differs", "it becomes another text"),
    "splits": ("pieces-differ", "it is cut up otherwise"),
    "routes": ("kind-differs", "it is of another kind"),
    "lookups": ("gives-differs", "the lookup gives something else"),
    "forms": ("rejects-differ", "other columns are rejected"),
}


def judge_use(use: Use) -> PatternResult:
    """Judge every sample of a use."""
    started = time.perf_counter()
    with watching():
        samples = tuple(_judged(use, sample) for sample in use.samples)
    return PatternResult(use, use.engine, samples, time.perf_counter() - started)


def _judged(use: Use, sample: Sample) -> SampleResult:
    try:
        produced = _produced(use, sample)
    except BudgetSpent as error:
        words = f"reading it took longer than the budget of {error.budget_ms} ms"
        advice = "look for nested repeats in the expression, or raise budget_ms if the text is just long"
        return SampleResult(sample, "timeout", "budget-spent", words, advice=advice)
    except EngineFailure as error:
        return SampleResult(sample, "error", "engine-failed", str(error))
    except EngineUnusable as error:
        return SampleResult(sample, "error", "engine-unusable", str(error))
    except ExpressionError as error:
        advice = "mend the expression of the pattern that it uses"
        return SampleResult(sample, "error", "expression-broken", str(error), advice=advice, fault=Fault(None, None))
    assert sample.expected is not None
    differences = tuple(_differences(use, sample.expected.outcome, produced))
    if not differences:
        return SampleResult(sample, "pass", produced=produced)
    reason, words = _REASONS[str(use.path[0])]
    advice = "mend the pattern or the use of it, or what the sample expects"
    return SampleResult(sample, "fail", reason, words, differences=differences, advice=advice, produced=produced)


def _produced(use: Use, sample: Sample) -> Any:
    """Return what the use makes of a sample, as plain data."""
    assert sample.expected is not None
    if isinstance(use, Rewrite):
        return prepare_rewrite(use, sample.values).rewritten(sample.text).after
    if isinstance(use, Split):
        return list(prepare_split(use, sample.values).pieces(sample.text))
    if isinstance(use, Route):
        return prepare_route(use).kind(sample.text)
    if isinstance(use, Lookup):
        rows = [dict(row) for row in sample.expected.rows]
        return [dict(answer) for answer in ReadyLookup(use, rows).find(sample.values).answers]
    assert isinstance(use, Form)
    rejects = ReadyForm(use).judge([dict(sample.expected.rows[0])])[0]
    return {each.column: each.reason for each in rejects}


def _differences(use: Use, expected: Any, produced: Any) -> Iterator[Difference]:
    compare: dict[str, Callable[[Any, Any], Iterator[Difference]]] = {
        "rewrites": lambda one, other: _whole("becomes", one, other),
        "splits": lambda one, other: _listed("piece", list(one), other),
        "routes": lambda one, other: _whole("kind", one, other),
        "lookups": lambda one, other: _answers(list(one), other),
        "forms": _rejects,
    }
    yield from compare[str(use.path[0])](expected, produced)


def _whole(what: str, expected: str, produced: str) -> Iterator[Difference]:
    if expected != produced:
        yield Difference(what, None, expected, produced)


def _listed(what: str, expected: list[str], produced: list[str]) -> Iterator[Difference]:
    for number in range(max(len(expected), len(produced))):
        one = expected[number] if number < len(expected) else None
        other = produced[number] if number < len(produced) else None
        if one != other:
            yield Difference(what, str(number + 1), one, other)


def _answers(expected: list[dict[str, str]], produced: list[dict[str, str]]) -> Iterator[Difference]:
    for number in range(max(len(expected), len(produced))):
        one = expected[number] if number < len(expected) else {}
        other = produced[number] if number < len(produced) else {}
        for column in dict.fromkeys([*one, *(other if number >= len(expected) else ())]):
            if one.get(column) != other.get(column):
                yield Difference("answer", f"{number + 1} {column}", one.get(column), other.get(column))


def _rejects(expected: tuple[str, ...], produced: dict[str, str]) -> Iterator[Difference]:
    for column in dict.fromkeys([*expected, *produced]):
        if (column in expected) != (column in produced):
            wanted = "rejected" if column in expected else "accepted"
            came = f"rejected: {produced[column]}" if column in produced else "accepted"
            yield Difference("column", column, wanted, came)
