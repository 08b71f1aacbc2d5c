"""The engine Oniguruma in its own syntax, by the binding `onigurumacffi`."""

from __future__ import annotations

import warnings
from itertools import islice
from typing import TYPE_CHECKING, Any

import onigurumacffi

from fieldstick.engines.adapters.adapter import Refused, enclosed, in_turn
from fieldstick.engines.capture_groups import group_names

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.engines.adapters.adapter import Spans
    from fieldstick.engines.places import Unit

_LETTERS = {"i": "i", "s": "m", "x": "x", "a": "WDSP"}
"""Its own letter for each flag; lines are what `^` and `$` stand at always."""


class Expression:
    """See `adapter.Expression`."""

    def __init__(self, expression: str, flags: frozenset[str]) -> None:
        letters = "".join(_LETTERS[each] for each in sorted(flags) if each in _LETTERS)
        self._prefix = f"(?{letters})" if letters else ""
        self._expression = expression
        self._made = {"anywhere": self._compiled(expression)}
        count = self._made["anywhere"].number_of_captures()
        named = group_names(expression, verbose="x" in flags)
        if any(named):
            # A group without a name captures nothing beside one that has one.
            named = [each for each in named if each]
        self.names = named if len(named) == count else [""] * count

    def _compiled(self, expression: str) -> Any:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            return onigurumacffi.compile(f"{self._prefix}{expression}")

    def matches(self, text: str, reach: str, wanted: int | None) -> Iterable[Spans]:
        """See `adapter.Expression`."""
        if reach == "whole" and reach not in self._made:
            self._made[reach] = enclosed(self._expression, self._compiled)
        compiled = self._made["whole" if reach == "whole" else "anywhere"]
        stored, groups = text.encode(), range(len(self.names) + 1)

        def search(at: int, by: Any = onigurumacffi._lib.onigcffi_search) -> Spans | None:
            # The binding's own method stores the text anew for each match, and counts code points up to it.
            region = onigurumacffi._region()
            ended = by(compiled._regex_t, stored, len(stored), at, region, 0)
            found = onigurumacffi._match_ret(ended, stored, region)
            return None if found is None else [(found._begs[group], found._ends[group]) for group in groups]

        if reach == "anywhere":
            return islice(in_turn(search, stored), wanted)
        found = search(0, onigurumacffi._lib.onigcffi_match)
        return [] if found is None else [found]


class Adapter:
    """See `adapter.Adapter`."""

    version = onigurumacffi.__onig_version__
    unit: Unit = "bytes"

    def compile(self, expression: str, flags: frozenset[str]) -> Expression:
        """See `adapter.Adapter`."""
        try:
            return Expression(expression, flags)
        except onigurumacffi.OnigError as error:
            raise Refused(str(error)) from None
