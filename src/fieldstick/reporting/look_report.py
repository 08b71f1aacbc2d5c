"""What came out otherwise since the last look at suites that are watched."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.reporting.check_report import attention_blocks
from fieldstick.reporting.document import BLANK, cut, said, sentence
from fieldstick.reporting.trial_report import trial_blocks, trial_name
from fieldstick.reporting.trial_words import percent
from fieldstick.reporting.words import counted, sample_name, sample_place, verdict

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.comparing.looks import Turn
    from fieldstick.reporting.document import Block
    from fieldstick.runs.results import CheckResult
    from fieldstick.runs.trial_results import TrialResult

MOST_LINES = 24
"""Samples that turned otherwise than to fail and have a line each."""

_TONES = {"passes": "good", "otherwise": "warn", "new": "quiet", "gone": "warn", "fails": "bad"}


def look_report(before: CheckResult, now: CheckResult, turned: Sequence[Turn]) -> Iterator[Block]:
    """Yield what turned since the last look: what fails now drawn, the rest in a line each, then the verdict."""
    yield from attention_blocks(_only_failing(now, turned))
    lines = [turn for turn in turned if turn.turned != "fails"]
    for turn in lines[:MOST_LINES]:
        address = f"  {turn.suite.suite.name}:{turn.pattern.pattern.name}"
        place = f"  {sample_name(turn.sample)}  {sample_place(turn.suite.suite, turn.sample)}  "
        text = cut(turn.sample.sample.text, least=12)
        yield said((f"{turn.turned:<9}", _TONES[turn.turned]), (address, "strong"), place, text)
    if len(lines) > MOST_LINES:
        yield said((f"{'':<11}and {counted(len(lines) - MOST_LINES, 'more sample')}", "quiet"))
    known = {(suite.suite.file, each.trial.key): _came_to(each) for suite in before.suites for each in suite.trials}
    trials = 0
    for suite in now.suites:
        for each in suite.trials:
            if known.get((suite.suite.file, each.trial.key)) != _came_to(each):
                trials += 1
                if now.trial_fails(each):
                    yield from trial_blocks(now, suite, each)
                else:
                    share = f"{percent(each.share())} of {counted(each.texts, 'text')} fit"
                    yield said(("holds    ", "good"), (f"  {trial_name(suite, each.trial)}", "strong"), f"  {share}")
    if not turned and not trials:
        yield said(("nothing came out otherwise", "quiet"))
    elif lines:
        yield BLANK
    words = verdict(now)
    yield sentence(words[0].upper() + words[1:], "good" if now.all_well else "bad")


def _only_failing(now: CheckResult, turned: Sequence[Turn]) -> CheckResult:
    """Return a check with the samples alone that began to fail, for what they have in common to be told."""
    failing = {id(turn.sample) for turn in turned if turn.turned == "fails"}
    suites = []
    for suite in now.suites:
        patterns = [
            replace(each, samples=samples)
            for each in suite.patterns
            if (samples := tuple(sample for sample in each.samples if id(sample) in failing))
        ]
        suites.append(replace(suite, patterns=tuple(patterns), gone=()))
    return replace(now, suites=tuple(suites), left=())


def _came_to(trial: TrialResult) -> object:
    standing = trial.standing
    against = (standing.lost, standing.gained, standing.moved, standing.otherwise) if standing is not None else None
    return trial.error, trial.texts, trial.fit, dict(trial.counts), against, len(trial.shortfalls)
