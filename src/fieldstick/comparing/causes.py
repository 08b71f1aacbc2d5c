"""What failing samples have in common: a part, a pattern that others are made of, or the place where they stop.

One broken part makes many samples fail, in several patterns and suites. What each of them may fail through is told from
where its match stops; then, again and again, what most of those that are left may fail through is taken as their cause
(the greedy cover of Chvátal 1979). Nothing here depends on a clock: what is looked into is bounded in steps.
"""

from __future__ import annotations

import re
from collections import defaultdict
from typing import TYPE_CHECKING, Literal

from msgspec import Struct, field

from fieldstick.analysis.effort import Effort
from fieldstick.drafting.judge import deciding
from fieldstick.drafting.tracer import trace
from fieldstick.engines.probing import compiled_by_engine
from fieldstick.errors import FieldstickError, SyntaxFault
from fieldstick.lean import compiled_later
from fieldstick.suites.places import locate
from fieldstick.suites.suite import Operation, Pattern, Suite, line_of
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Mapping, Sequence

    from fieldstick.runs.results import CheckResult, PatternResult, SampleResult, SuiteResult
    from fieldstick.suites.parts import PartScope
    from fieldstick.syntax.tree import Span

STEPS = 600_000
"""Steps for which matches are traced; what is left then is grouped by pattern and reason alone."""

STEPS_OF_ONE = 20_000
LONGEST_TEXT = 4_000
"""Steps for one match, and code points of a text that is traced."""

_TAKES_NOTHING = compiled_later(r"(?:\)|\((?:\?(?::|P<\w+>))?)*")
"""What may stand between a part and what was asked for after it, for the part to be what ended too early."""


class Cause(Struct, frozen=True):
    """What some samples have in common.

    `kind` is part, pattern, or place: those of one pattern that stop, or differ, at the same place. `name` is what
    the part or pattern is called, `file` and `line` say where it stands, None where that is not known. `fault` is what
    is wrong with a part that cannot be read.
    """

    kind: Literal["part", "pattern", "place"]
    name: str
    failures: tuple[Failure, ...]
    file: str | None = None
    line: int | None = None
    fault: SyntaxFault | None = None


class Failure(Struct, frozen=True):
    """A sample that needs attention, with the pattern or operation and the suite that it belongs to."""

    suite: SuiteResult
    pattern: PatternResult
    sample: SampleResult

    @property
    def address(self) -> str:
        """SUITE:PATTERN."""
        return f"{self.suite.suite.name}:{self.pattern.pattern.name}"


class _Through(Struct, frozen=True):
    """A part of a file, or a pattern; `key` tells one from another."""

    kind: Literal["part", "pattern"]
    key: tuple[int, str]
    name: str
    scope: PartScope | None = None

    def __hash__(self) -> int:
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Through) and self.key == other.key


class _Looked(Struct):
    """What a sample may fail through: `surely` where its match stopped, `perhaps` what else it goes through."""

    surely: list[_Through] = field(default_factory=list)
    perhaps: list[_Through] = field(default_factory=list)
    stop: Span | None = None

    @property
    def through(self) -> list[_Through]:
        return list(dict.fromkeys([*self.surely, *self.perhaps]))


def causes(result: CheckResult) -> tuple[Cause, ...]:
    """Return the causes of all samples that need attention, in the order of the first sample of each."""
    failures = [
        Failure(suite, pattern, sample)
        for suite in result.suites
        for pattern in suite.patterns
        for sample in pattern.samples
        if sample.needs_attention
    ]
    if not failures:
        return ()
    looked = _looked(failures, result)
    shared, left = _shared(failures, looked)
    found = [*shared, *_by_place(failures, looked, left)]
    order = {id(failure): number for number, failure in enumerate(failures)}
    return tuple(sorted(found, key=lambda cause: order[id(cause.failures[0])]))


def _looked(failures: Sequence[Failure], result: CheckResult) -> list[_Looked]:
    """Look into all failures; operations fail through what the patterns that they use fail through."""
    looking = _Looking(result)
    found = [looking.into(failure) for failure in failures]
    failing: dict[int, list[_Looked]] = defaultdict(list)
    for failure, looked in zip(failures, found, strict=True):
        failing[id(failure.pattern.pattern)].append(looked)
    for failure, looked in zip(failures, found, strict=True):
        if isinstance(failure.pattern.pattern, Operation):
            for pattern in _leaves(failure.pattern.pattern.patterns):
                for other in failing.get(id(pattern), ()):
                    looked.perhaps += other.surely
    return found


