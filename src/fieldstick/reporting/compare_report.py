"""Two versions held against each other, for a person to read: what differs first, then a row a suite, the verdict."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from fieldstick.comparing.trial_lines import Looking
from fieldstick.reporting.document import BLANK, Labelled, Ruled, cut, said, sentence, table
from fieldstick.reporting.marks import marks_of
from fieldstick.reporting.relation_words import relation_words
from fieldstick.reporting.trial_report import cause_blocks
from fieldstick.reporting.trial_words import (
    bounds_change_words,
    percent,
    shortfall_words,
    standing_words,
    trial_troubles,
)
from fieldstick.reporting.why_report import stop_marks, stop_words
from fieldstick.reporting.words import counted
from fieldstick.suites.suite import Pattern

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.comparing.version_results import (
        Became,
        Comparison,
        FieldChange,
        PartChange,
        PatternChange,
        SampleChange,
        SuiteChange,
        TrialChange,
    )
    from fieldstick.reporting.document import Block
    from fieldstick.runs.results import SampleResult
    from fieldstick.runs.trial_results import TrialCause

MOST_DRAWN = 8
"""Samples, and causes of lines, of one pattern that are drawn; the rest is counted."""

MOST_BRIEF = 24
"""Patterns of which nothing came out otherwise that have a line each."""

MOST_SUITES = 16
"""Suites that have a row even when nothing of them is altered."""

_TONES = {"worse": "bad", "fields": "bad", "mended": "good", "new": "quiet", "gone": "warn"}


def comparison_report(comparison: Comparison) -> Iterator[Block]:
    """Yield what two versions differ in."""
    for part in comparison.parts:
        yield from _of_part(comparison, part)
    told = [each for each in comparison.told() if each[0].change not in ("new", "gone") and _is_drawn(each[1])]
    for suite, each in told:
        if not _is_brief(each):
            yield from _of_pattern(suite, each)
    yield from _brief([each for each in told if _is_brief(each[1])])
    for suite in comparison.suites:
        if suite.change in ("new", "gone"):
            tone = "bad" if suite.change == "gone" else "quiet"
            words = f"  {suite.suite.file}  with {judged_words(suite.patterns)}"
            yield said((f"{suite.change:<9}", tone), (f"  the suite {suite.suite.name}", "strong"), words)
            yield BLANK
        for trial in suite.trials:
            if trial.is_told:
                yield from _of_trial(suite, trial)
    yield from _table(comparison)
    tone = "bad" if comparison.is_worse else "warn" if _differs(comparison) else "good"
    for words in verdict(comparison):
        yield sentence(words, tone)


def judged_words(patterns: Sequence[PatternChange]) -> str:
    """Count patterns and operations."""
    return counted(len(patterns), "pattern or operation", "patterns and operations")


def _is_drawn(each: PatternChange) -> bool:
    """Whether there is more to tell of it than the part that it is altered through."""
    silent = each.altered == ("parts",) and not (each.samples or each.fields or each.lines or each.slower)
    return not silent or each.change == "renamed"


def _is_brief(each: PatternChange) -> bool:
    """Whether all there is to tell of it has room on a line."""
    return not (each.samples or each.fields or each.lines or each.slower)


def _brief(told: Sequence[tuple[SuiteChange, PatternChange]]) -> Iterator[Block]:
    """Yield a line for each pattern of which nothing came out otherwise."""
    for suite, each in told[:MOST_BRIEF]:
        words = [f"was {each.was_name}"] if each.change == "renamed" else []
        words += [_altered_words(each)] if each.altered else []
        if each.altered or each.change == "renamed":
            count = len(each.now.samples) if each.now is not None else 0
            words.append(f"{counted(count, 'sample')} read as before" if count else "no sample tests it")
        elif each.now is not None:
            words.append(f"with {counted(len(each.now.samples), 'sample')}")
        label = (f"{each.change:<9}", "bad" if each.is_worse else "quiet" if each.change == "new" else "warn")
        yield said(label, (f"  {address(suite, each.name)}", "strong"), "  ", cut("; ".join(words)))
        if each.relation is not None:
            yield Labelled("texts", relation_words(each.relation))
    if len(told) > MOST_BRIEF:
        yield said((f"{'':<11}and {len(told) - MOST_BRIEF:,} more like these", "quiet"))
    if told:
        yield BLANK


def _altered_words(each: PatternChange) -> str:
    return ", ".join(each.altered) + (f", through {', '.join(each.through)}" if each.through else "")


def address(suite: SuiteChange, name: str) -> str:
    """Name a pattern; by its own name alone where it stands in no suite."""
    return f"{suite.suite.name}:{name}" if suite.suite.name else name


def users_of(comparison: Comparison, part: PartChange) -> list[tuple[SuiteChange, PatternChange]]:
    """Return the patterns that are altered through a part."""
    return [
        (suite, each)
        for suite in comparison.suites
        for each in suite.patterns
        if any(_is_part(each, name, part) for name in each.through)
    ]


def _is_part(each: PatternChange, name: str, part: PartChange) -> bool:
    if name.rpartition(".")[2] != part.name or not isinstance(each.now, Pattern) or each.now.filling is None:
        return False
    return each.now.filling.part_texts.get(name) == part.now


def _of_part(comparison: Comparison, part: PartChange) -> Iterator[Block]:
    yield said((f"{'part':<9}", "warn"), (f"  {part.name}", "strong"), f"  {part.file}:{part.line}")
    yield said("    ", (f"{'was':<9}  ", "quiet"), cut(part.was))
    yield said("    ", (f"{'is':<9}  ", "quiet"), cut(part.now))
    users = users_of(comparison, part)
    names = ", ".join(address(suite, each.name) for suite, each in users)
    are = "is" if len(users) == 1 else "are"
    words = f"{counted(len(users), 'pattern')} {are} altered: {names}" if users else "no pattern uses it"
    yield Labelled("through it", words)
    same = [each for _, each in users if not _is_drawn(each)]
    if same:
        share = "all of them read" if len(same) == len(users) else f"{len(same):,} of them read"
        yield Labelled("", f"{share} every sample as before")
    yield BLANK


def _of_pattern(suite: SuiteChange, each: PatternChange) -> Iterator[Block]:
    tone = "bad" if each.is_worse else "quiet" if each.change in ("same", "new") else "warn"
    label = each.change if each.change != "same" else "samples"
    found = each.now or each.was
    assert found is not None
    home = suite.now if each.now is not None else suite.was
    line = f"{home.file}:{home.line_of(found.path)}" if home is not None and home.file else ""
    was = f"  was {each.was_name}" if each.change == "renamed" else ""
    yield said((f"{label:<9}", tone), (f"  {address(suite, each.name)}", "strong"), f"{was}  {line}".rstrip())
    if each.altered:
        yield Labelled("otherwise", _altered_words(each))
    if each.relation is not None:
        yield Labelled("texts", relation_words(each.relation))
    for words in map(field_words, each.fields):
        yield Labelled("field", words)
    if each.altered and not (each.samples or each.fields):
        count = len(each.now.samples) if each.now is not None else 0
        yield Labelled("samples", f"{counted(count, 'sample')} read as before" if count else "none")
    if each.slower is not None:
        yield Labelled("time", f"it takes {each.slower:,.1f} times as long over the same texts")
    if each.lines:
        yield Labelled("lines", lines_words(each))
    yield BLANK
    drawn = [sample for sample in each.samples if sample.change in ("worse", "fields") and not sample.only_names]
    renamed = [sample for sample in each.samples if sample.only_names]
    looking = Looking([each.now], {}) if isinstance(each.now, Pattern) else None
    for sample in (*renamed[:1], *drawn[:MOST_DRAWN]):
        yield from _of_sample(suite, each, sample, looking)
        if sample.only_names and len(renamed) > 1:
            words = f"and {counted(len(renamed) - 1, 'more sample')} in which the names of fields alone differ"
            yield from (said((words, "quiet")), BLANK)
    if len(drawn) > MOST_DRAWN:
        yield from (said((f"and {counted(len(drawn) - MOST_DRAWN, 'more sample')} like these", "quiet")), BLANK)
    others = [sample for sample in each.samples if sample.change not in ("worse", "fields")]
    for sample in others[:MOST_DRAWN]:
        yield _sample_line(suite, each, sample)
    if len(others) > MOST_DRAWN:
        yield said((f"and {counted(len(others) - MOST_DRAWN, 'more sample')} like these", "quiet"))
    if others:
        yield BLANK
    yield from _of_causes([(f"{source}:", cause) for source, cause in each.lines.causes])


def field_words(change: FieldChange) -> str:
    """Say what became of a field."""
    match change.change:
        case "new":
            return f"{change.name} is new: {change.now}"
        case "gone":
            return f"{change.name} is gone; it was {change.was}"
        case "renamed":
            return f"{change.was} is called {change.now} now"
        case "renumbered" if change.name.isdecimal():
            return f"{change.was} is {change.now} now"
        case "renumbered":
            return f"{change.name} is {change.now} now, was {change.was}"
        case "retyped":
            return f"{change.name} is of type {change.now}, was {change.was}"
        case _:
            return f"{change.name} has other bounds: {change.was} → {change.now}"


def lines_words(each: PatternChange) -> str:
    """Say how many lines a pattern gained, lost, captures otherwise."""
    lines = each.lines
    counts = ((lines.lost, "lost"), (lines.gained, "gained"), (lines.otherwise, "captured otherwise"))
    return ", ".join(f"{count:,} {words}" for count, words in counts if count)


def _head(suite: SuiteChange, each: PatternChange, sample: SampleChange) -> list[tuple[str, str] | str]:
    home = suite.was if sample.is_gone else suite.now
    kind = "" if sample.sample.kind == "sample" else f"  {sample.sample.kind}"
    where = f"  {home.file}:{home.line_of(sample.sample.path)}" if home is not None and home.file else ""
    if sample.is_gone:
        now = f", it is in {sample.now_in} now" if sample.now_in else ""
        where += f"  (no sample any more{now})"
    return [
        (f"{sample.change:<9}", _TONES[sample.change]),
        (f"  {address(suite, each.name)}", "strong"),
        f"{kind}{where}",
    ]


def _sample_line(suite: SuiteChange, each: PatternChange, sample: SampleChange) -> Block:
    return said(*_head(suite, each, sample), "  ", cut(sample.sample.text, least=12))


def _of_sample(
    suite: SuiteChange, each: PatternChange, sample: SampleChange, looking: Looking | None
) -> Iterator[Block]:
    yield said(*_head(suite, each, sample))
    for name, value in sample.sample.values.items():
        yield Labelled("with", f"{name} = {value}")
    yield said(("    was", "quiet"))
    yield from _drawn(sample.was, None)
    yield said(("    is", "quiet"))
    yield from _drawn(sample.now, looking)
    yield BLANK


def _drawn(result: SampleResult, looking: Looking | None) -> Iterator[Block]:
    """Yield a sample as one version reads it, with where its match stops where that can be looked into."""
    text, reading = result.sample.text, result.reading
    if result.produced is not None:
        yield Labelled("made", str(result.produced))
        return
    if not text:
        yield said(("    (no characters at all)", "quiet"))
    if reading is not None and not reading.fits and looking is not None and not result.sample.values:
        line, _ = looking.into(looking.used[0], 0, text)
        if line.stop is not None:
            yield Ruled(text, stop_marks(line.stop))
            yield Labelled("because", stop_words(line.stop))
            return
    yield Ruled(text, tuple(marks_of(reading)) if reading is not None else ())
    if reading is None:
        yield Labelled("because", result.words or "it could not be judged")
    elif reading.unfit is not None:
        yield Labelled("because", reading.unfit.words)


def _of_causes(causes: Sequence[tuple[str, TrialCause]]) -> Iterator[Block]:
    for source, cause in causes[:MOST_DRAWN]:
        yield from cause_blocks(cause, place=source)
    if len(causes) > MOST_DRAWN:
        left = sum(cause.count for _, cause in causes[MOST_DRAWN:])
        yield from (said((f"and {counted(left, 'more line')} of other kinds", "quiet")), BLANK)


def _of_trial(suite: SuiteChange, change: TrialChange) -> Iterator[Block]:
    trial, now, was = change.trial, change.now, change.was
    tone = "bad" if change.is_worse else "warn"
    yield said((f"{'trial':<9}", tone), (f"  {suite.suite.name}:{trial.data}", "strong"), f"  {trial.target}")
    if now is None:
        yield Labelled("gone", "the newer version has no such trial")
    elif was is None:
        yield Labelled("new", f"{now.fit:,} of {counted(now.texts, 'text')} fit, {percent(now.share())}")
    elif was.share() != now.share():
        yield Labelled("share", f"{percent(was.share())} → {percent(now.share())} of {counted(now.texts, 'text')} fit")
    if change.data is not None:
        yield Labelled("data", change.data)
    for pair in change.bounds:
        yield Labelled("bounds", bounds_change_words(*pair))
    if now is not None:
        for words in (*trial_troubles(now), *map(shortfall_words, now.shortfalls)):
            yield Labelled("wanted", words)
        for words in standing_words(now.standing, with_patterns=False) if now.standing is not None else ():
            yield Labelled("lines", words)
    yield BLANK
    if now is not None and now.standing is not None:
        for cause in now.standing.causes[:MOST_DRAWN]:
            yield from cause_blocks(cause, trial)
        left = now.standing.causes[MOST_DRAWN:]
        if left:
            yield said((f"and {counted(sum(each.count for each in left), 'more text')} of other kinds", "quiet"))


_ORDER: tuple[Became, ...] = ("same", "altered", "renamed", "new", "gone")


def _table(comparison: Comparison) -> Iterator[Block]:
    if all(not suite.suite.name for suite in comparison.suites):
        return
    listed = list(comparison.suites)
    if len(listed) > MOST_SUITES:
        listed = [each for each in listed if each.change != "same"]
    counts = [Counter(each.change for each in suite.patterns) for suite in listed]
    columns = [each for each in _ORDER if any(found[each] for found in counts)]
    rows = []
    for suite, found in zip(listed, counts, strict=True):
        state = "worse" if suite.is_worse else suite.change if suite.change in ("new", "gone", "renamed") else ""
        rows.append([suite.suite.name, *(f"{found[each]:,}" if found[each] else "" for each in columns), state])
    if rows:
        yield table(["suite", *columns, ""], rows, ["strong"])
    left = len(comparison.suites) - len(listed)
    if left:
        yield said((f"and {counted(left, 'suite')} in which nothing is altered", "quiet"))
    yield BLANK


def _differs(comparison: Comparison) -> bool:
    return any(suite.change != "same" for suite in comparison.suites)


def verdict(comparison: Comparison) -> Iterator[str]:
    """Say in words and numbers what became of it all, a sentence at a time."""
    patterns = [each for suite in comparison.suites for each in suite.patterns]
    trials = [each for suite in comparison.suites for each in suite.trials]
    found = Counter(each.change for each in patterns)
    between = f"from {comparison.was} to {comparison.now}"
    worse = [
        (sum(s.change == "worse" for each in patterns for s in each.samples), "sample", "worse"),
        (sum(s.change == "fields" for each in patterns for s in each.samples), "sample", "with other fields"),
        (sum(each.worse_fields for each in patterns), "field", "gone or otherwise"),
        (found["gone"], "pattern", "gone"),
        (sum(suite.change == "gone" for suite in comparison.suites), "suite", "gone"),
        (sum(each.is_worse for each in trials), "trial", "below its bounds"),
    ]
    told = ", ".join(f"{counted(count, noun)} {words}" for count, noun, words in worse if count)
    if told:
        yield f"Worse {between}: {told}."
    else:
        yield f"Nothing got worse {between}."
    altered = ", ".join(f"{found[each]:,} {each}" for each in ("altered", "renamed", "new", "gone") if found[each])
    yield f"Of {judged_words(patterns)} {altered or 'none is altered'}."
