"""Tables of an automaton, made as texts are read: a row for each set of threads that was met, a column a letter.

A row is worked out entry by entry, the first time it is come to (Thompson 1968): of the many there could be, texts
touch few. A cap keeps their number.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.automaton.program import OutOfReach
from fieldstick.analysis.automaton.threads import UNIVERSAL

if TYPE_CHECKING:
    from fieldstick.analysis.automaton.threads import Automaton

MOST_ROWS = 20_000

DEAD = 0
"""The row from which no text fits any more."""

_UNKNOWN = -1


class Tables:
    """Which texts fit, by table: `first` is the row that reading begins in.

    A row is the context and the threads, as a set: which of them is preferred does not matter to whether a text fits.
    """

    def __init__(self, automaton: Automaton, most_rows: int = MOST_ROWS) -> None:
        self.automaton = automaton
        self.alphabet = automaton.alphabet
        self._most = most_rows
        self._rows: list[tuple[int, frozenset[int]]] = []
        self._number_of: dict[tuple[int, frozenset[int]], int] = {}
        self._onward: list[list[int]] = []
        self._accepts: list[bool | None] = []
        self._possible: list[int] = []
        self._row((-1, frozenset()))
        self.first = self._row((automaton.first_context, frozenset({automaton.start})))

    def __len__(self) -> int:
        """Return how many rows there are so far."""
        return len(self._rows)

    def after(self, row: int, letter: int) -> int:
        """Return the row after a letter, the end left out. Raises OutOfReach at the cap."""
        found = self._onward[row][letter]
        return found if found != _UNKNOWN else self._worked_out(row, letter)

    def afters(self, row: int, letter: int) -> tuple[int]:
        """Return the row after a letter, alone: what languages of several rows have in common with this one."""
        return (self.after(row, letter),)

    def letters(self, row: int) -> int:
        """Return letters, as bits, beyond which nothing fits."""
        found = self._possible[row]
        if found < 0:
            found = 0
            for thread in self._rows[row][1]:
                found |= self.automaton.possible(thread)
            self._possible[row] = found
        return found

    def accepts(self, row: int) -> bool:
        """Tell whether a text that ends here fits."""
        found = self._accepts[row]
        if found is None:
            context, threads = self._rows[row]
            end = self.alphabet.end
            found = any(self.automaton.ways(thread, context, end) for thread in threads)
            self._accepts[row] = found
        return found

    def is_hopeless(self, row: int) -> bool:
        """Tell whether it is known that nothing that follows will fit."""
        return row == DEAD

    def is_universal(self, row: int) -> bool:
        """Tell whether whatever follows fits."""
        return UNIVERSAL in self._rows[row][1]

    def fits(self, text: str) -> bool:
        """Tell whether a text fits. Raises OutOfReach at the cap."""
        row = self.first
        for letter in self.alphabet.letters(text)[:-1]:
            row = self.after(row, letter)
            if row == DEAD:
                return False
        return self.accepts(row)

    def _worked_out(self, row: int, letter: int) -> int:
        context, threads = self._rows[row]
        self.automaton.pay(len(threads))
        ways = self.automaton.ways
        reached = frozenset(onward for thread in threads for onward, _ in ways(thread, context, letter))
        if UNIVERSAL in reached:
            reached = frozenset({UNIVERSAL})
        if reached:
            key = (self.automaton.next_context(context, letter) if UNIVERSAL not in reached else -1, reached)
        else:
            key = (-1, reached)
        found = self._onward[row][letter] = self._row(key)
        return found

    def _row(self, key: tuple[int, frozenset[int]]) -> int:
        found = self._number_of.get(key)
        if found is None:
            if len(self._rows) >= self._most:
                raise OutOfReach(f"more than {self._most:,} rows of its table")
            found = self._number_of[key] = len(self._rows)
            self._rows.append(key)
            self._onward.append([_UNKNOWN] * self.alphabet.end)
            self._accepts.append(None)
            self._possible.append(-1)
        return found
