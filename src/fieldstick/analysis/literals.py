"""Texts that every match of an expression holds, and the spelling of an expression that reads ASCII faster.

Texts that every fitting line holds let other lines be passed by unread. Lines of ASCII can be read with the expression
compiled for ASCII alone, where the two cannot differ, and with short fixed repeats written out.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from fieldstick.errors import SyntaxFault
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import (
    SINGLE,
    Aside,
    Character,
    FlagSetting,
    Group,
    Node,
    Range,
    Repeat,
    Sequence,
    spelled,
    walk,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.syntax.parser import Parsed

SHORTEST_LITERAL = 2
LONGEST_WRITTEN_OUT = 8
"""Turns of a fixed repeat up to which it is written out: `\\d{4}` as `\\d\\d\\d\\d`, which the engine runs faster."""


_OCTAL = re.compile(r"\\[0-7]{1,2}")
"""A character whose escape takes in a digit that comes to stand after it."""


def read_alone(expression: str, flags: frozenset[str]) -> Parsed | None:
    """Return an expression read; None when it cannot be, or holds what the engine here does not have."""
    try:
        parsed = parse(expression, flags)
    except SyntaxFault:
        return None
    return None if parsed.foreign else parsed


def required_literal_of(expression: str, flags: frozenset[str]) -> str | None:
    """Return the longest text that every match is known to hold; None when none is known."""
    parsed = read_alone(expression, flags)
    return required_literal(parsed) if parsed is not None else None


def required_literal(parsed: Parsed) -> str | None:
    """Return the longest text that is known to lie in every match of an expression; None when none is known."""
    if "ignore-case" in parsed.flags or _sets_flags(parsed.tree):
        return None
    runs = {run for run in required_runs(parsed) if len(run) >= SHORTEST_LITERAL and "\n" not in run}
    return max(runs, key=lambda run: (len(run), run), default=None)


def required_runs(parsed: Parsed) -> Iterator[str]:
    """Yield the texts that lie in every match of an expression, in one case or another where it ignores case."""
    return _runs(parsed.tree)


def _sets_flags(tree: Node) -> bool:
    return any(
        (isinstance(node, FlagSetting) and "i" in node.flags) or (isinstance(node, Group) and "i" in node.on)
        for node in walk(tree)
    )


def _runs(node: Node) -> Iterator[str]:
    """Yield the runs of characters that a match of a node holds for sure."""
    if isinstance(node, Character):
        yield node.character
    elif isinstance(node, Group) and node.kind in ("capture", "plain", "atomic", "flags"):
        yield from _runs(node.body)
    elif isinstance(node, Repeat) and node.least >= 1:
        yield from _runs(node.item)
    elif isinstance(node, Sequence):
        run = ""
        for item in node.items:
            if isinstance(item, Character):
                run += item.character
            elif not isinstance(item, Aside):
                yield run
                run = ""
                yield from _runs(item)
        yield run


def ascii_spelling(parsed: Parsed) -> str | None:
    """Return an expression that, compiled for ASCII alone, does to lines of ASCII what this one does.

    None when that is not sure.
    """
    return written_out(parsed) if parsed.expression.isascii() and _stays_ascii(parsed) else None


def _stays_ascii(parsed: Parsed) -> bool:
    """Tell whether no character beyond ASCII can stand for one of ASCII when case is ignored."""
    return all(
        node.character.isascii()
        for each in walk(parsed.tree)
        for node in ((each.first, each.last) if isinstance(each, Range) else (each,))
        if isinstance(node, Character)
    )


def written_out(parsed: Parsed) -> str:
    """Write short fixed repeats of one character out; the expression asks for the same."""
    text = parsed.expression
    made, at = [], 0
    for node in walk(parsed.tree):
        if not isinstance(node, Repeat) or not isinstance(node.item, SINGLE) or node.between:
            continue
        if _OCTAL.fullmatch(spelled(node.item)):
            continue
        if node.least == node.most and 2 <= node.least <= LONGEST_WRITTEN_OUT and node.mode == "greedy":
            start, end = node.span
            made += [text[at:start], spelled(node.item) * node.least]
            at = end
    return "".join([*made, text[at:]])
