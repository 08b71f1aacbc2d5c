"""What a check found, with everything a rendering needs and nothing of how it looks."""

from __future__ import annotations

from collections import Counter
from functools import cached_property
from typing import TYPE_CHECKING, Any, Literal

from msgspec import Struct

if TYPE_CHECKING:
    from fieldstick.matching.result import Result
    from fieldstick.runs.change import Change
    from fieldstick.runs.gap_figures import GapFigure
    from fieldstick.runs.hazard_notes import HazardNote
    from fieldstick.runs.trial_results import TrialResult
    from fieldstick.suites.suite import Difference, Operation, Pattern, Sample, Suite

Outcome = Literal["pass", "fail", "error", "timeout"]
Standing = Literal["steady", "regressed", "mended", "changed", "new"]
Tolerable = Literal["changed", "gone"]
TOLERABLE: tuple[Tolerable, ...] = ("changed", "gone")
Reason = str
"""Why a sample did not pass: one of `REASONS`, or what an operation gives as its own."""

REASONS = (
    "did-not-match",
    "field-invalid",
    "field-differs",
    "place-differs",
    "count-differs",
    "matches-differ",
    "matched",
    "message-differs",
    "expression-broken",
    "engine-unusable",
    "engine-failed",
    "budget-spent",
)


class Fault(Struct, frozen=True):
    """Where an expression is broken: the text in which the fault stands (its own or a part's) and the place.

    `position` is a code-point offset, None when the engine names none. `part` is the name of the part, None for the
    expression itself.
    """

    text: str | None
    position: int | None
    part: str | None = None


class SampleResult(Struct, frozen=True):
    """What came of one sample.

    `words` say why it did not pass, as a clause; `advice` what to do next. `standing` is what the baseline
    makes of it, None without one; `changes` say what differs from it. `fault` is set when the pattern's
    expression does not compile. `recorded_otherwise` tells that recording it would change the baseline,
    though its standing be steady: it does not pass now, nor did it before, but for another reason.
    """

    sample: Sample
    outcome: Outcome
    reason: Reason | None = None
    words: str | None = None
    reading: Result | None = None
    differences: tuple[Difference, ...] = ()
    advice: str | None = None
    standing: Standing | None = None
    changes: tuple[Change, ...] = ()
    fault: Fault | None = None
    recorded_otherwise: bool = False
    produced: Any = None
    """What an operation made of the sample, as plain data; None for a pattern's."""

    @property
    def needs_attention(self) -> bool:
        """Whether somebody should look at it."""
        return self.outcome != "pass" or self.standing in ("regressed", "changed")


class Elsewhere(Struct, frozen=True):
    """What came of a pattern's samples on a further engine; `unusable` says why it was not run, None where it was."""

    engine: str
    samples: tuple[SampleResult, ...] = ()
    unusable: str | None = None

    @property
    def failing(self) -> int:
        """How many samples do not pass there."""
        return sum(each.outcome != "pass" for each in self.samples)


class Broken(Struct, frozen=True):
    """Why a pattern cannot be read at all, which no sample of it could tell: it has none."""

    words: str
    fault: Fault


class PatternResult(Struct, frozen=True):
    """What came of the samples of a pattern or an operation; `seconds` is how long judging them took.

    `elsewhere` has what came of them on the other engines that the pattern names, or that were asked for. `broken` is
    set for a pattern without samples whose expression its engine refuses.
    """

    pattern: Pattern | Operation
    engine: str
    samples: tuple[SampleResult, ...]
    seconds: float
    elsewhere: tuple[Elsewhere, ...] = ()
    broken: Broken | None = None


class Gone(Struct, frozen=True):
    """A sample that the baseline knows and the suite no longer has.

    `with_pattern` tells that its pattern is gone too; `now_in` names the pattern that has it now, if any.
    """

    pattern: str
    kind: str
    text: str
    with_pattern: bool = False
    now_in: str | None = None


class LeftBaseline(Struct, frozen=True):
    """A baseline whose suite is gone: the name of the suite, and how many samples it had."""

    file: str
    suite: str
    samples: int


class SuiteResult(Struct, frozen=True, dict=True):
    """What came of a suite; `baseline` names the baseline it was held against, None without one."""

    suite: Suite
    patterns: tuple[PatternResult, ...]
    baseline: str | None = None
    gone: tuple[Gone, ...] = ()
    trials: tuple[TrialResult, ...] = ()
    gone_trials: tuple[str, ...] = ()
    """Trials that the baseline knows and the suite no longer has, by their data and what they were sorted by."""

    altered_parts: frozenset[str] = frozenset()
    """Parts whose text is another one than when the baseline was recorded, by the name that the suite has for them."""

    @cached_property
    def totals(self) -> Totals:
        """The counts over all its samples."""
        return Totals.of(self.patterns, len(self.gone))

    @property
    def operations(self) -> int:
        """How many of `patterns` are results of operations."""
        return sum("." in each.pattern.name for each in self.patterns)

    @property
    def without_samples(self) -> tuple[str, ...]:
        """The patterns that no sample tests, but those that cannot be read."""
        return tuple(each.pattern.name for each in self.patterns if not each.samples and each.broken is None)


