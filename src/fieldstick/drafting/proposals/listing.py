"""Tells the items of a list from the mark between them, where texts have different numbers of items."""

from __future__ import annotations

import re
from collections import Counter
from typing import TYPE_CHECKING

from fieldstick.drafting.proposals.pieces import Piece, complexity
from fieldstick.drafting.proposals.shapes import FEWEST_OF_KEY, form_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.drafting.proposals.pieces import Form

MOST_PARTING = 4
"""Marks that are tried as what parts items, at the most."""

_MARKS = re.compile(r"[^\w]+|_")


def by_items(texts: Sequence[str]) -> list[Form] | None:
    """Return the form of lists whose items are all alike, the first of them at times with something before; or None.

    The longest mark is taken of those that part texts so: a comma with the blank after it, rather than one of these.
    """
    counts = Counter(mark for text in texts for mark in {*_MARKS.findall(text)})
    often = [mark for mark, count in counts.most_common(MOST_PARTING) if count >= FEWEST_OF_KEY]
    for mark in sorted(often, key=len, reverse=True):
        rows = [text.split(mark) for text in texts]
        others = [item for row in rows for item in row[1:]]
        if len({*map(len, rows)}) < FEWEST_OF_KEY or not all(map(all, rows)):
            continue
        head, item = form_of([row[0] for row in rows]), form_of(others)
        every = form_of([*(row[0] for row in rows), *others])
        if every is not None and _is_plain(every):
            head = item = every
        if head is None or item is None or not (_is_plain(head) and _is_plain(item)):
            continue
        between = Piece("blank" if mark.isspace() else mark, [mark] * len(others))
        times = Piece("again", [str(len(row) - 1) for row in rows])
        return [[*head, [times, between, *(each for each in item if isinstance(each, Piece))]]]
    return None


def _is_plain(form: Form) -> bool:
    """Tell whether an item is of one form, of which nothing may be left out."""
    return complexity([form]) == (1, 0) and all(isinstance(each, Piece) for each in form)
