"""Checks suites: every pattern and operation against its samples."""

from __future__ import annotations

import contextlib
import os
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.errors import UsageError, hint
from fieldstick.runs.judging import judge
from fieldstick.runs.processes import Processes
from fieldstick.runs.results import Broken, CheckResult, Elsewhere, PatternResult, SampleResult, SuiteResult
from fieldstick.suites.finding import split_address

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Sequence
    from contextlib import AbstractContextManager

    from fieldstick.suites.suite import Operation, Pattern, Suite

CHUNK_SAMPLES = 400
"""Samples that a worker process is handed at a time: enough to be worth the way, few enough to share well."""


class Choice(Struct, frozen=True):
    """Which patterns to check: those that an address names, of those the ones with one of the tags."""

    only: tuple[str, ...] = ()
    tags: tuple[str, ...] = ()
    engines: tuple[str, ...] = ()
    """Engines to judge patterns on, instead of those that each names."""

    rendered: bool = False
    """Whether expressions are written for each engine before they are judged there."""

    @property
    def is_everything(self) -> bool:
        """Whether every pattern is chosen."""
        return not self.only and not self.tags


def check_suites(
    suites: Sequence[Suite],
    choice: Choice = Choice(),
    *,
    jobs: int = 1,
    progress: AbstractContextManager[Callable[[int], None] | None] | None = None,
) -> CheckResult:
    """Judge the chosen samples of `suites`; a suite of which nothing is chosen is left out.

    `jobs` is the number of processes; `progress` gives what is to be told of samples judged. Raises UsageError when
    the choice names nothing.
    """
    chosen = [chosen_patterns(suite, choice) for suite in suites]
    if not choice.is_everything:
        _check_choice(suites, choice, chosen)
    judged = iter(_judge_all([each for patterns in chosen for each in patterns], choice, jobs, progress))
    results = [
        SuiteResult(suite, tuple([next(judged) for _ in patterns]))
        for suite, patterns in zip(suites, chosen, strict=True)
        if patterns or choice.is_everything
    ]
    return CheckResult(tuple(results), asked_engines=choice.engines, rendered=choice.rendered)


def chosen_patterns(suite: Suite, choice: Choice) -> list[Pattern | Operation]:
    """Return the patterns and operations of a suite that are chosen, in the suite's order."""
    return [
        pattern
        for pattern in suite.judged
        if (not choice.only or any(_names(address, suite, pattern) for address in choice.only))
        and (not choice.tags or set(choice.tags) & set(pattern.tags))
    ]


def has_chosen_trials(suite: Suite, choice: Choice) -> bool:
    """Tell whether the trials of a suite are chosen: they are when the suite is, as a whole."""
    if choice.tags:
        return False
    named = [split_address(address) for address in choice.only]
    return bool(suite.trials) and (not named or any(_is_suite(name, suite) for name, pattern in named if not pattern))


def _names(address: str, suite: Suite, pattern: Pattern | Operation) -> bool:
    name, pattern_name = split_address(address)
    return _is_suite(name, suite) and pattern_name in (None, pattern.name)


def _is_suite(name: str, suite: Suite) -> bool:
    return name == suite.name or os.path.normpath(name) == os.path.normpath(suite.file)


def _check_choice(suites: Sequence[Suite], choice: Choice, chosen: list[list[Pattern | Operation]]) -> None:
    for address in choice.only:
        name, pattern_name = split_address(address)
        meant = [suite for suite in suites if _is_suite(name, suite)]
        if not meant:
            raise UsageError(f"no suite here is named '{name}'{hint(name, [suite.name for suite in suites])}")
        known = [each for suite in meant for each in (*suite.patterns, *suite.operations)]
        if pattern_name is not None and pattern_name not in known:
            raise UsageError(f"the suite '{name}' has no pattern '{pattern_name}'{hint(pattern_name, known)}")
    tags = sorted({tag for suite in suites for pattern in suite.judged for tag in pattern.tags})
    for tag in choice.tags:
        if tag not in tags:
            raise UsageError(f"no pattern here has the tag '{tag}'{hint(tag, tags)}")
    if not any(chosen):
        raise UsageError("no pattern that --only names has such a tag; nothing was checked")


_Samples = list[dict[str, Any]]
_Packed = tuple[float, str, _Samples, list[tuple[str, str | None, _Samples]], Broken | None]
"""A pattern's result on its way between processes: without the pattern and the samples, which both have."""

_CARRIED = ("outcome", "reason", "words", "reading", "differences", "advice", "fault", "produced")


def _judge_all(
    patterns: list[Pattern | Operation],
    choice: Choice,
    jobs: int,
    progress: AbstractContextManager[Callable[[int], None] | None] | None,
) -> Iterator[PatternResult]:
    """Yield the result of each pattern."""
    executor = Processes(jobs)
    with progress or contextlib.nullcontext() as tell:
        if jobs <= 1:
            for result in executor.map(
                lambda pattern: judge(pattern, choice.engines, rendered=choice.rendered), patterns
            ):
                if tell is not None:
                    tell(len(result.samples))
                yield result
            return
        chunks = list(_chunks(patterns))
        judged = executor.map(
            lambda chunk: [
                _packed(judge(patterns[number], choice.engines, rendered=choice.rendered)) for number in chunk
            ],
            chunks,
        )
        for chunk, results in zip(chunks, judged, strict=True):
            for number, packed in zip(chunk, results, strict=True):
                if tell is not None:
                    tell(len(packed[2]))
                yield _unpacked(patterns[number], packed)


def _packed(result: PatternResult) -> _Packed:
    elsewhere = [(each.engine, each.unusable, _packed_samples(each.samples)) for each in result.elsewhere]
    return result.seconds, result.engine, _packed_samples(result.samples), elsewhere, result.broken


def _packed_samples(samples: Iterable[SampleResult]) -> _Samples:
    return [{name: value for name in _CARRIED if (value := getattr(each, name)) not in (None, ())} for each in samples]


def _unpacked(pattern: Pattern | Operation, packed: _Packed) -> PatternResult:
    seconds, engine, results, others, broken = packed
    elsewhere = tuple(
        Elsewhere(name, () if unusable else _unpacked_samples(pattern, found), unusable)
        for name, unusable, found in others
    )
    return PatternResult(pattern, engine, _unpacked_samples(pattern, results), seconds, elsewhere, broken)


def _unpacked_samples(pattern: Pattern | Operation, packed: _Samples) -> tuple[SampleResult, ...]:
    return tuple(SampleResult(sample, **found) for sample, found in zip(pattern.samples, packed, strict=True))


def _chunks(patterns: list[Pattern | Operation]) -> Iterable[range]:
    start = samples = 0
    for number, pattern in enumerate(patterns):
        samples += len(pattern.samples)
        if samples >= CHUNK_SAMPLES:
            yield range(start, number + 1)
            start, samples = number + 1, 0
    if start < len(patterns):
        yield range(start, len(patterns))
