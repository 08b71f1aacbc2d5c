"""Texts that every match of an expression holds: they let texts without one be passed by unread."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.errors import SyntaxFault
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import (
    Alternation,
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
    return max(required_literals(parsed), key=lambda run: (len(run), run), default=None)


def required_literals(parsed: Parsed) -> set[str]:
    """Return texts that are known to lie in every match of an expression, none of them across lines."""
    if "ignore-case" in parsed.flags or _sets_flags(parsed.tree):
        return set()
    return {run for run in needs(parsed) if isinstance(run, str) and len(run) >= SHORTEST_LITERAL and "\n" not in run}


class Either(Struct, frozen=True):
    """A choice of which a match makes one: what it holds with each of the branches."""

    branches: tuple[tuple[Need, ...], ...]


Need = str | Either
"""What lies in every match: a text, or that of one branch or another."""


def needs(parsed: Parsed) -> list[Need]:
    """Return what lies in every match of an expression, in one case or another where it ignores case."""
    return [need for need in _needs(parsed.tree) if need]


def _sets_flags(tree: Node) -> bool:
    return any(
        (isinstance(node, FlagSetting) and "i" in node.flags) or (isinstance(node, Group) and "i" in node.on)
        for node in walk(tree)
    )


def _needs(node: Node) -> Iterator[Need]:
    """Yield what a match of a node holds for sure; a text may be empty."""
    if isinstance(node, Character):
        yield node.character
    elif isinstance(node, Group) and node.kind in ("capture", "plain", "atomic", "flags"):
        yield from _needs(node.body)
    elif isinstance(node, Repeat) and node.least >= 1:
        yield from _needs(node.item)
    elif isinstance(node, Alternation):
        branches = tuple(tuple(need for need in _needs(option) if need) for option in node.options)
        if all(branches):
            yield Either(branches)
    elif isinstance(node, Sequence):
        run = ""
        for item in node.items:
            fixed = _fixed(item)
            if fixed is not None:
                run += fixed
            else:
                yield run
                run = ""
                yield from _needs(item)
        yield run


def _fixed(node: Node) -> str | None:
    """Return the one text that a node matches; None where it is not of characters alone."""
    match node:
        case Character():
            return node.character
        case Aside():
            return ""
        case Group(kind="capture" | "plain" | "atomic"):
            return _fixed(node.body)
        case Sequence():
            texts = [_fixed(item) for item in node.items]
            return None if None in texts else "".join(text for text in texts if text is not None)
    return None
