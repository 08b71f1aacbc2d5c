"""Blanks that stand elsewhere in the text than in the expression, all of them put right at once."""

from __future__ import annotations

from itertools import accumulate
from typing import TYPE_CHECKING, NamedTuple

from fieldstick.drafting.context import compiling, takes
from fieldstick.engines.probing import compiled_by_engine, matched_within
from fieldstick.syntax.tree import (
    SINGLE,
    Alternation,
    Anchor,
    Backreference,
    Group,
    Node,
    Sequence,
    spelled,
    walk,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext

MOST_ITEMS = 40
"""Pieces of an expression up to which it is told what each takes."""

MILLISECONDS = 20


class _Leaf(NamedTuple):
    """A piece that is no group, and where all that it is the last of ends: groups stay with what stands in them."""

    node: Node
    end: int


def blanks_elsewhere(context: RepairContext) -> Iterator[Proposal]:
    """Blanks put where the text has them, where it fits once neither has any."""
    case, tree = context.case, context.parsed.tree
    leaves = list(_leaves(tree, None)) if isinstance(tree, Sequence) else []
    pieces = [each for each in leaves if not _is_blank(each.node)]
    numbered = any(isinstance(each, Backreference) and each.name is None for each in context.nodes)
    if case.reach != "whole" or numbered or not 1 < len(pieces) <= MOST_ITEMS or "verbose" in context.parsed.flags:
        return
    ends = _ends(context, leaves)
    if ends is None:
        return
    in_text = _blanks_in(case.text)
    in_expression = _gaps(leaves)
    wanted = {number for number, end in enumerate(ends[:-1]) if end in in_text}
    # Of several pieces that end at one place, those before it took nothing.
    if {ends[number] for number in wanted} != in_text or len({ends[number] for number in wanted}) != len(wanted):
        return
    loose = [_takes_blanks(context, each.node) for each in pieces]
    changed = {number for number in in_expression.keys() ^ wanted if not any(loose[max(number, 0) : number + 2])}
    if len(changed) < 2:
        return
    kinds = ((" ?", 0.9), (r"\s*", 0.93)) if " ?" in case.expression else ((r"\s*", 0.9), (" ?", 0.93))
    alone = ((" ", 0.9), (r"\s*", 1.0)) if changed & wanted else ((" ", 0.9),)
    written = {each.node for each in in_expression.values()}
    for blank, cost in kinds if context.held else alone:
        # Where other texts fit as it is written, a blank may stand there or not.
        may_lack = changed if context.held or blank != " " else changed & wanted
        places = [(each.node.span, "") for each in leaves if _is_blank(each.node) and each.node not in written]
        for number, each in in_expression.items():
            kept = spelled(each.node) if number in wanted else ""
            places.append((each.node.span, blank if number in may_lack else kept))
        places += [
            ((pieces[number].end,) * 2, blank if number in may_lack else " ")
            for number in wanted - in_expression.keys()
        ]
        yield context.splice_all(places, "blanks stand elsewhere in the text", cost)


def _leaves(node: Node, end: int | None) -> Iterator[_Leaf]:
    """Yield the pieces of an expression, those in groups too; `end` is where what a node is the last of ends."""
    if isinstance(node, Sequence):
        items = without_asides(node.items)
        for at, each in enumerate(items):
            yield from _leaves(each, end if at == len(items) - 1 else None)
    elif isinstance(node, Group) and not isinstance(node.body, Alternation) and node.body.span[0] < node.body.span[1]:
        yield from _leaves(node.body, node.span[1] if end is None else end)
    else:
        yield _Leaf(node, node.span[1] if end is None else end)


def indented(context: RepairContext) -> Iterator[Proposal]:
    """`^#` for `^\\s*#`: lines that begin with what is asked for, and are indented."""
    text = context.case.text
    edges = [each for each in context.nodes if isinstance(each, Anchor) and each.spelling in ("^", r"\A")]
    if context.case.reach == "anywhere" and text.lstrip() != text and len(edges) == 1 and context.at == 0:
        words = "white space may stand before it: \\s*"
        yield context.splice((edges[0].span[1], edges[0].span[1]), r"\s*", words, 0.95)


def _is_blank(node: Node) -> bool:
    return spelled(node) in (" ", r"\s")


def _takes_blanks(context: RepairContext, node: Node) -> bool:
    singles = (each for each in walk(node) if isinstance(each, SINGLE) and not context.facts.is_in_class(each))
    return any(takes(spelled(each), context.parsed.flags)(" ") for each in singles)


def _gaps(leaves: list[_Leaf]) -> dict[int, _Leaf]:
    """Return the numbers of the pieces that blanks stand behind, and these: of several the last one."""
    numbers = list(accumulate((not _is_blank(each.node) for each in leaves), initial=-1))
    return {number: each for number, each in zip(numbers, leaves, strict=False) if _is_blank(each.node)}


def _blanks_in(text: str) -> set[int]:
    """Return where the text without its blanks had some."""
    return set(accumulate(map(len, text.split(" ")[:-1])))


def _ends(context: RepairContext, leaves: list[_Leaf]) -> list[int] | None:
    """Return where each piece ends in the text without its blanks; None where it does not fit that."""
    case, made, before = context.case, "", 0
    pieces = [each.node for each in leaves if not _is_blank(each.node)]
    numbers = {node: number for number, node in enumerate(pieces) if not isinstance(node, Anchor)}
    for node, _ in leaves:
        start, stop = node.span
        made += case.expression[before:start]
        if node in numbers:
            made += f"(?P<p{numbers[node]}_>{spelled(node)})"
        elif not _is_blank(node):
            made += spelled(node)
        before = stop
    made += case.expression[before:]
    compiled = compiled_by_engine(made, case.flags) if context.looking.spend(compiling(made, case.flags)) else None
    if compiled is None:
        return None
    bare = case.text.replace(" ", "")
    whole = compiled.fullmatch
    found = matched_within(MILLISECONDS, lambda: whole(bare))
    if found is None:
        return None
    ends: list[int] = []
    for number, node in enumerate(pieces):
        ends.append(found.end(f"p{number}_") if node in numbers else (ends[-1] if ends else 0))
    return ends


RULES = (blanks_elsewhere, indented)
