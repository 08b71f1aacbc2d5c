"""How many ways an automaton has to read one text: what an engine that goes back tries when a text does not fit.

Ways double with every turn (*exponential*) when one state has two different ways back to itself over the same text:
the product of the automaton with itself then holds a cycle through the diagonal and off it. They grow as a power of
the length (*polynomial*) when chains of states p, q have a text that leads from p to p, from p to q and from q to q: it
is found in the threefold product; the longest chain gives the degree. (Weber and Seidl 1991; Weideman, van der Merwe,
Berglund and Watson 2016.)
"""

from __future__ import annotations

from collections import Counter, deque
from functools import partial
from itertools import combinations, product
from operator import eq
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.analysis.automaton.program import OutOfReach
from fieldstick.analysis.automaton.threads import ACCEPTED, UNIVERSAL

if TYPE_CHECKING:
    from collections.abc import Callable, Hashable, Iterable, Iterator
    from typing import TypeVar

    from fieldstick.analysis.automaton.threads import Automaton

    T = TypeVar("T", bound=Hashable)

MOST_NODES = 4_000
"""Places of an automaton that are looked at."""

MOST_STEPS = 500_000
"""Ways that are gone from one to the next, in all products together."""

Word = tuple[int, ...]
"""Letters, one after the other."""


class Pumped(Struct, frozen=True):
    """A text whose ways multiply: pieces of which each is a word and one to be repeated after it.

    `node` is where the last repeats lead. `degree` is the power with which the ways grow; None for exponentially.
    """

    pieces: tuple[tuple[Word, Word], ...]
    node: int
    degree: int | None


class Graph:
    """The places that an automaton can be in, a thread in a context each, and where a letter leads from each.

    A place that several ways lead to with one letter is there as often. `turning` leaves the letters out with which a
    place may come to where whatever follows fits: whoever goes back comes by it again and ends there, so that no cycle
    through it multiplies anything.
    """

    def __init__(self, automaton: Automaton, steps: int = MOST_STEPS) -> None:
        self.automaton = automaton
        self.places: list[tuple[int, int]] = []
        self.onward: list[dict[int, list[int]]] = []
        self.turning: list[dict[int, list[int]]] = []
        self.steps = steps
        self._number_of: dict[tuple[int, int], int] = {}
        self._number((automaton.start, automaton.first_context))
        at = 0
        while at < len(self.places):
            onward, fitting = self._from(at)
            self.onward.append(onward)
            self.turning.append({letter: targets for letter, targets in onward.items() if letter not in fitting})
            at += 1

    def _number(self, place: tuple[int, int]) -> int:
        found = self._number_of.get(place)
        if found is None:
            if len(self.places) >= MOST_NODES:
                raise OutOfReach(f"more than {MOST_NODES:,} places to look at")
            found = self._number_of[place] = len(self.places)
            self.places.append(place)
        return found

    def _from(self, node: int) -> tuple[dict[int, list[int]], set[int]]:
        thread, context = self.places[node]
        found: dict[int, list[int]] = {}
        fitting: set[int] = set()
        possible = self.automaton.possible(thread)
        for letter in range(self.automaton.alphabet.size):
            if not possible >> letter & 1:
                continue
            onward = self.automaton.next_context(context, letter)
            before = self.automaton.gone_through
            paths = self.automaton.paths(thread, context, letter)
            self.spend(self.automaton.gone_through - before + 1)
            targets = [self._number((each, onward)) for each, _ in paths if each not in (UNIVERSAL, ACCEPTED)]
            if targets:
                found[letter] = targets
            if any(each == UNIVERSAL for each, _ in paths):
                fitting.add(letter)
        return found, fitting

    def spend(self, steps: int) -> None:
        """Take of the steps that there are. Raises OutOfReach when none are left."""
        self.steps -= steps
        if self.steps < 0:
            raise OutOfReach("more ways than are looked at")

    def after(self, nodes: frozenset[int], letter: int) -> frozenset[int]:
        """Return the places after a letter."""
        self.spend(len(nodes))
        return frozenset(each for node in nodes for each in self.onward[node].get(letter, ()))

    def stops(self, nodes: frozenset[int]) -> bool:
        """Tell whether a text that ends here does not fit by any of these places."""
        end = self.automaton.alphabet.end
        return not any(self.automaton.ways(*self.places[node], end) for node in nodes)

    def is_fitting(self, nodes: frozenset[int], letter: int) -> bool:
        """Tell whether a letter leads to where whatever follows fits."""
        self.spend(len(nodes))
        return any(each == UNIVERSAL for node in nodes for each, _ in self.automaton.ways(*self.places[node], letter))


def multiplying(graph: Graph) -> Iterator[Pumped]:
    """Yield texts that an automaton has very many ways to read and that may yet not fit, the worst first.

    There are none when its ways are bounded for every such text. Raises OutOfReach when that takes too much.
    """
    loops = _loops(graph)
    yield from _doubling(graph, loops)
    yield from _longest_chains(graph, loops)


