"""Which texts expressions take, alone and combined, row by row: what proofs go over.

A language gives for each letter the row that it leads to, and for each row whether a text may end there, whether none
can fit any more, or every one will. Several over one alphabet are combined as sets are (Rabin and Scott 1959).
"""

from __future__ import annotations

from functools import reduce
from operator import and_, or_
from typing import TYPE_CHECKING, Protocol

from fieldstick.analysis.automaton.alphabet import Alphabet
from fieldstick.analysis.automaton.asked import Reading
from fieldstick.analysis.automaton.building import program_of
from fieldstick.analysis.automaton.tables import Tables
from fieldstick.analysis.automaton.threads import UNIVERSAL, Automaton
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence

    from fieldstick.analysis.automaton.asked import Asked, How
    from fieldstick.analysis.effort import Effort


class Language(Protocol):
    """A set of texts, told row by row; see the head of this module."""

    @property
    def alphabet(self) -> Alphabet:
        """The letters that texts are made of."""

    @property
    def first(self) -> int:
        """The row that every text begins in."""

    def afters(self, row: int, letter: int) -> Sequence[int]:
        """Return the rows after a letter: one, unless threads are walked one by one.

        Raises OutOfReach when there are too many.
        """

    def letters(self, row: int) -> int:
        """Return letters, as bits, beyond which no text is in the set."""

    def accepts(self, row: int) -> bool:
        """Tell whether a text that ends here is in the set."""

    def is_hopeless(self, row: int) -> bool:
        """Tell whether it is known that nothing that follows brings a text into the set."""

    def is_universal(self, row: int) -> bool:
        """Tell whether it is known that whatever follows, a text is in the set."""


class OneByOne:
    """A language walked thread by thread: a row is one thread, and one letter leads to several rows.

    There are never more rows than threads, where sets of them may be too many. It tells that a text is taken, by one of
    its rows; that none takes it, no single row tells.
    """

    def __init__(self, tables: Tables) -> None:
        self._automaton = tables.automaton
        self.alphabet = tables.alphabet
        self._rows: list[tuple[int, int]] = []
        self._number_of: dict[tuple[int, int], int] = {}
        self.first = self._row((self._automaton.first_context, self._automaton.start))

    def afters(self, row: int, letter: int) -> list[int]:
        """Return the rows after a letter."""
        context, thread = self._rows[row]
        onward = self._automaton.next_context(context, letter)
        return [self._row((onward, each)) for each, _ in self._automaton.ways(thread, context, letter)]

    def letters(self, row: int) -> int:
        """Return letters, as bits, beyond which this thread goes nowhere."""
        return self._automaton.possible(self._rows[row][1])

    def accepts(self, row: int) -> bool:
        """Tell whether this thread takes a text that ends here."""
        context, thread = self._rows[row]
        return bool(self._automaton.ways(thread, context, self.alphabet.end))

    def is_hopeless(self, row: int) -> bool:
        """Tell that nothing is known of what follows."""
        return False

    def is_universal(self, row: int) -> bool:
        """Tell whether this thread takes whatever follows."""
        return self._rows[row][1] == UNIVERSAL

    def _row(self, key: tuple[int, int]) -> int:
        found = self._number_of.get(key)
        if found is None:
            found = self._number_of[key] = len(self._rows)
            self._rows.append(key)
        return found


class Combined:
    """The texts that any, all or none of several languages take."""

    def __init__(self, how: How, parts: Sequence[Language]) -> None:
        self._how: How = how
        self._parts = parts
        self._rows: list[tuple[int, ...]] = []
        self._number_of: dict[tuple[int, ...], int] = {}
        self.alphabet = parts[0].alphabet
        self.first = self._row(tuple(part.first for part in parts))

    def afters(self, row: int, letter: int) -> Sequence[int]:
        """Return the row after a letter."""
        pairs = zip(self._parts, self._rows[row], strict=True)
        return (self._row(tuple(part.afters(each, letter)[0] for part, each in pairs)),)

    def letters(self, row: int) -> int:
        """Return letters, as bits, beyond which no text is in the set."""
        found = [part.letters(each) for part, each in zip(self._parts, self._rows[row], strict=True)]
        if self._how == "none":
            return (1 << (self.alphabet.end + 1)) - 1
        return reduce(or_ if self._how == "any" else and_, found)

    def accepts(self, row: int) -> bool:
        """Tell whether a text that ends here is in the set."""
        return self._told(part.accepts(each) for part, each in zip(self._parts, self._rows[row], strict=True))

    def is_hopeless(self, row: int) -> bool:
        """Tell whether it is known that no text that goes on from here is in the set."""
        pairs = list(zip(self._parts, self._rows[row], strict=True))
        if self._how == "none":
            return any(part.is_universal(each) for part, each in pairs)
        given_up = [part.is_hopeless(each) for part, each in pairs]
        return all(given_up) if self._how == "any" else any(given_up)

    def is_universal(self, row: int) -> bool:
        """Tell whether it is known that every text that goes on from here is in the set."""
        pairs = list(zip(self._parts, self._rows[row], strict=True))
        if self._how == "none":
            return all(part.is_hopeless(each) for part, each in pairs)
        return self._told(part.is_universal(each) for part, each in pairs)

    def _told(self, held: Iterable[bool]) -> bool:
        return all(held) if self._how == "all" else any(held) is (self._how == "any")

    def _row(self, key: tuple[int, ...]) -> int:
        found = self._number_of.get(key)
        if found is None:
            found = self._number_of[key] = len(self._rows)
            self._rows.append(key)
        return found


def languages_of(readings: Sequence[Reading], effort: Effort | None = None) -> list[Tables]:
    """Return the language of each reading, over one alphabet; walking them takes of an effort, where one is given.

    Raises OutOfReach for what no automaton holds, SyntaxFault for what is no expression.
    """
    programs = [program_of(parse(each.expression, each.flags), each.reach, with_groups=False) for each in readings]
    alphabet = Alphabet(programs)
    return [Tables(Automaton(program, alphabet, effort)) for program in programs]


def joined_language(asked: Asked, tables: Iterator[Tables]) -> Language:
    """Return the language of something, given the tables of its readings in order."""
    if isinstance(asked, Reading):
        return next(tables)
    return Combined(asked.how, [joined_language(part, tables) for part in asked.parts])
