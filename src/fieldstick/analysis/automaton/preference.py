"""Which texts are read by way of a piece of an expression: the way counts that the engine prefers of all that fit.

A row holds the threads in the order of preference, each with whether it came by the piece: the first that comes to an
end is the way that the engine goes (the ordered automaton made deterministic, order kept).
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.automaton.building import program_of
from fieldstick.analysis.automaton.program import OutOfReach
from fieldstick.analysis.automaton.tables import MOST_ROWS
from fieldstick.analysis.automaton.threads import ACCEPTED, UNIVERSAL, Automaton
from fieldstick.analysis.automaton.witnesses import Search

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from fieldstick.analysis.automaton.alphabet import Alphabet
    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Node

_Threads = tuple[tuple[int, bool], ...]


def text_by_way_of(parsed: Parsed, reach: Reach, node: Node, *, most_rows: int = MOST_ROWS) -> str | None:
    """Return a shortest text whose preferred way goes by a node; None when there is no such text.

    Raises OutOfReach where that cannot be told, or takes more than `most_rows` rows.
    """
    rows = _Rows(Automaton(program_of(parsed, reach, with_groups=False, marked=[node])), most_rows)
    return Search(rows, _NoText(rows.alphabet), ["only-first"]).run().get("only-first")


def nodes_on_the_way(parsed: Parsed, reach: Reach, nodes: Sequence[Node], texts: Iterable[str]) -> set[Node]:
    """Return the nodes by which the preferred way through one of some texts goes.

    Raises OutOfReach where that cannot be told.
    """
    automaton = Automaton(program_of(parsed, reach, with_groups=False, marked=nodes))
    found: set[Node] = set()
    for text in texts:
        found |= {nodes[slot] for slot in _slots_on_the_way(automaton, text)}
        if len(found) == len(nodes):
            break
    return found


def _slots_on_the_way(automaton: Automaton, text: str) -> frozenset[int]:
    threads: dict[int, frozenset[int]] = {automaton.start: frozenset()}
    context = automaton.first_context
    for letter in automaton.alphabet.letters(text):
        reached: dict[int, frozenset[int]] = {}
        for thread, came_by in threads.items():
            for onward, marks in automaton.ways(thread, context, letter):
                if onward not in reached:
                    reached[onward] = came_by.union(marks) if marks else came_by
            if UNIVERSAL in reached or ACCEPTED in reached:
                break
        threads = reached
        if letter != automaton.alphabet.end:
            context = automaton.next_context(context, letter)
    return threads.get(ACCEPTED, frozenset())


class _Rows:
    """The texts whose preferred way goes by what is marked, as a language."""

    def __init__(self, automaton: Automaton, most_rows: int) -> None:
        self._automaton = automaton
        self._most = most_rows
        self.alphabet = automaton.alphabet
        self._rows: list[tuple[int, _Threads]] = []
        self._number_of: dict[tuple[int, _Threads], int] = {}
        self.first = self._row((automaton.first_context, ((automaton.start, False),)))

    def afters(self, row: int, letter: int) -> Sequence[int]:
        """Return the row after a letter."""
        context, threads = self._rows[row]
        reached: dict[int, bool] = {}
        for thread, came_by in threads:
            for onward, marks in self._automaton.ways(thread, context, letter):
                reached.setdefault(onward, came_by or bool(marks))
            if UNIVERSAL in reached:
                break
        return (self._row((self._automaton.next_context(context, letter), tuple(reached.items()))),)

    def letters(self, row: int) -> int:
        """Return letters, as bits, beyond which nothing fits."""
        found = 0
        for thread, _ in self._rows[row][1]:
            found |= self._automaton.possible(thread)
        return found

    def accepts(self, row: int) -> bool:
        """Tell whether a text that ends here is read by way of it."""
        context, threads = self._rows[row]
        for thread, came_by in threads:
            for _, marks in self._automaton.ways(thread, context, self.alphabet.end):
                return came_by or bool(marks)
        return False

    def is_hopeless(self, row: int) -> bool:
        """Tell whether no text that goes on from here is read by way of it."""
        threads = self._rows[row][1]
        return not threads or threads == ((UNIVERSAL, False),)

    def is_universal(self, row: int) -> bool:
        """Tell whether every text that goes on from here is read by way of it."""
        return self._rows[row][1] == ((UNIVERSAL, True),)

    def _row(self, key: tuple[int, _Threads]) -> int:
        found = self._number_of.get(key)
        if found is None:
            if len(self._rows) >= self._most:
                raise OutOfReach(f"more than {self._most:,} rows of its table")
            found = self._number_of[key] = len(self._rows)
            self._rows.append(key)
        return found


class _NoText:
    """The language that has no text."""

    first = 0

    def __init__(self, alphabet: Alphabet) -> None:
        self.alphabet = alphabet

    def afters(self, row: int, letter: int) -> Sequence[int]:
        """Return the only row."""
        return (0,)

    def letters(self, row: int) -> int:
        """Return no letter."""
        return 0

    def accepts(self, row: int) -> bool:
        """Tell that no text is in it."""
        return False

    def is_hopeless(self, row: int) -> bool:
        """Tell that no text is in it."""
        return True

    def is_universal(self, row: int) -> bool:
        """Tell that no text is in it."""
        return False
