"""Trials held against what was recorded of them: which lines stopped fitting, began to, changed kind, are captured
otherwise, and whether the data changed or a pattern did.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Literal

import msgspec
from msgspec import Struct, field
from msgspec.structs import replace

from fieldstick.comparing.trial_lines import (
    LOOKED_INTO,
    SHOWN,
    Looking,
    misses_of,
    texts_at,
    trial_texts,
)
from fieldstick.comparing.trial_records import TrialRecord, definitions_of, fields_of, pattern_of
from fieldstick.errors import FieldstickError, UsageError
from fieldstick.matching.prepare import prepare
from fieldstick.operations.route import Router
from fieldstick.runs.change import Change
from fieldstick.runs.trial_results import GAVE_UP, TrialCause, TrialLine, TrialResult, TrialStanding
from fieldstick.runs.trials import ALONE, GROUP, run_trial
from fieldstick.suites.trials import MOST_KINDS

if TYPE_CHECKING:
    from collections.abc import Hashable, Iterator, Mapping, Sequence
    from contextlib import AbstractContextManager

    from fieldstick.comparing.baseline import Baseline
    from fieldstick.comparing.trial_lines import TrialText
    from fieldstick.comparing.trial_records import Definition
    from fieldstick.data.source import Source
    from fieldstick.matching.matcher import Matcher
    from fieldstick.runs.executor import Executor
    from fieldstick.runs.trial_results import What
    from fieldstick.suites.suite import Suite


Progress = Callable[["Sequence[Source]"], "AbstractContextManager[Any]"]


def run_and_hold(
    suite: Suite, baseline: Baseline | None, *, executor: Executor = ALONE, progress: Progress | None = None
) -> tuple[TrialResult, ...]:
    """Run the trials of a suite, and hold each against what its baseline has recorded of it.

    `executor` reads their data. Raises UsageError for a record that is none.
    """
    found = []
    for trial in suite.trials:
        record = _record_in(baseline, trial.key)
        result = run_trial(
            trial, executor=executor, until=record.lines if record is not None else None, progress=progress
        )
        if record is not None:
            result = held_against_record(result, record)
        # What fits no more since the baseline says it already.
        asked = result.shortfalls and not (result.standing is not None and result.standing.regressed)
        found.append(replace(result, misses=misses_of(result)) if asked else result)
    return tuple(found)


def _record_in(baseline: Baseline | None, key: str) -> TrialRecord | None:
    if baseline is None or key not in baseline.trials:
        return None
    try:
        record = msgspec.convert(baseline.trials[key], TrialRecord)
        record.columns()
        if len(record.codes) > MOST_KINDS:
            raise ValueError(f"it has more than {MOST_KINDS} kinds")
        return record
    except ValueError as error:  # msgspec's too
        words = f"{baseline.file}: the record of the trial {key} is none: {error}"
        raise UsageError(f"{words}; record it anew with 'fieldstick baseline'") from None


def held_against_record(result: TrialResult, record: TrialRecord) -> TrialResult:
    """Say of a trial what is otherwise than recorded."""
    if result.error is not None:
        return result
    return replace(result, standing=_Holding(result, record).standing())


Key = tuple["What", "str | None", "str | None", bool]
"""What became of a text, the names of what it was and is, and whether the data changed there."""


class _Found(Struct):
    """Texts of one sort: how many, and where the first of them stand, counted from 0."""

    count: int = 0
    first: list[int] = field(default_factory=list)

    def note(self, position: int) -> None:
        self.count += 1
        if len(self.first) < LOOKED_INTO:
            self.first.append(position)


class _Holding:
    """Holds one trial against its record."""

    def __init__(self, result: TrialResult, record: TrialRecord) -> None:
        self.result, self.record = result, record
        self.trial = result.trial
        self.now = definitions_of(self.trial)
        self.altered = [
            name for name, each in self.now.items() if name in record.definitions and record.definitions[name] != each
        ]
        self.found: dict[Key, _Found] = defaultdict(_Found)
        self.before: dict[str, bytes] = {}
        """What the texts of now came to before, by column: as recorded, or read with the patterns as they were."""
        # Kinds that the route has no more get bytes from the end, below that of what was given up.
        self.gone = [name for name in record.codes if name not in self.trial.names]
        self._codes = bytes(self._code_now(code) for code in range(256))

    def _code_now(self, code: int) -> int:
        """Return the byte that stands now for what one stood for when the trial was recorded."""
        codes, kinds = self.record.codes, self.trial.names
        if code >= len(codes):
            return code
        if code == len(codes) - 1:
            return len(kinds) - 1
        name = codes[code]
        return kinds.index(name) if name in kinds else GAVE_UP - 1 - self.gone.index(name)

    def _kind(self, code: int) -> str | None:
        """Return the kind that a byte stands for; None for a text of no kind, or that was given up."""
        if code < len(self.trial.names) - 1:
            return self.trial.names[code]
        place = GAVE_UP - 1 - code
        return self.gone[place] if 0 <= place < len(self.gone) else None

    def standing(self) -> TrialStanding:
        data, changed_groups = self._data()
        compared = self._compare(data, changed_groups)
        if self.altered and self.before and self.trial.by != "form":
            self._recapture()
        texts = texts_at(self.trial, {at for found in self.found.values() for at in found.first})
        sums = {what: self._sum(what) for what in ("lost", "gained", "moved", "otherwise")}
        return TrialStanding(
            data=data,
            data_from=min(changed_groups) * GROUP + 1 if changed_groups else 0,
            data_to=self._data_to(changed_groups),
            appended=max(0, self.result.digest.lines - self.record.lines) if data == "appended" else 0,
            patterns={name: tuple(self._field_changes(name)) for name in self.altered},
            **sums,
            by_data=sum(found.count for key, found in self.found.items() if key[3]),
            uncompared=min(self.record.texts, self.result.texts) - compared,
            causes=tuple(self._causes(texts)),
            counts={
                name: (self.record.counts.get(name, 0), self.result.counts.get(name, 0))
                for name in dict.fromkeys([*self.record.counts, *self.result.counts])
                if self.record.counts.get(name, 0) != self.result.counts.get(name, 0)
            },
        )

    def _sum(self, what: str) -> int:
        return sum(found.count for key, found in self.found.items() if key[0] == what and not key[3])

    def _data(self) -> tuple[Literal["same", "appended", "changed"], set[int]]:
        """Tell what became of the data, and the groups of it that differ."""
        before, now = self.record.data, list(self.result.digest.groups)
        longer = self.result.digest.lines > self.record.lines
        if longer and self.record.lines % GROUP and len(before) <= len(now) and self.result.digest.until is not None:
            now[len(before) - 1] = self.result.digest.until
        differing = {index for index, each in enumerate(before) if index >= len(now) or now[index] != each}
        if differing:
            return "changed", differing
        return "appended" if longer else "same", set()

    def _data_to(self, changed: set[int]) -> int | None:
        if not changed or self.record.lines != self.result.digest.lines or max(changed) == len(self.record.data) - 1:
            return None
        return (max(changed) + 1) * GROUP

    def _compare(self, data: str, changed: set[int]) -> int:
        """Note which texts came to something else, and return how many could be compared, from the first on."""
        recorded = self.record.columns()
        compared = min(self.record.texts, self.result.texts)
        if data == "changed" and self.record.lines != self.result.digest.lines:
            # Lines came or went: behind them nothing stands where it stood.
            compared = min(compared, min(changed) * GROUP)
        unknown = changed
        if recorded is None:
            unknown = set(range(-(-compared // GROUP)))
        is_known = recorded is not None and not changed
        then = {} if is_known else self._then(compared, unknown)
        if then is None:
            if recorded is None:
                return 0
            then = {}
        for name, was, now in self._pairs(recorded):
            # Lines that were appended came to nothing before.
            seen = now[:compared] if data == "appended" else now
            was = was[:compared]
            before = was if is_known else _patched(was, seen, then.get(name, {}), compared, unknown)
            self.before[name] = before
            self._note_differences(name, before, now, set())
            if recorded is not None:
                self._note_differences(name, was, before[:compared], changed)
        if recorded is None:
            return compared - sum(min(GROUP, compared - group * GROUP) for group in changed if group * GROUP < compared)
        return compared

    def _note_differences(self, name: str, was: bytes, now: bytes, changed: set[int]) -> None:
        """Note texts that came to something else: through the patterns, or in groups of the data that `changed`."""
        for start in range(0, min(len(was), len(now)), GROUP):
            if was[start : start + GROUP] == now[start : start + GROUP] or (changed and start // GROUP not in changed):
                continue
            for at in range(start, min(start + GROUP, len(was), len(now))):
                if was[at] != now[at]:
                    self.found[(*self._sort(name, was[at], now[at]), bool(changed))].note(at)

    def _then(self, compared: int, unknown: set[int]) -> dict[str, dict[int, int]] | None:
        """Read with the patterns as they were the texts of some groups, and those that have no place any more.

        Returns by column what came otherwise then; nothing where the patterns are the same, None where they cannot be
        read with.
        """
        same_order = self.trial.by != "route" or self.record.codes == list(self.trial.names)
        if not self.altered and same_order:
            return {}
        try:
            sort = self._sorter_then() if self.trial.by != "form" else None
        except (FieldstickError, KeyError, msgspec.ValidationError):
            sort = None
        if sort is None:
            return None
        found: dict[str, dict[int, int]] = defaultdict(dict)
        waiting: list[tuple[int, str]] = []
        columns = {name: now for name, _, now in self._pairs(None)}

        def settle() -> None:
            for name, codes in sort([text for _, text in waiting]).items():
                now = columns.get(name, b"")
                told = zip([at for at, _ in waiting], codes, strict=True)
                found[name].update((at, code) for at, code in told if at >= len(now) or now[at] != code)
            waiting.clear()

        for at, text in enumerate(trial_texts(self.trial)):
            if at >= compared or at // GROUP in unknown:
                waiting.append((at, text.text))
            if len(waiting) >= GROUP:
                settle()
        settle()
        return found

    def _sorter_then(self) -> Callable[[list[str]], dict[str, Sequence[int]]]:
        """Return what tells what texts came to with the patterns as they were, in the bytes of now."""
        names = self.record.codes[:-1] if self.trial.by == "route" else list(self.record.definitions)
        matchers = {name: prepare(pattern_of(name, self.record.definitions[name])) for name in names}
        if self.trial.by != "route":
            return lambda texts: {
                name: [GAVE_UP if each is None else each for each in matcher.fits(texts)]
                for name, matcher in matchers.items()
            }
        router = Router(tuple(self.record.codes), tuple(matchers.values()))
        return lambda texts: {
            "": [GAVE_UP if kind is None else self._codes[kind] for kind in router.sort(texts)] if texts else []
        }

    def _pairs(self, before: Sequence[bytes] | None) -> Iterator[tuple[str, bytes, bytes]]:
        """Yield columns to compare; those of a route by the kinds as they are called now.

        Where nothing was kept, that of now stands in for that of before.
        """
        if self.trial.by == "route":
            now = self.result.columns[0]
            yield "", now if before is None else before[0].translate(self._codes), now
            return
        names = [*self.record.counts]
        for name, now in zip(self.trial.names, self.result.columns, strict=True):
            if name in names and (before is None or names.index(name) < len(before)):
                yield name, now if before is None else before[names.index(name)], now

    def _sort(self, name: str, was: int, now: int) -> tuple[What, str | None, str | None]:
        if self.trial.by != "route":
            lost = was == 1
            return ("lost", name, None) if lost else ("gained" if now == 1 else "moved", None, name)
        first, then = self._kind(was), self._kind(now)
        return "lost" if then is None else "gained" if first is None else "moved", first, then

    def _recapture(self) -> None:
        """Read what fits as before once more with each pattern as it was, and note what is captured otherwise."""
        readers: dict[str, tuple[Matcher, Matcher]] = {}
        for name in self.altered:
            pair = _readers(name, self.record.definitions[name], self.now[name])
            if pair is not None:
                readers[name] = pair
        for at, text in enumerate(trial_texts(self.trial) if readers else ()):
            for name, (old, new) in readers.items():
                if self._fitted_both(name, at) and captured(old, text.text) != captured(new, text.text):
                    self.found["otherwise", name, name, False].note(at)

    def _fitted_both(self, name: str, at: int) -> bool:
        if self.trial.by != "route":
            column = self.trial.names.index(name)
            return name in self.before and self._is(self.before[name], at, 1) and self.result.columns[column][at] == 1
        kind = self.trial.names.index(name)
        return self._is(self.before[""], at, kind) and self.result.columns[0][at] == kind

    @staticmethod
    def _is(column: bytes, at: int, code: int) -> bool:
        return at < len(column) and column[at] == code

    def _field_changes(self, name: str) -> Iterator[Change]:
        """Yield how the fields of a pattern differ from what they were: new, gone, of another type."""
        old, new = fields_of(self.record.definitions[name]), fields_of(self.now[name])
        for field_name in [*old, *(each for each in new if each not in old)]:
            was, now = old.get(field_name, "no such field"), new.get(field_name, "no such field")
            if was != now:
                yield Change(field_name, was, now)
            elif list(old).index(field_name) != list(new).index(field_name):
                places = (f"group {list(fields).index(field_name) + 1}" for fields in (old, new))
                yield Change(field_name, *places)

    def _causes(self, texts: Mapping[int, TrialText]) -> Iterator[TrialCause]:
        looking = Looking(self.trial.used, self.trial.values)
        for (what, was, now, by_data), found in self.found.items():
            groups: dict[Hashable, list[TrialLine]] = defaultdict(list)
            name = was if what == "lost" else now
            for at in found.first:
                if at in texts:
                    text = texts[at]
                    line, place = looking.into(self.trial.called.get(name or ""), text.number, text.of(name))
                    groups[place].append(line)
            left = found.count - sum(map(len, groups.values()))
            for lines in groups.values():
                shown = tuple(self._with_before(line, was) for line in lines[:SHOWN])
                yield TrialCause(what, was, now, found.count if len(groups) == 1 else len(lines), shown, by_data)
            if left and len(groups) != 1:
                yield TrialCause(what, was, now, left, (), by_data)

    def _with_before(self, line: TrialLine, name: str | None) -> TrialLine:
        if name is None or name not in self.altered:
            return line
        try:
            before = prepare(pattern_of(name, self.record.definitions[name])).read_or_give_up(line.text)
        except (FieldstickError, msgspec.ValidationError):
            return line
        return replace(line, before=before)


def _patched(was: bytes, now: bytes, then: Mapping[int, int], compared: int, changed: set[int]) -> bytes:
    """Return what texts came to before, as far as that is known: what was recorded, where the data is the same.

    Elsewhere it is what the patterns as they were make of them `then`, or what they come to now.
    """
    made = bytearray(was)
    for group in changed:
        start, end = group * GROUP, min((group + 1) * GROUP, compared)
        made[start:end] = now[start:end]
    made += now[compared:]
    for at, code in then.items():
        if at < len(made):
            made[at] = code
    return bytes(made)


def _readers(name: str, before: Definition, now: Definition) -> tuple[Matcher, Matcher] | None:
    """Return a pattern as it was and as it is, ready to read; None when either does not compile."""
    try:
        return prepare(pattern_of(name, before)), prepare(pattern_of(name, now))
    except (FieldstickError, msgspec.ValidationError):
        return None


def captured(matcher: Matcher, text: str) -> list[dict[str, tuple[int, int]]] | None:
    """Return what a pattern captures in a text: of each match the places by name; None where it does not fit."""
    reading = matcher.read_or_give_up(text)
    if not reading.fits:
        return None
    matches = (*reading.matches, *reading.also)
    return [dict(zip(("", *match.layout.names), match.spans, strict=True)) for match in matches]
