"""Blanks that stand elsewhere in the text than in the expression, all of them put right at once."""

from __future__ import annotations

from itertools import accumulate
from typing import TYPE_CHECKING

from fieldstick.drafting.context import compiling, takes
from fieldstick.engines.probing import compiled_by_engine, matched_within
from fieldstick.syntax.tree import (
    SINGLE,
    Anchor,
    Backreference,
    Sequence,
    spelled,
    walk,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext
    from fieldstick.syntax.tree import Node

MOST_ITEMS = 40
"""Pieces of an expression up to which it is told what each takes."""

MILLISECONDS = 20


def blanks_elsewhere(context: RepairContext) -> Iterator[Proposal]:
    """Blanks put where the text has them, where it fits once neither has any."""
    case, tree = context.case, context.parsed.tree
    items = list(without_asides(tree.items)) if isinstance(tree, Sequence) else []
    pieces = [each for each in items if not _is_blank(each)]
    numbered = any(isinstance(each, Backreference) and each.name is None for each in context.nodes)
    if case.reach != "whole" or numbered or not 1 < len(pieces) <= MOST_ITEMS or "verbose" in context.parsed.flags:
        return
    ends = _ends(context, pieces)
    if ends is None:
        return
    in_text = _blanks_in(case.text)
    in_expression = _gaps(items)
    wanted = {number for number, end in enumerate(ends[:-1]) if end in in_text}
    # Of several pieces that end at one place, those before it took nothing.
    if {ends[number] for number in wanted} != in_text or len({ends[number] for number in wanted}) != len(wanted):
        return
    loose = [_takes_blanks(context, each) for each in pieces]
    changed = {number for number in in_expression.keys() ^ wanted if not any(loose[max(number, 0) : number + 2])}
    if len(changed) < 2:
        return
    kinds = ((" ?", 0.9), (r"\s*", 0.93)) if " ?" in case.expression else ((r"\s*", 0.9), (" ?", 0.93))
    alone = ((" ", 0.9), (r"\s*", 1.0)) if changed & wanted else ((" ", 0.9),)
    for blank, cost in kinds if context.held else alone:
        # Where other texts fit as it is written, a blank may stand there or not.
        may_lack = changed if context.held or blank != " " else changed & wanted
        gaps = {**{each: in_expression.get(each, " ") for each in wanted}, **dict.fromkeys(may_lack, blank)}
        made = "".join(spelled(piece) + gaps.get(number, "") for number, piece in enumerate(pieces))
        yield context.splice(tree.span, made, "blanks stand elsewhere in the text", cost)


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


def _gaps(items: list[Node]) -> dict[int, str]:
    """Return the numbers of the pieces that blanks stand behind among items, and how these are spelled."""
    pieces = list(accumulate((not _is_blank(each) for each in items), initial=-1))
    return {number: spelled(each) for number, each in zip(pieces, items, strict=False) if _is_blank(each)}


def _blanks_in(text: str) -> set[int]:
    """Return where the text without its blanks had some."""
    return set(accumulate(map(len, text.split(" ")[:-1])))


def _ends(context: RepairContext, pieces: list[Node]) -> list[int] | None:
    """Return where each piece ends in the text without its blanks; None where it does not fit that."""
    case = context.case
    made = "".join(
        spelled(each) if isinstance(each, Anchor) else f"(?P<p{number}_>{spelled(each)})"
        for number, each in enumerate(pieces)
    )
    compiled = compiled_by_engine(made, case.flags) if context.looking.spend(compiling(made, case.flags)) else None
    if compiled is None:
        return None
    bare = case.text.replace(" ", "")
    whole = compiled.fullmatch
    found = matched_within(MILLISECONDS, lambda: whole(bare))
    if found is None:
        return None
    ends: list[int] = []
    for number, each in enumerate(pieces):
        ends.append((ends[-1] if ends else 0) if isinstance(each, Anchor) else found.end(f"p{number}_"))
    return ends


RULES = (blanks_elsewhere, indented)
