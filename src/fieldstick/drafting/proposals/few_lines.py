"""Tells the head of a few lines of a log from what is said behind it, of which a few lines show little."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from fieldstick.drafting.proposals.cutting import tokens_of
from fieldstick.drafting.proposals.special_pieces import SPECIAL
from fieldstick.lean import compiled_later
from fieldstick.matching.keys import LEVELS

if TYPE_CHECKING:
    import re
    from collections.abc import Sequence

FEWEST = 2
"""Different lines that tell whether they say something in one way or several."""

WORDS = 2
"""Words of what is said where the first says who says it."""

MOST_BEFORE = 60
"""Code points within which something is said, once it is known when."""

_MOMENTS = frozenset(("at", "day", "time"))
"""What fields are called that tell when."""

_LEVEL = compiled_later(rf"(?i:[\[(]?\b(?:{'|'.join(sorted(LEVELS))})\b[\])]?:?) +")
_ENDS = (compiled_later(r"[\])]:? +"), compiled_later(": +"))
"""What a head may end with, behind how grave the line is if that is said: the number of a process, or a name."""


class Said(NamedTuple):
    """The heads of lines, and what is said behind each."""

    heads: list[str]
    rests: list[str]


def parted_by_head(texts: Sequence[str]) -> Said | None:
    """Return the heads of a few lines that begin with when they were written, and what is said in each.

    None for others. What is said must be said in more than one way, and behind how grave it is, brackets or a colon.
    """
    if len({*texts}) < FEWEST:
        return None
    starts: list[int] = []
    for text in texts:
        first = next(iter(tokens_of(text, "runs")), None)
        if first is None or first.kind not in SPECIAL or SPECIAL[first.kind].name not in _MOMENTS:
            return None
        starts.append(len(first.text))
    levels = [_LEVEL.search(text, start, start + MOST_BEFORE) for text, start in zip(texts, starts, strict=True)]
    if all(levels):
        starts = [found.end() for found in levels if found is not None]
    cuts = next((ends for end in _ENDS if (ends := _ends_of(end, texts, starts)) is not None), None)
    if cuts is None:
        if not all(levels):
            return None
        cuts = starts
        if _are_of_few(texts, cuts):
            cuts = [text.index(" ", cut) + 1 for text, cut in zip(texts, cuts, strict=True)]
    both = [*zip(texts, cuts, strict=True)]
    said = Said([text[:cut] for text, cut in both], [text[cut:] for text, cut in both])
    ways = {tuple(each.kind for each in tokens_of(rest, "runs")) for rest in said.rests}
    words = {rest.split(" ")[0] for rest in said.rests}
    has_keys = all("=" in rest for rest in said.rests)
    return said if len(ways) > 1 and len(words) > 1 and "" not in words and not has_keys else None


def _are_of_few(texts: Sequence[str], cuts: Sequence[int]) -> bool:
    """Tell whether the first words behind heads say who it is that says something: some has said several things."""
    words = [text[cut:].split(" ", 1) for text, cut in zip(texts, cuts, strict=True)]
    if any(len(each) < WORDS or not each[0].isalpha() for each in words):
        return False
    return 1 < len({each[0] for each in words}) < len({*map(tuple, words)})


def _ends_of(end: re.Pattern[str], texts: Sequence[str], starts: Sequence[int]) -> list[int] | None:
    """Return where heads end first in what all of them may end with; None where some has no such."""
    found = [end.search(text, start, start + MOST_BEFORE) for text, start in zip(texts, starts, strict=True)]
    return [each.end() for each in found if each is not None] if all(found) else None
