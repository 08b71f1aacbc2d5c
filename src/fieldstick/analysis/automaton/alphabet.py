"""The letters of an automaton: classes of code points that none of its expressions can tell apart.

A letter stands for the coarsest such class, beside two for what is no class: the end of the text, and the line feed
that ends it, which `$` asks about. So an automaton over Unicode is as small as one over a few letters.
"""

from __future__ import annotations

from bisect import bisect_right
from functools import cached_property
from typing import TYPE_CHECKING

from fieldstick.analysis.automaton.program import Check, Take
from fieldstick.analysis.character_sets import kind_of_character
from fieldstick.syntax.characters import EVERYTHING, LAST, CharacterSet

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.analysis.automaton.program import Program

LINE_FEED = CharacterSet.of_text("\n")

_READABLE = (
    "abcdefghijklmnopqrstuvwxyz0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ-_.,:;/ =+*#%!?()[]{}<>@&|'\"~^$`\\éßø°µ漢٣\t\n"
)
"""Characters that stand for their class, the most readable first."""

_SURROGATES = (0xD800, 0xDFFF)


class Alphabet:
    """The letters that one or several programs need, as numbers from 0.

    `size` counts the classes; after them come `final` (a line feed that ends the text) and `end`. A set of letters is
    an integer with the bits of its letters set.
    """

    def __init__(self, programs: Sequence[Program]) -> None:
        sets = {EVERYTHING}
        for program in programs:
            for state in program.states:
                if isinstance(state, Take):
                    sets.add(state.characters)
                elif isinstance(state, Check):
                    sets.update(_sets_of(state))
        self._sets = tuple(sorted(sets, key=lambda each: each.intervals))
        self._starts, self._letters, self._signatures = _partition(self._sets)
        self.size = len(self._signatures)
        self.final, self.end = self.size, self.size + 1
        self.knows_final = any(
            isinstance(state, Check) and state.place == "last-line-end"
            for program in programs
            for state in program.states
        )
        """Whether a line feed that ends the text is told from another: when `$` is asked for without multiline."""
        self._letter_of: dict[str, int] = {}
        self._masks: dict[CharacterSet, int] = {}

    @property
    def runs(self) -> tuple[list[int], list[int]]:
        """Where each run of code points of one letter begins, and its letter."""
        return self._starts, self._letters

    def letter(self, character: str) -> int:
        """Return the letter of a character."""
        found = self._letter_of.get(character)
        if found is None:
            found = self._letters[bisect_right(self._starts, ord(character)) - 1]
            self._letter_of[character] = found
        return found

    def letters(self, text: str) -> list[int]:
        """Return the letters of a text, the end included."""
        known = self._letter_of
        try:
            found = [known[character] for character in text]
        except KeyError:
            found = [self.letter(character) for character in text]
        if text.endswith("\n"):
            found[-1] = self.final
        found.append(self.end)
        return found

    def mask(self, characters: CharacterSet) -> int:
        """Return the letters of a set that a program of this alphabet asks for."""
        found = self._masks.get(characters)
        if found is None:
            bit = 1 << self._sets.index(characters)
            found = sum(1 << letter for letter, signature in enumerate(self._signatures) if signature & bit)
            found |= (1 << self.final) if "\n" in characters else 0
            self._masks[characters] = found
        return found

    def intervals(self, letter: int) -> list[tuple[int, int]]:
        """Return the code points of a letter, as first and last of each run."""
        return self._intervals[letter]

    @cached_property
    def _intervals(self) -> list[list[tuple[int, int]]]:
        found: list[list[tuple[int, int]]] = [[] for _ in range(self.size)]
        ends = [*(start - 1 for start in self._starts[1:]), LAST]
        for start, end, letter in zip(self._starts, ends, self._letters, strict=True):
            found[letter].append((start, end))
        return [*found, [(10, 10)], []]

    @cached_property
    def examples(self) -> list[tuple[str, int]]:
        """For each letter but the end its most readable character, and how little readable that is."""
        found: dict[int, tuple[str, int]] = {self.final: ("\n", len(_READABLE))}
        for rank, character in enumerate(_READABLE):
            found.setdefault(self.letter(character), (character, rank))
        return [found.get(letter) or _example(self.intervals(letter)) for letter in range(self.size + 1)]


def _example(intervals: list[tuple[int, int]]) -> tuple[str, int]:
    """Return a character for a letter that has none among the readable ones: printable, no surrogate, if it can."""
    beyond = len(_READABLE) + 1
    for first, last in intervals:
        for code in range(first, min(last, first + 200) + 1):
            if chr(code).isprintable():
                return chr(code), beyond
    ends = [code for interval in intervals for code in interval]
    whole = [code for code in ends if not _SURROGATES[0] <= code <= _SURROGATES[1]]
    return chr((whole or ends)[0]), beyond + (1 if whole else 2)


def _sets_of(check: Check) -> Sequence[CharacterSet]:
    if check.place in ("boundary", "not-boundary"):
        return (kind_of_character("word", ascii_alone=check.ascii_alone),)
    return (LINE_FEED,) if "line" in check.place else ()


def _partition(sets: Sequence[CharacterSet]) -> tuple[list[int], list[int], list[int]]:
    """Part the code points by which of the sets hold them, by one walk over the ends of all runs.

    Return where each run of code points begins, its letter, and for each letter the sets that hold it, as bits.
    """
    turns: dict[int, int] = {0: 0}
    for number, each in enumerate(sets):
        bit = 1 << number
        for first, last in each.intervals:
            turns[first] = turns.get(first, 0) ^ bit
            turns[last + 1] = turns.get(last + 1, 0) ^ bit
    turns.pop(LAST + 1, None)
    starts: list[int] = []
    letters: list[int] = []
    known: dict[int, int] = {}
    signature = 0
    for start in sorted(turns):
        signature ^= turns[start]
        starts.append(start)
        letters.append(known.setdefault(signature, len(known)))
    return starts, letters, list(known)
