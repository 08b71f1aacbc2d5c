"""Texts too long to be proposed for as a whole: they are by what they begin with, and any text may follow that."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.lean import compiled_later
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Alternation

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

LONGEST, BEGINNING = 1_000, 500
"""Code points of a text that is proposed for as a whole, and of what a longer one begins with."""

VOLUME = 300_000
"""Code points of examples that are all learnt from; of more, those of every few texts."""

_LAST_BLANK = compiled_later(r"\s+(?=\S*\Z)")

_ENDS_IN_ANYTHING = compiled_later(r"(?<!\\)\.[*+]\)\Z")


def beginning_of(text: str) -> str:
    """Return a text, or where it is too long, what it begins with, up to a blank where there is one late enough."""
    if len(text) <= LONGEST:
        return text
    blank = _LAST_BLANK.search(text, BEGINNING // 2, BEGINNING)
    return text[: blank.start() if blank else BEGINNING]


def with_anything_after(expression: str, texts: Iterable[str]) -> str:
    """Return an expression for the beginnings of texts with what takes the rest of each."""
    rest = r"[\s\S]*" if any("\n" in each[len(beginning_of(each)) :] for each in texts) else ".*"
    one = as_one(expression)
    # What ends in anything takes it already.
    return one if rest == ".*" and _ENDS_IN_ANYTHING.search(one) else one + rest


def as_one(expression: str) -> str:
    """Return an expression that something may stand behind: a choice in a group."""
    return f"(?:{expression})" if isinstance(parse(expression).tree, Alternation) else expression


def thinned(texts: Sequence[str]) -> Sequence[str]:
    """Return as many of texts, evenly, as make up the volume that is learnt from."""
    return texts[:: -(-sum(map(len, texts)) // VOLUME) or 1]
