"""Expressions written for another engine and run there: groups come back by the numbers that they have in their own."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.rendering.terms import NotCarried
from fieldstick.analysis.rendering.writing import rendered
from fieldstick.engines.registry import engine_named
from fieldstick.errors import BudgetSpent, EngineFailure, ExpressionError, FieldstickError, SyntaxFault
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.analysis.rendering.writing import Rendering
    from fieldstick.engines.protocol import Compiled, Reach, Spans


class CarriedExpression:
    """An expression compiled by another engine than its own, as it is written for it within each reach."""

    def __init__(
        self, expression: str, flags: frozenset[str], engine: str, reach: Reach, *, own: str = "python"
    ) -> None:
        """Compile it within a reach.

        Raises ExpressionError where it cannot be read, or not be written so that it means the same, EngineUnusable.
        """
        self._given = (expression, flags, engine, own)
        try:
            groups = parse(expression, flags, engine=own).groups
        except SyntaxFault as error:
            raise ExpressionError(error.rule, error.span[0], given=(expression, flags)) from None
        self.group_names = tuple(name or str(number) for number, name in enumerate(groups, 1))
        self._made: dict[Reach, tuple[Rendering, Compiled]] = {}
        self._within(reach)

    def _within(self, reach: Reach) -> tuple[Rendering, Compiled]:
        if reach not in self._made:
            expression, flags, engine, own = self._given
            try:
                rendering = rendered(expression, flags, engine, source=own, reach=reach)
            except NotCarried as error:
                rule = f"it cannot be written for {engine} so that it means the same: {error.reason}"
                raise ExpressionError(rule, error.span[0], given=(expression, flags)) from None
            made = engine_named(engine).compile(rendering.expression, rendering.flags)
            self._made[reach] = rendering, made
        return self._made[reach]

    def matches(self, text: str, reach: Reach, budget_ms: int, wanted: int | None) -> list[Spans]:
        """See `Compiled.matches`."""
        rendering, made = self._within(reach)
        return [self._here(rendering, spans) for spans in made.matches(text, reach, budget_ms, wanted)]

    def matches_many(
        self, texts: Sequence[str], reach: Reach, budget_ms: int, wanted: int | None
    ) -> list[list[Spans] | FieldstickError]:
        """See `ManyAtOnce`; an engine that is asked for each text is asked so."""
        rendering, made = self._within(reach)
        at_once = getattr(made, "matches_many", None)
        found: list[list[Spans] | FieldstickError] = []
        if at_once is not None:
            found = at_once(texts, reach, budget_ms, wanted)
        else:
            for text in texts:
                try:
                    found.append(made.matches(text, reach, budget_ms, wanted))
                except (BudgetSpent, EngineFailure) as error:
                    found.append(error)
        return [
            each if isinstance(each, FieldstickError) else [self._here(rendering, spans) for spans in each]
            for each in found
        ]

    def _here(self, rendering: Rendering, spans: Spans) -> Spans:
        """Return the spans of a match by the groups of the source; of one that captures nothing none took part."""
        numbers = rendering.numbers if len(spans) > 1 else (None,) * len(self.group_names)
        return (spans[0], *(spans[number] if number is not None else (-1, -1) for number in numbers))
