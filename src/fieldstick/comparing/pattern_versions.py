"""The patterns and operations of a suite in two versions: which is which, what is altered and through what, and which
samples come out otherwise.
"""

from __future__ import annotations

import difflib
from functools import lru_cache
from typing import TYPE_CHECKING, Any

import tomli
from msgspec.structs import replace

from fieldstick.comparing.baseline import digest
from fieldstick.comparing.field_versions import field_changes
from fieldstick.comparing.trial_lines import trial_texts
from fieldstick.comparing.trial_records import definition_of
from fieldstick.comparing.version_results import PartChange, PatternChange, SampleChange, times_as_long
from fieldstick.errors import FieldstickError
from fieldstick.matching.prepare import prepare
from fieldstick.matching.relations import pattern_relation
from fieldstick.runs.judging import judge
from fieldstick.suites.suite import Pattern

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from fieldstick.analysis.relation import Relation
    from fieldstick.comparing.version_results import FieldChange
    from fieldstick.matching.result import Result
    from fieldstick.runs.results import SampleResult
    from fieldstick.suites.suite import Operation, Sample, Suite

    Judged = Pattern | Operation

LINES_READ = 20_000
"""Real lines that two patterns of different names are held against each other on."""

_PLAIN_KEYS = ("flags", "reach", "take", "message", "engines", "parameters")
_ASIDE = ("samples", "about", "tags")
"""Keys of an operation that change nothing of what it does."""


def pattern_changes(was: Suite, now: Suite) -> list[PatternChange]:
    """Tell what became of each pattern and operation: those of the newer suite in its order, then what is gone."""
    pairs = _paired(was, now)
    found = [_change(was, now, old, new) for old, new in pairs]
    return _with_homes(found)


def _paired(was: Suite, now: Suite) -> list[tuple[Judged | None, Judged | None]]:
    old = {each.name: each for each in was.judged}
    new = {each.name: each for each in now.judged}
    gone = [each for name, each in old.items() if name not in new]
    renamed: dict[str, Judged] = {}
    for name in new:
        if name not in old:
            found = _renamed(new[name], gone, was, now)
            if found is not None:
                gone.remove(found)
                renamed[name] = found
    pairs: list[tuple[Judged | None, Judged | None]] = [
        (old.get(name) or renamed.get(name), each) for name, each in new.items()
    ]
    return [*pairs, *((each, None) for each in gone)]


def _renamed(now: Judged, gone: Sequence[Judged], was_in: Suite, now_in: Suite) -> Judged | None:
    """Return the pattern that is gone which this one was: of the same definition, or with the same outcomes throughout.

    Of several the one whose name is most like it.
    """
    alike = [each for each in gone if type(each) is type(now) and _is_same(each, now, was_in, now_in)]
    if not alike and isinstance(now, Pattern):
        texts = list(_lines_of(now, now_in))
        alike = [each for each in gone if isinstance(each, Pattern) and _reads_the_same(each, now, texts)]
    names = difflib.get_close_matches(now.name, [each.name for each in alike], 1, 0.0)
    return next((each for each in alike if each.name == names[0]), None) if names else None


def _is_same(was: Judged, now: Judged, was_in: Suite, now_in: Suite) -> bool:
    return not _altered(was, now, was_in, now_in)


def _lines_of(pattern: Pattern, suite: Suite) -> Iterator[str]:
    """Yield the first texts of the trials that a pattern decides in, as far as they can be read."""
    left = LINES_READ
    for trial in suite.trials:
        name = next((name for name, each in trial.called.items() if each.name == pattern.name), None)
        if name is None:
            continue
        try:
            for text in trial_texts(trial):
                if not left:
                    return
                left -= 1
                yield text.of(name)
        except FieldstickError:
            continue


def _reads_the_same(was: Pattern, now: Pattern, texts: Sequence[str]) -> bool:
    """Tell whether two patterns have the same outcomes on the samples of both, of which some fit, and on real lines."""
    if was.parameters != now.parameters or not (was.samples and now.samples):
        return False
    samples = {digest(each): each for each in (*was.samples, *now.samples)}
    results = [judge(replace(each, samples=tuple(samples.values())), (each.engine,)).samples for each in (was, now)]
    read = [[each.reading for each in of_one] for of_one in results]
    if not any(each is not None and each.fits for each in read[0]):
        return False
    if any(_came_to(one) != _came_to(other) for one, other in zip(*results, strict=True)):
        return False
    if was.parameters or not texts:
        return True
    fits = [list(prepare(each).fits(texts)) for each in (was, now)]
    return fits[0] == fits[1]