def _leaves(patterns: Iterable[Pattern]) -> Iterator[Pattern]:
    for pattern in patterns:
        if pattern.combination is None:
            yield pattern
        yield from _leaves(pattern.members)


class _Looking:
    """Looks into failures, as long as there are steps left."""

    def __init__(self, result: CheckResult) -> None:
        self._effort = Effort(STEPS)
        self._homes: dict[int, Suite] = {
            id(pattern): suite.suite for suite in result.suites for pattern in suite.suite.patterns.values()
        }
        self._owners = {id(suite.suite.scope.parts): suite.suite.name for suite in result.suites}

    def into(self, failure: Failure) -> _Looked:
        pattern, sample = failure.pattern.pattern, failure.sample
        looked = _Looked()
        if sample.reason == "expression-broken":
            leaves = _leaves([pattern] if isinstance(pattern, Pattern) else pattern.patterns)
            looked.surely += [each for leaf in leaves for each in self._broken(leaf, sample.sample.values)]
            return looked
        if not isinstance(pattern, Pattern) or sample.outcome == "pass":
            return looked
        values = sample.sample.values
        decides = pattern
        if sample.reason in ("did-not-match", "field-invalid") and len(sample.sample.text) <= LONGEST_TEXT:
            decides = self._decides(pattern, sample.sample.text, values)
            if sample.reason == "did-not-match":
                self._trace(decides, sample.sample.text, values, looked)
        if sample.standing == "regressed":
            # Perhaps a part that is another one than recorded, wherever that showed.
            altered = [label for label in _parts(decides) if label in failure.suite.altered_parts]
            looked.perhaps += [each for label in altered for each in self._part(decides, label)]
        looked.surely.append(self._pattern(decides))
        return looked

    def _broken(self, pattern: Pattern, values: Mapping[str, str]) -> list[_Through]:
        """Return the parts of a pattern that do not compile, the innermost first, and the pattern when it does not."""
        if pattern.filling is None:
            return []
        own = {name: values.get(name, "") for name in pattern.parameters}
        expression = pattern.filling.text(own)
        if not self._effort.spend(len(expression)) or compiled_by_engine(expression, pattern.flags) is not None:
            return []
        found: list[_Through] = []
        spans = pattern.filling.part_spans(own)
        for (start, end), label in sorted(spans.items(), key=lambda item: item[0][1] - item[0][0]):
            part = expression[start + len("(?:") : end - 1]
            if self._effort.spend(len(part)) and compiled_by_engine(part, pattern.flags) is None:
                found += self._part(pattern, label)
        return [*found, self._pattern(pattern)]

    def _decides(self, pattern: Pattern, text: str, values: Mapping[str, str]) -> Pattern:
        if pattern.combination is None or not self._effort.spend(len(text) + 1000 * len(pattern.members)):
            return pattern
        try:
            return deciding(pattern, text, values).pattern
        except FieldstickError:
            return pattern

    def _trace(self, pattern: Pattern, text: str, values: Mapping[str, str], looked: _Looked) -> None:
        if pattern.filling is None or pattern.engine != "python" or self._effort.stopped:
            return
        own = pattern.own_values(values)
        expression = pattern.filling.text(own)
        try:
            traced = trace(parse(expression, pattern.flags), text, pattern.reach, steps=STEPS_OF_ONE)
        except FieldstickError:
            return
        self._effort.spend(traced.steps + 10 * len(expression))
        if traced.spans is not None or not traced.wanted:
            return
        asked = [wanted for wanted in traced.wanted if not wanted.more] or list(traced.wanted)
        looked.stop = asked[0].node.span
        spans = pattern.filling.part_spans(own)
        # The innermost part comes first: what is wrong in it is wrong in those around it too.
        for (start, end), label in sorted(spans.items(), key=lambda item: item[0][1] - item[0][0]):
            if any(_asked_in(expression, (start, end), wanted.node.span) for wanted in traced.wanted):
                looked.surely += self._part(pattern, label)

    def _part(self, pattern: Pattern, label: str) -> list[_Through]:
        home = self._homes.get(id(pattern))
        if home is None:
            return []
        scope = home.scope
        *aliases, name = label.split(".")
        for alias in aliases:
            scope = scope.borrowed[alias]
        owner = self._owners.get(id(scope.parts))
        return [_Through("part", (id(scope.parts), name), f"{owner}.{name}" if owner else label, scope)]

    def _pattern(self, pattern: Pattern) -> _Through:
        home = self._homes.get(id(pattern))
        return _Through("pattern", (id(pattern), ""), f"{home.name}:{pattern.name}" if home else pattern.name)


