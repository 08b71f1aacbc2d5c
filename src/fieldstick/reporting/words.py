"""Turns of phrase that several renderings share."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from fieldstick.suites.suite import Pattern

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.runs.results import CheckResult, PatternResult, SampleResult
    from fieldstick.suites.suite import Difference, Suite


def counted(number: int, one: str, several: str | None = None) -> str:
    """Write a number with its noun: 1 sample, 1,204 samples."""
    return f"{number:,} {one if number == 1 else several or one + 's'}"


def sample_name(result: SampleResult) -> str:
    """Name a sample within its pattern: positive 3."""
    return f"{result.sample.kind} {result.sample.number}"


def sample_place(suite: Suite, result: SampleResult) -> str:
    """Say where a sample stands: file, line, and the row of its table."""
    sample = result.sample
    row = f", row {sample.row}" if sample.row is not None else ""
    return f"{suite.file}:{suite.line_of(sample.path)}{row}"


def difference_lines(difference: Difference) -> tuple[str, str]:
    """Write what was expected and what was captured, as one line each."""
    label = {"field": difference.name, "absent": difference.name}.get(
        difference.what, f"{difference.what} {difference.name or ''}".strip()
    )
    expected = "absent" if difference.what == "absent" else _quoted(difference, difference.expected, "nothing more")
    captured = _quoted(difference, difference.captured, "absent" if difference.what == "field" else "nothing")
    return f"{label} = {expected}", f"{label} = {captured}"


def _quoted(difference: Difference, text: str | None, nothing: str) -> str:
    if text is None:
        return nothing
    plain = difference.what in ("place", "count") or (difference.name or "").endswith(" place")
    return text if plain else f"'{text}'"


def patterns_words(results: Iterable[PatternResult]) -> str:
    """Count patterns and operations: 12 patterns and 1 operation."""
    kinds = Counter(isinstance(each.pattern, Pattern) for each in results)
    told = [counted(kinds[True], "pattern")] if kinds[True] or not kinds[False] else []
    return " and ".join([*told, *([counted(kinds[False], "operation")] if kinds[False] else [])])


def gone_of(result: CheckResult) -> dict[str, list[str]]:
    """Return by SUITE:PATTERN, or by suite, in words each sample that is gone since the baseline."""
    found: dict[str, list[str]] = {}
    for suite in result.suites:
        for each in suite.gone:
            now = f" (now in {suite.suite.name}:{each.now_in})" if each.now_in else ""
            found.setdefault(f"{suite.suite.name}:{each.pattern}", []).append(f"{each.kind}{now} {each.text}")
        for key in suite.gone_trials:
            found.setdefault(f"{suite.suite.name}:trials", []).append(key)
    for left in result.left:
        found[left.suite] = [f"sample {number} of {left.file}" for number in range(1, left.samples + 1)]
    return found


def verdict(result: CheckResult) -> str:
    """Say in words and numbers what a check came to."""
    totals = result.totals
    what = patterns_words(pattern for suite in result.suites for pattern in suite.patterns)
    where = f"{what} in {counted(len(result.suites), 'suite')}"
    found = _engine_words(result) + _trial_words(result) + _baseline_words(result)
    found += f"; {counted(len(result.hazards), 'hazard')} (fieldstick hazards)" if result.hazards else ""
    unread = f"{counted(len(result.broken), 'expression')} cannot be read" if result.broken else ""
    if unread and not totals.samples:
        return f"{unread}: {where}{found}."
    if totals.passed == totals.samples:
        start = f"all {counted(totals.samples, 'sample')} pass" if totals.samples != 1 else "the 1 sample passes"
        short = any(each.falls_short for each in result.trials)
        otherwise = any(each.failing for each in result.elsewhere)
        but = ", but not as recorded" if result.otherwise else ", but a trial falls short" if short else ""
        but = but or (", but not on every engine" if otherwise else "")
        but += f", {'and' if but else 'but'} {unread}" if unread else ""
        return f"{start}{but}: {where}{found}."
    wrong = []
    if totals.fail:
        wrong.append(f"{totals.fail:,} fail{'s' if totals.fail == 1 else ''}")
    if totals.error:
        wrong.append(f"{totals.error:,} cannot be judged")
    if totals.timeout:
        wrong.append(f"{totals.timeout:,} timed out")
    if unread:
        found = f"; {unread}{found}"
    return f"of {counted(totals.samples, 'sample')}, {', '.join(wrong)}: {where}{found}."


def _engine_words(result: CheckResult) -> str:
    """Say how many samples do not pass on further engines."""
    names = dict.fromkeys(each.engine for each in result.elsewhere if each.unusable is None)
    failing = {name: sum(each.failing for each in result.elsewhere if each.engine == name) for name in names}
    told = [f"{number:,} fail{'s' if number == 1 else ''} on {name}" for name, number in failing.items() if number]
    passing = [name for name, number in failing.items() if not number]
    told += [f"all pass on {', '.join(passing)}"] if passing else []
    return f"; {'; '.join(told)}" if told else ""


def _trial_words(result: CheckResult) -> str:
    trials = result.trials
    gone = sum(len(suite.gone_trials) for suite in result.suites)
    left = f"; {counted(gone, 'trial')} {'is' if gone == 1 else 'are'} gone" if gone else ""
    if not trials:
        return left
    failing = sum(map(result.trial_fails, trials))
    if not failing:
        changed = any(each.standing is not None and each.standing.changed for each in trials)
        tolerated = ", with changes (tolerated)" if changed else ""
        return f"; {counted(len(trials), 'trial')} hold{'s' if len(trials) == 1 else ''}{tolerated}{left}"
    lost = sum(each.standing.lost for each in trials if each.standing is not None)
    told = f" ({counted(lost, 'text')} lost)" if lost else ""
    return f"; of {counted(len(trials), 'trial')}, {failing:,} fail{'s' if failing == 1 else ''}{told}{left}"


def _baseline_words(result: CheckResult) -> str:
    with_baseline = [each for each in result.suites if each.baseline is not None]
    if result.asked_engines:
        return ""
    if not with_baseline and not result.left:
        return "; no baseline"
    totals = result.totals
    counts = {
        "regressed": totals.regressed,
        "changed": totals.changed,
        "mended": totals.mended,
        "new": totals.new,
        "gone": totals.gone,
    }
    told = ", ".join(
        f"{number:,} {name}{' (tolerated)' if name in result.tolerated else ''}"
        for name, number in counts.items()
        if number
    )
    missing = len(result.suites) - len(with_baseline)
    partly = f" ({counted(missing, 'suite')} without one)" if missing else ""
    lines = any(each.standing is not None and each.standing.otherwise_than_recorded for each in result.trials)
    return f"; against the baseline {told or ('no sample' if lines else 'nothing') + ' changed'}{partly}"
