"""Real lines under two versions: the trials of suites, and any other sources, gained, lost, captured otherwise."""

from __future__ import annotations

import filecmp
import os
import time
from collections import defaultdict
from typing import TYPE_CHECKING, Any

from msgspec import Struct, field
from msgspec.structs import replace

from fieldstick.comparing.trial_lines import LOOKED_INTO, SHOWN, Looking
from fieldstick.comparing.trial_records import definition_of, record_of
from fieldstick.comparing.trials import captured, held_against_record
from fieldstick.comparing.version_results import Lines, TrialChange, times_as_long
from fieldstick.errors import FieldstickError
from fieldstick.matching.prepare import prepare
from fieldstick.operations.route import Route
from fieldstick.runs.trial_results import TrialCause, TrialLine
from fieldstick.runs.trials import run_trial
from fieldstick.suites.suite import Pattern

if TYPE_CHECKING:
    from collections.abc import Hashable, Iterable, Iterator, Mapping, Sequence
    from decimal import Decimal

    from fieldstick.comparing.trials import Progress
    from fieldstick.comparing.version_results import PatternChange
    from fieldstick.data.source import Source
    from fieldstick.matching.matcher import Matcher
    from fieldstick.runs.trial_results import What
    from fieldstick.suites.suite import Bounds, Suite, Trial


def trial_changes(
    was: Suite, now: Suite, patterns: Iterable[PatternChange], *, progress: Progress | None = None
) -> Iterator[TrialChange]:
    """Run the trials of two versions over the data of the newer, each under both, and hold one against the other.

    A trial in which nothing is altered is not run.
    """
    renamed = {each.was_name: each.name for each in patterns if each.change == "renamed" and each.was_name}
    old = {_key(each, renamed): each for each in was.trials}
    for trial in now.trials:
        before = old.pop(_key(trial, {}), None)
        if before is None:
            yield TrialChange(trial, None, run_trial(trial, progress=progress))
            continue
        data = _data_words(before, trial)
        if _is_same(before, trial, renamed):
            if data is not None:
                yield TrialChange(trial, *(2 * (run_trial(trial, progress=progress),)), data)
            continue
        then = _called_anew(before, renamed, trial)
        first, second = (run_trial(each, progress=progress) for each in (then, trial))
        if first.error is None and second.error is None:
            second = held_against_record(second, record_of(first, whole=True))
        yield TrialChange(trial, first, second, data, _bounds_changed(then, trial))
    for left in old.values():
        yield TrialChange(left, None, None)


def _key(trial: Trial, renamed: Mapping[str, str]) -> tuple[Any, ...]:
    """Return what a trial is known by in both versions: its data, how that is read, what sorts it, its values."""
    target: Any = trial.operation.own_name if trial.operation is not None else None
    if trial.by == "patterns":
        target = frozenset(renamed.get(each.name, each.name) for each in trial.patterns)
    start = trial.begins_record
    begins = start is not None and (renamed.get(start.name, start.name) if start.path[:1] == ("patterns",) else True)
    settings = (tuple(sorted(each.items(), key=str)) for each in (trial.reading, trial.values))
    return trial.data, trial.by, target, begins, *settings


def _is_same(was: Trial, now: Trial, renamed: Mapping[str, str]) -> bool:
    """Tell whether a trial must come out the same over the same data: its patterns, their order and its bounds."""

    def known(trial: Trial, names: Mapping[str, str]) -> Any:
        patterns = [(names.get(name, name), definition_of(each, trial.values)) for name, each in trial.called.items()]
        bounds = [(each.what, names.get(each.name, each.name), each.least, each.most) for each in trial.bounds]
        start = trial.begins_record
        begins = definition_of(start, {}) if start is not None else None
        others = [getattr(trial.operation, name, None) for name in ("otherwise", "required", "blank")]
        return patterns, bounds, begins, others

    return bool(known(was, renamed) == known(now, {}))


def _called_anew(was: Trial, renamed: Mapping[str, str], now: Trial) -> Trial:
    """Return the older trial over the data of the newer one, its patterns called what they are called now."""

    def anew(patterns: Iterable[Pattern]) -> tuple[Pattern, ...]:
        return tuple(replace(each, name=renamed.get(each.name, each.name)) for each in patterns)

    operation = was.operation
    if isinstance(operation, Route):
        operation = replace(operation, order=anew(operation.order))
    bounds = tuple(replace(each, name=renamed.get(each.name, each.name)) for each in was.bounds)
    return replace(
        was,
        operation=operation,
        patterns=anew(was.patterns),
        bounds=bounds,
        file=now.file,
        location=now.location,
        values={**was.values, **now.values},
    )


def _bounds_changed(was: Trial, now: Trial) -> tuple[tuple[Bounds | None, Bounds | None], ...]:
    old, new = ({(each.what, each.name): each for each in trial.bounds} for trial in (was, now))
    pairs = ((old.get(key), new.get(key)) for key in dict.fromkeys([*old, *new]))
    return tuple(pair for pair in pairs if _limits(pair[0]) != _limits(pair[1]))


def _limits(bounds: Bounds | None) -> tuple[Decimal | None, Decimal | None] | None:
    return None if bounds is None else (bounds.least, bounds.most)


