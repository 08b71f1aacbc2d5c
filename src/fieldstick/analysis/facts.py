"""Facts about the tree of an expression, each worked out once, when it is first asked for, and kept with the tree."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from fieldstick.analysis.literals import required_literal
from fieldstick.syntax.parser import scoped
from fieldstick.syntax.tree import CharClass, Group, Repeat, children
from fieldstick.syntax.widths import width

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Node
    from fieldstick.syntax.widths import Width


class Facts:
    """What is known of one expression's tree."""

    def __init__(self, parsed: Parsed) -> None:
        self._parsed = parsed

    @cached_property
    def nodes(self) -> tuple[Node, ...]:
        """All nodes, each before those inside it, in the order in which they stand."""
        return tuple(_below(self._parsed.tree))

    @cached_property
    def parents(self) -> dict[Node, Node]:
        """The node around each node but the topmost."""
        return {child: node for node in self.nodes for child in children(node)}

    def is_in_class(self, node: Node) -> bool:
        """Tell whether a node stands in a character class."""
        return any(isinstance(each, CharClass) for each in self.around(node))

    def around(self, node: Node) -> Iterator[Node]:
        """Yield all that is around a node, the innermost first."""
        around = self.parents.get(node)
        while around is not None:
            yield around
            around = self.parents.get(around)

    def is_repeated(self, node: Node) -> bool:
        """Tell whether a node is what a quantifier repeats."""
        around = self.parents.get(node)
        return isinstance(around, Repeat) and around.item is node

    @cached_property
    def with_flags(self) -> tuple[tuple[Node, frozenset[str]], ...]:
        """All nodes as in `nodes`, each with the flags that hold there."""
        found: list[tuple[Node, frozenset[str]]] = []
        waiting = [(self._parsed.tree, self._parsed.flags)]
        while waiting:
            node, flags = waiting.pop()
            found.append((node, flags))
            inner = scoped(flags, node) if isinstance(node, Group) else flags
            waiting += [(each, inner) for each in reversed(children(node))]
        return tuple(found)

    @cached_property
    def required_literal(self) -> str | None:
        """The longest text that is known to lie in every match; None when none is known."""
        return required_literal(self._parsed)

    @cached_property
    def width(self) -> Width:
        """The fewest and the most code points that a match takes; None for no most."""
        return width(self._parsed.tree, self._parsed.widths)


def facts_of(parsed: Parsed) -> Facts:
    """Return the facts about an expression; the same ones each time."""
    kept: dict[str, Facts] = parsed.__dict__
    if "facts" not in kept:
        kept["facts"] = Facts(parsed)
    return kept["facts"]


def _below(node: Node) -> Iterator[Node]:
    waiting = [node]
    while waiting:
        each = waiting.pop()
        yield each
        waiting += reversed(children(each))
