"""The text nearest to some given texts that tells two languages apart.

A shortest path through the product of both languages with each text: keeping a character costs nothing, changing,
putting in or leaving out one costs one (Wagner 1974, the distance of a text to a regular language; Dijkstra 1959).
"""

from __future__ import annotations

import heapq
from itertools import count
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.analysis.automaton.languages import Language

MOST_STEPS = 15_000
"""Places that are come to before the search is given up."""

LONGEST = 600

_Place = tuple[int, int, int, int]
"""A row of each language, which text, and how much of it is behind."""


def nearest_difference(
    first: Language, second: Language, texts: Sequence[str], *, most_steps: int = MOST_STEPS
) -> str | None:
    """Return a text that one language alone takes, with as few changes to one of the texts as can be.

    None when none is found within `most_steps` places. Raises OutOfReach when the tables grow too large.
    """
    alphabet = first.alphabet
    examples = alphabet.examples
    spelled = [alphabet.letters(text)[:-1] for text in texts]
    spelled = [[alphabet.letter("\n") if each == alphabet.final else each for each in letters] for letters in spelled]
    line_feed = alphabet.letter("\n") if alphabet.knows_final else -1
    order = count()
    waiting: list[tuple[float, int, _Place]] = []
    came: dict[_Place, tuple[float, _Place | None, str]] = {}

    def reach(place: _Place, cost: float, before: _Place | None, character: str) -> None:
        known = came.get(place)
        dead = first.is_hopeless(place[0]) and second.is_hopeless(place[1])
        if not dead and (known is None or cost < known[0]):
            came[place] = (cost, before, character)
            heapq.heappush(waiting, (cost, next(order), place))

    for number, text in enumerate(texts):
        if len(text) <= LONGEST:
            reach((first.first, second.first, number, 0), 0.0, None, "")
    done: set[_Place] = set()
    while waiting and len(done) < most_steps:
        cost, _, place = heapq.heappop(waiting)
        if place in done:
            continue
        done.add(place)
        one, two, number, at = place
        text, letters = texts[number], spelled[number]
        ended_by_line_feed = line_feed >= 0 and came[place][2] == "\n"
        if at == len(letters) and not ended_by_line_feed and first.accepts(one) is not second.accepts(two):
            return _text(came, place)
        if at < len(letters):
            letter = letters[at]
            onward = (first.afters(one, letter)[0], second.afters(two, letter)[0], number, at + 1)
            reach(onward, cost, place, text[at])
            reach((one, two, number, at + 1), cost + 1, place, "")
        possible = first.letters(one) | second.letters(two)
        for letter in range(alphabet.size):
            if possible >> letter & 1:
                character, rank = examples[letter]
                rows = (first.afters(one, letter)[0], second.afters(two, letter)[0])
                reach((*rows, number, at), cost + 1.1 + rank / 1000, place, character)
                if at < len(letters) and letter != letters[at]:
                    reach((*rows, number, at + 1), cost + 1.05 + rank / 1000, place, character)
    return None


def _text(came: dict[_Place, tuple[float, _Place | None, str]], place: _Place) -> str:
    characters = []
    at: _Place | None = place
    while at is not None:
        _, before, character = came[at]
        characters.append(character)
        at = before
    return "".join(reversed(characters))
