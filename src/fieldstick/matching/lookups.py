"""Lookups made ready: the rows whose column fits a pattern, and other columns of them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.errors import UsageError, hint
from fieldstick.matching.bulk import BulkReader
from fieldstick.matching.matcher import prepare

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from fieldstick.suites.uses import Answer, Lookup

Row = dict[str, str]


class Found(Struct, frozen=True):
    """What a lookup gives: the answers, and the indexes of the rows they come from, none for the stated answer.

    `gave_up` are the indexes of rows that spent their budget.
    """

    answers: tuple[Answer, ...]
    rows: tuple[int, ...]
    gave_up: tuple[int, ...] = ()


class ReadyLookup:
    """A lookup made ready for some rows; answers for values met before are remembered."""

    def __init__(self, lookup: Lookup, rows: Sequence[Row]) -> None:
        self._lookup, self._rows = lookup, rows
        if rows:
            for column in (lookup.column, *lookup.give):
                if column not in rows[0]:
                    raise UsageError(f"the rows have no column '{column}'{hint(column, rows[0])}")
        self._texts = [row.get(lookup.column, "") for row in rows]
        self._known: dict[tuple[tuple[str, str], ...], Found] = {}

    def find(self, values: Mapping[str, str]) -> Found:
        """Return what the lookup gives, the pattern's parameters standing for `values`.

        Raises ExpressionError, EngineUnusable and UsageError as `prepare` does.
        """
        key = tuple(sorted(values.items()))
        if key not in self._known:
            self._known[key] = self._found(values)
        return self._known[key]

    def _found(self, values: Mapping[str, str]) -> Found:
        lookup = self._lookup
        assert lookup.pattern is not None
        fits = BulkReader(prepare(lookup.pattern, values)).fits(self._texts)
        rows = [index for index, each in enumerate(fits) if each]
        gave_up = tuple(index for index, each in enumerate(fits) if each is None)
        if lookup.pick != "all":
            rows = rows[:1] if lookup.pick == "first" else rows[-1:]
        if not rows:
            return Found((dict.fromkeys(lookup.give, lookup.missing),), (), gave_up)
        answers = tuple({name: self._rows[index].get(name, "") for name in lookup.give} for index in rows)
        return Found(answers, tuple(rows), gave_up)