def _parts(pattern: Pattern) -> list[str]:
    return sorted(pattern.filling.part_texts) if pattern.filling is not None else []


def _asked_in(expression: str, part: Span, asked: Span) -> bool:
    """Tell whether something was asked for in a part, or right after it, where the part may have taken too little."""
    start, end = part
    if start <= asked[0] and asked[1] <= end:
        return True
    return end <= asked[0] and _TAKES_NOTHING.fullmatch(expression, end, asked[0]) is not None


def _shared(failures: Sequence[Failure], looked: Sequence[_Looked]) -> tuple[list[Cause], list[int]]:
    """Return the causes that samples of several patterns share, and the indexes of the failures that have none."""
    left = list(range(len(failures)))
    found: list[Cause] = []
    while True:
        reached: dict[_Through, list[int]] = defaultdict(list)
        for index in left:
            for through in looked[index].through:
                reached[through].append(index)
        # Of causes that reach as many, the one that more of them stopped at, then the inner part.
        best = max(
            (each for each in reached if _is_shared(each, reached[each], failures, looked)),
            key=lambda each: (len(reached[each]), sum(each in looked[index].surely for index in reached[each])),
            default=None,
        )
        if best is None:
            return found, left
        mine = tuple(failures[index] for index in reached[best])
        found.append(Cause(best.kind, best.name, mine, *_place_of(best, mine), _fault_of(best)))
        taken = set(reached[best])
        left = [index for index in left if index not in taken]


def _is_shared(
    through: _Through, indexes: Sequence[int], failures: Sequence[Failure], looked: Sequence[_Looked]
) -> bool:
    """Tell whether samples of several patterns go through it: some stopped there, or all of them did pass before."""
    several = len({failures[index].address for index in indexes}) > 1
    stopped = any(through in looked[index].surely for index in indexes)
    return several and (stopped or all(failures[index].sample.standing == "regressed" for index in indexes))


def _place_of(through: _Through, failures: Sequence[Failure]) -> tuple[str | None, int | None]:
    """Return the file and the line where a part or a pattern stands."""
    if through.scope is None:
        for failure in failures:
            suite = failure.suite.suite
            for pattern in suite.patterns.values():
                if id(pattern) == through.key[0]:
                    return suite.file, suite.line_of(pattern.path)
        return None, None
    try:
        with open(through.scope.name, encoding="utf-8", newline="") as stream:
            return through.scope.name, line_of(locate(stream.read()), ("parts", through.key[1]))
    except (OSError, ValueError):
        return through.scope.name, None


def _fault_of(through: _Through) -> SyntaxFault | None:
    """Return what is wrong with a part as it is written, parts in it standing for nothing; None for nothing."""
    if through.scope is None:
        return None
    written = through.scope.parts[through.key[1]]
    try:
        parse(re.sub(r"\{\{=?[\w.-]+\}\}", lambda use: "a" * len(use[0]), written))
    except SyntaxFault as fault:
        return SyntaxFault(written, *fault.span, fault.rule, fault.expected, fault.meant)
    return None


def _by_place(failures: Sequence[Failure], looked: Sequence[_Looked], left: Sequence[int]) -> Iterator[Cause]:
    """Yield those of each pattern that stop, or differ, at the same place."""
    groups: dict[tuple[object, ...], list[Failure]] = defaultdict(list)
    for index in left:
        failure = failures[index]
        sample = failure.sample
        unfit = sample.reading.unfit if sample.reading is not None else None
        where: tuple[object, ...] = (
            looked[index].stop,
            unfit.field if unfit is not None else None,
            tuple((each.what, each.name) for each in sample.differences),
            tuple(each.name for each in sample.changes),
        )
        groups[failure.address, sample.outcome, sample.reason, *where].append(failure)
    for group in groups.values():
        yield Cause("place", group[0].address, tuple(group))
