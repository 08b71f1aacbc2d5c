"""Matchers of patterns that have an expression of their own."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.errors import FieldstickError
from fieldstick.matching.matcher import Matcher
from fieldstick.matching.result import DID_NOT_MATCH, FIELD_INVALID, OUT_OF_BUDGET, Match, Result, Unfit
from fieldstick.suites.fieldtypes import Unconverted

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from fieldstick.engines.protocol import Compiled, Reach, Spans
    from fieldstick.matching.bulk import BulkRoads
    from fieldstick.matching.matcher import Rows
    from fieldstick.matching.result import Layout
    from fieldstick.suites.suite import Pattern

    ManyRead = Callable[[Sequence[str], Reach, int, int | None], list[list[Spans] | FieldstickError]]

_ORDINALS = {2: "second", 3: "third"}


class ExpressionMatcher(Matcher):
    """A pattern with an expression of its own."""

    __slots__ = ("_roads", "compiled", "layout")

    def __init__(self, pattern: Pattern, compiled: Compiled, layout: Layout) -> None:
        super().__init__(pattern, layout.names)
        self.compiled, self.layout = compiled, layout
        self._roads: BulkRoads | None = None

    def __reduce__(self) -> tuple[Any, ...]:
        # The roads are made anew by whoever has the copy.
        return ExpressionMatcher, (self.pattern, self.compiled, self.layout)

    def read(self, text: str) -> Result:
        """See `Matcher.read`."""
        pattern = self.pattern
        return self._result(text, self.compiled.matches(text, pattern.reach, pattern.budget_ms, self._wanted))

    def read_unfit(self, text: str) -> Result:
        """See `Matcher.read_unfit`; where that it has no match is all there may be, nobody asks the engine again."""
        if self.layout.typed or isinstance(self.pattern.take, int):
            return super().read_unfit(text)
        return Result(text, (), _no_match(self.pattern, 0), message=self.pattern.message)

    def read_many(self, texts: Sequence[str]) -> list[Result]:
        """See `Matcher.read_many`; an engine that can be given many texts at once is."""
        at_once = many_at_once(self.compiled)
        if at_once is None:
            return super().read_many(texts)
        pattern = self.pattern
        found = at_once(texts, pattern.reach, pattern.budget_ms, self._wanted)
        return [
            self.given_up(text) if isinstance(each, FieldstickError) else self._result(text, each)
            for text, each in zip(texts, found, strict=True)
        ]

    @property
    def _wanted(self) -> int | None:
        """How many matches are needed from the first on; None for all."""
        take = self.pattern.take
        return 1 if take == "first" else take if isinstance(take, int) and take > 0 else None

    def _result(self, text: str, found: list[Spans]) -> Result:
        """Return what comes of the matches that the engine found in a text."""
        pattern, take = self.pattern, self.pattern.take
        if take == "first" or take == "all":
            taken = found
        else:
            taken = _numbered(found, -1 if take == "last" else take)
        if not taken:
            return Result(text, (), _no_match(pattern, len(found)), message=pattern.message)
        if not self.layout.typed:
            return Result(text, tuple([Match(text, spans, self.layout, ()) for spans in taken]))
        return self._converted(text, taken)

    def keep_to_engine(self) -> None:
        """See `Matcher.keep_to_engine`."""
        self.roads.engine_alone = True

    def fits(self, texts: Sequence[str]) -> list[bool | None]:
        """See `Matcher.fits`."""
        if many_at_once(self.compiled) is not None:
            return [None if each.unfit is OUT_OF_BUDGET else each.fits for each in self.read_many(texts)]
        return self.roads.fits(texts)

    def row_types(self) -> dict[str, str]:
        """See `Matcher.row_types`."""
        types = dict.fromkeys(self.row_names, "text")
        for name, spec in zip(self.layout.names, self.layout.specs, strict=True):
            types[name] = spec.type if spec else "text"
        return types

    def rows(self, texts: Sequence[str], *, with_place: bool = False) -> list[Rows]:
        """See `Matcher.rows`."""
        if many_at_once(self.compiled) is not None:
            return [self.rows_of(each, with_place=with_place) for each in self.read_many(texts)]
        return self.roads.rows(texts, with_place=with_place)

    @property
    def roads(self) -> BulkRoads:
        """The ways to read many texts, made when they are first asked for."""
        if self._roads is None:
            from fieldstick.matching.bulk import BulkRoads

            self._roads = BulkRoads(self, self.compiled, self.layout)
        return self._roads

    def match_within(self, text: str, reach: Reach) -> Match | None:
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
            return None, Unfit(FIELD_INVALID, f"the field '{name}' {why}", name)


def many_at_once(compiled: Compiled) -> ManyRead | None:
    """Return what reads many texts at once; None for an engine that is asked for each."""
    found: ManyRead | None = getattr(compiled, "matches_many", None)
    return found


def _numbered(found: list[Spans], take: object) -> list[Spans]:
    """Return the match that a number takes: 1 is the first, -1 the last."""
    assert isinstance(take, int)
    index = take - 1 if take > 0 else len(found) + take
    return [found[index]] if 0 <= index < len(found) else []


def _no_match(pattern: Pattern, count: int) -> Unfit:
    if count and isinstance(pattern.take, int):
        number = abs(pattern.take)
        which = f"{_ORDINALS.get(number, f'{number}th')} match{' from the end' if pattern.take < 0 else ''}"
        matches = "1 match" if count == 1 else f"{count} matches"
        return Unfit(DID_NOT_MATCH, f"it matches, but take asks for the {which} and there is only {matches}")
    words = {
        "whole": "the expression does not match the whole text",
        "start": "the expression does not match at the start of the text",
        "anywhere": "the expression matches nowhere in the text",
    }
    return Unfit(DID_NOT_MATCH, words[pattern.reach])