class Totals(Struct, frozen=True):
    """Counts of samples by outcome, and by standing against the baseline."""

    samples: int = 0
    passed: int = 0
    fail: int = 0
    error: int = 0
    timeout: int = 0
    regressed: int = 0
    changed: int = 0
    mended: int = 0
    new: int = 0
    gone: int = 0

    @classmethod
    def of(cls, patterns: tuple[PatternResult, ...], gone: int = 0) -> Totals:
        """Count the samples of patterns, and those that are gone."""
        outcomes: Counter[str] = Counter()
        standings: Counter[str | None] = Counter()
        for pattern in patterns:
            outcomes.update([each.outcome for each in pattern.samples])
            standings.update([each.standing for each in pattern.samples])
        return cls(
            samples=outcomes.total(),
            passed=outcomes["pass"],
            fail=outcomes["fail"],
            error=outcomes["error"],
            timeout=outcomes["timeout"],
            regressed=standings["regressed"],
            changed=standings["changed"],
            mended=standings["mended"],
            new=standings["new"],
            gone=gone,
        )


class CheckResult(Struct, frozen=True, dict=True):
    """What a check of several suites found.

    `left` are baselines whose suites are gone. What is `tolerated`, of changed and gone, is told but fails nothing.
    `hazards` are those of the suites that nothing accepts; None where they were not asked for.
    """

    suites: tuple[SuiteResult, ...]
    left: tuple[LeftBaseline, ...] = ()
    tolerated: frozenset[Tolerable] = frozenset()
    hazards: tuple[HazardNote, ...] | None = None
    gaps: tuple[GapFigure, ...] | None = None
    """How much of each pattern its samples decide; None where that was not asked for."""

    asked_engines: tuple[str, ...] = ()
    """The engines that were asked for instead of those that each pattern names."""

    rendered: bool = False
    """Whether expressions were written for each engine before they were judged there."""

    @cached_property
    def totals(self) -> Totals:
        """The counts over all suites."""
        patterns = tuple(pattern for suite in self.suites for pattern in suite.patterns)
        gone = sum(len(suite.gone) for suite in self.suites) + sum(each.samples for each in self.left)
        return Totals.of(patterns, gone)

    def fails(self, result: SampleResult) -> bool:
        """Whether a sample makes the check fail."""
        return result.outcome != "pass" or (result.standing == "changed" and "changed" not in self.tolerated)

    @property
    def gone_fails(self) -> bool:
        """Whether something is gone that makes the check fail."""
        trials = any(suite.gone_trials for suite in self.suites)
        return (self.totals.gone > 0 or trials) and "gone" not in self.tolerated

    @property
    def trials(self) -> tuple[TrialResult, ...]:
        """The results of all trials."""
        return tuple(trial for suite in self.suites for trial in suite.trials)

    def trial_fails(self, result: TrialResult) -> bool:
        """Whether a trial makes the check fail."""
        standing = result.standing
        otherwise = standing is not None and standing.changed and "changed" not in self.tolerated
        return result.falls_short or otherwise or (standing is not None and standing.regressed)

    @property
    def otherwise(self) -> bool:
        """Whether something is otherwise than recorded that a new baseline would settle, and fails the check."""
        trials = any(
            each.standing is not None and each.standing.otherwise_than_recorded
            for each in filter(self.trial_fails, self.trials)
        )
        changed = self.totals.changed > 0 and "changed" not in self.tolerated
        return changed or self.gone_fails or trials

    @property
    def engine_unusable(self) -> bool:
        """Whether some pattern's own engine, or one that was asked for, is not usable here."""
        return any(
            sample.reason == "engine-unusable"
            for suite in self.suites
            for pattern in suite.patterns
            for sample in pattern.samples
        ) or any(each.unusable for each in self.elsewhere if each.engine in self.asked_engines)

    @property
    def elsewhere(self) -> tuple[Elsewhere, ...]:
        """What came of all patterns on further engines."""
        return tuple(each for suite in self.suites for pattern in suite.patterns for each in pattern.elsewhere)

    @property
    def all_well(self) -> bool:
        """Whether something was checked, every sample passed, and nothing is otherwise than recorded unless tolerated.

        A sample has to pass on every engine that it was judged on. What is new fails nothing; a pattern whose samples
        decide less than its suite asks for does, where it was asked.
        """
        totals = self.totals
        changed = totals.changed > 0 and "changed" not in self.tolerated
        passed = totals.passed == totals.samples and not any(map(self.trial_fails, self.trials))
        passed = passed and not any(each.failing for each in self.elsewhere)
        decided = not any(each.falls_short for each in self.gaps or ())
        passed = passed and not self.broken
        return self.checked and passed and not changed and not self.gone_fails and decided

    @cached_property
    def broken(self) -> tuple[tuple[SuiteResult, PatternResult, Broken], ...]:
        """The patterns without samples that cannot be read, with their suites and why."""
        return tuple(
            (suite, each, each.broken) for suite in self.suites for each in suite.patterns if each.broken is not None
        )

    @property
    def checked(self) -> bool:
        """Whether anything was checked: a sample judged, a trial run, or an expression found that cannot be read."""
        return self.totals.samples > 0 or bool(self.trials) or bool(self.broken)
