"""The same change wherever a piece stands that is spelled alike, beside something that is the same, too."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.drafting.context import Proposal, before_groups
from fieldstick.drafting.slips.exchanged import differing
from fieldstick.syntax.tree import Alternation, Character, CharClass, Dot, Repeat, Shorthand, spelled

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

    from fieldstick.drafting.context import RepairContext
    from fieldstick.syntax.tree import Node

MOST_LIKEWISE, LIKEWISE = 3, 0.2
"""The likeliest changes that are done elsewhere too, and what that costs more."""


def likewise(context: RepairContext, offered: Iterable[Proposal]) -> Iterator[Proposal]:
    """Yield the likeliest of changes of one piece done to all that are like it."""
    case = context.case
    alone = (each for each in offered if replace(each.case, expression=case.expression) == case)
    for proposal, _ in zip(alone, range(MOST_LIKEWISE), strict=False):
        old, new = case.expression, proposal.case.expression
        apart = differing(old, new)
        node = _changed(context, len(apart.before), len(old) - len(apart.after), options=apart.has.startswith("|"))
        if node is None:
            continue
        first, stop = node.span
        made = new[first : len(new) - (len(old) - stop)]
        # Counts differ from piece to piece; where they are alike, there is a change of all.
        counted = spelled(node).endswith("}")
        places = [] if counted else [each.span for each in _like(context, node)]
        if places:
            changed = old
            for begin, end in sorted([node.span, *places], reverse=True):
                changed = changed[:begin] + made + changed[end:]
            words = f"{proposal.words}; and so where {spelled(node)} stands again"
            yield Proposal(replace(case, expression=changed), words, proposal.cost + LIKEWISE)


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


def _like(context: RepairContext, node: Node) -> list[Node]:
    """Return other pieces that are spelled as one is, with the same before or behind them."""
    beside = _beside(context, node)
    return [
        each
        for each in context.nodes
        if type(each) is type(node)
        and each is not node
        and spelled(each) == spelled(node)
        and not context.facts.is_in_class(each)
        and (
            isinstance(node, Alternation)
            or any(one and one == other for one, other in zip(_beside(context, each), beside, strict=True))
        )
    ]


def _beside(context: RepairContext, node: Node) -> tuple[str, str]:
    """Return the character before a piece, and how the piece behind it is spelled."""
    before = before_groups(context.case.expression, node.span[0])[-1:]
    marked = not before.isalnum() and before not in ")]|+*?}"
    after = context.after.get(node)
    return before * marked, spelled(after) if after is not None else ""
