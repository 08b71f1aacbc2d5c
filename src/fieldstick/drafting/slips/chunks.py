"""Several pieces of a line that belong together, between its blanks and marks: lacking, or in another order."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.drafting.context import compiling
from fieldstick.drafting.slips.framing import PAIRS
from fieldstick.engines.probing import compiled_by_engine, matched_within, method_of
from fieldstick.syntax.tree import Anchor, Character, Node, Sequence, literal_of, without_asides

if TYPE_CHECKING:
    import re
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext

MOST_STARTS = 6
"""Places near to where the match stopped at which what is lacking is tried to begin."""

MOST_ENDS = 40
"""Places behind it at which that is tried to end."""

FEWEST_PIECES = 6
"""Pieces in a row, a character one, from which on they are looked for here."""

MOST_MOVED, MOST_MARKS = 3, 3
"""Stretches between the same mark that change places with as many beside them, and marks of which that is tried."""

PARTING = (",", ";", "\\|", r"\t", "\t", " ", "/")
"""Marks that part the values of a line, which are tried before others."""

MILLISECONDS = 20


def lacking(context: RepairContext) -> Iterator[Proposal]:
    """A stretch of a line that the text does not have: what stands before and behind it fits."""
    items = _items(context)
    starts = [at for at in range(len(items)) if _begins(items, at)]
    starts = sorted(starts, key=lambda at: (context.near(items[at]), at))[:MOST_STARTS]
    expression, ends = context.case.expression, [at for at in range(1, len(items) + 1) if _ends(items, at)]
    behind: dict[int, re.Pattern[str] | None] = {}
    for start in starts:
        place = _end_of(context, expression[: items[start].span[0]])
        if place is None:
            continue
        for end in [at for at in ends if at - start >= FEWEST_PIECES][:MOST_ENDS]:
            if end not in behind:
                behind[end] = _compiled(context, expression[items[end].span[0] :] if end < len(items) else "")
            rest = behind[end]
            if rest is None or not _goes_on(context, rest, place):
                continue
            span = (items[start].span[0], items[end - 1].span[1])
            piece = expression[slice(*span)]
            marked = not (literal_of(items[start]) or "a").isalnum()
            cost = (1.15 if marked else 1.35) + context.near(items[start]) / 2
            yield context.splice(span, f"(?:{piece})?", f"{piece} need not be there: (?:{piece})?", cost)


def _items(context: RepairContext) -> tuple[Node, ...]:
    tree = context.parsed.tree
    return without_asides(tree.items) if isinstance(tree, Sequence) else ()


def _is_parting(node: Node) -> bool:
    return not (literal_of(node) or "a").isalnum()


def _begins(items: tuple[Node, ...], at: int) -> bool:
    """Tell whether a stretch may begin there: at a blank or a mark, behind one, or with the line."""
    return not isinstance(items[at], Anchor) and (at == 0 or _is_parting(items[at]) or _is_parting(items[at - 1]))


def _ends(items: tuple[Node, ...], at: int) -> bool:
    """Tell whether a stretch may end before a piece."""
    return at == len(items) or _is_parting(items[at]) or _is_parting(items[at - 1]) or isinstance(items[at], Anchor)


def _compiled(context: RepairContext, expression: str) -> re.Pattern[str] | None:
    flags = context.case.flags
    return compiled_by_engine(expression, flags) if context.looking.spend(compiling(expression, flags)) else None


def _end_of(context: RepairContext, before: str) -> int | None:
    """Return where what stands before ends in the text; None where it does not fit."""
    compiled = _compiled(context, before)
    if compiled is None:
        return None
    read = method_of(compiled, "start" if context.case.reach == "whole" else context.case.reach)
    found = matched_within(MILLISECONDS, lambda: read(context.case.text))
    return found.end() if found is not None else None


def _goes_on(context: RepairContext, rest: re.Pattern[str], place: int) -> bool:
    """Tell whether the text goes on from a place as what stands behind asks for."""
    read = rest.fullmatch if context.case.reach == "whole" else rest.match
    return matched_within(MILLISECONDS, lambda: read(context.case.text, place)) is not None


def swapped(context: RepairContext) -> Iterator[Proposal]:
    """Stretches between the same mark that change places with those beside them: `(\\d{4}) by badge`."""
    items = [each for each in _items(context) if not isinstance(each, Anchor)]
    literals = [each.spelling for each in items if isinstance(each, Character) and not each.character.isalnum()]
    marks = sorted(dict.fromkeys(literals), key=lambda each: each not in PARTING)
    for mark in marks[:MOST_MARKS]:
        stretches = _stretches(items, mark)
        if len(stretches) < 2 or not all(stretches):
            continue
        stretches = _unbracketed(stretches)
        spans = [(each[0].span[0], each[-1].span[1]) for each in stretches]
        stop = max((start for start, _ in context.spots), default=0)
        last = max((at for at, (start, _) in enumerate(spans) if start <= stop), default=0)
        for first in range(max(0, last - 1), last + 1):
            yield from _two_swapped(context, spans, first, mark)


def _stretches(items: list[Node], mark: str) -> list[list[Node]]:
    found: list[list[Node]] = [[]]
    for item in items:
        if isinstance(item, Character) and item.spelling == mark:
            found.append([])
        else:
            found[-1].append(item)
    return found


def _unbracketed(stretches: list[list[Node]]) -> list[list[Node]]:
    """Return stretches without the bracket that opens before the first of some and the one that closes them."""
    kept = [[*each] for each in stretches]
    for first, stretch in enumerate(kept):
        closing = PAIRS.get(literal_of(stretch[0]) or "", "")
        last = next((at for at in range(first, len(kept)) if closing and literal_of(kept[at][-1]) == closing), None)
        if last is not None and len(stretch) > 1 and len(kept[last]) > 1 and last > first:
            del stretch[0], kept[last][-1]
    return kept


def _two_swapped(context: RepairContext, spans: list[tuple[int, int]], first: int, mark: str) -> Iterator[Proposal]:
    expression = context.case.expression
    for middle in range(first + 1, min(first + 1 + MOST_MOVED, len(spans))):
        for end in range(middle + 1, min(middle + 1 + MOST_MOVED, len(spans) + 1)):
            if expression[spans[middle - 1][1] : spans[middle][0]] != mark:
                # A bracket stands there, too.
                continue
            one = expression[spans[first][0] : spans[middle - 1][1]]
            other = expression[spans[middle][0] : spans[end - 1][1]]
            cost = 1.0 + 0.03 * (end - first) + 0.05 * bool(context.held)
            words = f"{one} and {other} change places"
            yield context.splice((spans[first][0], spans[end - 1][1]), f"{other}{mark}{one}", words, cost)


RULES = (lacking, swapped)
