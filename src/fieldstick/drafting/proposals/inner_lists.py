"""Tells lists within texts that are else of one form: items that are alike, of which there are more or fewer."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from fieldstick.drafting.proposals.cutting import tokens_of
from fieldstick.drafting.proposals.pieces import Piece, aligned, coming_again
from fieldstick.drafting.proposals.shapes import MOST_PIECES, ended
from fieldstick.drafting.proposals.special_pieces import SPECIAL

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.drafting.proposals.cutting import Token
    from fieldstick.drafting.proposals.pieces import Form

_PARTING = frozenset(",;/|+&")
"""Marks that part items, with a blank behind them or not."""

_ITEMS = (
    ("number",),
    ("word",),
    ("word", "blank", "number"),
    ("number", "blank", "word"),
    ('"', "quoted", '"'),
    ("'", "quoted", "'"),
)
_ITEMS_OF = {*_ITEMS, *((each,) for each in SPECIAL)}
_LONGEST_ITEM = max(map(len, _ITEMS_OF))
"""Pieces that items are of, and how many these are at the most."""


class _Run(NamedTuple):
    """Items that follow one another, the first and each of the others with what parts it from the one before."""

    kinds: tuple[str, ...]
    items: list[Sequence[Token]]


def by_inner_lists(texts: Sequence[str]) -> list[Form] | None:
    """Return the form of texts that are of one but for how many items their lists have; None where they are not."""
    tokens = [tokens_of(text, "runs") for text in texts]
    rows = [_with_runs(row, frozenset()) for row in tokens]
    # An item of several pieces by itself is one where others are of a list.
    several_pieces = frozenset(run.kinds for row in rows for run in row if len(run.kinds) > 1)
    if several_pieces:
        rows = [_with_runs(row, several_pieces) for row in tokens]
    shapes = [[each.kinds for each in row] for row in rows]
    if any(shape != shapes[0] for shape in shapes) or len(shapes[0]) > MOST_PIECES:
        return None
    form: Form = []
    varies = False
    for column in zip(*rows, strict=True):
        several = [each.items for each in column]
        sizes = set(map(len, several))
        others = [(item, len(each.kinds)) for each in column for item in each.items[1:]]
        parting = {tuple(token.text for token in item[: len(item) - size]) for item, size in others}
        if len(parting) > 1:
            return None
        if len(sizes) == 1:
            # As many in all of them are so many values.
            form += aligned([[token for item in items for token in item] for items in several])
        else:
            form += _of_all_items(coming_again(several), max(len(each.kinds) for each in column))
            varies = True
    return [ended(form)] if varies else None


def _of_all_items(form: Form, size: int) -> Form:
    """Return the form of a list whose first items, of so many pieces, and others are spelled by all of them."""
    *first, again = form
    assert isinstance(again, list)
    pieces = [each for each in first if isinstance(each, Piece)]
    both = [Piece(one.kind, [*one.values, *other.values]) for one, other in zip(pieces, again[-size:], strict=True)]
    return [*both, [*again[:-size], *both]]


def _with_runs(row: Sequence[Token], alone: frozenset[tuple[str, ...]]) -> list[_Run]:
    """Return the pieces of a text, those that are items of one list together; some are so `alone`, too."""
    found: list[_Run] = []
    at = 0
    while at < len(row):
        runs = [run for size in range(1, _LONGEST_ITEM + 1) if (run := _run_at(row, at, size, alone)) is not None]
        run = max(runs, key=_size) if runs else _Run((row[at].kind,), [row[at : at + 1]])
        found.append(run)
        at += _size(run)
    return found


def _run_at(row: Sequence[Token], at: int, size: int, alone: frozenset[tuple[str, ...]]) -> _Run | None:
    """Return the items of so many pieces that stand at a place; None where there are none."""
    kinds = tuple(each.kind for each in row[at : at + size])
    if kinds not in _ITEMS_OF:
        return None
    items = [row[at : at + size]]
    end = at + size
    while end < len(row) and row[end].kind in _PARTING:
        start = end + 1 + (end + 1 < len(row) and row[end + 1].kind == "blank")
        if tuple(each.kind for each in row[start : start + size]) != kinds:
            break
        items.append(row[end : start + size])
        end = start + size
    return _Run(kinds, items) if size == 1 or len(items) > 1 or kinds in alone else None


def _size(run: _Run) -> int:
    return sum(map(len, run.items))
