"""A pattern ready to read texts: one road for one text, and the same for many.

`Matcher.read` is the meaning: reach, take, fields with their bounds, members and budget always count. What reads many
texts at once says of each what `read` says of it.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.engines.budget import note_spent
from fieldstick.errors import BudgetSpent, EngineFailure
from fieldstick.matching.result import OUT_OF_BUDGET, Result, Unfit

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.matching.result import Match
    from fieldstick.suites.suite import Pattern

Row = list[Any]
"""The values of a match's fields in order, None for absent; with its place asked for, start and end before them."""

Rows = list[Row] | Unfit
"""The rows of a text, one for each taken match, or why there are none."""

WHOLE_MATCH = "match"
"""The one field of a pattern without groups: the text that it matched."""


class Matcher:
    """A pattern ready to read texts. `field_names` are the fields it can capture."""

    __slots__ = ("field_names", "pattern")

    def __init__(self, pattern: Pattern, field_names: tuple[str, ...]) -> None:
        self.pattern, self.field_names = pattern, field_names

    def read(self, text: str) -> Result:
        """Read `text`: whether the pattern fits, and what it captures.

        Raises BudgetSpent when the text costs more than the pattern's budget, EngineFailure when the engine breaks
        down on it.
        """
        raise NotImplementedError

    def read_or_give_up(self, text: str) -> Result:
        """Read `text`; one that spends its budget does not fit, for the reason `gave-up`."""
        try:
            return self.read(text)
        except (BudgetSpent, EngineFailure):
            return self.given_up(text)

    def read_unfit(self, text: str) -> Result:
        """Read a text that does not fit, or was given up, to tell why."""
        return self.read_or_give_up(text)

    def given_up(self, text: str) -> Result:
        """Return what comes of a text that spent its budget."""
        note_spent()
        return Result(text, (), OUT_OF_BUDGET, message=self.pattern.message)

    def read_many(self, texts: Sequence[str]) -> list[Result]:
        """Read each of the texts as `read_or_give_up` does."""
        return list(map(self.read_or_give_up, texts))

    def keep_to_engine(self) -> None:
        """Have many texts at once read by the engine alone, as one is: those that spend their budget are given up."""

    def fits(self, texts: Sequence[str]) -> list[bool | None]:
        """Tell of each text whether the pattern fits; None where that was given up."""
        raise NotImplementedError

    @property
    def row_names(self) -> tuple[str, ...]:
        """What the values of a row are called, in order."""
        return self.field_names or (WHOLE_MATCH,)

    def row_types(self) -> dict[str, str]:
        """Return the type of each value of a row; `mixed` where members of a combination differ."""
        raise NotImplementedError

    def rows(self, texts: Sequence[str], *, with_place: bool = False) -> list[Rows]:
        """Return the rows of each text, or why it has none."""
        return [self.rows_of(self.read_or_give_up(text), with_place=with_place) for text in texts]

    def rows_of(self, result: Result, *, with_place: bool = False) -> Rows:
        """Return the rows of what was read, or why there are none."""
        if result.unfit is not None:
            return result.unfit
        if not result.matches:
            absent: Row = [None] * len(self.row_names)
            return [[0, 0, *absent] if with_place else absent]
        return [self._row(match, result.also, with_place) for match in result.matches]

    def _row(self, match: Match, also: tuple[Match, ...], with_place: bool) -> Row:
        if not self.field_names:
            values: Row = [match.text]
        else:
            fields = dict(match.fields)
            for other in also:
                for name, value in other.fields.items():
                    fields.setdefault(name, value)
            values = [(found.value if (found := fields.get(name)) else None) for name in self.field_names]
        return [*match.place, *values] if with_place else values
