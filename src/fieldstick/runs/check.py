"""Checks suites: every pattern against its samples, every suite against its baseline."""

from __future__ import annotations

import os
import signal
import sys
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.comparing.baseline import held_against, read_baseline
from fieldstick.errors import UsageError, hint
from fieldstick.runs.judging import judge_pattern
from fieldstick.runs.results import CheckResult, PatternResult, SampleResult, SuiteResult
from fieldstick.suites.finding import split_address
from fieldstick.suites.suite import Pattern

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Sequence

    from fieldstick.suites.suite import Suite
    from fieldstick.suites.uses import Use

CHUNK_SAMPLES = 400
"""Samples that a worker process is handed at a time: enough to be worth the way, few enough to share well."""


class Choice(Struct, frozen=True):
    """Which patterns to check: those that an address names, of those the ones with one of the tags."""

    only: tuple[str, ...] = ()
    tags: tuple[str, ...] = ()

    @property
    def is_everything(self) -> bool:
        """Whether every pattern is chosen."""
        return not self.only and not self.tags


def check_suites(
    suites: Sequence[Suite],
    choice: Choice = Choice(),
    *,
    with_baseline: bool = True,
    jobs: int = 1,
    progress: Callable[[int], None] | None = None,
) -> CheckResult:
    """Judge the chosen samples of `suites` and hold each suite against its baseline.

    `jobs` is the number of processes; `progress` is called with the number of samples just judged.
    Raises UsageError when the choice names nothing, or a baseline cannot be read.
    """
    chosen = [chosen_patterns(suite, choice) for suite in suites]
    if not choice.is_everything:
        _check_choice(suites, choice, chosen)
    baselines = [read_baseline(suite) if with_baseline else None for suite in suites]
    judged = _judge_all(chosen, jobs, progress or (lambda _: None))
    results = []
    for suite, patterns, baseline in zip(suites, judged, baselines, strict=True):
        if not patterns and not choice.is_everything:
            continue
        result = SuiteResult(suite, tuple(patterns))
        if baseline is not None:
            result = held_against(result, baseline, partly=not choice.is_everything)
        results.append(result)
    return CheckResult(tuple(results))


def chosen_patterns(suite: Suite, choice: Choice) -> list[Pattern | Use]:
    """Return the patterns and uses of a suite that are chosen, in the suite's order."""
    return [
        pattern
        for pattern in suite.judged
        if (not choice.only or any(_names(address, suite, pattern) for address in choice.only))
        and (not choice.tags or set(choice.tags) & set(pattern.tags))
    ]


def _names(address: str, suite: Suite, pattern: Pattern | Use) -> bool:
    name, pattern_name = split_address(address)
    return _is_suite(name, suite) and pattern_name in (None, pattern.name)


def _is_suite(name: str, suite: Suite) -> bool:
    return name == suite.name or os.path.normpath(name) == os.path.normpath(suite.file)


def _check_choice(suites: Sequence[Suite], choice: Choice, chosen: list[list[Pattern | Use]]) -> None:
    for address in choice.only:
        name, pattern_name = split_address(address)
        meant = [suite for suite in suites if _is_suite(name, suite)]
        if not meant:
            raise UsageError(f"no suite here is named '{name}'{hint(name, [suite.name for suite in suites])}")
        known = [each for suite in meant for each in (*suite.patterns, *suite.uses)]
        if pattern_name is not None and pattern_name not in known:
            raise UsageError(f"the suite '{name}' has no pattern '{pattern_name}'{hint(pattern_name, known)}")
    tags = sorted({tag for suite in suites for pattern in suite.judged for tag in pattern.tags})
    for tag in choice.tags:
        if tag not in tags:
            raise UsageError(f"no pattern here has the tag '{tag}'{hint(tag, tags)}")
    if not any(chosen):
        raise UsageError("no pattern that --only names has such a tag; nothing was checked")


def _judge_all(
    chosen: list[list[Pattern | Use]], jobs: int, progress: Callable[[int], None]
) -> list[list[PatternResult]]:
    if jobs <= 1:
        return [list(map(_noting(progress), patterns)) for patterns in chosen]
    flat = [pattern for patterns in chosen for pattern in patterns]
    judged = iter(_judge_in_processes(flat, jobs, progress))
    return [[next(judged) for _ in patterns] for patterns in chosen]


def _noting(progress: Callable[[int], None]) -> Callable[[Pattern | Use], PatternResult]:
    def judge(pattern: Pattern | Use) -> PatternResult:
        result = judged(pattern)
        progress(len(result.samples))
        return result

    return judge


def judged(pattern: Pattern | Use) -> PatternResult:
    """Judge every sample of a pattern or of a use."""
    if isinstance(pattern, Pattern):
        return judge_pattern(pattern)
    from fieldstick.runs.operation_judging import judge_use

    return judge_use(pattern)


_patterns: list[Pattern | Use] = []
"""The patterns that this worker process judges by number."""


def _start_worker(patterns: list[Pattern | Use]) -> None:
    global _patterns
    _patterns = patterns
    signal.signal(signal.SIGINT, signal.SIG_DFL)


_Packed = tuple[float, list[dict[str, Any]]]
"""A pattern's result on its way between processes: without the pattern and the samples, which both have."""


def _judge_chunk(numbers: range) -> list[_Packed]:
    return [_packed(judged(_patterns[number])) for number in numbers]


def _packed(result: PatternResult) -> _Packed:
    return result.seconds, [
        {name: value for name in _CARRIED if (value := getattr(each, name)) not in (None, ())}
        for each in result.samples
    ]


_CARRIED = ("outcome", "reason", "words", "reading", "differences", "advice", "fault", "produced")


def _unpacked(pattern: Pattern | Use, packed: _Packed) -> PatternResult:
    seconds, results = packed
    samples = tuple(SampleResult(sample, **found) for sample, found in zip(pattern.samples, results, strict=True))
    return PatternResult(pattern, pattern.engine, samples, seconds)


def _judge_in_processes(
    patterns: list[Pattern | Use], jobs: int, progress: Callable[[int], None]
) -> list[PatternResult]:
    import multiprocessing
    from concurrent.futures import ProcessPoolExecutor

    method = "fork" if sys.platform == "linux" else "spawn"
    pool = ProcessPoolExecutor(
        jobs, multiprocessing.get_context(method), initializer=_start_worker, initargs=(patterns,)
    )
    try:
        packed: list[_Packed] = []
        for chunk in pool.map(_judge_chunk, list(_chunks(patterns))):
            packed += chunk
            progress(sum(len(results) for _, results in chunk))
        pool.shutdown()
    except BaseException:
        _end(pool)
        raise
    return [_unpacked(pattern, each) for pattern, each in zip(patterns, packed, strict=True)]


def _end(pool: Any) -> None:
    """End the workers at once, whatever they are doing."""
    for process in list((pool._processes or {}).values()):
        process.kill()
    pool.shutdown(wait=False, cancel_futures=True)


def _chunks(patterns: list[Pattern | Use]) -> Iterable[range]:
    start = samples = 0
    for number, pattern in enumerate(patterns):
        samples += len(pattern.samples)
        if samples >= CHUNK_SAMPLES:
            yield range(start, number + 1)
            start, samples = number + 1, 0
    if start < len(patterns):
        yield range(start, len(patterns))
