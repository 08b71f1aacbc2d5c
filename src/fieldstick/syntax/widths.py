"""How many characters a tree can take."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.syntax.tree import (
    SINGLE,
    Alternation,
    Backreference,
    Call,
    Conditional,
    Group,
    Node,
    Quoted,
    Repeat,
    Sequence,
)

if TYPE_CHECKING:
    from collections.abc import Mapping

Width = tuple[int, int | None]
"""The fewest and the most code points; None when there is no most."""


def width(node: Node, groups: Mapping[int, Width] | None = None) -> Width:
    """Return the width of a tree; `groups` gives those of the groups it refers back to.

    A reference to a group whose width is not known may take nothing or anything.
    """
    known = groups or {}
    if isinstance(node, SINGLE):
        return 1, 1
    if isinstance(node, Quoted):
        return len(node.text), len(node.text)
    if isinstance(node, Sequence):
        return _sum([width(item, known) for item in node.items])
    if isinstance(node, Alternation):
        return _either([width(option, known) for option in node.options])
    if isinstance(node, Group):
        return width(node.body, known)
    if isinstance(node, Repeat):
        least, most = width(node.item, known)
        return least * node.least, _times(most, node.most)
    if isinstance(node, Conditional):
        otherwise = (0, 0) if node.otherwise is None else width(node.otherwise, known)
        return _either([width(node.then, known), otherwise])
    if isinstance(node, Backreference):
        return known.get(node.number, (0, None))
    return (0, None) if isinstance(node, Call) else (0, 0)


def _times(most: int | None, turns: int | None) -> int | None:
    if most == 0 or turns == 0:
        return 0
    return None if most is None or turns is None else most * turns


def _sum(widths: list[Width]) -> Width:
    mosts = [most for _, most in widths]
    return sum(least for least, _ in widths), None if None in mosts else sum(most for most in mosts if most)


def _either(widths: list[Width]) -> Width:
    mosts = [most for _, most in widths]
    return min(least for least, _ in widths), None if None in mosts else max(most for most in mosts if most is not None)
