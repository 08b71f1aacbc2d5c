"""Small changes that might make a text fit: to the expression, its flags, its reach, or to the text.

Each rule knows one slip that people make and proposes what would undo it. Nothing here decides: a proposal counts
only once the engine has matched it. Costs order proposals: the slip that explains most with the least comes first.
"""

from __future__ import annotations

import heapq
from itertools import chain
from typing import TYPE_CHECKING

from fieldstick.drafting.slips import (
    amounts,
    blanks,
    choices,
    classes,
    dropping,
    framing,
    holes,
    instances,
    keys,
    looks,
    notation,
    notations,
    numbers,
    order,
    placeholders,
    settings,
    several,
    texts,
    words,
    wrapping,
)

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.drafting.context import MatchCase, Proposal, RepairContext

_ROOMS = (
    settings, wrapping, notation, notations, placeholders, amounts, several, numbers, classes, choices, words, blanks,
    order, looks, dropping, framing, holes, instances, keys,
    texts,
)  # fmt: skip
_RULES = tuple(chain.from_iterable(each.RULES for each in _ROOMS))


def proposals(context: RepairContext, most: int) -> list[Proposal]:
    """Return what every rule proposes, likeliest first, each setting once, at most `most` of them.

    Each holds an expression of its own: those of a long expression are not all held together.
    """
    best: dict[MatchCase, Proposal] = {}
    for rule in _RULES:
        for proposal in rule(context):
            known = best.get(proposal.case)
            if proposal.case != context.case and (known is None or proposal.cost < known.cost):
                best[proposal.case] = proposal
            if len(best) > 2 * most:
                best = {each.case: each for each in _likeliest(best.values(), most)}
    return _likeliest(best.values(), most)


def _likeliest(offered: Iterable[Proposal], most: int) -> list[Proposal]:
    return heapq.nsmallest(most, offered, key=lambda each: each.cost)
