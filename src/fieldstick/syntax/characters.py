"""Sets of characters as sorted intervals of code points: the one type for what a class, a shorthand, a dot takes."""

from __future__ import annotations

import unicodedata
from bisect import bisect_right
from typing import TYPE_CHECKING

from msgspec import Struct

if TYPE_CHECKING:
    from collections.abc import Iterable

LAST = 0x10FFFF
"""The last code point."""

Interval = tuple[int, int]
"""The first and the last code point of a run, both included."""


class CharacterSet(Struct, frozen=True):
    """A set of code points: intervals in order, no two of which touch. Equal sets have equal intervals."""

    intervals: tuple[Interval, ...] = ()

    @classmethod
    def of(cls, intervals: Iterable[Interval]) -> CharacterSet:
        """Make a set of intervals in any order, which may overlap."""
        merged: list[Interval] = []
        for first, last in sorted(intervals):
            if merged and first <= merged[-1][1] + 1:
                merged[-1] = (merged[-1][0], max(merged[-1][1], last))
            else:
                merged.append((first, last))
        return cls(tuple(merged))

    @classmethod
    def of_text(cls, text: str) -> CharacterSet:
        """Make a set of the characters of a text."""
        return cls.of((ord(each), ord(each)) for each in text)

    def __contains__(self, character: object) -> bool:
        """Tell whether a character is in the set."""
        if not isinstance(character, str):
            return False
        point = ord(character)
        index = bisect_right(self.intervals, (point, LAST + 1)) - 1
        return index >= 0 and self.intervals[index][1] >= point

    def __bool__(self) -> bool:
        """Tell whether it holds anything."""
        return bool(self.intervals)

    def __len__(self) -> int:
        """Return how many code points it holds."""
        return sum(last - first + 1 for first, last in self.intervals)

    def __or__(self, other: CharacterSet) -> CharacterSet:
        """Return what is in either."""
        return CharacterSet.of((*self.intervals, *other.intervals))

    def __invert__(self) -> CharacterSet:
        """Return all other code points."""
        found: list[Interval] = []
        start = 0
        for first, last in self.intervals:
            if first > start:
                found.append((start, first - 1))
            start = last + 1
        if start <= LAST:
            found.append((start, LAST))
        return CharacterSet(tuple(found))

    def __and__(self, other: CharacterSet) -> CharacterSet:
        """Return what is in both."""
        found: list[Interval] = []
        one = two = 0
        while one < len(self.intervals) and two < len(other.intervals):
            first = max(self.intervals[one][0], other.intervals[two][0])
            last = min(self.intervals[one][1], other.intervals[two][1])
            if first <= last:
                found.append((first, last))
            if self.intervals[one][1] < other.intervals[two][1]:
                one += 1
            else:
                two += 1
        return CharacterSet(tuple(found))

    def __sub__(self, other: CharacterSet) -> CharacterSet:
        """Return what is in this one alone."""
        return self & ~other

    def __le__(self, other: CharacterSet) -> bool:
        """Tell whether the other holds all of this one."""
        return not self - other


NOTHING = CharacterSet()
EVERYTHING = CharacterSet(((0, LAST),))


def without_marks(text: str) -> str:
    """Return a text in which letters have lost their marks (größe: grosse), by compatibility decomposition (UAX 15)."""
    apart = unicodedata.normalize("NFKD", text.replace("ß", "ss"))
    return "".join(each for each in apart if not unicodedata.combining(each))
