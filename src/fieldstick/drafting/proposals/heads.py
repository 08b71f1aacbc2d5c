"""Tells the few words that many texts begin with from what comes after them."""

from __future__ import annotations

from collections import defaultdict
from itertools import takewhile
from typing import TYPE_CHECKING

from fieldstick.drafting.context import common_start
from fieldstick.drafting.proposals.cutting import tokens_of
from fieldstick.drafting.proposals.pieces import Piece, aligned
from fieldstick.drafting.proposals.shapes import ended, form_of
from fieldstick.drafting.proposals.special_pieces import SPECIAL
from fieldstick.drafting.proposals.spelling import listed_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.drafting.proposals.cutting import Cut, Token
    from fieldstick.drafting.proposals.pieces import Form

FEWEST_BEFORE_PROSE = 4
"""Pieces that stand before prose, at the least: two with a blank after each."""

FEWEST_OF_HEAD, MOST_HEADS, LEAST_LETTERS = 2, 8, 2
"""Texts that begin with a word for it to be one of few, how many such words there are, and how long one is."""


def by_heads(texts: Sequence[str]) -> list[Form] | None:
    """Return the form of texts that begin with one of a few words or marks, and have anything after it, or None."""
    shared = common_start(texts)
    groups: dict[str, list[str]] = defaultdict(list)
    for text in dict.fromkeys(each[len(shared) :] for each in texts):
        groups[text[: LEAST_LETTERS if text[:1].isalpha() else 1]].append(text)
    if not 1 < len(groups) <= MOST_HEADS or min(map(len, groups.values())) < FEWEST_OF_HEAD:
        return None
    heads: dict[str, str] = {}
    for begun in groups.values():
        head = common_start(begun)
        if head[:1].isdecimal() or head[:1].isspace():
            return None
        heads |= dict.fromkeys(begun, head)
    found = [heads[each[len(shared) :]] for each in texts]
    rests = [text[len(shared) + len(head) :] for text, head in zip(texts, found, strict=True)]
    before: Form = [Piece("word", [shared] * len(texts))] if shared else []
    return [[*before, Piece("key heads", found), *_rest(rests)]] if any(rests) else None


def by_beginning(texts: Sequence[str], cut: Cut = "runs") -> list[Form] | None:
    """Return the form of texts whose pieces begin alike and go on as prose does: anything after a blank; or None.

    Where all but blanks is one piece, they must go on in one of a few ways: else prose would tell where it begins.
    """
    rows = [tokens_of(text, cut) for text in texts]
    columns = enumerate(zip(*rows, strict=False), 1)
    alike = takewhile(lambda column: len({each.kind for each in column[1]}) == 1, columns)
    size = max((number for number, column in alike if column[0].kind == "blank"), default=0)
    rests = ["".join(each.text for each in row[size:]) for row in rows]
    fewest = 2 if rows and all(map(_begins_with_time, rows)) else FEWEST_BEFORE_PROSE
    if size < fewest or not all(rests) or (cut == "chunks" and listed_of(rests) is None):
        return None
    return [ended([*aligned([row[:size] for row in rows]), Piece("prose", rests)])]


def _begins_with_time(row: Sequence[Token]) -> bool:
    """Tell whether a text begins with a moment, or with seconds and a fraction: it is a line of a log."""
    first = next((each for each in row if each.kind != "blank"), None)
    return first is not None and (first.kind in SPECIAL or (first.kind == "number" and "." in first.text))


def _rest(rests: Sequence[str]) -> Form:
    filled = [each for each in rests if each]
    form = form_of(filled)
    if form is None:
        return ended([Piece("chunk", [*rests])])
    pieces = [each for each in form if isinstance(each, Piece)]
    return form if len(filled) == len(rests) or len(pieces) < len(form) else [pieces]
