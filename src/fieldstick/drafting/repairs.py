"""Small changes that might make a text fit: to the expression, its flags, its reach, or to the text.

Each rule knows one slip that people make and proposes what would undo it. Nothing here decides: a proposal counts
only once the engine has matched it. Costs order proposals: the slip that explains most with the least comes first.
"""

from __future__ import annotations

import heapq
from bisect import bisect_left
from itertools import chain
from operator import attrgetter, itemgetter
from typing import TYPE_CHECKING

from fieldstick.drafting.slips import (
    amounts,
    attached,
    blanks,
    choices,
    chunks,
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
    from collections.abc import Callable, Iterable

    from fieldstick.drafting.context import MatchCase, Proposal, RepairContext

_ROOMS = (
    settings, wrapping, notation, notations, placeholders, attached, amounts, several, numbers, classes, choices, words,
    blanks, order, chunks, looks, dropping, framing, holes, instances, keys,
    texts,
)  # fmt: skip
_RULES = tuple(chain.from_iterable(each.RULES for each in _ROOMS))


LONG = 300
"""Code points of an expression from which on what is changed far from where the match stopped comes later."""

NEAR, FAR = 10, 40
"""Code points up to which a change is near, and by how many more it costs one more to try it; never more than that."""


def proposals(context: RepairContext, most: int) -> list[Proposal]:
    """Return what every rule proposes, likeliest first, each setting once, at most `most` of them.

    Each holds an expression of its own: those of a long expression are not all held together.
    """
    weigh = _weigher(context)
    best: dict[MatchCase, tuple[float, Proposal]] = {}
    for rule in _RULES:
        for proposal in rule(context):
            known = best.get(proposal.case)
            if proposal.case != context.case and (known is None or proposal.cost < known[1].cost):
                best[proposal.case] = (weigh(proposal), proposal)
            if len(best) > 2 * most:
                best = {each.case: (cost, each) for cost, each in _likeliest(best.values(), most)}
    return [each for _, each in _likeliest(best.values(), most)]


def _likeliest(offered: Iterable[tuple[float, Proposal]], most: int) -> list[tuple[float, Proposal]]:
    return heapq.nsmallest(most, offered, key=itemgetter(0))


def _weigher(context: RepairContext) -> Callable[[Proposal], float]:
    """Return what tells by what proposals are ordered: their cost, and of a long expression how far they lie."""
    if len(context.case.expression) <= LONG or not context.spots:
        return attrgetter("cost")
    return lambda each: each.cost + _distance(context, each.case.expression)


def _distance(context: RepairContext, made: str) -> float:
    """Return how far from where the match stopped an expression was changed: 0 near to it, 1 where that is far."""
    before = context.case.expression
    if made == before:
        return 0.0
    most = min(len(before), len(made))
    start = bisect_left(range(most), True, key=lambda at: before[: at + 1] != made[: at + 1])
    most -= start
    tail = bisect_left(range(most), True, key=lambda at: before[-at - 1 :] != made[-at - 1 :])
    end = len(before) - tail
    gap = min(max(first - end, start - last, 0) for first, last in context.spots)
    return min(1.0, max(0, gap - NEAR) / FAR)
