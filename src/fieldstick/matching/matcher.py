"""Makes a pattern ready and reads texts with it: the one road to a match."""

from __future__ import annotations

from abc import abstractmethod
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.engines.registry import engine_named
from fieldstick.errors import ExpressionError, UsageError, hint
from fieldstick.matching.result import Layout, Match, Result, Unfit
from fieldstick.suites.fieldtypes import TEXT, Unconverted, field_spec
from fieldstick.suites.parts import OWN

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.engines.protocol import Compiled, Reach, Spans
    from fieldstick.suites.suite import Pattern

_ORDINALS = {1: "first", 2: "second", 3: "third"}


class Matcher:
    """A pattern made ready to read texts."""

    pattern: Pattern

    @abstractmethod
    def read(self, text: str) -> Result:
        """Read `text`: whether the pattern fits, and what it captures.

        Raises BudgetSpent when the text costs more than the pattern's budget.
        """

    @property
    @abstractmethod
    def field_names(self) -> tuple[str, ...]:
        """The names of the fields it can capture."""


def prepare(pattern: Pattern, values: Mapping[str, str] | None = None, *, engine: str | None = None) -> Matcher:
    """Make `pattern` ready, its parameters standing for `values`, on `engine` or its own first one.

    Raises ExpressionError when the expression does not compile, EngineUnusable when the engine is not
    usable here, UsageError when a parameter has no value or there is no such parameter.
    """
    given = dict(values or {})
    for name in pattern.parameters:
        if name not in given:
            raise UsageError(f"the pattern '{pattern.name}' needs a value for its parameter '{name}'")
    for name in given:
        if name not in pattern.parameters:
            raise UsageError(f"the pattern '{pattern.name}' has no parameter '{name}'{hint(name, pattern.parameters)}")
    return _prepare(pattern, given, engine)


def _prepare(pattern: Pattern, values: Mapping[str, str], engine: str | None) -> Matcher:
    if pattern.combination is not None:
        return CombinationMatcher(pattern, tuple(_prepare(each, values, engine) for each in pattern.members))
    assert pattern.filling is not None
    expression = pattern.filling.text(values)
    try:
        compiled = engine_named(engine or pattern.engine).compile(expression, pattern.flags)
    except ExpressionError as error:
        raise _placed(error, pattern, values) from None
    return ExpressionMatcher(pattern, compiled, _layout(pattern, compiled))


def _placed(error: ExpressionError, pattern: Pattern, values: Mapping[str, str]) -> ExpressionError:
    """Say where the fault stands in the text the user wrote."""
    assert pattern.filling is not None
    if error.position is None:
        return error
    origin = pattern.filling.origin(error.position, values)
    return ExpressionError(error.rule, origin.offset, None if origin.source == OWN else origin.source)


def _layout(pattern: Pattern, compiled: Compiled) -> Layout:
    tables = [pattern.fields.get(name) for name in compiled.group_names]
    names = tuple(
        (table.name if table else None) or name for name, table in zip(compiled.group_names, tables, strict=True)
    )
    specs = tuple(_spec(table) for table in tables)
    return Layout(names, specs, tuple(index for index, spec in enumerate(specs) if spec is not None))


def _spec(table: Any) -> Any:
    spec = field_spec(table) if table is not None else TEXT
    return None if spec == TEXT else spec


