"""Makes texts that an expression fits, for a reader to see; each is checked with the engine before it is shown."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.engines.probing import character_test, fits
from fieldstick.syntax.tree import (
    SINGLE,
    Alternation,
    Backreference,
    Conditional,
    Group,
    Node,
    Repeat,
    Sequence,
    spelled,
)

if TYPE_CHECKING:
    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed

_LIKELY = "a7B_ 3x-kQ.0,:/+=%'\"()#é°漢\n\t"
_VERY_MANY = 3
"""Turns beyond the least that an unbounded repeat is shown with."""


def examples(parsed: Parsed, reach: Reach = "whole", *, most: int = 3) -> list[str]:
    """Return up to `most` different texts that fit, the shortest kind first."""
    found: list[str] = []
    for variety in range(8):
        text = _Maker(parsed, variety).make(parsed.tree)
        if text is not None and text not in found and fits(parsed.expression, parsed.flags, reach, text):
            found.append(text)
        if len(found) == most:
            break
    return found


class _Maker:
    """Makes one text; the variety says which options and how many turns it goes for."""

    def __init__(self, parsed: Parsed, variety: int) -> None:
        self.flags = parsed.flags
        self.variety = variety
        self.groups: dict[int, str] = {}

    def make(self, node: Node) -> str | None:
        if isinstance(node, SINGLE):
            return _character(spelled(node), self.flags & {"ignore-case", "dotall", "ascii"}, self.variety)
        if isinstance(node, Sequence):
            pieces = [self.make(item) for item in node.items]
            return None if None in pieces else "".join(piece for piece in pieces if piece is not None)
        if isinstance(node, Alternation):
            return self.make(node.options[self.variety % len(node.options)])
        if isinstance(node, Group):
            made = self.make(node.body)
            if node.number is not None and made is not None:
                self.groups[node.number] = made
            return made
        if isinstance(node, Repeat):
            return self._repeat(node)
        if isinstance(node, Backreference):
            return self.groups.get(node.number)
        if isinstance(node, Conditional):
            chosen = node.then if node.number in self.groups else node.otherwise
            return "" if chosen is None else self.make(chosen)
        return ""

    def _repeat(self, node: Repeat) -> str | None:
        most = node.least + _VERY_MANY if node.most is None else node.most
        turns = min(most, node.least + self.variety % 4)
        pieces = [self.make(node.item) for _ in range(min(turns, 200))]
        return None if None in pieces else "".join(piece for piece in pieces if piece is not None)


def _character(spelling: str, flags: frozenset[str], variety: int) -> str | None:
    test = character_test(spelling, flags)
    likely = _LIKELY[variety % 4 :] + _LIKELY[: variety % 4]
    for character in likely:
        if test(character):
            return character
    for code in range(0x20, 0x3000):
        if test(chr(code)):
            return chr(code)
    return None


def sample_character(node: Node, flags: frozenset[str]) -> str | None:
    """Return a character that a single-character node takes; None when none is found quickly."""
    return _character(spelled(node), flags & {"ignore-case", "dotall", "ascii"}, 0)
