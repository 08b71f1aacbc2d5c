"""What every engine offers: an expression compiled, and its matches within a reach and a budget."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal, Protocol

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.errors import FieldstickError

Reach = Literal["whole", "start", "anywhere"]
Take = Literal["first", "last", "all"] | int
Span = tuple[int, int]
"""Start and end as code-point offsets, start included, end not; (-1, -1) for a group that took no part."""
Spans = tuple[Span, ...]
"""The span of the whole match, then one for each capture group in the engine's order."""

REACHES: tuple[Reach, ...] = ("whole", "start", "anywhere")
FLAGS = ("ignore-case", "multiline", "dotall", "verbose", "ascii")
DEFAULT_ENGINE = "python"
DEFAULT_BUDGET_MS = 1000


class Compiled(Protocol):
    """An expression ready to be matched by one engine."""

    @property
    def group_names(self) -> tuple[str, ...]:
        """The name of each capture group in order; its number where it has none."""

    def matches(self, text: str, reach: Reach, budget_ms: int, wanted: int | None) -> list[Spans]:
        """Return the matches in order, none overlapping.

        `wanted` is how many are needed from the first on; None for all. With a reach of `whole` or
        `start` there is one match at the most.

        Raises BudgetSpent when the text costs more than `budget_ms` milliseconds, EngineFailure when the engine
        breaks down on it or cannot be given it.
        """


class ManyAtOnce(Protocol):
    """What an engine offers beside that has far fewer ways to go when it is given many texts at once."""

    def matches_many(
        self, texts: Sequence[str], reach: Reach, budget_ms: int, wanted: int | None
    ) -> list[list[Spans] | FieldstickError]:
        """Return of each text what `matches` returns, or the error that it raises."""


def reaches_of(compiled: Compiled) -> Sequence[str]:
    """Return the reaches that an expression can be matched with: all of them, or those that its engine names."""
    named: Sequence[str] = getattr(compiled, "reaches", REACHES)
    return named


class Engine(Protocol):
    """A program that interprets expressions."""

    name: str

    def version(self) -> str:
        """Return the version of the engine, as it says it itself.

        Raises EngineUnusable when it cannot be used here.
        """

    def compile(self, expression: str, flags: frozenset[str]) -> Compiled:
        """Compile `expression`.

        Raises ExpressionError with the place and the rule that was broken, EngineUnusable when the engine cannot be
        used here.
        """
