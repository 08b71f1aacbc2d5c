"""Tells where a match parts what belongs together: a run of digits or of letters shared out between two pieces."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.engines.probing import MILLISECONDS, batch_of, compiled_by_engine
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import (
    Backreference,
    CharClass,
    Conditional,
    Dot,
    Group,
    Node,
    Repeat,
    Sequence,
    Shorthand,
    walk,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import MatchCase

MOST_PIECES = 40
"""Pieces of an expression up to which its seams are looked at."""


def seams(case: MatchCase) -> int:
    """Count the places of a match where one run of digits, or of letters of one case, goes on in the next piece.

    Only pieces that take any number of characters count: those of a fixed number are meant to part what they part.
    """
    try:
        tree = parse(case.expression, case.flags).tree
    except SyntaxFault:
        return 0
    if any(isinstance(each, Conditional) or (isinstance(each, Backreference) and not each.name) for each in walk(tree)):
        return 0
    pieces = list(_pieces(tree))
    if not 2 <= len(pieces) <= MOST_PIECES:
        return 0
    made = case.expression
    for number, piece in reversed(list(enumerate(pieces))):
        start, end = piece.span
        made = f"{made[:start]}(?P<p{number}_>{made[start:end]}){made[end:]}"
    compiled = compiled_by_engine(made, case.flags)
    places = (batch_of(made, case.flags, case.reach, (case.text,), MILLISECONDS) or [None])[0]
    if compiled is None or places is None:
        return 0
    taken = [(places[compiled.groupindex[f"p{number}_"]], piece) for number, piece in enumerate(pieces)]
    ends = {end: piece for (start, end), piece in taken if start < end}
    starts = {start: piece for (start, end), piece in taken if start < end}
    return sum(
        _is_run(case.text[place - 1], case.text[place]) and (_is_free(ends[place]) or _is_free(starts[place]))
        for place in ends.keys() & starts.keys()
    )


def _pieces(node: Node) -> Iterator[Node]:
    """Yield the pieces that take characters of a kind and stand in a row, those within groups too."""
    if isinstance(node, Sequence):
        for each in without_asides(node.items):
            yield from _pieces(each)
    elif isinstance(node, Group) and node.kind in ("plain", "capture"):
        yield from _pieces(node.body)
    elif isinstance(node, Shorthand | CharClass | Dot):
        yield node
    elif isinstance(node, Repeat):
        if isinstance(node.item, Shorthand | CharClass | Dot):
            yield node
        elif isinstance(node.item, Group) and (node.least, node.most) == (0, 1):
            yield from _pieces(node.item)


def _is_free(piece: Node) -> bool:
    return isinstance(piece, Repeat) and piece.least != piece.most


def _is_run(one: str, other: str) -> bool:
    return (one.isdigit() and other.isdigit()) or (one.islower() and other.islower())
