"""Pieces that take too much or too little of a text that fits, so that fields hold what they should not."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.drafting.context import class_spelling
from fieldstick.drafting.phrases import character_words, phrase
from fieldstick.drafting.slips.taking import character_after
from fieldstick.syntax.tree import Dot, Repeat, Shorthand, spelled

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext

_TAKES = {"greedy": "as much as it can", "lazy": "as little as it can"}


def recapturing(context: RepairContext) -> list[Proposal]:
    """Return changes after which other pieces may take other stretches of the text, likeliest first."""
    found = [*_greed(context), *_stopped(context)]
    return sorted(found, key=lambda proposal: proposal.cost)


def _greed(context: RepairContext) -> Iterator[Proposal]:
    """A quantifier that takes much where little was meant, or little where much was."""
    for node in context.nodes:
        if not isinstance(node, Repeat) or node.mode not in _TAKES or node.least == node.most:
            continue
        start = node.span[1] - len(node.quantifier)
        lazy = node.mode == "lazy"
        new = node.quantifier[:-1] if lazy else node.quantifier + "?"
        item = phrase(node.item, context.parsed.flags, short=True)
        words = f"{node.quantifier} takes {_TAKES[node.mode]} of {item}: {new}"
        # What takes nearly anything is what takes too much.
        broad = isinstance(node.item, Dot) or (isinstance(node.item, Shorthand) and node.item.negated)
        yield context.splice((start, node.span[1]), new, words, 0.8 if broad else 1.0)


def _stopped(context: RepairContext) -> Iterator[Proposal]:
    """What takes anything, stopped at the delimiter that follows."""
    for node in context.nodes:
        if not isinstance(node, Repeat) or not isinstance(node.item, Dot | Shorthand):
            continue
        mark = character_after(context, node)
        if not mark or mark.isalnum():
            continue
        quantifier = node.quantifier if node.mode == "greedy" else node.quantifier[:-1]
        new = f"[^{class_spelling(mark)}]{quantifier}"
        words = f"{spelled(node)} takes {character_words(mark)} too, which ends it: {new}"
        yield context.splice(node.span, new, words, 0.95)
