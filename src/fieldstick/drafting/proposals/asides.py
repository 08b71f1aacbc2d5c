"""Tells what stands in brackets in some texts, always behind as many words, from what all of them have."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING, NamedTuple

from fieldstick.drafting.proposals.pieces import Piece
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Sequence

_ASIDE = compiled_later(r"(?<= )(?:\(([^()]+)\)|\[([^\[\]]+)\]) ")

FEWEST, SHARE = 3, 10
"""Texts that have an aside for it to be one, and one text in so many; as many have none."""


class WithAside(NamedTuple):
    """Texts parted by an aside: what stands before it, it in those that have one, and what stands behind."""

    heads: list[str]
    aside: list[Piece | list[Piece]]
    tails: list[str]


def parted_by_aside(texts: Sequence[str]) -> WithAside | None:
    """Return texts parted by what stands in brackets of one kind in some of them; None where there is no such."""
    found = [_ASIDE.search(text) for text in texts]
    where = ((text.count(" ", 0, each.start()), each[0][0]) for text, each in zip(texts, found, strict=True) if each)
    places = Counter(where)
    if not places:
        return None
    (blanks, mark), count = places.most_common(1)[0]
    others = len(texts) - count
    if min(count, others) < FEWEST or min(count, others) * SHARE < len(texts):
        return None
    heads, inner, tails = [], [], []
    for text in texts:
        words = text.split(" ", blanks)
        if len(words) <= blanks:
            return None
        head, rest = " ".join(words[:-1]) + " ", words[-1]
        aside = _ASIDE.match(text, len(head)) if rest[:1] == mark else None
        heads.append(head)
        tails.append(text[aside.end() :] if aside is not None else rest)
        inner += [] if aside is None else [aside[1] or aside[2]]
    if len(inner) != count:
        return None
    end = ")" if mark == "(" else "]"
    pieces = (Piece(mark, [mark] * count), Piece("gap", inner, end, within=True), Piece(end, [end] * count))
    return WithAside(heads, [[*pieces, Piece("blank", [" "] * count)]], tails)
