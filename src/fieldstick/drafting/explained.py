"""Tells how well an expression explains a text: what it parts that belongs together, how much it leaves open."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.drafting.context import takes
from fieldstick.engines.probing import MILLISECONDS, batch_of, compiled_by_engine
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import (
    Alternation,
    Backreference,
    CharClass,
    Conditional,
    Dot,
    Group,
    Node,
    Repeat,
    Sequence,
    Shorthand,
    once,
    spelled,
    walk,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import MatchCase

LONGEST = 1_000
"""Code points of an expression and a text up to which that is told."""

MOST_PIECES = 40
"""Pieces of an expression up to which they are looked at."""

WIDE = 6.3
"""Bits of a class from which on it takes nearly anything: what it takes of a text, nothing else need explain."""

_PRINTED = [chr(code) for code in range(0x20, 0x7F)]


class Explained(Struct, frozen=True):
    """How an expression explains a text.

    `seams` counts the places where one run of digits, or of small letters, goes on in the next piece: only pieces that
    take any number of characters count, and a dot, since those of a fixed number are meant to part what they part. So
    does a run of capitals that are counted, and then anything.
    `ragged` counts pieces that took more than what they are for: a blank or a mark that parts, at an end of a word.
    `bits` is what the classes leave open: the sum over the characters that they took of the logarithm of how many they
    might have taken (the length of the text's code, as in Rissanen, Automatica 14, 1978).
    """

    seams: int
    ragged: int
    bits: float


def explained(case: MatchCase) -> Explained | None:
    """Tell how well an expression explains a text; None where there is no match, or it cannot be told."""
    if len(case.expression) + len(case.text) > LONGEST:
        return None
    try:
        tree = parse(case.expression, case.flags).tree
    except SyntaxFault:
        return None
    if any(isinstance(each, Conditional) or (isinstance(each, Backreference) and not each.name) for each in walk(tree)):
        return None
    # What options reach to is not known yet where they are all of it.
    options = tree.options if isinstance(tree, Alternation) else (tree,)
    pieces = [piece for option in options for piece in _pieces(option)]
    if len(pieces) > MOST_PIECES:
        return None
    made = case.expression
    for number, piece in reversed(list(enumerate(pieces))):
        start, end = piece.span
        made = f"{made[:start]}(?P<p{number}_>{made[start:end]}){made[end:]}"
    compiled = compiled_by_engine(made, case.flags)
    places = (batch_of(made, case.flags, case.reach, (case.text,), MILLISECONDS) or [None])[0]
    if compiled is None or places is None or len(compiled.groupindex) < len(pieces):
        return None
    taken = [(places[compiled.groupindex[f"p{number}_"]], piece) for number, piece in enumerate(pieces)]
    taken = [(place, piece) for place, piece in taken if place[0] < place[1]]
    ends = {end: piece for (_, end), piece in taken}
    starts = {start: piece for (start, _), piece in taken}
    seams = sum(
        (_is_run(case.text[place - 1], case.text[place]) and (_is_free(ends[place]) or _is_free(starts[place])))
        or (_goes_on(ends[place], case.text[place], case.flags) and _is_free(starts[place]))
        or (_is_run(case.text[place - 1], case.text[place]) and Dot in (type(ends[place]), type(starts[place])))
        or (_counts_capitals(ends[place], case.text[place], case.flags) and isinstance(once(starts[place]), Dot))
        for place in ends.keys() & starts.keys()
    )
    ragged = sum(_is_free(piece) and _is_ragged(case.text[start:end]) for (start, end), piece in taken)
    return Explained(seams, ragged, sum((end - start) * _openness(piece, case.flags) for (start, end), piece in taken))


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
        if isinstance(node.item, Group) and (node.least, node.most) == (0, 1):
            yield from _pieces(node.item)
        elif isinstance(node.item, Shorthand | CharClass | Dot | Group):
            yield node


def _openness(piece: Node, flags: frozenset[str]) -> float:
    """Return how much a character that a piece took might have been another, in bits."""
    classes = [each for each in walk(piece) if isinstance(each, Shorthand | CharClass | Dot)]
    most = max((_bits(spelled(each), flags) for each in classes), default=0.0)
    return most if most >= WIDE else 0.0


@lru_cache(maxsize=1024)
def _bits(spelling: str, flags: frozenset[str]) -> float:
    return math.log2(max(1, sum(map(takes(spelling, flags), _PRINTED))))


def _is_free(piece: Node) -> bool:
    return isinstance(piece, Repeat) and piece.least != piece.most and not isinstance(piece.item, Group)


def _goes_on(piece: Node, following: str, flags: frozenset[str]) -> bool:
    """Tell whether a piece might have taken a letter or digit more, the one that follows."""
    item = once(piece)
    return (
        _is_free(piece)
        and isinstance(item, Shorthand | CharClass)
        and following.isalnum()
        and takes(spelled(item), flags)(following)
    )


def _counts_capitals(piece: Node, following: str, flags: frozenset[str]) -> bool:
    """Tell whether a piece takes a number of characters of a class, of which the following capital might be one."""
    counted = isinstance(piece, Repeat) and isinstance(piece.item, Shorthand | CharClass)
    return counted and following.isupper() and takes(spelled(once(piece)), flags)(following)


def _is_ragged(taken: str) -> bool:
    return any(map(str.isalnum, taken)) and (taken[0] in " \t:,;=" or taken[-1] in " \t,;=")


def _is_run(one: str, other: str) -> bool:
    return (one.isdigit() and other.isdigit()) or (one.islower() and other.islower())
