"""Tells the few texts that are made otherwise than all the others: a heading, a comment, a line that is of no use."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Collection, Mapping, Sequence

FEWEST_BELOW_HEADING, MOST_ODD = 6, 25
"""Different texts below a heading, whatever that is like, and one in so many that may be odd."""

FEWEST_ROWS, FEWEST_CELLS = 2, 3
"""Texts below a heading that are in columns as it is, and cells that all of them have."""

MOST_COMMENTS = 4
"""One in so many texts may be a comment."""

DIGIT = "digit"


def odd_ones(texts: Collection[str]) -> frozenset[str]:
    """Return texts that lack what all but a few have: a digit, a mark, what they begin with; none where too many do.

    Of fewer texts than one in `MOST_ODD` is odd of, only the first may be: a heading has no digits, all others have.
    """
    different = list(dict.fromkeys(texts))
    comments = frozenset(each for each in different if _COMMENT.match(each))
    if 0 < len(comments) * MOST_COMMENTS <= len(different):
        return comments | odd_ones([each for each in different if each not in comments])
    most = len(different) // MOST_ODD
    if not most:
        return frozenset(different[:1] if _is_below_heading(different) else ())
    made_of = {text: _features(text) for text in different}
    counts = Counter(each for features in made_of.values() for each in features)
    common = {each for each, count in counts.items() if len(different) - most <= count < len(different)}
    odd = [text for text in different if not common <= made_of[text]]
    return frozenset(odd if len(odd) <= most else _lacking(common, made_of, most))


_COMMENT = compiled_later(r"\s*(?:[#;]|//)(?:\s|$)")
"""What says something of the texts below it, in most notations."""

_CELL = compiled_later(r"\S+(?: \S+)*(?: {2,}|\t|$)")


def _is_below_heading(texts: Sequence[str]) -> bool:
    """Tell whether the first of texts is a heading: it has no digits, all others have; of few it has cells as they."""
    heading, *rows = texts
    if len(rows) < FEWEST_ROWS or has_digit(heading) or not all(map(has_digit, rows)):
        return False
    return len(rows) >= FEWEST_BELOW_HEADING or all(len(_CELL.findall(each)) >= FEWEST_CELLS for each in texts)


def _lacking(common: Collection[str], made_of: Mapping[str, set[str]], most: int) -> list[str]:
    """Return the texts that lack the most of what others have, as far as these are few enough; else none."""
    lacks = {text: len({*common} - features) for text, features in made_of.items()}
    for least in range(2, len(common) + 1):
        odd = [text for text, count in lacks.items() if count >= least]
        if len(odd) <= most:
            return odd
    return []


def has_digit(text: str) -> bool:
    """Tell whether a text has a digit."""
    return any(map(str.isdecimal, text))


def _features(text: str) -> set[str]:
    """Return what a text is made of: the marks in it, whether there are digits, and of which kind its first is."""
    marks = {each for each in text if not each.isalnum() and not each.isspace()}
    first = text[:1]
    begins = "letter" if first.isalpha() else DIGIT if first.isdecimal() else first
    return {*marks, f"begins with {begins}", *([DIGIT] if has_digit(text) else [])}
