"""Tells the items of a list from the mark between them, where texts have different numbers of items."""

from __future__ import annotations

import re
from collections import Counter
from itertools import takewhile
from typing import TYPE_CHECKING

from fieldstick.drafting.context import common_start
from fieldstick.drafting.proposals.durations import is_duration
from fieldstick.drafting.proposals.pieces import Piece
from fieldstick.drafting.proposals.shapes import FEWEST_OF_KEY, form_of
from fieldstick.drafting.proposals.spelling import FEW
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.drafting.proposals.pieces import Form

MOST_PARTING = 6
"""Marks that are tried as what parts items, at the most."""

_OPENING = {")": "(", "]": "[", "}": "{"}
_CLOSING = "".join(_OPENING)

_MARKS = compiled_later(r"[^\w]+|_")
_NAME, _WITH_LAST_WORD = re.compile(r"\w+(?:-\w+)*"), re.compile(r"(.*\W)(\w+)", re.DOTALL)


def by_items(texts: Sequence[str]) -> list[Form] | None:
    """Return the form of lists whose items are all alike, the first of them at times with something before; or None.

    The longest mark is taken of those that part texts so: a comma with the blank after it, rather than one of these.
    """
    if all(map(is_duration, texts)):
        # Amounts of units are no items: they come in one order.
        return None
    end = _shared_end(texts)
    texts = [each.removesuffix(end) for each in texts]
    counts = Counter(mark for text in texts for mark in dict.fromkeys(_marks_of(text)))
    few = len(texts) < FEW
    # A blank parts words.
    least = {mark: FEWEST_OF_KEY - (few and not mark.isspace()) for mark in counts}
    often = [mark for mark, count in counts.most_common(MOST_PARTING) if count >= least[mark]]
    for mark in sorted(often, key=len, reverse=True):
        rows = [text.split(mark) for text in texts]
        others = [item for row in rows for item in row[1:]]
        sizes = {*map(len, rows)}
        # Of few texts, two sizes tell of a list where one between is lacking.
        gap = few and max(sizes) - min(sizes) > 1
        if (len(sizes) < FEWEST_OF_KEY and not gap) or not all(map(all, rows)):
            continue
        firsts = [row[0] for row in rows]
        every = _item_form(firsts + others)
        head, item = (every, every) if every is not None else (_head_form(firsts), _item_form(others))
        if head is None or item is None:
            continue
        if every is None or not few:
            head, item = _shared_by(head, item)
        if few and head[-len(item) :] != item:
            continue
        between = Piece("blank" if mark.isspace() else mark, [mark] * len(others))
        times = Piece("again", [str(len(row) - 1) for row in rows])
        return [[*head, [times, between, *item], *(Piece(mark, [mark] * len(texts)) for mark in end)]]
    return None


def _marks_of(text: str) -> Iterator[str]:
    """Yield what may part items in a text; a bracket that closes may be one of an item before it."""
    for mark in _MARKS.findall(text):
        yield mark
        if (behind := mark.lstrip(_CLOSING)) and behind != mark:
            yield behind


def _shared_by(head: list[Piece], item: list[Piece]) -> tuple[list[Piece], list[Piece]]:
    """Return a head and an item with one and the same for the item at the end of the head and the others."""
    size = len(item)
    if [each.kind for each in head[-size:]] != [each.kind for each in item]:
        return head, item
    both = [Piece(one.kind, [*one.values, *other.values]) for one, other in zip(head[-size:], item, strict=True)]
    return [*head[:-size], *both], both


def _shared_end(texts: Sequence[str]) -> str:
    """Return the marks that all texts end with, as the bracket around a list."""
    shared = common_start([each[::-1] for each in texts])
    opening = _OPENING.get(shared[:1])
    if opening is not None and any(text.count(opening) > 1 for text in texts):
        # It is the bracket of an item.
        return ""
    return "".join(takewhile(lambda each: not each.isalnum() and not each.isspace(), shared))[::-1]


def _head_form(texts: Sequence[str]) -> list[Piece] | None:
    """Return the pieces of first items, of one form up to the word that ends each, if not as a whole."""
    plain = _plain_form(texts)
    cut = [found.groups() for each in texts if (found := _WITH_LAST_WORD.fullmatch(each))]
    if plain is not None or len(cut) < len(texts):
        return plain
    form = _plain_form([before for before, _ in cut])
    return [*form, Piece("chunk", [word for _, word in cut])] if form is not None else None


def _item_form(texts: Sequence[str]) -> list[Piece] | None:
    """Return the pieces of items of one form, or the one word that each of them is, with hyphens in it at times."""
    return _plain_form(texts) or ([Piece("chunk", [*texts])] if all(map(_NAME.fullmatch, texts)) else None)


def _plain_form(texts: Sequence[str]) -> list[Piece] | None:
    """Return the pieces of texts of one form, of which nothing may be left out; None where they are no such."""
    form = form_of(texts)
    pieces = [each for each in form or () if isinstance(each, Piece)]
    return pieces if form is not None and len(pieces) == len(form) else None
