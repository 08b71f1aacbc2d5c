"""A plug-in for pytest: each sample of a suite is a test, and so is each trial.

It is off until `--fieldstick` is given, or `fieldstick_suites` stands in the ini file. What it needs beside pytest is
imported when the first suite is collected, so that it costs nothing where it is not used.
"""

from __future__ import annotations

import os
from fnmatch import fnmatch
from pathlib import Path
from typing import TYPE_CHECKING, Any

import pytest

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

    from fieldstick.reporting.document import Block
    from fieldstick.runs.results import PatternResult, SampleResult
    from fieldstick.suites.suite import Operation, Pattern, Sample, Suite, Trial

LONGEST_NAME = 48
"""Code points of a sample's text in the name of its test."""


def pytest_addoption(parser: pytest.Parser) -> None:
    """Add the option and the ini key."""
    group = parser.getgroup("fieldstick")
    group.addoption("--fieldstick", action="store_true", help="Collect the samples of suites (*.suite.toml) as tests.")
    group.addoption("--fieldstick-no-trials", action="store_true", help="Leave out their trials.")
    parser.addini("fieldstick_suites", "Suite files and folders whose samples are tests.", type="paths", default=[])


def pytest_configure(config: pytest.Config) -> None:
    """Let suites that the ini file names be visited where no test is asked for by name."""
    named: list[Path] = config.getini("fieldstick_suites")
    if named and config.args_source is not pytest.Config.ArgsSource.ARGS:
        visited = [Path(config.invocation_params.dir, each).resolve() for each in config.args]
        for path in named:
            if not any(path.resolve().is_relative_to(each) for each in visited):
                config.args.append(str(path))


def pytest_collect_file(file_path: Path, parent: pytest.Collector) -> SuiteFile | None:
    """Collect a suite file where that is asked for."""
    if not fnmatch(file_path.name, "*.suite.toml"):
        return None
    named: list[Path] = parent.config.getini("fieldstick_suites")
    asked = parent.config.getoption("--fieldstick") or any(file_path.is_relative_to(each) for each in named)
    return SuiteFile.from_parent(parent, path=file_path) if asked else None


class SuiteFile(pytest.File):
    """A suite file: a collector a pattern or operation, and a test a trial."""

    def collect(self) -> Iterator[pytest.Item | pytest.Collector]:
        """Read the suite. Its mistakes, all of them, are what is reported when there are any."""
        from fieldstick.comparing.baseline import held_against, read_baseline
        from fieldstick.errors import FieldstickError
        from fieldstick.operations import SECTIONS
        from fieldstick.runs.results import SuiteResult
        from fieldstick.suites.loader import read_suites

        try:
            (self.suite,) = read_suites([self.path], SECTIONS, named=os.path.relpath)
            self.baseline = read_baseline(self.suite)
        except FieldstickError as error:
            raise self.CollectError(str(error)) from None
        for judged in self.suite.judged:
            yield JudgedCollector.from_parent(self, name=judged.name, judged=judged)
        if not self.config.getoption("--fieldstick-no-trials"):
            for trial in self.suite.trials:
                yield TrialItem.from_parent(self, name=f"[trial] {_name(trial.data)} {trial.target}", trial=trial)
        if self.baseline is not None:
            nothing = SuiteResult(self.suite, tuple(_unjudged(each) for each in self.suite.judged))
            if held_against(nothing, self.baseline).gone:
                yield GoneItem.from_parent(self, name="[gone] samples of the baseline")

    suite: Suite
    baseline: Any


def _unjudged(judged: Pattern | Operation) -> Any:
    from fieldstick.runs.results import PatternResult, SampleResult

    samples = tuple(SampleResult(sample, "pass") for sample in judged.samples)
    return PatternResult(judged, judged.engine, samples, 0.0)


class JudgedCollector(pytest.Collector):
    """A pattern or an operation: a test a sample; one without samples is a test where it cannot be read."""

    parent: SuiteFile

    def __init__(self, *, judged: Pattern | Operation, **settings: Any) -> None:
        super().__init__(**settings)
        self.judged = judged
        self.extra_keyword_matches.update(judged.tags)

    def collect(self) -> Iterator[pytest.Item]:
        """Yield a test a sample."""
        for sample in self.judged.samples:
            name = f"[{sample.kind} {sample.number}] {_name(sample.text)}".rstrip()
            yield SampleItem.from_parent(self, name=name, judged=self.judged, sample=sample)
        if not self.judged.samples:
            from fieldstick.runs.judging import judge

            found = judge(self.judged)
            if found.broken is not None:
                yield UnreadableItem.from_parent(self, name="[expression]", found=found)


def _name(text: str) -> str:
    """Return a text as it can stand in the name of a test: short, on one line.

    Behind a bracket, as names of tests have it, pytest takes it as it is.
    """
    from fieldstick.reporting.cells import Charset, visible

    shown = visible(text[: LONGEST_NAME + 1], Charset("utf-8"))
    return shown if len(text) <= LONGEST_NAME else f"{shown[:LONGEST_NAME]}…"