def doubling(graph: Graph) -> Iterator[Pumped]:
    """Yield those texts of `multiplying` whose ways double with each turn. Raises OutOfReach as that does."""
    return _doubling(graph, _loops(graph))


def _doubling(graph: Graph, loops: list[frozenset[int]]) -> Iterator[Pumped]:
    for nodes in loops:
        for node, pump in _doubled(graph, nodes):
            if _may_fail(graph, node, pump):
                yield Pumped(((_path(graph, 0, node), pump),), node, None)


def _loops(graph: Graph) -> list[frozenset[int]]:
    """Return the parts of places that can reach each other, and themselves; each comes after those it leads to."""
    parts = _components(graph)
    return [nodes for nodes in parts if any(each in nodes for node in nodes for each in _successors(graph, node))]


def _may_fail(graph: Graph, node: int, pump: Word) -> bool:
    """Tell whether a text that goes on with a word again and again may not fit by the ways from a place."""
    return next(failing_ends(graph, frozenset({node}), pump), None) is not None


def _components(graph: Graph) -> list[frozenset[int]]:
    """Part the places into those that can reach each other (Tarjan 1972); a part comes after those it leads to."""
    index: dict[int, int] = {}
    low: dict[int, int] = {}
    stack: list[int] = []
    is_parted = [False] * len(graph.places)
    components: list[frozenset[int]] = []
    for root in range(len(graph.places)):
        if root in index:
            continue
        index[root] = low[root] = len(index)
        stack.append(root)
        waiting: list[tuple[int, Iterator[int]]] = [(root, _successors(graph, root))]
        while waiting:
            node, successors = waiting[-1]
            onward = next((each for each in successors if not is_parted[each]), None)
            if onward is None:
                waiting.pop()
                if waiting:
                    low[waiting[-1][0]] = min(low[waiting[-1][0]], low[node])
                if low[node] == index[node]:
                    at = stack.index(node)
                    members, stack[at:] = frozenset(stack[at:]), []
                    for each in members:
                        is_parted[each] = True
                    components.append(members)
            elif onward in index:
                low[node] = min(low[node], index[onward])
            else:
                index[onward] = low[onward] = len(index)
                stack.append(onward)
                waiting.append((onward, _successors(graph, onward)))
    return components


def _successors(graph: Graph, node: int) -> Iterator[int]:
    return (each for targets in graph.turning[node].values() for each in targets)


def _path(graph: Graph, start: int, end: int, inside: frozenset[int] | None = None) -> Word:
    """Return a shortest word that leads from one place to another, inside some places alone if they are given."""

    def moves(node: int) -> Iterator[tuple[int, int]]:
        for letter, targets in (graph.onward if inside is None else graph.turning)[node].items():
            for each in targets:
                if inside is None or each in inside:
                    yield letter, each

    if start == end:
        return ()
    found = _searched(graph, [(start, (), start)], moves, lambda node: node == end)
    assert found is not None
    return found[1]


def _searched(
    graph: Graph,
    starts: Iterable[tuple[T, Word, int]],
    moves: Callable[[T], Iterable[tuple[int, T]]],
    is_end: Callable[[T], bool],
) -> tuple[T, Word, int] | None:
    """Search breadth first; return the end that was come to, the word to it, and where the search had begun."""
    came: dict[T, tuple[T | None, Word, int]] = {}
    waiting: deque[T] = deque()
    for node, word, root in starts:
        if node not in came:
            came[node] = (None, word, root)
            waiting.append(node)
    while waiting:
        node = waiting.popleft()
        for letter, onward in moves(node):
            graph.spend(1)
            if is_end(onward):
                word, root = _word_to(came, node)
                return onward, (*word, letter), root
            if onward not in came:
                came[onward] = (node, (letter,), -1)
                waiting.append(onward)
    return None


def _word_to(came: dict[T, tuple[T | None, Word, int]], node: T) -> tuple[Word, int]:
    words: list[Word] = []
    at: T | None = node
    root = -1
    while at is not None:
        before, word, root = came[at]
        words.append(word)
        at = before
    return tuple(letter for word in reversed(words) for letter in word), root


def _doubled(graph: Graph, nodes: frozenset[int]) -> Iterator[tuple[int, Word]]:
    """Yield places with two different ways back over one word, and the word: one for each first letter."""
    inner = {
        node: {letter: [each for each in targets if each in nodes] for letter, targets in graph.turning[node].items()}
        for node in nodes
    }

    def moves(pair: tuple[int, int]) -> Iterator[tuple[int, tuple[int, int]]]:
        first, second = inner[pair[0]], inner[pair[1]]
        for letter in first.keys() & second.keys():
            for one, other in product(first[letter], second[letter]):
                yield letter, (min(one, other), max(one, other))

    for letter in sorted({letter for node in nodes for letter in inner[node]}):
        starts: list[tuple[tuple[int, int], Word, int]] = []
        for node in sorted(nodes):
            pairs = combinations(sorted(inner[node].get(letter, ())), 2)
            starts += [(pair, (letter,), node) for pair in pairs]
        same = next((start for start in starts if start[0][0] == start[0][1]), None)
        found = same or _searched(graph, starts, moves, lambda pair: pair[0] == pair[1])
        if found is not None:
            (met, _), word, root = found
            yield root, (*word, *_path(graph, met, root, nodes))


