"""One expression for all values of a parameter, so that looking up thousands of them compiles one and not thousands.

The value stands before the text, a NUL between them, and the expression refers back to it where the parameter stands.
That says the same where nothing in the expression looks at what is before the text, and case is ignored of ASCII alone.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.engines.budget import run_within, timer_usable
from fieldstick.engines.probing import compiled_by_engine
from fieldstick.errors import BudgetSpent, SyntaxFault
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import (
    Alternation,
    Anchor,
    Aside,
    Character,
    CharClass,
    Dot,
    Group,
    Range,
    Repeat,
    Sequence,
    Shorthand,
    walk,
)

if TYPE_CHECKING:
    import re
    from collections.abc import Callable, Mapping
    from collections.abc import Sequence as Sequence_

    from fieldstick.suites.suite import Pattern

_VALUE = r"(?P<value_>[^\x00]*)\x00"
_PLAIN = (Alternation, Aside, Character, CharClass, Dot, Range, Repeat, Sequence, Shorthand)


class ForAnyValue(Struct, frozen=True):
    """A pattern with one parameter, ready for any value of it."""

    parameter: str
    budget_ms: int
    ignores_case: bool
    method: Callable[[str], re.Match[str] | None]
    """Reads the value, a NUL and the text."""

    def fits(self, values: Mapping[str, str], texts: Sequence_[str]) -> list[bool] | None:
        """Tell which texts fit; None where that is to be asked of an expression with the value in it."""
        value = values.get(self.parameter)
        if value is None or len(values) != 1 or "\0" in value or not timer_usable():
            return None
        if self.ignores_case and not (value.isascii() and all(map(str.isascii, texts))):
            return None
        try:
            # All of them within what one text may take: else each is asked by itself.
            return run_within(self.budget_ms, self._all, value, texts)
        except (BudgetSpent, MemoryError, SystemError):
            return None

    def _all(self, value: str, texts: Sequence_[str]) -> list[bool]:
        return [self.method(f"{value}\0{text}") is not None for text in texts]


def for_any_value(pattern: Pattern) -> ForAnyValue | None:
    """Return a pattern ready for any value of its parameter; None where it would not say the same."""
    filling = pattern.filling
    if (
        filling is None
        or len(pattern.parameters) != 1
        or pattern.engine != "python"
        or pattern.fields
        or pattern.flags & {"multiline", "verbose"}
        or pattern.take not in ("first", "last", "all")
        or any(piece.parameter is not None and piece.in_class for piece in filling.pieces)
    ):
        return None
    (parameter,) = pattern.parameters
    texts = [(piece.text, piece.parameter) for piece in filling.pieces]
    inner = "".join("(?P=value_)" if name is not None else text for text, name in texts)
    if not _is_plain("".join("x" if name is not None else text for text, name in texts), pattern.flags):
        return None
    before = r"(?s:.*?)" if pattern.reach == "anywhere" else ""
    compiled = compiled_by_engine(f"{_VALUE}{before}(?:{inner})", pattern.flags)
    if compiled is None:
        return None
    method = compiled.fullmatch if pattern.reach == "whole" else compiled.match
    return ForAnyValue(parameter, pattern.budget_ms, "ignore-case" in pattern.flags, method)


def _is_plain(expression: str, flags: frozenset[str]) -> bool:
    """Tell whether nothing in an expression looks at what is before the text, or counts groups."""
    try:
        nodes = list(walk(parse(expression, flags).tree))
    except SyntaxFault:
        return False
    return all(
        isinstance(node, _PLAIN)
        or (isinstance(node, Anchor) and node.spelling in ("$", r"\Z", r"\b"))
        or (isinstance(node, Group) and node.kind in ("plain", "capture"))
        for node in nodes
    )