def _came_to(result: SampleResult) -> tuple[Any, ...]:
    """Return what a text came to, but for the names of what was captured."""
    reading = result.reading
    if reading is None or not reading.fits:
        return (result.outcome, reading is None)
    return (result.outcome, [match.spans for match in (*reading.matches, *reading.also)])


def _change(was_in: Suite, now_in: Suite, was: Judged | None, now: Judged | None) -> PatternChange:
    if now is None or was is None:
        name = (now or was).name  # type: ignore[union-attr]
        return PatternChange(name, "new" if was is None else "gone", was, now)
    altered = _altered(was, now, was_in, now_in)
    samples, readings, slower = (
        _sample_changes(was, now) if altered or _differ(was.samples, now.samples) else ([], [], None)
    )
    fields: tuple[FieldChange, ...] = ()
    if isinstance(was, Pattern) and isinstance(now, Pattern) and altered:
        fields = field_changes(_definition(was), _definition(now), readings)
        names = {each.was: each.now for each in fields if each.change == "renamed"}
        samples = [replace(each, only_names=bool(names) and _differ_in_names(each, names)) for each in samples]
    renamed = was.name != now.name
    return PatternChange(
        now.name,
        "renamed" if renamed else "altered" if altered else "same",
        was,
        now,
        altered=tuple(altered),
        through=tuple(_through(was, now)) if altered else (),
        samples=tuple(samples),
        fields=fields,
        slower=slower,
        relation=_relation(was, now, altered),
    )


_OF_EXPRESSION = {"expression", "parts", "members", "any_of", "all_of", "none_of", "reach", "flags", "parameters"}
"""Keys that say which texts the expression of a pattern takes."""


def _relation(was: Judged, now: Judged, altered: Sequence[str]) -> Relation | None:
    both = isinstance(was, Pattern) and isinstance(now, Pattern)
    if not both or not _OF_EXPRESSION & set(altered):
        return None
    return pattern_relation(now, was)  # type: ignore[arg-type]


def _differ(was: Sequence[Sample], now: Sequence[Sample]) -> bool:
    """Tell whether two lists of samples differ in more than their order and their notes."""

    def known(samples: Sequence[Sample]) -> dict[str, Any]:
        return {digest(each): replace(each, path=(), number=0, note=None, row=None) for each in samples}

    return known(was) != known(now)


def _altered(was: Judged, now: Judged, was_in: Suite, now_in: Suite) -> list[str]:
    """Return the keys of a pattern or operation that differ; what differs through parts or members as `parts`."""
    if not isinstance(was, Pattern) or not isinstance(now, Pattern):
        tables = [_table(suite, each) for suite, each in ((was_in, was), (now_in, now))]
        keys = dict.fromkeys(key for table in tables for key in table if key not in _ASIDE)
        found = [key for key in keys if tables[0].get(key) != tables[1].get(key)]
        members = zip(_members(was), _members(now), strict=False)
        if not found and any(_definition(one) != _definition(other) for one, other in members):
            found.append("patterns")
        return found
    found = [key for key in _PLAIN_KEYS if getattr(was, key) != getattr(now, key)]
    one, other = _definition(was), _definition(now)
    if one.fields != other.fields:
        found.insert(0, "fields")
    if _own(was) != _own(now):
        found.insert(0, was.combination or "expression")
    elif one.expression != other.expression or one.members != other.members:
        found.insert(0, "parts" if was.combination is None else "members")
    return found


def _members(judged: Judged) -> tuple[Pattern, ...]:
    return judged.members if isinstance(judged, Pattern) else judged.patterns


def _definition(pattern: Pattern) -> Any:
    return definition_of(pattern, {})


def _own(pattern: Pattern) -> Any:
    """Return what a pattern says itself: its expression as written, or the names of its members."""
    if pattern.filling is not None:
        return pattern.filling.expression
    return pattern.combination, [each.name for each in pattern.members]


def _table(suite: Suite, operation: Judged) -> Mapping[str, Any]:
    table: Mapping[str, Any] = _tables(suite.document)[str(operation.path[0])][str(operation.path[1])]
    return table


@lru_cache(maxsize=4)
def _tables(document: str) -> dict[str, Any]:
    return tomli.loads(document)