class _Link(Struct, frozen=True):
    """A word that leads from `first` to itself, from `first` to `second`, and from `second` to itself."""

    first: int
    second: int
    word: Word


_Links = dict[tuple[int, int], list[_Link]]

MOST_CHAINS = 4
"""Texts that are yielded for chains of links: each with other words, where there are several."""


def _longest_chains(graph: Graph, loops: list[frozenset[int]]) -> Iterator[Pumped]:
    """Yield the texts of a longest chain of links; `loops` are ordered so that each leads to earlier ones alone."""
    below = [_reachable(graph, nodes) for nodes in loops]
    lower = [
        [other for other in range(number) if not loops[other].isdisjoint(below[number])] for number in range(len(loops))
    ]
    links: _Links = {}
    for number, others in enumerate(lower):
        for other in others:
            found = list(_links_between(graph, loops[number], loops[other], below[number]))
            if found:
                links[number, other] = found
    best: list[tuple[int, tuple[list[_Link], ...]]] = []
    for number, others in enumerate(lower):
        chains = [(0, ())]
        for other in others:
            length, chain = best[other]
            known = links.get((number, other))
            chains.append((length + 1, (known, *chain)) if known else (length, chain))  # type: ignore[arg-type]
        best.append(max(chains, key=lambda each: each[0]))
    length, longest = max(best, key=lambda each: each[0], default=(0, ()))
    if length:
        for turn in range(min(MOST_CHAINS, max(map(len, longest)))):
            yield _chained(graph, [links_of_pair[turn % len(links_of_pair)] for links_of_pair in longest])


def _chained(graph: Graph, chain: list[_Link]) -> Pumped:
    pieces, at = [], 0
    for link in chain:
        pieces.append((_path(graph, at, link.first), link.word))
        at = link.second
    return Pumped(tuple(pieces), at, len(chain))


def _reachable(graph: Graph, nodes: Iterable[int]) -> frozenset[int]:
    found: set[int] = set()
    waiting = list(nodes)
    while waiting:
        node = waiting.pop()
        if node not in found:
            found.add(node)
            waiting += _successors(graph, node)
    return frozenset(found)


def _links_between(
    graph: Graph, first: frozenset[int], second: frozenset[int], below: frozenset[int]
) -> Iterator[_Link]:
    """Yield links between two components, sought in the threefold product: one for each first letter."""

    def moves(triple: tuple[int, int, int]) -> Iterator[tuple[int, tuple[int, int, int]]]:
        one, two, three = (graph.turning[node] for node in triple)
        for letter in one.keys() & two.keys() & three.keys():
            for x in one[letter]:
                if x in first:
                    for y, z in product(two[letter], three[letter]):
                        if z in second and y in below:
                            yield letter, (x, y, z)

    told: set[int] = set()
    for p, q in product(sorted(first), sorted(second)):
        goal = (p, q, q)
        begun = [(triple, (letter,), 0) for letter, triple in moves((p, p, q)) if letter not in told]
        met = next((start for start in begun if start[0] == goal), None)
        found = met or _searched(graph, begun, moves, partial(eq, goal))
        if found is not None and _may_fail(graph, q, found[1]):
            told.add(found[1][0])
            yield _Link(p, q, found[1])


def ways_of(graph: Graph, letter: int, length: int) -> int:
    """Return how many beginnings of ways there are through a text of one letter, over and over, from the start."""
    counts: Counter[int] = Counter({0: 1})
    total = 0
    for _ in range(length):
        onward: Counter[int] = Counter()
        for node, count in counts.items():
            for each in graph.onward[node].get(letter, ()):
                onward[each] += count
        graph.spend(len(counts) + len(onward))
        counts = onward
        total += counts.total()
    return total


MOST_STOPS = 400
"""Sets of places that are gone through for an end that does not fit."""


def failing_ends(graph: Graph, start: frozenset[int], pump: Word, *, turns: int = 6) -> Iterator[Word]:
    """Yield words after which a text, pumped from some places on, does not fit by any of them: the shortest, and one
    that leads nowhere.
    """
    nodes = start
    for _ in range(turns):
        for letter in pump:
            if graph.is_fitting(nodes, letter):
                return
            nodes = graph.after(nodes, letter)
    came: dict[frozenset[int], Word] = {nodes: ()}
    waiting = deque([nodes])
    ended = False
    while waiting:
        nodes = waiting.popleft()
        word = came[nodes]
        if not ended and graph.stops(nodes):
            ended = True
            yield word
        if not nodes:
            if word:
                yield word
            return
        for letter in range(graph.automaton.alphabet.size):
            graph.spend(1)
            if graph.is_fitting(nodes, letter):
                continue
            onward = graph.after(nodes, letter)
            if onward not in came and len(came) < MOST_STOPS:
                came[onward] = (*word, letter)
                waiting.append(onward)
