"""The engine of the crate `regex`, by the binding `regex-rs`."""

from __future__ import annotations

import re
from importlib.metadata import version
from itertools import islice
from typing import TYPE_CHECKING, Any

import regex_rs

from fieldstick.engines.adapters.adapter import Refused, enclosed
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.engines.adapters.adapter import Spans
    from fieldstick.engines.places import Unit

_GROUP = compiled_later(r"""^ +\d+(?:/"(.*)")?: """, re.MULTILINE)
_CARET = compiled_later(r"^ {4}( *)\^", re.MULTILINE)


class Expression:
    """See `adapter.Expression`."""

    def __init__(self, expression: str, flags: str) -> None:
        self._expression, self._flags = expression, flags
        self._made = {"anywhere": self._compiled(expression)}
        # All groups of a match are told, those that took no part too; nothing is a match of this at least.
        groups = _GROUP.findall(repr(enclosed(expression, self._compiled, "", "|").captures("")))
        self.names = groups[1:]
        self._groups = range(len(groups))

    def _compiled(self, expression: str) -> Any:
        return regex_rs.Regex(f"(?{self._flags}){expression}" if self._flags else expression)

    def matches(self, text: str, reach: str, wanted: int | None) -> Iterable[Spans]:
        """See `adapter.Expression`."""
        if reach not in self._made:
            self._made[reach] = enclosed(self._expression, self._compiled, r"\A", r"\z" if reach == "whole" else "")
        compiled = self._made[reach]
        found = islice(compiled.captures_iter(text), wanted)
        return [[_span(captures.get(group)) for group in self._groups] for captures in found]


def _span(found: Any) -> tuple[int, int]:
    return (-1, -1) if found is None else (found.start, found.end)


class Adapter:
    """See `adapter.Adapter`."""

    version = version("regex-rs")
    unit: Unit = "bytes"

    def compile(self, expression: str, flags: frozenset[str]) -> Expression:
        """See `adapter.Adapter`."""
        letters = "".join(sorted(flags))
        try:
            return Expression(expression, letters)
        except ValueError as error:
            words = str(error)
            caret = _CARET.search(words)
            before = len(f"(?{letters})") if letters else 0
            rule = words.rpartition("error: ")[2].strip() or words
            single = caret is not None and "\n" not in expression
            offset = len(expression[: len(caret[1]) - before].encode()) if single and caret else -1
            raise Refused(rule, offset) from None