class NotAsMeantError(Exception):
    """What a test found, as lines for a person."""


class _Item(pytest.Item):
    """A test of a suite; a failure is told as `check` tells it."""

    def repr_failure(self, excinfo: pytest.ExceptionInfo[BaseException], style: Any = None) -> Any:
        """Return what is told of a failure."""
        if isinstance(excinfo.value, NotAsMeantError):
            return str(excinfo.value)
        return super().repr_failure(excinfo, style)

    def told(self, blocks: Iterable[Block]) -> NotAsMeantError:
        """Return an error that tells a document."""
        from fieldstick.reporting.cells import Charset
        from fieldstick.reporting.lines import Page, lines_of

        lines = ("".join(segment.text for segment in line) for line in lines_of(blocks, Page(100, Charset("utf-8"))))
        return NotAsMeantError("\n".join(map(str.rstrip, lines)).rstrip())

    @property
    def home(self) -> SuiteFile:
        """The suite file that it stands in."""
        found = self.getparent(SuiteFile)
        assert found is not None
        return found

    def line_of(self, path: Any) -> int:
        """Return the line of a place in the suite file, counted from 0."""
        return max(0, self.home.suite.line_of(path) - 1)


class SampleItem(_Item):
    """One sample: it must pass, and come out as its baseline has it."""

    def __init__(self, *, judged: Pattern | Operation, sample: Sample, **settings: Any) -> None:
        super().__init__(**settings)
        self.judged, self.sample = judged, sample

    def runtest(self) -> None:
        """Judge the sample."""
        from msgspec.structs import replace

        from fieldstick.comparing.baseline import held_against
        from fieldstick.reporting.check_report import sample_blocks
        from fieldstick.runs.judging import judge
        from fieldstick.runs.results import SuiteResult

        found = SuiteResult(self.home.suite, (judge(replace(self.judged, samples=(self.sample,))),))
        if self.home.baseline is not None:
            found = held_against(found, self.home.baseline, partly=True)
        result: SampleResult = found.patterns[0].samples[0]
        if result.needs_attention:
            raise self.told(sample_blocks(found, self.judged, result))
        if any(each.failing for each in found.patterns[0].elsewhere):
            from fieldstick.comparing.engines import agreement
            from fieldstick.reporting.engines_report import differing_blocks

            raise self.told(differing_blocks(self.home.suite, agreement(found.patterns[0])))

    def reportinfo(self) -> tuple[Path, int, str]:
        """Return where the sample stands."""
        return self.path, self.line_of(self.sample.path), self.name


class UnreadableItem(_Item):
    """A pattern or an operation without samples, of which an expression cannot be read."""

    def __init__(self, *, found: PatternResult, **settings: Any) -> None:
        super().__init__(**settings)
        self.found = found

    def runtest(self) -> None:
        """Tell where it is broken."""
        from fieldstick.reporting.check_report import attention_blocks
        from fieldstick.runs.results import CheckResult, SuiteResult

        raise self.told(attention_blocks(CheckResult((SuiteResult(self.home.suite, (self.found,)),))))

    def reportinfo(self) -> tuple[Path, int, str]:
        """Return where the expression stands."""
        return self.path, self.line_of((*self.found.pattern.path, "expression")), self.name


class TrialItem(_Item):
    """One trial: its shares and counts must hold, and its texts come out as its baseline has them."""

    def __init__(self, *, trial: Trial, **settings: Any) -> None:
        super().__init__(**settings)
        self.trial = trial

    def runtest(self) -> None:
        """Run the trial over its data."""
        from msgspec.structs import replace

        from fieldstick.comparing.trials import run_and_hold
        from fieldstick.reporting.trial_report import trial_blocks
        from fieldstick.runs.processes import Processes
        from fieldstick.runs.results import CheckResult, SuiteResult

        suite = self.home.suite
        one = replace(suite, trials=(self.trial,))
        (found,) = run_and_hold(one, self.home.baseline, executor=Processes(1))
        held = SuiteResult(suite, (), trials=(found,))
        if CheckResult((held,)).trial_fails(found):
            raise self.told(trial_blocks(CheckResult((held,)), held, found))

    def reportinfo(self) -> tuple[Path, int, str]:
        """Return where the trial stands."""
        return self.path, self.line_of(self.trial.path), self.name


class GoneItem(_Item):
    """Samples that the baseline knows and the suite no longer has: a red run must not turn green by deleting one."""

    def runtest(self) -> None:
        """Fail with what is gone."""
        from fieldstick.comparing.baseline import held_against
        from fieldstick.reporting.check_report import attention_blocks
        from fieldstick.runs.results import CheckResult, SuiteResult

        nothing = SuiteResult(self.home.suite, tuple(_unjudged(each) for each in self.home.suite.judged))
        held = held_against(nothing, self.home.baseline)
        only_gone = SuiteResult(self.home.suite, (), held.baseline, held.gone)
        raise self.told(attention_blocks(CheckResult((only_gone,))))

    def reportinfo(self) -> tuple[Path, int, str]:
        """Return the suite file."""
        return self.path, 0, self.name