class ExpressionMatcher(Matcher, Struct, frozen=True):
    """A pattern with an expression of its own."""

    pattern: Pattern
    compiled: Compiled
    layout: Layout

    @property
    def field_names(self) -> tuple[str, ...]:
        """See `ReadyPattern.field_names`."""
        return self.layout.names

    def read(self, text: str) -> Result:
        """See `ReadyPattern.read`."""
        pattern = self.pattern
        take = pattern.take
        wanted = 1 if take == "first" else take if isinstance(take, int) and take > 0 else None
        found = self.compiled.matches(text, pattern.reach, pattern.budget_ms, wanted)
        if take == "first" or take == "all":
            taken = found
        else:
            taken = _numbered(found, -1 if take == "last" else take)
        if not taken:
            return Result(text, (), _no_match(pattern, len(found)), message=pattern.message)
        if not self.layout.typed:
            return Result(text, tuple([Match(text, spans, self.layout, ()) for spans in taken]))
        return self._converted(text, taken)

    def matches_within(self, text: str, reach: Reach) -> Match | None:
        """Return the first match within another reach than the pattern's, its fields not converted."""
        found = self.compiled.matches(text, reach, self.pattern.budget_ms, 1)
        return Match(text, found[0], self.layout, (None,) * len(self.layout.typed)) if found else None

    def _converted(self, text: str, taken: list[Spans]) -> Result:
        matches, unfit = [], None
        for spans in taken:
            values: list[Any] = []
            for index in self.layout.typed:
                value, why = self._value(text, spans, index)
                values.append(value)
                unfit = unfit or why
            matches.append(Match(text, spans, self.layout, tuple(values)))
        return Result(text, tuple(matches), unfit, message=self.pattern.message if unfit else None)

    def _value(self, text: str, spans: Spans, index: int) -> tuple[Any, Unfit | None]:
        start, end = spans[index + 1]
        if start < 0:
            return None, None
        spec, name = self.layout.specs[index], self.layout.names[index]
        assert spec is not None
        try:
            return spec.value(text[start:end]), None
        except Unconverted as why:
            return None, Unfit("field-invalid", f"the field '{name}' {why}", name)


def _numbered(found: list[Spans], take: object) -> list[Spans]:
    """Return the match that a number takes: 1 is the first, -1 the last."""
    assert isinstance(take, int)
    index = take - 1 if take > 0 else len(found) + take
    return [found[index]] if 0 <= index < len(found) else []


def _no_match(pattern: Pattern, count: int) -> Unfit:
    if count and isinstance(pattern.take, int):
        number = abs(pattern.take)
        which = _ORDINALS.get(number, f"{number}th") + (" from the end" if pattern.take < 0 else "")
        matches = "1 match" if count == 1 else f"{count} matches"
        return Unfit("did-not-match", f"it matches, but take asks for the {which} match and there is only {matches}")
    words = {
        "whole": "the expression does not match the whole text",
        "start": "the expression does not match at the start of the text",
        "anywhere": "the expression matches nowhere in the text",
    }
    return Unfit("did-not-match", words[pattern.reach])


class CombinationMatcher(Matcher, Struct, frozen=True):
    """A pattern made of other patterns."""

    pattern: Pattern
    members: tuple[Matcher, ...]

    @property
    def field_names(self) -> tuple[str, ...]:
        """See `ReadyPattern.field_names`."""
        if self.pattern.combination == "none_of":
            return ()
        return tuple(dict.fromkeys(name for member in self.members for name in member.field_names))

    def read(self, text: str) -> Result:
        """See `ReadyPattern.read`; `member` of the result names the member that decided."""
        if self.pattern.combination == "any_of":
            return self._any_of(text)
        if self.pattern.combination == "all_of":
            return self._all_of(text)
        return self._none_of(text)

    def _any_of(self, text: str) -> Result:
        for member in self.members:
            reading = member.read(text)
            if reading.fits:
                return replace(reading, member=member.pattern.name)
        names = ", ".join(f"'{member.pattern.name}'" for member in self.members)
        return Result(text, (), Unfit("did-not-match", f"none of {names} fits"), message=self.pattern.message)

    def _all_of(self, text: str) -> Result:
        readings = []
        for member in self.members:
            reading = member.read(text)
            name = member.pattern.name
            if reading.unfit is not None:
                words = f"its member '{name}' does not fit: {reading.unfit.words}"
                unfit = replace(reading.unfit, words=words, member=name)
                message = reading.message or self.pattern.message
                return replace(reading, unfit=unfit, member=name, message=message)
            readings.append(reading)
        first, others = readings[0], readings[1:]
        also = [match for each in others for match in (*each.matches[:1], *each.also)]
        return replace(first, also=(*first.also, *also), member=None)

    def _none_of(self, text: str) -> Result:
        for member in self.members:
            reading = member.read(text)
            if reading.fits:
                name = member.pattern.name
                unfit = Unfit("did-not-match", f"its member '{name}' fits, and none of them may", member=name)
                return Result(text, reading.matches, unfit, name, message=self.pattern.message)
        return Result(text)
