"""Leaves nothing in a proposal that would be named as a hazard once it is kept."""

from __future__ import annotations

import re
from itertools import pairwise
from typing import TYPE_CHECKING

from fieldstick.analysis.hazards.flags import digits_beyond_ascii
from fieldstick.analysis.hazards.suspect import edited
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Character, CharClass, Group, Node, Repeat, Sequence, Shorthand, spelled, walk

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Span


def polished(expression: str) -> str:
    """Return an expression for what another takes, but for digits beyond ASCII behind letters that are all of it.

    `[A-F]\\d{2}-\\d` becomes `[A-F][0-9]{2}-[0-9]`. What may be parted in many ways is told in one: `\\w+\\d+` as
    `\\w+\\d`, `\\w+(?:[._]\\w+)*` as `\\w+(?:\\.\\w+)*`.
    """
    parsed = parse(expression)
    made = edited(parsed, *_parted_in_one_way(parsed))
    while True:
        parsed = parse(made)
        suspect = next(digits_beyond_ascii(parsed, "whole"), None)
        if suspect is None:
            return made
        around = [node for node in _sequences(parsed) if node.span[0] <= suspect.span[0] < node.span[1]]
        home = min(around, key=lambda node: node.span[1] - node.span[0])
        made = edited(parsed, *((node.span, "[0-9]") for node in map(_repeated, home.items) if _is(node, r"\d")))


def _parted_in_one_way(parsed: Parsed) -> Iterator[tuple[Span, str]]:
    for node in _sequences(parsed):
        for one, other in pairwise(node.items):
            if _is_any_number(one, r"\w") and _is_any_number(other, r"\d"):
                yield other.span, r"\d"
            elif _is_any_number(one, r"\w") and isinstance(other, Repeat) and other.quantifier == "*":
                again = other.item.body if isinstance(other.item, Group) else other.item
                if isinstance(again, Sequence) and len(again.items) == 2 and _is_any_number(again.items[1], r"\w"):
                    yield from _without_underscore(_repeated(again.items[0]), other)


def _without_underscore(mark: Node, again: Repeat) -> Iterator[tuple[Span, str]]:
    """Yield what leaves `_` out of the marks between words that hold it."""
    if isinstance(mark, Character) and mark.character == "_":
        yield again.span, ""
    elif isinstance(mark, CharClass) and not mark.negated and "_" in spelled(mark):
        marks = spelled(mark).replace("_", "")
        yield mark.span, re.escape(marks[1]) if len(marks) == len("[.]") else marks


def _sequences(parsed: Parsed) -> Iterator[Sequence]:
    return (node for node in walk(parsed.tree) if isinstance(node, Sequence))


def _is_any_number(node: Node, shorthand: str) -> bool:
    return isinstance(node, Repeat) and node.quantifier == "+" and _is(node.item, shorthand)


def _is(node: Node, shorthand: str) -> bool:
    return isinstance(node, Shorthand) and spelled(node) == shorthand


def _repeated(node: Node) -> Node:
    return node.item if isinstance(node, Repeat) else node
