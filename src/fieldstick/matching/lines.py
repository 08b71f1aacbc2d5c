"""Reads the lines of a block faster without reading any of them otherwise."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.facts import facts_of
from fieldstick.analysis.literals import ascii_spelling, read_alone
from fieldstick.engines.python import ENGINE, TIMER_TEXT_LIMIT, PythonCompiled
from fieldstick.errors import ExpressionError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.syntax.parser import Parsed

RARE = 8
"""A literal found in fewer than one of this many lines is searched for, instead of cutting all lines apart."""

USUAL_LINE = 64
"""Code points that a line is reckoned to have where counting them would cost more than it saves."""

LOOK_AGAIN = 15
"""Blocks that are taken to hold as many of the literal as the one before them."""

SEPARATORS = "\x1c\x1d\x1e\x1f"
"""What `\\s` takes in ASCII text, but not when compiled for ASCII alone."""


class LineReader:
    """What is known of an expression: a text that every match holds, and its variant for lines of ASCII."""

    def __init__(self, expression: str, flags: frozenset[str]) -> None:
        parsed = read_alone(expression, flags)
        self.required_literal = facts_of(parsed).required_literal if parsed is not None else None
        self.ascii_variant = _ascii_variant(parsed, flags) if parsed is not None else None
        self._common = 0

    def lines(self, block: str, cut: Callable[[], list[str]]) -> list[str]:
        """Return the lines of a block in which a match may lie; `cut` gives all of its lines.

        Each line ends with a line feed in the block. Where the required literal is rare, the block is not cut.
        """
        required = self.required_literal
        if required is None:
            return cut()
        if self._common:
            self._common -= 1
        elif block.count(required) * RARE * USUAL_LINE < len(block):
            return list(_lines_with(block, required))
        else:
            self._common = LOOK_AGAIN
        return [line for line in cut() if required in line]


def _lines_with(block: str, required_literal: str) -> Iterator[str]:
    at = block.find(required_literal)
    while at >= 0:
        end = block.index("\n", at)
        yield block[block.rfind("\n", 0, at) + 1 : end]
        at = block.find(required_literal, end)


def has_long_line(block: str) -> bool:
    """Tell whether a line of a block may be longer than the timer can stop a match in."""
    at, end = 0, len(block)
    while at < end:
        after = block.rfind("\n", at, at + TIMER_TEXT_LIMIT) + 1
        if after == 0:
            return True
        at = after
    return False


def _ascii_variant(parsed: Parsed, flags: frozenset[str]) -> PythonCompiled | None:
    """Return an expression that does to lines of ASCII what this one does; None when that is not sure."""
    spelling = ascii_spelling(parsed)
    if spelling is None:
        return None
    try:
        variant = ENGINE.compile(spelling, flags | {"ascii"})
    except ExpressionError:
        return None
    return variant if len(variant.group_names) == len(parsed.groups) else None