def _through(was: Judged, now: Judged) -> Iterator[str]:
    """Yield the parts whose text differs, and the members that do, by their names."""
    if not isinstance(was, Pattern) or not isinstance(now, Pattern):
        for one, other in zip(_members(was), _members(now), strict=False):
            if one.name == other.name and _definition(one) != _definition(other):
                yield other.name
        return
    if was.filling is not None and now.filling is not None:
        for part, text in now.filling.part_texts.items():
            if was.filling.part_texts.get(part, text) != text:
                yield part
        return
    old = {each.name: each for each in was.members}
    for member in now.members:
        if member.name in old and _definition(old[member.name]) != _definition(member):
            yield member.name


def part_changes(was: Suite, now: Suite) -> Iterator[PartChange]:
    """Yield the suite's own parts whose text differs."""
    for name, text in now.parts.items():
        if name in was.parts and was.parts[name] != text:
            yield PartChange(name, was.parts[name], text, now.file, now.line_of(("parts", name)))


Judgements = tuple["list[SampleChange]", "list[tuple[Result, Result]]", "float | None"]


def _sample_changes(was: Judged, now: Judged) -> Judgements:
    """Judge the samples of two versions under both, each as the version says that has it.

    Returns what came out otherwise, the pairs of readings that fit both, and how many times as long the newer took.
    """
    old = {digest(each): each for each in was.samples}
    new = {digest(each): each for each in now.samples}
    asked = dict.fromkeys([*new, *old])
    before = judge(replace(was, samples=tuple(old.get(key) or new[key] for key in asked)), (was.engine,))
    after = judge(replace(now, samples=tuple(new.get(key) or old[key] for key in asked)), (now.engine,))
    found, readings = [], []
    for key, one, other in zip(asked, before.samples, after.samples, strict=True):
        change = _became(one, other, is_new=key not in old, is_gone=key not in new)
        if change is not None:
            sample = new.get(key) or old[key]
            found.append(SampleChange(sample, one, other, change, is_gone=key not in new))  # type: ignore[arg-type]
        if one.reading is not None and other.reading is not None and one.reading.fits and other.reading.fits:
            readings.append((one.reading, other.reading))
    return found, readings, times_as_long(before.seconds, after.seconds)


def _became(was: SampleResult, now: SampleResult, *, is_new: bool, is_gone: bool) -> str | None:
    if was.outcome == "pass" and now.outcome != "pass":
        fitted = was.reading is not None and was.reading.fits
        fits = now.reading is not None and now.reading.fits
        return "fields" if fitted and fits and was.sample.kind == "positive" else "worse"
    if is_new or is_gone:
        return "new" if is_new else "fields" if _captured(was) != _captured(now) else "gone"
    if was.outcome != "pass":
        return "mended" if now.outcome == "pass" else None
    if _fits(was) != _fits(now):
        # It is a sample of the other kind now: whoever relied on what it was is told.
        return "worse"
    return "fields" if _captured(was) != _captured(now) else None


def _fits(result: SampleResult) -> bool:
    return result.reading is not None and result.reading.fits


def _captured(result: SampleResult) -> Any:
    """Return what a text came to: what was captured by name, its place, type and value, and which member decided."""
    reading = result.reading
    if reading is None or not reading.fits:
        return result.produced
    matches = (*reading.matches, *reading.also)
    return [reading.member, *((match.place, match.fields) for match in matches)]


def _differ_in_names(sample: SampleChange, names: Mapping[str, str]) -> bool:
    """Tell whether all that differs are the names of fields, given what those of before are called now."""
    was, now = sample.was.reading, sample.now.reading
    if sample.change != "fields" or was is None or now is None or was.member != now.member:
        return False
    pairs = zip((*was.matches, *was.also), (*now.matches, *now.also), strict=False)
    return len(was.matches) == len(now.matches) and all(
        one.place == other.place
        and {names.get(name, name): value and value.place for name, value in one.fields.items()}
        == {name: value and value.place for name, value in other.fields.items()}
        for one, other in pairs
    )


def _with_homes(changes: list[PatternChange]) -> list[PatternChange]:
    """Tell of samples that are gone which pattern has them now."""
    homes = {
        digest(sample.sample): each.name
        for each in changes
        for sample in each.samples
        if sample.change == "new" or (sample.change == "worse" and not sample.is_gone)
    }
    homes |= {
        digest(sample): each.name
        for each in changes
        if each.change == "new" and each.now is not None
        for sample in each.now.samples
    }
    return [
        replace(
            each,
            samples=tuple(
                replace(sample, now_in=homes.get(digest(sample.sample))) if sample.is_gone else sample
                for sample in each.samples
            ),
        )
        for each in changes
    ]
