"""Tells words of which some texts have more than others from words that each mean something of their own."""

from __future__ import annotations

from itertools import takewhile
from typing import TYPE_CHECKING

from fieldstick.drafting.proposals.pieces import Choice, Piece, have_words_in_common
from fieldstick.drafting.proposals.spelling import FEW

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.proposals.pieces import AnyOrder, Form

FEWEST_MORE, FEWEST_DIFFERENT = 2, 6
"""Words behind the first that only some texts have, and different ones among these, from which on they are prose."""


def with_prose_whole(form: Form) -> Form:
    """Return a form where a word, and further ones that may be left out one by one, are words any number of times."""
    made: Form = []
    at = 0
    while at < len(form):
        first = form[at]
        at += 1
        made.append(first)
        if not isinstance(first, Piece) or first.kind != "word":
            continue
        behind = [*takewhile(lambda more: more is not None, map(_more_words, form[at:]))]
        size = sum(most for most, _ in filter(None, behind))
        words = [word for _, some in filter(None, behind) for word in some]
        if size < FEWEST_MORE or len({*words}) < FEWEST_DIFFERENT or not have_words_in_common(words, first.values):
            continue
        while len(first.values) < FEW and (before := _word_before(made, words)) is not None:
            # That all of a few texts have two words is chance.
            made[-3:] = [before]
        # Some texts have none of them, some more than were seen.
        times = Piece("again", ["0", str(size + 1)] * (len(first.values) // 2 + 1))
        made.append([times, Piece("blank", [" "] * len(words)), Piece("word", words)])
        at += len(behind)
    return made


def _word_before(form: Form, words: list[str]) -> Piece | None:
    """Return the word before the one that a form ends with, a blank between them, where it is one of the like."""
    if len(form) < 3:
        return None
    before, blank, _ = form[-3:]
    if not isinstance(before, Piece) or not isinstance(blank, Piece) or before.kind != "word":
        return None
    is_like = all(map(str.islower, (*before.values, *words)))
    return before if is_like and blank.kind == "blank" and {*blank.values} == {" "} else None


def _more_words(part: Piece | list[Piece] | Choice | AnyOrder) -> tuple[int, list[str]] | None:
    """Return how many words there may be in a part that may be left out, and which; None where there is more in it."""
    rows: list[list[Piece]]
    if isinstance(part, list):
        rows = [part]
    elif isinstance(part, Choice) and part.may_lack:
        rows = [[*_flat(form)] for form in part.forms]
    else:
        return None
    if not all(map(_are_words, rows)):
        return None
    return max(map(len, rows)) // 2, [value for row in rows for each in row[1::2] for value in each.values]


def _flat(form: Form) -> Iterator[Piece]:
    """Yield the pieces of a form, those that may be left out too; one of another kind for what is no piece."""
    for each in form:
        if isinstance(each, list):
            yield from each
        else:
            yield each if isinstance(each, Piece) else Piece("choice")


def _are_words(row: list[Piece]) -> bool:
    blanks = all(each.kind == "blank" and {*each.values} == {" "} for each in row[::2])
    return blanks and len(row) % 2 == 0 and all(each.kind == "word" for each in row[1::2])
