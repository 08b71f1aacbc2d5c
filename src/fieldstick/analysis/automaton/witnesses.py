"""Shortest texts that tell two languages apart, or that both take.

Breadth first over the pairs of rows that one text leads to (Hopcroft and Karp 1971): texts are met by their length, so
that the first found for a goal is a shortest one; of those equally long the most readable is kept. When all pairs are
gone through, what was not found does not exist.
"""

from __future__ import annotations

from itertools import product
from typing import TYPE_CHECKING, Literal

from fieldstick.analysis.automaton.program import OutOfReach

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.analysis.automaton.languages import Language

Goal = Literal["only-first", "only-second", "both"]
GOALS: tuple[Goal, ...] = ("only-first", "only-second", "both")

MOST_PAIRS = 60_000
"""Pairs of rows that are gone through."""

MOST_LETTERS = 3_000_000
"""Letters that are tried from all of them."""

_Node = tuple[int, int, bool]
"""A row of each language, and whether a line feed stands before that does not end the text: so it must go on."""


class Search:
    """The search for a text of each goal; `found` has those that there are, once it has run."""

    def __init__(self, first: Language, second: Language, goals: Iterable[Goal] = GOALS) -> None:
        self._first, self._second = first, second
        self._wanted = list(goals)
        self._alphabet = first.alphabet
        self._examples = self._alphabet.examples
        self._letters = list(range(self._alphabet.size))
        self._line_feed = self._alphabet.letter("\n") if self._alphabet.knows_final else -1
        self._came_from: dict[_Node, tuple[_Node, int] | None] = {}
        self._ended_by_line_feed: list[tuple[Goal | None, int, _Node, str]] = []
        self.found: dict[Goal, str] = {}

    def run(self) -> dict[Goal, str]:
        """Find a text of each goal that has one. Raises OutOfReach when that takes too much."""
        start: _Node = (self._first.first, self._second.first, False)
        self._came_from[start] = None
        layer = {start: 0}
        while self._wanted and (layer or self._ended_by_line_feed):
            self._note_ends(layer)
            layer = self._next_layer(layer)
        return self.found

    def _note_ends(self, layer: dict[_Node, int]) -> None:
        """Note for each goal the most readable text of this length."""
        ends = [(self._goal(node[0], node[1]), cost, node, "") for node, cost in layer.items() if not node[2]]
        best: dict[Goal, tuple[int, _Node, str]] = {}
        for goal, cost, node, last in [*ends, *self._ended_by_line_feed]:
            if goal is not None and goal in self._wanted and (goal not in best or cost < best[goal][0]):
                best[goal] = (cost, node, last)
        for goal, (_, node, last) in best.items():
            self.found[goal] = self._text(node) + last
            self._wanted.remove(goal)

    def _goal(self, one: int, two: int) -> Goal | None:
        first, second = self._first.accepts(one), self._second.accepts(two)
        if first:
            return "both" if second else "only-first"
        return "only-second" if second else None

    def _next_layer(self, layer: dict[_Node, int]) -> dict[_Node, int]:
        """Return the pairs that are new with one character more, each with how little readable its text is."""
        most = min(MOST_PAIRS, MOST_LETTERS // len(self._letters))
        reached: dict[_Node, int] = {}
        self._ended_by_line_feed = []
        for node, cost in layer.items():
            one, two, _ = node
            if self._line_feed >= 0:
                self._end_by_line_feed(node, cost)
            if len(self._came_from) > most:
                raise OutOfReach(f"more than {most:,} states to go through")
            possible = self._first.letters(one) | self._second.letters(two)
            for letter in self._letters:
                if not possible >> letter & 1:
                    continue
                sum_of = cost + self._examples[letter][1]
                goes_on = letter == self._line_feed
                for pair in product(self._first.afters(one, letter), self._second.afters(two, letter)):
                    onward = (*pair, goes_on)
                    known = reached.get(onward)
                    if known is None and (onward in self._came_from or not self._leads_on(onward)):
                        continue
                    if known is None or sum_of < known:
                        reached[onward] = sum_of
                        self._came_from[onward] = (node, letter)
        return reached

    def _end_by_line_feed(self, node: _Node, cost: int) -> None:
        final = self._alphabet.final
        worse = cost + self._examples[final][1]
        for one, two in product(self._first.afters(node[0], final), self._second.afters(node[1], final)):
            self._ended_by_line_feed.append((self._goal(one, two), worse, node, "\n"))

    def _leads_on(self, node: _Node) -> bool:
        """Tell whether a text of a goal that is still wanted may begin so."""
        first, second = self._first, self._second
        one, two, _ = node
        dead_one, dead_two = first.is_hopeless(one), second.is_hopeless(two)
        possible = {
            "only-first": not dead_one and not second.is_universal(two),
            "only-second": not dead_two and not first.is_universal(one),
            "both": not dead_one and not dead_two,
        }
        return any(possible[goal] for goal in self._wanted)

    def _text(self, node: _Node) -> str:
        characters = []
        came = self._came_from[node]
        while came is not None:
            node, letter = came
            characters.append(self._examples[letter][0])
            came = self._came_from[node]
        return "".join(reversed(characters))
