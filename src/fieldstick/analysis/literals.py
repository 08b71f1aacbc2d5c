"""Texts that every match of an expression holds: they let texts without one be passed by unread."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.errors import SyntaxFault
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import (
    Aside,
    Character,
    FlagSetting,
    Group,
    Node,
    Repeat,
    Sequence,
    walk,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.syntax.parser import Parsed

SHORTEST_LITERAL = 2


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
