"""A setting, what may be changed in it, and the scene that the rules of repair look at."""

from __future__ import annotations

from bisect import bisect_left
from typing import TYPE_CHECKING

from msgspec import Struct, field
from msgspec.structs import replace

from fieldstick.analysis.facts import facts_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.analysis.facts import Facts
    from fieldstick.drafting.tracer import Trace
    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Node, Span

MOST_NODES = 2_000
"""Nodes of an expression in which a slip is looked for."""

SPECIAL = frozenset(".^$*+?{}[]()|\\")


class MatchCase(Struct, frozen=True):
    """All that decides whether a text fits."""

    expression: str
    flags: frozenset[str]
    reach: Reach
    text: str


class Proposal(Struct, frozen=True):
    """A change: the setting after it, what it is in words, and how far-fetched it is (less is likelier)."""

    case: MatchCase
    words: str
    cost: float


class RepairContext(Struct, frozen=True):
    """What the rules look at: the setting, its tree, and where the match stopped."""

    case: MatchCase
    parsed: Parsed
    trace: Trace
    spots: tuple[Span, ...] = field(default=())
    """Spans of the nodes that were asked for where the match stopped."""

    @property
    def facts(self) -> Facts:
        """What is known of its tree."""
        return facts_of(self.parsed)

    @property
    def at(self) -> int:
        """The place in the text where the match stopped."""
        return self.trace.furthest

    @property
    def found(self) -> str:
        """The character that stood there; empty at the end of the text."""
        return self.case.text[self.at : self.at + 1]

    @property
    def nodes(self) -> Sequence[Node]:
        """Its nodes, of a large expression those around where the match stopped, in the order in which they stand."""
        nodes = self.facts.nodes
        if len(nodes) <= MOST_NODES:
            return nodes
        at = self.spots[0][0] if self.spots else 0
        middle = bisect_left(nodes, at, key=lambda node: node.span[0])
        start = max(0, min(middle - MOST_NODES // 2, len(nodes) - MOST_NODES))
        return nodes[start : start + MOST_NODES]

    def near(self, node: Node) -> float:
        """Tell how far a node is from where the match stopped: 0 at it, up to 1 elsewhere."""
        if any(start < node.span[1] and node.span[0] < end for start, end in self.spots):
            return 0.0
        if not self.spots:
            return 0.5
        gap = min(min(abs(node.span[1] - start), abs(node.span[0] - end)) for start, end in self.spots)
        return min(1.0, 0.25 + gap / 40)

    def splice(self, span: Span, new: str, words: str, cost: float) -> Proposal:
        """Propose to put `new` in the place of a span of the expression."""
        expression = self.case.expression
        changed = expression[: span[0]] + new + expression[span[1] :]
        return Proposal(replace(self.case, expression=changed), words, cost)

    def retext(self, start: int, end: int, new: str, words: str, cost: float) -> Proposal:
        """Propose to put `new` in the place of a stretch of the text."""
        text = self.case.text
        return Proposal(replace(self.case, text=text[:start] + new + text[end:]), words, cost)


def escaped(character: str) -> str:
    """Spell a character so that it means itself outside a class."""
    if character in SPECIAL:
        return "\\" + character
    return {"\t": r"\t", "\n": r"\n", "\r": r"\r"}.get(character, character)
