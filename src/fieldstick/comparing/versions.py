"""Two versions of suites held against each other: what a change does to everyone who uses them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.comparing.line_versions import trial_changes, with_lines, with_trial_lines
from fieldstick.comparing.pattern_versions import part_changes, pattern_changes
from fieldstick.comparing.version_results import Comparison, PatternChange, SuiteChange
from fieldstick.suites.parts import PartScope
from fieldstick.suites.suite import Pattern, Suite
from fieldstick.suites.versions import paired

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from fieldstick.comparing.trials import Progress
    from fieldstick.comparing.version_results import Became, PartChange
    from fieldstick.data.source import Source
    from fieldstick.suites.versions import Version


def compare_versions(
    was: Version,
    now: Version,
    *,
    sources: Sequence[Source] = (),
    values: Mapping[str, str] = {},
    trials: bool = True,
    progress: Progress | None = None,
) -> Comparison:
    """Hold two versions against each other, suite by suite and pattern by pattern.

    `sources` are read with every pattern that is altered, its parameters standing for `values`; with `trials` those of
    the suites are run where something of them is altered, and `progress` makes what is told how far they are read.
    Raises UsageError for a source that cannot be read, and as `judge` does.
    """
    suites: list[SuiteChange] = []
    parts: list[PartChange] = []
    for old, new in paired(was, now):
        if old is not None and new is not None:
            parts += part_changes(old, new)
        suites.append(_suite_change(old, new, trials=trials, progress=progress))
    if sources:
        suites = _with_lines(suites, sources, values)
    return Comparison(was.name, now.name, tuple(map(_told, suites)), _once(parts))


def _with_lines(
    suites: Sequence[SuiteChange], sources: Sequence[Source], values: Mapping[str, str]
) -> list[SuiteChange]:
    """Read the sources once with the patterns of all suites."""
    read = iter(with_lines([each for suite in suites for each in suite.patterns], sources, values))
    return [replace(suite, patterns=tuple(next(read) for _ in suite.patterns)) for suite in suites]


def _told(suite: SuiteChange) -> SuiteChange:
    """Say of a suite that is there in both versions whether it is altered."""
    if suite.change != "same":
        return suite
    altered = any(each.is_told for each in suite.patterns) or any(each.is_told for each in suite.trials)
    return replace(suite, change="altered") if altered else suite


def _once(parts: list[PartChange]) -> tuple[PartChange, ...]:
    return tuple({(each.file, each.name): each for each in parts}.values())


def _suite_change(
    was: Suite | None,
    now: Suite | None,
    *,
    trials: bool,
    progress: Progress | None,
) -> SuiteChange:
    if was is None or now is None:
        became: Became = "new" if was is None else "gone"
        one = now or was
        assert one is not None
        each_one = [
            PatternChange(each.name, became, None if was is None else each, None if now is None else each)
            for each in one.judged
        ]
        return SuiteChange(became, was, now, tuple(each_one))
    patterns = pattern_changes(was, now)
    tried = tuple(trial_changes(was, now, patterns, progress=progress)) if trials else ()
    patterns = with_trial_lines(patterns, tried)
    renamed: Became = "renamed" if was.name != now.name else "same"
    return SuiteChange(renamed, was, now, tuple(patterns), tried)


NO_SUITE = ""
"""The name of the suite that expressions are compared in which stand in none."""


def suite_of(pattern: Pattern, name: str = NO_SUITE) -> Suite:
    """Return a suite that holds one pattern alone, for versions that are expressions."""
    return Suite(
        name=name,
        about="",
        owner=None,
        file="",
        location="",
        patterns={pattern.name: pattern},
        parts={},
        document="",
        scope=PartScope("", {}, {}),
    )


def chosen(comparison: Comparison, only: Sequence[tuple[str, str | None]]) -> Comparison:
    """Return what a comparison says of some suites, or patterns of them, alone; `only` holds the names of both."""
    suites = []
    for suite in comparison.suites:
        asked = [pattern for name, pattern in only if name == suite.suite.name]
        if not asked:
            continue
        if None in asked:
            suites.append(suite)
            continue
        kept = tuple(each for each in suite.patterns if each.name in asked or each.was_name in asked)
        suites.append(replace(suite, patterns=kept, trials=()))
    return replace(comparison, suites=tuple(suites))
