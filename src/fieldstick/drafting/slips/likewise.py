"""The same change wherever a piece stands that is spelled alike, beside something that is the same, too."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.drafting.context import Proposal, before_groups
from fieldstick.drafting.slips.exchanged import differing
from fieldstick.engines.probing import fits
from fieldstick.syntax.tree import Alternation, Character, CharClass, Dot, Repeat, Shorthand, spelled

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence

    from fieldstick.drafting.context import MatchCase, RepairContext
    from fieldstick.syntax.tree import Node, Span

MOST_LIKEWISE, LIKEWISE = 3, 0.2
"""The likeliest changes that are done elsewhere too, and what that costs more."""

MOST_BOTH, AS_LIKELY, BOTH = 20, 0.2, 0.02
"""The likeliest changes of which two are done together, by how much less likely one of them may be, and what two cost
more.
"""

LIKELIER = 0.02
"""What a change costs less that is done wherever it keeps a text out."""


def likewise(context: RepairContext, offered: Iterable[Proposal]) -> Iterator[Proposal]:
    """Yield the likeliest of changes of one piece done to all that are like it."""
    for proposal, node, made in _of_one_piece(context, offered):
        # Counts differ from piece to piece; where they are alike, there is a change of all.
        places = [] if spelled(node).endswith("}") else [each.span for each in _like(context, node)]
        if places:
            yield _done_to_all(proposal, context.case, node, places, made, LIKEWISE)


def kept_out_by_each(context: RepairContext, offered: Iterable[Proposal]) -> Iterator[Proposal]:
    """Yield the likeliest of changes of one piece done to all that are spelled alike, each of which keeps a text out.

    It is then for all of them to do so: `[a-z]+, [a-z]+` where `12, 14` shall not fit.
    """
    for proposal, node, made in _of_one_piece(context, offered):
        alike = _spelled_alike(context, node) if not isinstance(node, Character) else []
        # What is there once is not what is repeated beside it.
        repeated = context.facts.is_repeated(node)
        alike = [each for each in alike if context.facts.is_repeated(each) is repeated]
        places = [each.span for each in alike if _keeps_out(context.case, each.span, made)]
        if places:
            yield _done_to_all(proposal, context.case, node, places, made, -LIKELIER)


def kept_out_by_both(context: RepairContext, offered: Sequence[Proposal]) -> Iterator[Proposal]:
    """Yield the likeliest two changes of pieces apart, each of which keeps a text out, as one: it breaks both."""
    first, old = offered[0] if offered else None, context.case.expression
    if first is None or context.case.reach != "whole" or replace(first.case, expression=old) != context.case:
        # In a search it is rather what stands beside it.
        return
    apart = differing(old, first.case.expression)
    for second in offered[1:MOST_BOTH]:
        if replace(second.case, expression=old) != context.case or second.cost > first.cost + AS_LIKELY:
            continue
        other = differing(old, second.case.expression)
        if any("|" in each.lacks for each in (apart, other)):
            # An option that is left out has nothing to do with what is narrowed.
            continue
        one, two = sorted((apart, other), key=lambda each: len(each.before))
        start, end = len(old) - len(one.after), len(two.before)
        if start < end:
            made = one.before + one.has + old[start:end] + two.has + two.after
            words = f"{first.words}; and {second.words}"
            yield Proposal(replace(context.case, expression=made), words, second.cost + BOTH)
            return


def _of_one_piece(context: RepairContext, offered: Iterable[Proposal]) -> Iterator[tuple[Proposal, Node, str]]:
    """Yield the likeliest changes of the expression alone that change one piece, with it and what it becomes."""
    case = context.case
    alone = (each for each in offered if replace(each.case, expression=case.expression) == case)
    for proposal, _ in zip(alone, range(MOST_LIKEWISE), strict=False):
        old, new = case.expression, proposal.case.expression
        apart = differing(old, new)
        node = _changed(context, len(apart.before), len(old) - len(apart.after), options=apart.has.startswith("|"))
        if node is not None:
            first, stop = node.span
            yield proposal, node, new[first : len(new) - (len(old) - stop)]


def _done_to_all(
    proposal: Proposal, case: MatchCase, node: Node, places: Iterable[Span], made: str, cost: float
) -> Proposal:
    changed = case.expression
    for begin, end in sorted([node.span, *places], reverse=True):
        changed = changed[:begin] + made + changed[end:]
    words = f"{proposal.words}; and so where {spelled(node)} stands again"
    return Proposal(replace(case, expression=changed), words, proposal.cost + cost)


def _changed(context: RepairContext, start: int, end: int, *, options: bool) -> Node | None:
    """Return the smallest piece in which all of a change lies: of one that adds an option, all of them."""
    if options:
        return next((each for each in context.nodes if isinstance(each, Alternation) and each.span[1] == start), None)
    held = [
        each
        for each in context.nodes
        if isinstance(each, Character | CharClass | Dot | Repeat | Shorthand)
        and each.span[0] <= start
        and end <= each.span[1]
        and not context.facts.is_in_class(each)
    ]
    node = min(held, key=lambda each: each.span[1] - each.span[0], default=None)
    around = context.facts.parents.get(node) if node is not None else None
    return around if isinstance(around, Repeat) else node


def _spelled_alike(context: RepairContext, node: Node) -> list[Node]:
    """Return other pieces that are spelled as one is."""
    return [
        each
        for each in context.nodes
        if type(each) is type(node)
        and each is not node
        and spelled(each) == spelled(node)
        and not context.facts.is_in_class(each)
    ]


def _keeps_out(case: MatchCase, span: Span, made: str) -> bool:
    """Tell whether a text does not fit any more once a piece is changed, and that alone."""
    changed = case.expression[: span[0]] + made + case.expression[span[1] :]
    return not fits(changed, case.flags, case.reach, case.text)


def _like(context: RepairContext, node: Node) -> list[Node]:
    """Return other pieces that are spelled as one is, with the same before or behind them."""
    beside = _beside(context, node)
    return [
        each
        for each in _spelled_alike(context, node)
        if isinstance(node, Alternation)
        or any(one and one == other for one, other in zip(_beside(context, each), beside, strict=True))
    ]


def _beside(context: RepairContext, node: Node) -> tuple[str, str]:
    """Return the character before a piece, and how the piece behind it is spelled."""
    before = before_groups(context.case.expression, node.span[0])[-1:]
    marked = not before.isalnum() and before not in ")]|+*?}"
    after = context.after.get(node)
    return before * marked, spelled(after) if after is not None else ""