def _data_words(was: Trial, now: Trial) -> str | None:
    """Say what became of the data between the versions; None where it is the same, byte by byte."""
    there = [os.path.isfile(each.location) for each in (was, now)]
    if not all(there) or filecmp.cmp(was.location, now.location, shallow=False):
        return None if there[0] == there[1] else "the data is " + ("gone" if there[0] else "new")
    with open(was.location, "rb") as old, open(now.location, "rb") as new:
        lines = same = 0
        for lines, (one, other) in enumerate(zip(old, new, strict=False), 1):
            if one != other:
                break
            same = lines
        else:
            more, fewer = (sum(1 for _ in stream) for stream in (new, old))
            if more:
                return f"{more:,} line{'s were' if more != 1 else ' was'} appended to the data"
            return f"{fewer:,} line{'s were' if fewer != 1 else ' was'} taken from the end of the data"
    return f"the data changed, from line {same + 1} on"


class _Pair(Struct):
    """A pattern in both versions, ready to read, and what is found of it in the lines."""

    change: PatternChange
    was: Matcher
    now: Matcher
    seconds: list[float] = field(default_factory=lambda: [0.0, 0.0])
    """Processor time that each took to find out what fits."""
    counts: dict[What, int] = field(default_factory=lambda: {"gained": 0, "lost": 0, "otherwise": 0})
    first: dict[tuple[str, What], list[tuple[int, str]]] = field(default_factory=lambda: defaultdict(list))
    """By source and what became of it, the first lines."""


def with_lines(
    changes: Sequence[PatternChange], sources: Sequence[Source], values: Mapping[str, str]
) -> list[PatternChange]:
    """Read sources with each pattern that is altered, as it was and as it is, and add the lines that differ.

    Of one that has parameters without `values` nothing is read. Raises UsageError for a source that cannot be read.
    """
    pairs = {id(each): pair for each in changes if (pair := _pair(each, values)) is not None}
    for source in sources:
        for batch in source.batches():
            for pair in pairs.values():
                _compare(pair, source.name, batch.numbers, batch.texts)
    return [_with_pair(each, pairs[id(each)], values) if id(each) in pairs else each for each in changes]


def _with_pair(change: PatternChange, pair: _Pair, values: Mapping[str, str]) -> PatternChange:
    made = replace(change, lines=_summed(pair, change.lines, values))
    slower = times_as_long(*pair.seconds)
    return made if slower is None else replace(made, slower=slower)


def _pair(change: PatternChange, values: Mapping[str, str]) -> _Pair | None:
    was, now = change.was, change.now
    if not isinstance(was, Pattern) or not isinstance(now, Pattern) or not change.altered:
        return None
    try:
        before, after = (prepare(each, {name: values[name] for name in each.parameters}) for each in (was, now))
    except (FieldstickError, KeyError):
        return None
    return _Pair(change, before, after)


def _compare(pair: _Pair, source: str, numbers: Sequence[int], texts: Sequence[str]) -> None:
    started = time.process_time()
    before = pair.was.fits(texts)
    between = time.process_time()
    after = pair.now.fits(texts)
    pair.seconds[0] += between - started
    pair.seconds[1] += time.process_time() - between
    for index, (was, now) in enumerate(zip(before, after, strict=True)):
        if was and now:
            if captured(pair.was, texts[index]) == captured(pair.now, texts[index]):
                continue
            what: What = "otherwise"
        elif bool(was) == bool(now):
            continue
        else:
            what = "gained" if now else "lost"
        pair.counts[what] += 1
        first = pair.first[source, what]
        if len(first) < LOOKED_INTO:
            first.append((numbers[index], texts[index]))


def _summed(pair: _Pair, lines: Lines, values: Mapping[str, str]) -> Lines:
    causes = list(lines.causes)
    now = pair.change.now
    assert isinstance(now, Pattern)
    looking = Looking([now], values)
    for (source, what), found in pair.first.items():
        groups: dict[Hashable, list[TrialLine]] = defaultdict(list)
        for number, text in found:
            line, place = looking.into(now, number, text)
            groups[place].append(replace(line, before=pair.was.read_or_give_up(text)))
        name = pair.change.name
        all_of_them = pair.counts[what] if len(groups) == 1 and _only_source(pair, what) else 0
        for each in groups.values():
            made = TrialCause(what, name, name, all_of_them or len(each), tuple(each[:SHOWN]))
            causes.append((source, made))
    return Lines(
        lines.gained + pair.counts["gained"],
        lines.lost + pair.counts["lost"],
        lines.otherwise + pair.counts["otherwise"],
        tuple(causes),
    )


def _only_source(pair: _Pair, what: What) -> bool:
    return sum(each == what for _, each in pair.first) == 1


def with_trial_lines(changes: Sequence[PatternChange], trials: Iterable[TrialChange]) -> list[PatternChange]:
    """Add to each pattern how many lines of the trials it gained, lost or captures otherwise."""
    counts: dict[str, Lines] = defaultdict(Lines)
    for trial in trials:
        standing = trial.now.standing if trial.now is not None else None
        called = {name: each.name for name, each in trial.trial.called.items()}
        for cause in standing.causes if standing is not None else ():
            if cause.was is not None and cause.what in ("lost", "moved"):
                counts[called.get(cause.was, cause.was)].lost += cause.count
            if cause.now is not None and cause.what in ("gained", "moved"):
                counts[called.get(cause.now, cause.now)].gained += cause.count
            if cause.now is not None and cause.what == "otherwise":
                counts[called.get(cause.now, cause.now)].otherwise += cause.count
    return [replace(each, lines=counts[each.name]) if each.name in counts else each for each in changes]
