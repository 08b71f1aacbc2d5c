"""Two checks of the same suites, one after the other: what came out otherwise since the last look."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from msgspec import Struct

from fieldstick.comparing.baseline import digest

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.runs.results import CheckResult, PatternResult, SampleResult, SuiteResult

Turned = Literal["fails", "passes", "otherwise", "new", "gone"]


class Turn(Struct, frozen=True):
    """A sample that came out otherwise than at the last look: it began to fail, or to pass, or is another one now."""

    suite: SuiteResult
    pattern: PatternResult
    sample: SampleResult
    turned: Turned


def turns(before: CheckResult, now: CheckResult) -> Iterator[Turn]:
    """Yield the samples that came out otherwise than before, in the order of the newer check, then what is gone."""
    known = dict(_samples(before))
    seen = set()
    for key, (suite, pattern, sample) in _samples(now):
        seen.add(key)
        was = known[key][2] if key in known else None
        if was is None:
            turned: Turned | None = "fails" if sample.needs_attention else "new"
        elif sample.needs_attention != was.needs_attention:
            turned = "fails" if sample.needs_attention else "passes"
        else:
            turned = "otherwise" if _came_to(sample) != _came_to(was) else None
        if turned is not None:
            yield Turn(suite, pattern, sample, turned)
    for key, (suite, pattern, sample) in known.items():
        if key not in seen:
            yield Turn(suite, pattern, sample, "gone")


_Key = tuple[str, str, str]


def _samples(result: CheckResult) -> Iterator[tuple[_Key, tuple[SuiteResult, PatternResult, SampleResult]]]:
    for suite in result.suites:
        for pattern in suite.patterns:
            for sample in pattern.samples:
                yield (suite.suite.file, pattern.pattern.name, digest(sample.sample)), (suite, pattern, sample)


def _came_to(sample: SampleResult) -> object:
    reading = sample.reading
    captured = [match.fields for match in reading.matches] if reading is not None and reading.fits else None
    return sample.outcome, sample.reason, sample.words, sample.standing, captured, sample.produced
